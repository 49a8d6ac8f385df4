"""The lowest and the highest known height, kept current from edited blocks."""

from __future__ import annotations

from collections.abc import Callable
from weakref import ref

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box

Heights = npt.NDArray[np.float32]

# Rows that are looked at together.
BAND = 64


class HeightRange:
    """Of one array of heights after the other: another array is looked at whole."""

    def __init__(self) -> None:
        self._of: Callable[[], Heights | None] = lambda: None
        self._ends = np.empty((0, 2))  # lowest and highest of each band
        self._stale: set[int] = set()

    def touched(self, box: Box) -> None:
        """Heights within a block of slots may be others."""
        self._stale.update(range(max(0, box.r0) // BAND, -(-box.r1 // BAND)))

    def of(self, heights: Heights | None) -> tuple[float, float]:
        """Lowest and highest known height; (0, 0) when there is none. O(cells of the bands that were touched)."""
        if heights is None:
            return 0.0, 0.0
        if self._of() is not heights:
            bands = -(-len(heights) // BAND)
            self._of, self._ends, self._stale = (
                ref(heights),
                np.empty((bands, 2)),
                set(range(bands)),
            )
        for band in self._stale:
            part = heights[band * BAND : (band + 1) * BAND]
            if part.size:
                # These two pass over the unknown by themselves, in one quick pass each.
                self._ends[band] = np.fmin.reduce(part, axis=None), np.fmax.reduce(part, axis=None)
        self._stale.clear()
        lowest, highest = np.fmin.reduce(self._ends[:, 0]), np.fmax.reduce(self._ends[:, 1])
        return (0.0, 0.0) if np.isnan(lowest) else (float(lowest), float(highest))
