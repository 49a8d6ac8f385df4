"""The kernels through Numba. Importing this module costs about half a second: import it late."""

from __future__ import annotations

import numba
import numpy as np

from woven_locus.core.kernels import astar, cells, flood, slopes

search = numba.njit(cache=True, nogil=True, error_model="numpy")(astar.search)
relabel = numba.njit(cache=True, nogil=True, error_model="numpy")(flood.relabel)
derive = numba.njit(cache=True, nogil=True, error_model="numpy")(cells.derive)

steep = numba.njit(cache=True, nogil=True, error_model="numpy")(slopes.steep)


def warm() -> None:
    """Compile, or load from the cache, for the types that the fronts pass."""
    code = np.ones(4, np.uint8)
    table = np.ones(256)
    ends = np.zeros(1, np.int64)
    search(code, 2, 2, table, 1.0, 1.0, 4, ends, ends, 1.0)
    relabel(code, 2, 2, np.zeros(4, np.int32), ends, 1)
    byte, four = code.reshape(2, 2), np.zeros(4, np.int64)
    whose, bits = np.zeros((2, 2), np.int32), np.zeros(5, np.uint8)
    flags = np.zeros(256, np.uint8)
    outside = np.uint8(0)
    derive(byte, byte, byte, byte, whose, four, outside, four, flags, flags, bits, byte, byte)
    steep(np.zeros((3, 3)), 1.0, 1.0, 1.0, np.zeros((1, 1), np.bool_))
