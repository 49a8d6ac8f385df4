"""Paths that are mended: after cells were closed, found from what was known before."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Slot
from woven_locus.core.routing.search import NO_EXITS, Path, open_ends

Bytes = npt.NDArray[np.uint8]
Floats = npt.NDArray[np.float64]


class Mended:
    """Paths to the nearest of some goals over ground that may have some cells closed. Making it looks at the whole ground
    once; a question then looks only at what may lie on a way around, and ends where the way from before goes on. See
    `kernels.guided` for the source."""

    def __init__(
        self,
        code: Bytes,
        costs: Floats,
        goals: Sequence[Slot],
        *,
        moves: int = 4,
        cell: tuple[float, float] = (1.0, 1.0),
    ) -> None:
        """As for `find_path`, without one-way cells. code : must not change meanwhile."""
        self._code, self._costs, self._moves = code, costs, moves
        self._cell = float(cell[0]), float(cell[1])
        self._left = np.full(code.size, np.inf)
        self._onward = np.zeros(code.size, np.uint8)
        self._g = np.empty(code.size)
        rows, cols = code.shape
        # Over the ground a way costs the same both ways.
        kernels.explore(
            *(np.ascontiguousarray(code).ravel(), cols, rows, costs, NO_EXITS, *self._cell, moves),
            *(open_ends(code, costs, goals), np.empty(0, np.int64), 1.0, 0, 1.0, np.inf),
            *(self._left, self._onward),
            *(np.zeros(code.size, np.int32), np.zeros(code.size, np.int32)),
        )

    def find(self, starts: Sequence[Slot], closed: Sequence[Slot]) -> Path:
        """The cheapest path from any start as it would be with some cells closed, which lie on the ground. `explored` is
        not counted."""
        rows, cols = self._code.shape
        code = self._code.copy()
        code[tuple(np.array(closed, np.int64).reshape(-1, 2).T)] = 0
        size = code.size
        path, cost = kernels.search_guided(
            *(code.ravel(), cols, rows, self._costs, *self._cell, self._moves),
            *(open_ends(code, self._costs, starts), (self._left, self._onward)),
            *(self._g, np.zeros(size, np.uint8), np.zeros(size, np.uint8)),
        )
        return Path(np.stack([path // cols, path % cols], axis=1), float(cost), 0)
