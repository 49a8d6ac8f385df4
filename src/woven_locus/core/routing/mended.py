"""Paths that are mended: after cells were closed, found from what was known before."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Slot
from woven_locus.core.routing.search import NO_EXITS, Path, open_ends

Bytes = npt.NDArray[np.uint8]
Bools = npt.NDArray[np.bool_]
Floats = npt.NDArray[np.float64]


class Tree:
    """The cheapest ways from some cells to all others over ground that may have some cells closed. Making it looks at all
    of the ground. Over the ground a way costs the same both ways, so one from the goals says what is left to go.

    ends : int64 flat slots.  cost : (n,) float64, inf for what is not reached.  came : (n,) uint8, by which move.
    reached : (n,) bool.  number, size : see `kernels.detours.number_tree`.
    """

    def __init__(
        self,
        code: Bytes,
        costs: Floats,
        ends: Sequence[Slot],
        *,
        moves: int = 4,
        cell: tuple[float, float] = (1.0, 1.0),
    ) -> None:
        """As for `find_path`, without one-way cells. code : must not change meanwhile."""
        self.code, self.costs, self.moves = code, costs, moves
        self.cell = float(cell[0]), float(cell[1])
        self.ends = open_ends(code, costs, ends)
        self.cost, self.came = np.full(code.size, np.inf), np.zeros(code.size, np.uint8)
        order, self.number = np.zeros(code.size, np.int32), np.empty(code.size, np.int32)
        rows, cols = code.shape
        _path, _cost, steps = kernels.explore(
            *(np.ascontiguousarray(code).ravel(), cols, rows, costs, NO_EXITS, *self.cell, moves),
            *(self.ends, np.empty(0, np.int64), 1.0, 0, 1.0, np.inf),
            # When a cell was opened is of no use here; it is written over.
            *(self.cost, self.came, order, self.number),
        )
        self.size = np.ones(code.size, np.int32)
        self.reached = order > 0
        kernels.number_tree(order, steps, cols, self.came, self.number, self.size)

    def lost_ranges(self, closed: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        """(k, 2) the ranges of numbers of the cells whose way goes through a closed one or cuts a corner of one.
        closed : (N, 2) slots."""
        rows, cols = self.code.shape
        flat = closed[:, 0] * cols + closed[:, 1]
        found: npt.NDArray[np.int64] = kernels.lost_ranges(
            flat, cols, rows, self.came, self.number, self.size
        )
        return found

    def lost(self, closed: npt.NDArray[np.int64]) -> Bools:
        """(n,) the cells whose way is lost once some cells are closed."""
        found = np.zeros(self.code.size, np.bool_)
        for first, end in self.lost_ranges(closed).astype(np.int32):
            found |= (self.number >= first) & (self.number < end)
        return found


class Mended:
    """Paths from the starts of one tree to the goals of another. A question looks at each cell once in passing, and then
    only at what may lie on a way around. See `kernels.detours` for the source."""

    def __init__(self, starts: Tree, goals: Tree) -> None:
        """starts, goals : over the same ground, by the same moves."""
        self._starts, self._goals = starts, goals
        self._scratch = np.empty(starts.code.size)

    def find(self, closed: Sequence[Slot]) -> Path:
        """The cheapest path as it would be with some cells closed, which lie on the ground. `explored` is not counted."""
        starts, goals = self._starts, self._goals
        rows, cols = starts.code.shape
        shut = np.array(closed, np.int64).reshape(-1, 2)
        code = starts.code.copy()
        code[tuple(shut.T)] = 0
        lost = starts.lost(shut)
        kept = ~lost
        edge = np.flatnonzero(lost & _beside((kept & starts.reached).reshape(rows, cols)).ravel())
        path, cost = kernels.search_around(
            *(code.ravel(), cols, rows, starts.costs, *starts.cell, starts.moves, goals.ends),
            *(starts.cost, (goals.cost, goals.came, goals.number), lost, edge),
            *(goals.lost_ranges(shut), self._scratch, starts.came * kept),
        )
        return Path(np.stack([path // cols, path % cols], axis=1), float(cost), 0)


def _beside(kept: Bools) -> Bools:
    """(H, W) the cells with one of some on a side, on a corner, or there."""
    wide = kept.copy()
    wide[:, 1:] |= kept[:, :-1]
    wide[:, :-1] |= kept[:, 1:]
    found = wide.copy()
    found[1:] |= wide[:-1]
    found[:-1] |= wide[1:]
    return found
