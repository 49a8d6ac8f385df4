"""Rules asked of very many structures that stand already, in array passes: who is named may break the rule, and has to be
judged by itself; all others keep it. Of some of those named it is sure."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.geometry import Box
from woven_locus.core.ground.relief import steeper
from woven_locus.core.kinds import Thing
from woven_locus.core.placing.clearance import asked_of
from woven_locus.core.placing.things import stand_at
from woven_locus.core.plan import Plan
from woven_locus.core.register import Alike
from woven_locus.core.ways.doors import slots_alike, slots_at

# Cells that are looked at in one array pass.
_AT_A_TIME = 1 << 18
# Cells of the map that are looked at for their slope as quickly as one structure is judged.
_CELLS_A_JUDGEMENT = 5_000


class Named(NamedTuple):
    """Of a group. may_break, breaks : (N,) bool, the second among the first."""

    may_break: Mask
    breaks: Mask


def crowded(plan: Plan, group: Alike) -> Named:
    """Those to which something is too near. See `clearance.crowded`."""
    kind = plan.kinds[group.kind]
    footprint = plan.footprint(kind, group.turn)
    near = np.zeros(len(group.numbers), bool)
    for clear, _theirs in asked_of(plan, kind):
        reach = range(-clear.cells, clear.cells + 1)
        around = list({(c + d, r + e) for c, r in footprint.cells for d in reach for e in reach})
        many = max(1, _AT_A_TIME // len(around))
        for begin in range(0, len(near), many):
            some = slice(begin, begin + many)
            slots = slots_at(plan.spec, group.lows[some], around)
            found = stand_at(plan, clear.thing, clear.key, slots) & (slots >= 0)
            if clear.thing is Thing.KIND:
                found &= plan.occupant.ravel()[slots] != group.numbers[some, None]
            near[some] |= found.any(axis=1)
    return Named(near, near)


def steep(plan: Plan, group: Alike) -> Named:
    """Those on ground that is too steep for their kind."""
    limit = plan.kinds[group.kind].demands.slope
    none = np.zeros(len(group.numbers), bool)
    if plan.heights is None or limit is None:
        return Named(none, none)
    slots = slots_alike(plan, group)
    rows, cols = np.divmod(slots, plan.spec.cols)
    box = Box(int(rows.min()), int(cols.min()), int(rows.max()) + 1, int(cols.max()) + 1)
    if box.shape[0] * box.shape[1] > len(slots) * _CELLS_A_JUDGEMENT:
        return Named(~none, none)
    rise = math.tan(math.radians(limit))
    found = steeper(plan.heights, plan.spec.cell_w, plan.spec.cell_h, rise, box)
    # As the judge has it, to the last bit.
    refused: Mask = found[rows - box.r0, cols - box.c0].any(axis=1)
    return Named(refused, refused)


# The rules that can be asked so.
AT_ONCE: dict[Reason, Callable[[Plan, Alike], Named]] = {
    Reason.CLEARANCE: crowded,
    Reason.SLOPE: steep,
}
