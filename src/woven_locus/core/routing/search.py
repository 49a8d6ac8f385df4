"""The checked front of the A* kernel."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Slot
from woven_locus.core.value import Value

NO_EXITS = np.empty(0, np.uint8)


class Path(Value):
    """slots : (N, 2) int64 of (row, col), start to goal; N is 0 when there is no path.
    cost : float, inf without a path.  explored : cells expanded."""

    slots: npt.NDArray[np.int64]
    cost: float
    explored: int

    def __bool__(self) -> bool:
        return len(self.slots) > 0

    @classmethod
    def over(cls, flat: npt.NDArray[np.int64], cols: int, cost: float, explored: int) -> Path:
        """Of flat slots, (N,), in a grid of so many columns."""
        slots = np.empty((len(flat), 2), np.int64)
        # A column at a time: several times as quick as two numbers at a time.
        np.floor_divide(flat, cols, out=slots[:, 0])
        np.subtract(flat, slots[:, 0] * cols, out=slots[:, 1])
        return cls(slots, cost, explored)


def open_ends(
    code: npt.NDArray[np.uint8], costs: npt.NDArray[np.float64], ends: Sequence[Slot]
) -> npt.NDArray[np.int64]:
    """The flat slots of those ends that lie within the grid and can be entered, ascending, each once."""
    rows, cols = code.shape
    kept = [
        row * cols + col
        for row, col in ends
        if 0 <= row < rows and 0 <= col < cols and np.isfinite(costs[code[row, col]])
    ]
    return np.array(sorted(set(kept)), np.int64)


def find_path(
    code: npt.NDArray[np.uint8],
    costs: npt.NDArray[np.float64],
    starts: Sequence[Slot],
    goals: Sequence[Slot],
    *,
    moves: int = 4,
    cell: tuple[float, float] = (1.0, 1.0),
    exits: npt.NDArray[np.uint8] | None = None,
) -> Path:
    """Cheapest path from any start to any goal over the cells of a grid.

    code : (H, W) uint8.  costs : (256,) float64, move cost of each code, inf blocks.
    moves : 4 or 8; a diagonal needs both cells that it squeezes between.
    cell : width and height, world units. A step costs its length times the mean of its two cells'
    costs.  exits : (256,) uint8, the side 1 to 4 (see `ways.roads.Sign`) by which alone a cell of each code is
    left, 0 for any; None for no one-way cells. Ends outside the grid or on blocked cells are passed over; none left means no path.
    Raises TypeError, ValueError for arrays of another kind, moves other than 4 or 8, costs <= 0.
    """
    if code.ndim != 2 or code.dtype != np.uint8:
        raise TypeError(f"`code` must be (H, W) uint8, got {code.shape} {code.dtype}")
    if costs.shape != (256,) or costs.dtype != np.float64:
        raise TypeError(f"`costs` must be (256,) float64, got {costs.shape} {costs.dtype}")
    if moves not in (4, 8):
        raise ValueError(f"moves must be 4 or 8, not {moves}")
    if not np.all(costs > 0):
        raise ValueError("every move cost must be above 0 (inf blocks)")
    rows, cols = code.shape
    open_costs = costs[np.isfinite(costs)]

    a, b = open_ends(code, costs, starts), open_ends(code, costs, goals)
    if not len(a) or not len(b) or not len(open_costs):
        return Path(np.empty((0, 2), np.int64), np.inf, 0)
    path, cost, explored = kernels.search(
        np.ascontiguousarray(code).ravel(),
        cols,
        rows,
        costs,
        NO_EXITS if exits is None else exits,
        float(cell[0]),
        float(cell[1]),
        moves,
        a,
        b,
        float(open_costs.min()),
    )
    return Path(np.stack([path // cols, path % cols], axis=1), float(cost), int(explored))
