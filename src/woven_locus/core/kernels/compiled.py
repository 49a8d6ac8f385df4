"""The kernels through Numba. Importing this module costs about half a second: import it late."""

from __future__ import annotations

from collections.abc import Callable
from types import FunctionType
from typing import Any

import numba
import numpy as np

from woven_locus.core.kernels import astar, cells, groups, junctions, slopes, woven
from woven_locus.core.ways.network import RoadNetwork
from woven_locus.core.ways.roads import PLAIN

search = numba.njit(cache=True, nogil=True, error_model="numpy")(astar.search)
derive = numba.njit(cache=True, nogil=True, error_model="numpy")(cells.derive)

steep = numba.njit(cache=True, nogil=True, error_model="numpy")(slopes.steep)


def _through(*functions: Callable[..., Any]) -> dict[str, Callable[..., Any]]:
    """Functions that call one another, compiled in order: each calls the compiled ones before it."""
    made: dict[str, Callable[..., Any]] = {}
    for plain in functions:
        assert isinstance(plain, FunctionType)
        bound = FunctionType(plain.__code__, {**plain.__globals__, **made}, plain.__name__)
        bound.__module__, bound.__qualname__ = plain.__module__, plain.__qualname__
        made[plain.__name__] = numba.njit(cache=True, nogil=True, error_model="numpy")(bound)
    return made


_woven = _through(
    woven.taken,
    *(groups.root_of, groups.give_up, groups.engulf, groups.number_anew),
    *(groups.search_apart, groups.part_apart, groups.regroup),
    *(junctions.beyond, junctions.joins, junctions.is_node, junctions.trace),
    *(junctions.freed_node, junctions.new_node, junctions.spin, junctions.weave),
)
weave = _woven["weave"]


def warm() -> None:
    """Compile, or load from the cache, for the types that the fronts pass."""
    code = np.ones(4, np.uint8)
    table = np.ones(256)
    ends = np.zeros(1, np.int64)
    search(code, 2, 2, table, 1.0, 1.0, 4, ends, ends, 1.0)
    byte, four = code.reshape(2, 2), np.zeros(4, np.int64)
    whose, bits = np.zeros((2, 2), np.int32), np.zeros(5, np.uint8)
    flags = np.zeros(256, np.uint8)
    outside = np.uint8(0)
    derive(
        byte, byte, byte, byte, whose, four, outside, four, flags, flags, flags, bits, byte, byte
    )
    steep(np.zeros((3, 3)), 1.0, 1.0, 1.0, np.zeros((1, 1), np.bool_))
    road = RoadNetwork(byte, PLAIN)
    assert road.woven is not None
    arms = (road.woven, code, PLAIN.costs, PLAIN.exits, flags[:4], 2, 2, 1.0, 1.0, ends)
    weave(*arms)
