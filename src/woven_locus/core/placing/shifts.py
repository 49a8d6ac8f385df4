"""A layer seen from every spot of a block at once: OR and count over the cells of a footprint.

Source of the doubling: a window of any length is the OR of two overlapping windows whose length is a
power of two, as in M. Bender, M. Farach-Colton, "The LCA Problem Revisited", LATIN 2000 (sparse table).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box
from woven_locus.core.kinds.footprint import Off

Array = npt.NDArray[Any]
# Offsets up to which cells are counted one by one.
FEW = 64
_Bits = TypeVar("_Bits", bound=np.generic)


def reach_of(offs: Iterable[Off]) -> Box:
    """The smallest box around offsets and (0, 0), as slots from a spot."""
    cols, rows = zip((0, 0), *offs, strict=True)
    return Box(min(rows), min(cols), max(rows) + 1, max(cols) + 1)


def wide_of(box: Box, reach: Box) -> Box:
    """The slots that the spots of a box look at."""
    return Box(box.r0 + reach.r0, box.c0 + reach.c0, box.r1 + reach.r1 - 1, box.c1 + reach.c1 - 1)


def padded(layer: Array, box: Box, fill: Any) -> Array:
    """A block of a layer that may lie beyond its edges; there it holds `fill`. A view where it can be."""
    inside = box.clipped(layer.shape)
    if inside == box:
        return layer[box.slices]
    out = np.full(box.shape, fill, layer.dtype)
    if not inside.empty:
        out[inside.seen_from(box).slices] = layer[inside.slices]
    return out


def any_over(
    layer: npt.NDArray[_Bits], reach: Box, shape: tuple[int, int], offs: Sequence[Off]
) -> npt.NDArray[_Bits]:
    """For each spot of a block: the OR of the layer at the spot's offsets.

    layer : (rows + reach's rows - 1, cols + reach's cols - 1), bool or uint8; `padded` of `wide_of`.
    reach : `reach_of` the offsets, or larger.  shape : (rows, cols) of the block.
    """
    h, w = shape
    out = np.zeros(shape, layer.dtype)
    for (col, wide), rows in _runs(offs).items():
        # Down first: that goes along whole rows of memory.
        for row, tall in _unbroken(rows):
            r, c = row - reach.r0, col - reach.c0
            part = layer[r : r + h + tall - 1, c : c + w + wide - 1]
            out |= _windowed(_windowed(part, tall, 0), wide, 1)
    return out


def count_over(
    layer: npt.NDArray[np.bool_], reach: Box, shape: tuple[int, int], offs: Sequence[Off]
) -> npt.NDArray[np.integer]:
    """For each spot of a block: at how many of the offsets the layer is set; an offset given twice
    counts twice. See `any_over`."""
    h, w = shape
    if len(offs) <= FEW:
        # One by one in single bytes is quicker than sums in four.
        few = np.zeros(shape, np.uint8)
        bytes_ = layer.view(np.uint8)
        for col, row in offs:
            r, c = row - reach.r0, col - reach.c0
            few += bytes_[r : r + h, c : c + w]
        return few
    out = np.zeros(shape, np.int32)
    sums = np.zeros((layer.shape[0], layer.shape[1] + 1), np.int32)
    np.cumsum(layer, axis=1, out=sums[:, 1:])
    left = Counter(offs)
    while left:
        for (col, wide), rows in _runs(list(left)).items():
            for row in rows:
                r, c = row - reach.r0, col - reach.c0
                out += sums[r : r + h, c + wide : c + wide + w]
                out -= sums[r : r + h, c : c + w]
        left -= Counter(list(left))
    return out


def spread(mask: npt.NDArray[np.bool_], cells: int) -> npt.NDArray[np.bool_]:
    """Where a set cell is within so many cells, slantwise too.

    mask : (rows + 2 cells, cols + 2 cells). Returns (rows, cols).
    """
    side = 2 * cells + 1
    return _windowed(_windowed(mask, side, 0), side, 1)


def _runs(offs: Sequence[Off]) -> dict[tuple[int, int], list[int]]:
    """Rows of cells side by side: (first column, how many) -> the rows that have such a run."""
    by_row: dict[int, list[int]] = {}
    for col, row in set(offs):
        by_row.setdefault(row, []).append(col)
    runs: dict[tuple[int, int], list[int]] = {}
    for row, cols in sorted(by_row.items()):
        for col, wide in _unbroken(sorted(cols)):
            runs.setdefault((col, wide), []).append(row)
    return runs


def _unbroken(numbers: Sequence[int]) -> list[tuple[int, int]]:
    """Ascending numbers as (first, how many) of those that follow each other."""
    found: list[tuple[int, int]] = []
    for number in numbers:
        if found and number == found[-1][0] + found[-1][1]:
            found[-1] = (found[-1][0], found[-1][1] + 1)
        else:
            found.append((number, 1))
    return found


def _windowed(array: Array, length: int, axis: int) -> Array:
    """The OR of each window of `length` along an axis."""
    size = 1
    while size * 2 <= length:
        array = _part(array, axis, 0, size) | _part(array, axis, size, 0)
        size *= 2
    if size < length:
        more = length - size
        array = _part(array, axis, 0, more) | _part(array, axis, more, 0)
    return array


def _part(array: Array, axis: int, first: int, last: int) -> Array:
    """Without the first and the last so many along an axis."""
    chosen = slice(first, array.shape[axis] - last)
    return array[chosen] if axis == 0 else array[:, chosen]
