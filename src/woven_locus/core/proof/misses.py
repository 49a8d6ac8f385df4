"""Near misses: what looks joined, or was meant to be, and is not.

Roads or barriers one cell apart, those that touch only at a corner, and doors one cell from a road. Each
names the cells that would mend it, where the ground lets itself be built on. What was done on purpose is no
miss: a gate (a road through a barrier), a wall or a house between two ends of road, a road that is closed.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.rules import way_bars
from woven_locus.core.geometry import SIDES, Box, Cell, cell_text, strips
from woven_locus.core.phrase import capital, phrase
from woven_locus.core.placing.things import numbers_in
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure, alike
from woven_locus.core.value import Value
from woven_locus.core.ways.doors import approaches_alike, slots_at

_LAYERS = ("road", "barrier")
# Cells of the map that are looked at together.
_CELLS_A_STRIP = 1 << 20
# Structures whose doors are looked at in array passes.
_MANY_DOORS = 32


class Miss(StrEnum):
    """The sorts of near misses."""

    GAP = "gap"
    CORNER = "corner"
    DOOR = "door"


class NearMiss(Value, order=True):
    """what : "road" or "barrier".  at, to : the two cells that miss each other; of a door, the cell in
    front of it and the road.  gap : the cell between them.  mend : the cells that would join them, none
    where what lies there may not be built on.  structure : whose door, or 0.
    if_apart : it is none as long as the two are joined by another way."""

    kind: Miss
    what: str
    at: Cell
    to: Cell
    gap: Cell
    mend: tuple[Cell, ...]
    structure: int = 0
    if_apart: bool = False

    def holds(self, plan: Plan) -> bool:
        """Whether it is a miss now: some are only as long as their cells belong to different pieces."""
        return not self.if_apart or _apart(plan, self.at, self.to)

    def words(self, plan: Plan) -> str:
        """What is wrong, in a sentence."""
        where = cell_text(self.at)
        if self.kind is Miss.DOOR:
            return phrase(
                "{title_of}: road is one cell from its door at {where}",
                title_of=plan.title_of(self.structure),
                where=where,
            )
        if self.kind is Miss.CORNER:
            return phrase(
                "{what} touches only at a corner: {where} and {to}",
                what=capital(self.what),
                where=where,
                to=cell_text(self.to),
            )
        return phrase(
            "{what} is one cell short: {where} and {to}",
            what=capital(self.what),
            where=where,
            to=cell_text(self.to),
        )


def near_misses(plan: Plan, box: Box | None = None) -> list[NearMiss]:
    """All of them, or those whose first cell, or door, lies in a block of slots. In order of kind and
    place. O(cells of road and barrier, and structures, in the block)."""
    return [miss for miss in candidates(plan, box) if miss.holds(plan)]


def candidates(plan: Plan, box: Box | None = None) -> list[NearMiss]:
    """As `near_misses`, with those that hold only `if_apart`: they depend on the block's surroundings
    alone, so that they can be kept from edit to edit."""
    # A large map by strips, whose arrays are small.
    parts = strips(plan.spec.box, _CELLS_A_STRIP) if box is None else (box,)
    found = [miss for part in parts for what in _LAYERS for miss in _of_layer(plan, what, part)]
    if box is None:
        rows: Iterable[Structure] = plan.register
    else:
        around = box.grown(1).clipped(plan.spec.shape)
        rows = [plan.register[n] for n in numbers_in(plan, around).tolist()]
    found += _of_doors(plan, rows)
    return sorted(found)


def _present(plan: Plan, what: str, box: Box) -> npt.NDArray[np.bool_]:
    """(box rows, box cols) bool: barrier, or road that is open; a closed cell joins nothing."""
    if what == "barrier":
        return np.asarray(plan.barrier[box.slices] != 0)
    return np.asarray(np.isfinite(plan.road_table.costs)[plan.road[box.slices]])


class _Surroundings(Value):
    """The cells of a kind of way in a block, with two cells of nothing around them.

    at : (N, 2) slots.  here : (N, 2) the same in the arrays.  there : bool, where one is.
    free : bool, where one may be built.  taken : bool, where something stands between on purpose: a house,
    a wall across a road or a gate in it, a road that was closed.  is_end : (N,) bool, at most one neighbour.
    """

    at: npt.NDArray[np.int64]
    here: npt.NDArray[np.int64]
    there: npt.NDArray[np.bool_]
    free: npt.NDArray[np.bool_]
    taken: npt.NDArray[np.bool_]
    is_end: npt.NDArray[np.bool_]


def _around(plan: Plan, what: str, scan: Box) -> _Surroundings | None:
    at = np.argwhere(_present(plan, what, scan)) + np.array([scan.r0, scan.c0])
    if not len(at):
        return None
    low, high = at.min(axis=0) - 2, at.max(axis=0) + 3
    whole = Box(*low.tolist(), *high.tolist())
    inside = whole.clipped(plan.spec.shape)
    part = inside.seen_from(whole).slices
    there, free, taken = (np.zeros(whole.shape, bool) for _ in range(3))
    there[part] = _present(plan, what, inside)
    free[part] = way_bars(plan, inside, what) == 0
    other = plan.barrier if what == "road" else plan.road
    taken[part] = (plan.occupant[inside.slices] != 0) | (other[inside.slices] != 0)
    if what == "road":
        taken[part] |= (plan.road[inside.slices] != 0) & ~there[part]
    free &= ~taken
    here = at - low
    joined = sum(there[here[:, 0] + r, here[:, 1] + c].astype(np.int8) for r, c in SIDES)
    return _Surroundings(at, here, there, free, taken, np.asarray(joined) <= 1)


def _of_layer(plan: Plan, what: str, box: Box) -> list[NearMiss]:
    # What misses a cell of the block may lie two cells beyond it.
    scan = box.grown(2).clipped(plan.spec.shape)
    around = _around(plan, what, scan)
    if around is None:
        return []
    found = [*_gaps(plan, what, around), *_corners(plan, what, around)]
    return [miss for miss in found if box.has(plan.spec.slot(miss.at))]


def _gaps(plan: Plan, what: str, around: _Surroundings) -> list[NearMiss]:
    """An end with one cell between it and another piece that it does not already lead to."""
    found: dict[frozenset[Cell], NearMiss] = {}
    there = around.there
    ends, places = around.here[around.is_end], around.at[around.is_end]
    for r, c in SIDES:
        between = ends[:, 0] + r, ends[:, 1] + c
        meant = ~there[between] & ~around.taken[between]
        then = there[ends[:, 0] + 2 * r, ends[:, 1] + 2 * c]
        # It points there when it comes from the other side; sideways only another group is a miss.
        points = there[ends[:, 0] - r, ends[:, 1] - c]
        for k in np.flatnonzero(meant & then).tolist():
            row, col = places[k].tolist()
            a = plan.spec.cell_of_slot((row, col))
            b, gap = a.moved(2 * c, 2 * r), a.moved(c, r)
            loose = not points[k]
            if what == "barrier" and loose:
                continue  # of barriers no pieces are kept
            if _is_end(plan, what, b) and (b.row, b.col) < (a.row, a.col):
                a, b = b, a
            pair = frozenset((a, b))
            # Seen from both of its ends, it is certain if it is so from one of them.
            if pair not in found or found[pair].if_apart:
                mend = (gap,) if around.free[ends[k, 0] + r, ends[k, 1] + c] else ()
                found[pair] = NearMiss(Miss.GAP, what, a, b, gap, mend, 0, loose)
    return list(found.values())


def _is_end(plan: Plan, what: str, cell: Cell) -> bool:
    spec = plan.spec
    near = (spec.slot(n) for n in (cell.moved(c, r) for r, c in SIDES) if spec.contains(n))
    return sum(1 for r, c in near if _present(plan, what, Box(r, c, r + 1, c + 1))[0, 0]) <= 1


def _corners(plan: Plan, what: str, around: _Surroundings) -> list[NearMiss]:
    """Two cells corner to corner of which one is an end, or that belong to different pieces."""
    found = []
    here, there = around.here, around.there
    end_at = {tuple(place) for place in around.at[around.is_end].tolist()}
    # Downwards only, so that each pair is met once.
    for r, c in ((1, 1), (1, -1)):
        beside = here[:, 0], here[:, 1] + c
        below = here[:, 0] + r, here[:, 1]
        touches = there[here[:, 0] + r, here[:, 1] + c] & ~there[below] & ~there[beside]
        touches &= ~(around.taken[below] & around.taken[beside])
        for k in np.flatnonzero(touches).tolist():
            row, col = around.at[k].tolist()
            a = plan.spec.cell_of_slot((row, col))
            ends = (row, col) in end_at or (row + r, col + c) in end_at
            if ends or what == "road":
                both = ((a.moved(c, 0), beside), (a.moved(0, r), below))
                free = [cell for cell, (rows, cols) in both if around.free[rows[k], cols[k]]]
                open_ = [cell for cell, (rows, cols) in both if not around.taken[rows[k], cols[k]]]
                gap = (free or open_)[0]
                found.append(
                    NearMiss(Miss.CORNER, what, a, a.moved(c, r), gap, tuple(free[:1]), 0, not ends)
                )
    return found


def _apart(plan: Plan, a: Cell, b: Cell) -> bool:
    """Whether two cells belong to different pieces of road."""
    mine, theirs = (
        plan.network.group_at(plan.spec.index(a)),
        plan.network.group_at(plan.spec.index(b)),
    )
    return mine != theirs


def _of_doors(plan: Plan, rows: Iterable[Structure]) -> list[NearMiss]:
    """Structures with no door on a road, but one that is a cell away from it."""
    found = []
    spec, road = plan.spec, plan.road
    is_open = np.isfinite(plan.road_table.costs)
    for row in _near_road(plan, list(rows)):
        fronts = [c for c in plan.approaches_of(row) if spec.contains(c)]
        if any(road[spec.slot(cell)] for cell in fronts):
            continue
        seen: list[NearMiss] = []
        for cell in fronts:
            slot = spec.slot(cell)
            if plan.occupant[slot] or plan.barrier[slot]:
                continue
            near = [cell.moved(c, r) for r, c in SIDES]
            roads = [n for n in near if spec.contains(n) and is_open[road[spec.slot(n)]]]
            if roads:
                box = Box(slot[0], slot[1], slot[0] + 1, slot[1] + 1)
                mend = () if way_bars(plan, box, "road")[0, 0] else (cell,)
                seen.append(NearMiss(Miss.DOOR, "road", cell, roads[0], cell, mend, row.number))
        if seen:
            found.append(next((miss for miss in seen if miss.mend), seen[0]))
    return found


def _near_road(plan: Plan, rows: list[Structure]) -> list[Structure]:
    """Of many structures, those with no door on a road but road a cell from one; a few are looked at one by one."""
    if len(rows) < _MANY_DOORS:
        return rows
    road, is_open = plan.road.ravel(), np.isfinite(plan.road_table.costs)
    near: set[int] = set()
    for group in alike(rows):
        footprint = plan.footprint(plan.kinds[group.kind], group.turn)
        cells = footprint.approaches(Cell(0, 0))
        fronts = approaches_alike(plan, group)
        around = [cell.beyond(side) for cell in cells for side in range(4)]
        beside = slots_at(plan.spec, group.lows, around).reshape(*fronts.shape, 4)
        inside, reached = fronts >= 0, (beside >= 0) & is_open[road[beside]]
        meets = (inside & (road[fronts] != 0)).any(axis=1)
        near.update(group.numbers[~meets & (inside & reached.any(axis=2)).any(axis=1)].tolist())
    return [row for row in rows if row.number in near]
