"""The different values in an array. NumPy's own `unique` brings in its package of masked arrays when it is first called,
which takes as long as several frames."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
import numpy.typing as npt

Number = TypeVar("Number", bound=np.integer)


def distinct(values: npt.NDArray[Number]) -> npt.NDArray[Number]:
    """Each value once, ascending."""
    ordered = np.sort(values, axis=None)
    return ordered[_first(ordered)]


def distinct_and_places(
    values: npt.NDArray[np.integer],
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Each value once, ascending, and for each of the values (in C order) its place among them."""
    flat = values.ravel().astype(np.int64, copy=False)
    most = int(flat.max(initial=0)) + 1
    if most <= 4 * len(flat) + 1024 and flat.min(initial=0) >= 0:
        # A table in place of a sort.
        place = np.zeros(most, np.int64)
        place[flat] = 1
        found = np.flatnonzero(place)
        place[found] = np.arange(len(found))
        return found, place[flat]
    order = np.argsort(flat, kind="stable")
    ordered = flat[order]
    first = _first(ordered)
    places = np.empty(len(flat), np.int64)
    places[order] = np.cumsum(first) - 1
    return ordered[first], places


def _first(ordered: npt.NDArray[np.integer]) -> npt.NDArray[np.bool_]:
    """Where a value comes for the first time."""
    first = np.ones(len(ordered), bool)
    np.not_equal(ordered[1:], ordered[:-1], out=first[1:])
    return first
