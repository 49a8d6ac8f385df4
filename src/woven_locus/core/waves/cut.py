"""The fewest cells whose closing seals an entry."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.routing.search import open_ends
from woven_locus.core.wave_plan import Entry, Moves
from woven_locus.core.waves.ways import ground_of, slots_of

# Ways side by side beyond which nobody would think of closing them all.
MOST_WAYS = 4096


class Cut(NamedTuple):
    """cells : by row and column; none where there is nothing to cut.  why : in words why there is none, else empty."""

    entry: str
    moves: Moves
    cells: tuple[Cell, ...]
    why: str = ""


def least_cut(plan: Plan, entry: Entry, moves: Moves) -> Cut:
    """The fewest cells, none of them of an entry or a goal, whose closing takes all ways of an entry. A one-way road counts
    as one for both ways. O(cells x ways)."""
    if moves is Moves.AIR:
        return Cut(entry.id, moves, (), phrase("nothing closes the air"))
    ground, costs = ground_of(plan)
    if moves is Moves.ROADS:
        ground, costs = plan.road, plan.road_table.costs
    is_open = np.isfinite(costs)[ground]
    rows, cols = is_open.shape

    starts = open_ends(ground, costs, slots_of(plan, [entry]))
    goals = open_ends(ground, costs, slots_of(plan, plan.waves.goals_of(entry)))
    if not len(starts) or not len(goals):
        return Cut(entry.id, moves, (), phrase("no way leads to a goal"))
    cells, ways = kernels.least_cut(is_open.ravel(), cols, rows, starts, goals, MOST_WAYS)
    if ways < 0:
        return Cut(entry.id, moves, (), phrase("the entry lies beside its goal"))
    if ways > MOST_WAYS:
        return Cut(
            entry.id,
            moves,
            (),
            phrase("more than {most_ways:,} ways lie side by side", most_ways=MOST_WAYS),
        )
    if not ways:
        return Cut(entry.id, moves, (), phrase("no way leads to a goal"))
    found = (plan.spec.cell_of_slot(divmod(cell, cols)) for cell in cells.tolist())
    return Cut(entry.id, moves, tuple(found))
