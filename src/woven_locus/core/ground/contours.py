"""Contour lines of heights.

Source: W. E. Lorensen and H. E. Cline, "Marching Cubes", SIGGRAPH 1987, in two dimensions: each square
of four cell centres is cut by a level along straight lines between the points where its edges cross it.
A square whose opposite corners lie on the same side is decided by its mean.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.floating]

# Corners of a square are 1 (row, col), 2 (row, col+1), 4 (row+1, col+1), 8 (row+1, col); edges are
# 0 between corners 1 and 2, then round. For each case of corners above: the pairs of edges to join.
_CASES: dict[int, tuple[tuple[int, int], ...]] = {
    1: ((3, 0),),
    2: ((0, 1),),
    3: ((3, 1),),
    4: ((1, 2),),
    6: ((0, 2),),
    7: ((3, 2),),
    8: ((2, 3),),
    9: ((2, 0),),
    11: ((2, 1),),
    12: ((1, 3),),
    13: ((1, 0),),
    14: ((0, 3),),
}
# With the mean above, the two high corners are joined; else each stands alone.
_SADDLES = {
    (5, True): ((3, 2), (1, 0)),
    (5, False): ((3, 0), (1, 2)),
    (10, True): ((0, 3), (2, 1)),
    (10, False): ((0, 1), (2, 3)),
}


def levels_of(lowest: float, highest: float, interval: float) -> npt.NDArray[np.float64]:
    """The multiples of an interval above the lowest height and up to the highest."""
    first, last = np.floor(lowest / interval) + 1, np.floor(highest / interval)
    return np.arange(first, last + 1) * interval


def nice_interval(span: float, about: int = 10) -> float:
    """1, 2 or 5 times a power of ten, so that a span holds about so many lines."""
    if not span > 0:
        return 1.0
    rough = span / about
    power = 10.0 ** np.floor(np.log10(rough))
    return float(next(n * power for n in (1, 2, 5, 10) if n * power >= rough * 0.999))


def contours(heights: Floats, levels: Iterable[float]) -> list[npt.NDArray[np.float64]]:
    """Each level as segments.

    heights : (H, W), NaN unknown; a square with an unknown corner has no line. A height equal to the
    level counts as above it. Returns, for each, (N, 4) of (x0, y0, x1, y1) in cells from the low corner of the
    first cell, so that a centre is at a half.
    """
    if min(heights.shape) < 2:
        return [np.empty((0, 4)) for _ in levels]
    z = np.asarray(heights, np.float64)
    known = ~np.isnan(z)
    whole = known[:-1, :-1] & known[:-1, 1:] & known[1:, 1:] & known[1:, :-1]
    return [_contour(z, whole, level) for level in levels]


def _contour(
    z: npt.NDArray[np.float64], whole: npt.NDArray[np.bool_], level: float
) -> npt.NDArray[np.float64]:
    """whole : (H - 1, W - 1), squares with four known corners."""
    above = (z >= level).view(np.uint8)
    case = above[:-1, :-1] | above[:-1, 1:] << 1 | above[1:, 1:] << 2 | above[1:, :-1] << 3
    rows, cols = np.nonzero((case > 0) & (case < 15) & whole)
    if not len(rows):
        return np.empty((0, 4))
    kinds = case[rows, cols]
    corners = (
        z[rows, cols],
        z[rows, cols + 1],
        z[rows + 1, cols + 1],
        z[rows + 1, cols],
    )
    middle = sum(corners) / 4 >= level
    crossings = np.stack([_crossing(edge, rows, cols, corners, level) for edge in range(4)])
    found = []
    for kind, pairs in _CASES.items():
        found += _segments(kinds == kind, pairs, crossings)
    for (kind, high), pairs in _SADDLES.items():
        found += _segments((kinds == kind) & (middle == high), pairs, crossings)
    return np.concatenate(found) if found else np.empty((0, 4))


def _segments(
    which: npt.NDArray[np.bool_],
    pairs: tuple[tuple[int, int], ...],
    crossings: npt.NDArray[np.float64],
) -> list[npt.NDArray[np.float64]]:
    """crossings : (4 edges, 2, N)."""
    at = np.flatnonzero(which)
    if not len(at):
        return []
    return [np.concatenate([crossings[a][:, at], crossings[b][:, at]]).T for a, b in pairs]


def _crossing(edge: int, rows: Any, cols: Any, corners: Any, level: float) -> tuple[Any, Any]:
    """(x, y) where a level crosses an edge of squares whose low centre is at (col + 1/2, row + 1/2)."""
    start, end = corners[edge], corners[(edge + 1) % 4]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.where(end == start, 0.5, (level - start) / (end - start))
    x, y = cols + 0.5, rows + 0.5
    return {
        0: (x + t, y),
        1: (x + 1, y + t),
        2: (x + 1 - t, y + 1),
        3: (x, y + 1 - t),
    }[edge]
