"""Rules asked of very many structures that stand already, in array passes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.ground.relief import steeper_among
from woven_locus.core.kinds import Thing
from woven_locus.core.kinds.footprint import Off
from woven_locus.core.placing.clearance import asked_of
from woven_locus.core.placing.things import are_terrain, stand_at
from woven_locus.core.plan import Plan
from woven_locus.core.register import Alike
from woven_locus.core.ways.doors import slots_at

# Cells that are looked at in one array pass.
_AT_A_TIME = 1 << 18

Slots = npt.NDArray[np.int64]


def _count(
    plan: Plan,
    group: Alike,
    offs: Sequence[Off],
    find: Callable[[Slots], Mask],
    others: bool = False,
) -> Slots:
    """(N,) int64: at how many of the same cells from its low cell each of a group finds something. Beyond the grid is nothing.

    offs : of the cells, columns and rows.  find : asked of flat slots within the grid, of any shape.  others : cells that one
    covers itself do not count.
    """
    counts = np.zeros(len(group.numbers), np.int64)
    many = max(1, _AT_A_TIME // max(1, len(offs)))
    for begin in range(0, len(counts), many):
        some = slice(begin, begin + many)
        slots = slots_at(plan.spec, group.lows[some], offs)
        found = (slots >= 0) & find(np.maximum(slots, 0))
        if others:
            found &= plan.occupant.ravel()[slots] != group.numbers[some, None]
        counts[some] = found.sum(axis=1)
    return counts


def _count_things(plan: Plan, group: Alike, offs: Sequence[Off], thing: Thing, key: str) -> Slots:
    """`_count` of a thing; a structure does not find itself."""
    return _count(
        plan, group, offs, lambda slots: stand_at(plan, thing, key, slots), thing is Thing.KIND
    )


def _own(plan: Plan, group: Alike) -> tuple[Off, ...]:
    """The cells that each covers, from its low cell."""
    return plan.footprint(plan.kinds[group.kind], group.turn).cells


def crowded(plan: Plan, group: Alike) -> Mask:
    """Those to which something is too near. See `clearance.crowded`."""
    kind = plan.kinds[group.kind]
    near = np.zeros(len(group.numbers), bool)
    for clear, _theirs in asked_of(plan, kind):
        reach = range(-clear.cells, clear.cells + 1)
        around = {(c + d, r + e) for c, r in _own(plan, group) for d in reach for e in reach}
        near |= _count_things(plan, group, list(around), clear.thing, clear.key) > 0
    return near


def steep(plan: Plan, group: Alike) -> Mask:
    """Those on ground that is too steep for their kind."""
    limit, heights, spec = plan.kinds[group.kind].demands.slope, plan.heights, plan.spec
    assert limit is not None
    if heights is None:
        return np.zeros(len(group.numbers), bool)
    # As the judge has it, to the last bit.
    rise = math.tan(math.radians(limit))

    def find(slots: Slots) -> Mask:
        rows, cols = np.divmod(slots, spec.cols)
        return steeper_among(heights, spec.cell_w, spec.cell_h, rise, rows, cols)

    return _count(plan, group, _own(plan, group), find) > 0


def unsupported(plan: Plan, group: Alike) -> Mask:
    """Those that stand on too little of what they ask for, or touch too little of it."""
    kind, own = plan.kinds[group.kind], _own(plan, group)
    bad = np.zeros(len(group.numbers), bool)
    if (stand := kind.demands.stand) is not None:
        on = _count(plan, group, own, lambda slots: are_terrain(plan, stand.terrain, slots))
        bad |= on < (stand.least or len(own))
    for touch in kind.demands.touch:
        beyond = kind.footprint.beyond(touch.sides, group.turn, plan.spec.y_up)
        bad |= _count_things(plan, group, beyond, touch.thing, touch.key) < touch.least
    return bad


def on_wrong_ground(plan: Plan, group: Alike) -> Mask:
    """Those on other ground than their kind takes."""
    allowed, own = plan.kinds[group.kind].demands.terrain, _own(plan, group)
    assert allowed is not None
    return _count(plan, group, own, lambda slots: ~are_terrain(plan, allowed, slots)) > 0


def without_access(plan: Plan, group: Alike) -> Mask:
    """Those without a door, or a side, on a road."""
    offs = plan.footprint(plan.kinds[group.kind], group.turn).approach_offs
    return np.equal(_count_things(plan, group, offs, Thing.ROAD, ""), 0)


def off_lattice(plan: Plan, group: Alike) -> Mask:
    """Those that stand beside the lattice of their kind."""
    lattice = plan.kinds[group.kind].demands.lattice
    assert lattice is not None
    off = (group.lows - (lattice.col, lattice.row)) % (lattice.cols, lattice.rows)
    return np.asarray(np.not_equal(off, 0).any(axis=1))


def out_of_reach(plan: Plan, group: Alike) -> Mask:
    """Those too far from the actor, if there is one."""
    kind = plan.kinds[group.kind]
    actor, reach, spec = plan.actor, kind.demands.reach, plan.spec
    assert reach is not None
    if actor is None:
        return np.zeros(len(group.numbers), bool)
    footprint = plan.footprint(kind, group.turn)
    at = group.lows - np.array(spec.first)
    d_x = spec.origin_x + (at[:, 0] + footprint.cols / 2) * spec.cell_w - actor.x
    d_y = spec.origin_y + (at[:, 1] + footprint.rows / 2) * spec.cell_h - actor.y
    return np.asarray(d_x * d_x + d_y * d_y > reach * reach)


def too_many(plan: Plan, group: Alike) -> Mask:
    """All of a kind of which there are more than there may be."""
    most = plan.kinds[group.kind].demands.most
    assert most is not None
    return np.full(len(group.numbers), plan.register.count(group.kind) > most)


# Who of a group breaks a rule that its kind has: (N,) bool, as `judge` says of each with itself lifted. All but funds, what
# seals and turns, which follow from no place.
AT_ONCE: dict[Reason, Callable[[Plan, Alike], Mask]] = {
    Reason.TERRAIN: on_wrong_ground,
    Reason.SLOPE: steep,
    Reason.SUPPORT: unsupported,
    Reason.CLEARANCE: crowded,
    Reason.LATTICE: off_lattice,
    Reason.REACH: out_of_reach,
    Reason.ACCESS: without_access,
    Reason.LIMIT: too_many,
}


def breakers(plan: Plan, group: Alike, reasons: Iterable[Reason]) -> Mask:
    """(N,) bool: who of a group breaks one of some rules that its kind has."""
    found = np.zeros(len(group.numbers), bool)
    for reason in reasons:
        found |= AT_ONCE[reason](plan, group)
    return found
