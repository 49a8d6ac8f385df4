"""What the lanes of a road cell follow from: where traffic may come in and leave, and how many lanes it has."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.ways.roads import SIGN_SHIFT, RoadTable, Sign, class_of

Slots = npt.NDArray[np.int64]
Bytes = npt.NDArray[np.uint8]
Patterns = npt.NDArray[np.int16]
Ints = npt.NDArray[Any]

# A pattern: bits 0 to 3 the sides by which traffic may come in, 4 to 7 those by which it may leave, north
# first and clockwise as in the array; above them the lanes of the class, 1 to 6, and whether people cross there. 0 is
# no open road.
OUT_SHIFT, LANES_SHIFT, CROSSING_SHIFT = 4, 8, 11
PATTERNS = 1 << CROSSING_SHIFT + 1


def lanes_of(patterns: Ints) -> Ints:
    """The lanes of the class of each pattern."""
    found: Ints = patterns.astype(np.int64) >> LANES_SHIFT & 7
    return found


def open_sides(patterns: Ints) -> Ints:
    """Bits of the sides of patterns by which traffic comes in or leaves."""
    found: Ints = (patterns | patterns >> OUT_SHIFT) & 15
    return found


def crossed(patterns: Ints) -> npt.NDArray[np.bool_]:
    """Whether people cross in the cells of patterns."""
    found: npt.NDArray[np.bool_] = (patterns.astype(np.int64) >> CROSSING_SHIFT & 1).astype(bool)
    return found


def lanes_by_byte(table: RoadTable) -> Bytes:
    """(256,) uint8: the lanes of the class of each road byte, 0 where nobody enters."""
    lanes = np.zeros(256, np.uint8)
    for byte in np.flatnonzero(np.isfinite(table.costs)).tolist():
        lanes[byte] = table[class_of(byte)].lanes
    return lanes


def neighbours(slots: Slots, shape: tuple[int, int]) -> Slots:
    """(N, 4) int64: the flat slots beyond each side of flat slots, -1 off the grid."""
    rows, cols = shape
    row, col = slots // cols, slots % cols
    found = np.stack([slots - cols, slots + 1, slots + cols, slots - 1], axis=1)
    found[row == 0, 0] = -1
    found[col == cols - 1, 1] = -1
    found[row == rows - 1, 2] = -1
    found[col == 0, 3] = -1
    return found


def distinct(slots: Slots, size: int) -> Slots:
    """Flat slots, each once, ascending. size : of the map. Very many are marked rather than sorted."""
    if len(slots) < size // 64:
        return np.unique(slots)
    there = np.zeros(size, bool)
    there[slots] = True
    return np.flatnonzero(there)


def by_value(values: npt.NDArray[np.integer]) -> Iterator[tuple[int, Slots]]:
    """Each value that occurs, ascending, and where, ascending. O(n log n), however many values there are."""
    order = np.argsort(values, kind="stable")
    ascending = values[order]
    cuts = np.flatnonzero(ascending[1:] != ascending[:-1]) + 1
    for some in np.split(order, cuts) if len(order) else []:
        yield int(values[some[0]]), some


def patterns(road: Bytes, lanes: Bytes, exits: Bytes, slots: Slots) -> Patterns:
    """The pattern of each flat slot.

    road : (H, W) uint8.  lanes : `lanes_by_byte`.  exits : (256,) uint8, as in `RoadTable`.
    A one-way cell is left by its own side alone and not entered by it, as in `kernels.moves`.
    """
    flat = road.ravel()
    here = flat[slots]
    beyond = neighbours(slots, road.shape)
    there = np.where(beyond >= 0, flat[np.maximum(beyond, 0)], 0)
    open_ = (lanes[there] > 0) & (lanes[here] > 0)[:, None]
    sides = np.arange(4)
    mine, theirs = exits[here][:, None].astype(np.int16), exits[there].astype(np.int16)
    facing = (sides + 2) % 4
    comes = open_ & ((theirs == 0) | (theirs == facing + 1)) & (mine != sides + 1)
    leaves = open_ & ((mine == 0) | (mine == sides + 1)) & (theirs != facing + 1)
    bits = (comes << sides).sum(axis=1) | (leaves << (sides + OUT_SHIFT)).sum(axis=1)
    bits |= lanes[here].astype(np.int64) << LANES_SHIFT
    crossing = (here >> SIGN_SHIFT == Sign.CROSSING) & (lanes[here] > 0)
    found: Patterns = (bits | crossing.astype(np.int64) << CROSSING_SHIFT).astype(np.int16)
    return found
