"""Which cells are steeper than a limit, in one pass that Numba can compile."""

from __future__ import annotations

import numpy as np


def steep(around, cell_w, cell_h, limit, out):  # type: ignore[no-untyped-def]
    """around : (H + 2, W + 2) float64 heights with a margin, NaN where none is known.
    limit : square of the rise that is still allowed.  out : (H, W) bool, filled.

    Operation for operation as `relief.steeper_at`, so that the two never disagree. O(cells).
    """
    rows, cols = out.shape
    for row in range(rows):
        for col in range(cols):
            here = around[row + 1, col + 1]
            if np.isnan(here):
                out[row, col] = False
                continue
            total = 0.0
            for axis in range(2):
                if axis == 0:
                    before, after = around[row + 1, col], around[row + 1, col + 2]
                    size = cell_w
                else:
                    before, after = around[row, col + 1], around[row + 2, col + 1]
                    size = cell_h
                steps = 2
                if np.isnan(before):
                    before = here
                    steps -= 1
                if np.isnan(after):
                    after = here
                    steps -= 1
                way = (after - before) / (max(steps, 1) * size)
                total += way * way
            out[row, col] = total > limit
