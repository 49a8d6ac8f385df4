"""Near misses: what looks joined, or was meant to be, and is not.

Roads or barriers one cell apart, those that touch only at a corner, and doors one cell from a road. Each
names the cells that would mend it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import SIDES, Box, Cell, cell_text
from woven_locus.core.register import Structure

if TYPE_CHECKING:
    from woven_locus.core.plan import Plan

ByteGrid = npt.NDArray[np.uint8]


class Miss(StrEnum):
    GAP = "gap"
    CORNER = "corner"
    DOOR = "door"


@dataclass(frozen=True, slots=True, order=True)
class NearMiss:
    """what : "road" or "barrier".  at, to : the two cells that miss each other; of a door, the cell in
    front of it and the road.  mend : the cells that would join them.  structure : whose door, or 0.
    if_apart : it is none as long as the two are joined by another way."""

    kind: Miss
    what: str
    at: Cell
    to: Cell
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
            return f"{plan.title_of(self.structure)}: road is one cell from its door at {where}"
        if self.kind is Miss.CORNER:
            return f"{self.what.capitalize()} touches only at a corner: {where} and {cell_text(self.to)}"
        return f"{self.what.capitalize()} is one cell short: {where} and {cell_text(self.to)}"


def near_misses(plan: Plan, box: Box | None = None) -> list[NearMiss]:
    """All of them, or those whose first cell, or door, lies in a block of slots. In order of kind and
    place. O(cells of road and barrier, and structures, in the block)."""
    return [miss for miss in candidates(plan, box) if miss.holds(plan)]


def candidates(plan: Plan, box: Box | None = None) -> list[NearMiss]:
    """As `near_misses`, with those that hold only `if_apart`: they depend on the block's surroundings
    alone, so that they can be kept from edit to edit."""
    found = [*_of_layer(plan, "road", box), *_of_layer(plan, "barrier", box)]
    if box is None:
        rows: Iterable[Structure] = plan.register
    else:
        around = box.grown(1).clipped(plan.spec.shape)
        numbers = np.unique(plan.occupant[around.slices])
        rows = [plan.register[n] for n in numbers[numbers > 0].tolist()]
    found += _of_doors(plan, rows)
    return sorted(found)


def _of_layer(plan: Plan, what: str, box: Box | None) -> list[NearMiss]:
    layer: ByteGrid = getattr(plan, what)
    # What misses a cell of the block may lie two cells beyond it.
    scan = plan.spec.box if box is None else box.grown(2).clipped(layer.shape)
    at = np.argwhere(layer[scan.slices]) + np.array([scan.r0, scan.c0])
    if not len(at):
        return []
    # Two cells of nothing around the map, so that every cell has neighbours to look at.
    low, high = at.min(axis=0) - 2, at.max(axis=0) + 3
    around = Box(*low.tolist(), *high.tolist()).clipped(layer.shape)
    wide = np.zeros(tuple(high - low), bool)
    wide[around.seen_from(Box(*low.tolist(), *high.tolist())).slices] = layer[around.slices] != 0
    here = at - low
    joined = sum(wide[here[:, 0] + r, here[:, 1] + c].astype(np.int8) for r, c in SIDES)
    is_end = np.asarray(joined) <= 1
    found = [
        *_gaps(plan, what, at, here, wide, is_end),
        *_corners(plan, what, at, here, wide, is_end),
    ]
    return [miss for miss in found if box is None or box.has(plan.spec.slot(miss.at))]


def _gaps(
    plan: Plan,
    what: str,
    at: npt.NDArray[np.int64],
    here: npt.NDArray[np.int64],
    wide: npt.NDArray[np.bool_],
    is_end: npt.NDArray[np.bool_],
) -> list[NearMiss]:
    """An end with one cell between it and another piece that it does not already lead to."""
    found: dict[frozenset[Cell], NearMiss] = {}
    ends, places = here[is_end], at[is_end]
    for r, c in SIDES:
        next_free = ~wide[ends[:, 0] + r, ends[:, 1] + c]
        then = wide[ends[:, 0] + 2 * r, ends[:, 1] + 2 * c]
        # It points there when it comes from the other side; sideways only another group is a miss.
        points = wide[ends[:, 0] - r, ends[:, 1] - c]
        for k in np.flatnonzero(next_free & then).tolist():
            row, col = places[k].tolist()
            a = plan.spec.cell_of_slot((row, col))
            b, gap = a.moved(2 * c, 2 * r), a.moved(c, r)
            if what == "road" and _taken(plan, gap):
                continue
            loose = not points[k]
            if what == "barrier" and loose:
                continue  # of barriers no pieces are kept
            if _is_end(plan, what, b) and (b.row, b.col) < (a.row, a.col):
                a, b = b, a
            pair = frozenset((a, b))
            # Seen from both of its ends, it is certain if it is so from one of them.
            if pair not in found or found[pair].if_apart:
                found[pair] = NearMiss(Miss.GAP, what, a, b, (gap,), 0, loose)
    return list(found.values())


def _is_end(plan: Plan, what: str, cell: Cell) -> bool:
    layer, spec = getattr(plan, what), plan.spec
    near = (cell.moved(c, r) for r, c in SIDES)
    return sum(1 for n in near if spec.contains(n) and layer[spec.slot(n)]) <= 1


def _taken(plan: Plan, cell: Cell) -> bool:
    """Whether something stands between: a road that ends at a house has missed nothing."""
    slot = plan.spec.slot(cell)
    return bool(plan.occupant[slot] or plan.barrier[slot])


def _corners(
    plan: Plan,
    what: str,
    at: npt.NDArray[np.int64],
    here: npt.NDArray[np.int64],
    wide: npt.NDArray[np.bool_],
    is_end: npt.NDArray[np.bool_],
) -> list[NearMiss]:
    """Two cells corner to corner of which one is an end, or that belong to different pieces."""
    found = []
    end_at = {tuple(place) for place in at[is_end].tolist()}
    # Downwards only, so that each pair is met once.
    for r, c in ((1, 1), (1, -1)):
        touches = wide[here[:, 0] + r, here[:, 1] + c]
        touches &= ~wide[here[:, 0] + r, here[:, 1]] & ~wide[here[:, 0], here[:, 1] + c]
        for k in np.flatnonzero(touches).tolist():
            row, col = at[k].tolist()
            a = plan.spec.cell_of_slot((row, col))
            b = a.moved(c, r)
            ends = (row, col) in end_at or (row + r, col + c) in end_at
            if ends or what == "road":
                mends = [
                    cell for cell in (a.moved(c, 0), a.moved(0, r)) if plan.spec.contains(cell)
                ]
                free = [cell for cell in mends if not _taken(plan, cell)] or mends
                if what == "road" and all(_taken(plan, cell) for cell in mends):
                    continue
                found.append(NearMiss(Miss.CORNER, what, a, b, (free[0],), 0, not ends))
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
    for row in rows:
        fronts = [c for c in plan.approaches_of(row) if spec.contains(c)]
        if any(road[spec.slot(cell)] for cell in fronts):
            continue
        for cell in fronts:
            if plan.occupant[spec.slot(cell)] or plan.barrier[spec.slot(cell)]:
                continue
            near = [cell.moved(c, r) for r, c in SIDES]
            roads = [n for n in near if spec.contains(n) and road[spec.slot(n)]]
            if roads:
                found.append(NearMiss(Miss.DOOR, "road", cell, roads[0], (cell,), row.number))
                break
    return found
