"""Builds the C++ yardstick into a folder of its own and wraps it."""

from __future__ import annotations

import ctypes
import hashlib
import shutil
import subprocess
import tempfile
from pathlib import Path

import numpy as np
import numpy.typing as npt

SOURCE = Path(__file__).with_name("astar.cpp")


def load() -> ctypes.CDLL | None:
    """The compiled reference, or None where there is no g++."""
    compiler = shutil.which("g++")
    if compiler is None:
        return None
    digest = hashlib.sha256(SOURCE.read_bytes()).hexdigest()[:12]
    library = Path(tempfile.gettempdir()) / f"woven-locus-reference-{digest}.so"
    if not library.exists():
        command = [compiler, "-O3", "-march=native", "-shared", "-fPIC", "-std=c++17"]
        subprocess.run([*command, "-o", str(library), str(SOURCE)], check=True)
    loaded = ctypes.CDLL(str(library))
    loaded.reference_astar.restype = ctypes.c_double
    return loaded


def astar(
    library: ctypes.CDLL,
    cost: npt.NDArray[np.float32],
    start: tuple[int, int],
    goal: tuple[int, int],
    moves: int,
    least: float,
) -> tuple[float, int]:
    """(cost, explored) from (row, col) to (row, col); cost : (H, W) float32, inf blocks."""
    rows, cols = cost.shape
    explored = ctypes.c_int64()
    answer = library.reference_astar(
        cost.ctypes.data_as(ctypes.POINTER(ctypes.c_float)),
        ctypes.c_int64(cols),
        ctypes.c_int64(rows),
        ctypes.c_double(1.0),
        ctypes.c_double(1.0),
        ctypes.c_int(moves),
        ctypes.c_int64(start[0] * cols + start[1]),
        ctypes.c_int64(goal[0] * cols + goal[1]),
        ctypes.c_double(least),
        ctypes.byref(explored),
    )
    return answer, explored.value
