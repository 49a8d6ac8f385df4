"""Rules asked of very many structures that stand already, in array passes: who is named has to be judged by itself; all
others keep the rule."""

from __future__ import annotations

import math
from collections.abc import Callable

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


def crowded(plan: Plan, group: Alike) -> Mask:
    """(N,) bool: those of a group to which something is too near. See `clearance.crowded`."""
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
    return near


def steep(plan: Plan, group: Alike) -> Mask:
    """(N,) bool: those of a group on ground that is too steep for their kind, or whose height is not known."""
    limit = plan.kinds[group.kind].demands.slope
    if plan.heights is None or limit is None:
        return np.zeros(len(group.numbers), bool)
    slots = slots_alike(plan, group)
    rows, cols = np.divmod(slots, plan.spec.cols)
    box = Box(int(rows.min()), int(cols.min()), int(rows.max()) + 1, int(cols.max()) + 1)
    if box.shape[0] * box.shape[1] > len(slots) * _CELLS_A_JUDGEMENT:
        return np.ones(len(slots), bool)
    rise = math.tan(math.radians(limit))
    found = steeper(plan.heights, plan.spec.cell_w, plan.spec.cell_h, rise, box)
    refused: Mask = found[rows - box.r0, cols - box.c0].any(axis=1)
    return refused


# The rules that can be asked so.
AT_ONCE: dict[Reason, Callable[[Plan, Alike], Mask]] = {
    Reason.CLEARANCE: crowded,
    Reason.SLOPE: steep,
}
