"""Road laid by A* over what may be built on."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.derived.rules import way_bars
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value

# A line is looked for this far around its points, and over at most so many cells: that is what can be
# searched within the frame in which the pointer moved.
MARGIN, MOST_CELLS = 24, 1 << 16


class Weights(Value):
    """What a line minds; each 0 or more, 0 not at all.

    terrain : how much of a class's move cost counts, beyond 1.  slope : cells' worth of detour for a rise
    of one cell's length.  turns : cells' worth of detour for each turn.  reuse : share of a cell's cost that
    is saved where road lies already, 0 to 1.
    """

    terrain: float = 1.0
    slope: float = 2.0
    turns: float = 0.5
    reuse: float = 0.75


def lay_line(
    plan: Plan, points: Sequence[Cell], weights: Weights, what: str = "road"
) -> list[Cell]:
    """The cells of the cheapest line through points, in order; empty where there is none nearby.

    Each cell is one that `judge_road` (or `judge_barrier`) allows. No line strays further than MARGIN cells
    from the block around its points, and less if that would be more than MOST_CELLS. Of several parts each
    is a cheapest one.
    """
    inside = [point for point in points if plan.spec.contains(point)]
    if len(inside) < len(points) or not inside:
        return []
    line = [points[0]]
    for a, b in pairwise(points):
        part = _between(plan, a, b, weights, what)
        if not part:
            return []
        line += part[1:]
    return line


def _between(plan: Plan, a: Cell, b: Cell, weights: Weights, what: str) -> list[Cell]:
    spec = plan.spec
    box = _around(plan, a, b)
    if box.empty:
        return []
    cost = _costs(plan, box, weights, what)
    rise: npt.NDArray[np.floating] = np.zeros(cost.shape)
    if plan.heights is not None and weights.slope:
        # A rise of one cell's length costs `slope` cells.
        rise = plan.heights[box.slices] * (weights.slope / min(spec.cell_w, spec.cell_h))
    rows, cols = box.shape
    start, goal = (
        (slot.row - box.r0) * cols + slot.col - box.c0 for slot in (spec.slot(a), spec.slot(b))
    )
    flat = cost.ravel()
    if not np.isfinite(flat[[start, goal]]).all():
        return []
    path, _ = kernels.lay(
        flat,
        np.ascontiguousarray(rise, np.float64).ravel(),
        cols,
        rows,
        float(weights.turns),
        int(start),
        int(goal),
        float(flat[np.isfinite(flat)].min()),
    )
    return [spec.cell_of_slot((box.r0 + at // cols, box.c0 + at % cols)) for at in path.tolist()]


def _around(plan: Plan, a: Cell, b: Cell) -> Box:
    around = Box.around([plan.spec.slot(a), plan.spec.slot(b)])
    for margin in range(MARGIN, -1, -4):
        box = around.grown(margin).clipped(plan.spec.shape)
        if box.shape[0] * box.shape[1] <= MOST_CELLS:
            return box
    return Box(0, 0, 0, 0)


def _costs(plan: Plan, box: Box, weights: Weights, what: str) -> npt.NDArray[np.float64]:
    """(box rows, box cols) float64: what it costs to come onto each cell, inf where it may not be."""
    factors = np.ones(256)
    for code, item in enumerate(plan.terrain_table):
        factors[code] = 1.0 + weights.terrain * max(0.0, item.cost - 1.0)
    cost = factors[plan.terrain[box.slices]]
    there = getattr(plan, what)[box.slices] != 0
    cost[there] *= max(0.01, 1.0 - weights.reuse)
    cost[way_bars(plan, box, what) != 0] = np.inf
    return np.asarray(cost)
