"""Small frozen values that every room shares.

A `Cell` is what the user reads: column and row *with the grid's first index included*. Arrays are
``[row, col]`` from zero; a place in an array is a `Slot`, a block of an array is a `Box`. Only
`GridSpec.slot` and `GridSpec.cell_of_slot` go from one to the other.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from functools import partial
from itertools import chain
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.value import Value


class Cell(NamedTuple):
    """A cell as the user addresses it (the grid's first index included)."""

    col: int
    row: int

    def moved(self, cols: int, rows: int) -> Cell:
        """The cell so many columns and rows away."""
        return Cell(self.col + cols, self.row + rows)

    def beyond(self, side: int, steps: int = 1) -> Cell:
        """So many cells further on, over a side 0 to 3 in the order of `SIDES`."""
        d_row, d_col = SIDES[side]
        return self.moved(d_col * steps, d_row * steps)


def cell_text(cell: Cell) -> str:
    """A cell in a sentence: ``14, 9``, with a true minus sign."""
    return f"{cell.col}, {cell.row}".replace("-", "\N{MINUS SIGN}")


class Slot(NamedTuple):
    """A place in an array: ``array[row, col]``, from zero."""

    row: int
    col: int


class Point(NamedTuple):
    """A place in the world, float64, in the grid's unit."""

    x: float
    y: float


class Box(Value):
    """A half-open block of array slots: rows ``r0 <= r < r1``, columns ``c0 <= c < c1``."""

    r0: int
    c0: int
    r1: int
    c1: int

    @classmethod
    def around(cls, slots: Iterable[Slot]) -> Box:
        """The smallest box that holds all `slots`; empty for none."""
        rows, cols = [], []
        for slot in slots:
            rows.append(slot.row)
            cols.append(slot.col)
        if not rows:
            return cls(0, 0, 0, 0)
        return cls(min(rows), min(cols), max(rows) + 1, max(cols) + 1)

    @classmethod
    def around_all(cls, boxes: Iterable[Box]) -> Box:
        """The smallest box that holds all `boxes`; empty for none."""
        whole = cls(0, 0, 0, 0)
        for box in boxes:
            whole = whole.union(box)
        return whole

    @classmethod
    def around_mask(cls, mask: npt.NDArray[np.bool_]) -> Box:
        """The smallest box that holds what is true in an array, (rows, cols); empty for nothing."""
        rows, cols = (np.flatnonzero(mask.any(axis=axis)).tolist() for axis in (1, 0))
        return cls(rows[0], cols[0], rows[-1] + 1, cols[-1] + 1) if rows else cls(0, 0, 0, 0)

    @classmethod
    def around_slots(cls, slots: npt.NDArray[np.int64]) -> Box:
        """`around` of slots in an array, (N, 2) rows and columns."""
        if not len(slots):
            return cls(0, 0, 0, 0)
        (low_r, low_c), (high_r, high_c) = slots.min(axis=0).tolist(), slots.max(axis=0).tolist()
        return cls(low_r, low_c, high_r + 1, high_c + 1)

    def has(self, slot: Slot) -> bool:
        """Whether a slot lies in it."""
        return self.r0 <= slot[0] < self.r1 and self.c0 <= slot[1] < self.c1

    @property
    def empty(self) -> bool:
        """Whether it holds no slot."""
        return self.r0 >= self.r1 or self.c0 >= self.c1

    @property
    def shape(self) -> tuple[int, int]:
        """(rows, columns)."""
        return max(0, self.r1 - self.r0), max(0, self.c1 - self.c0)

    @property
    def slices(self) -> tuple[slice, slice]:
        """To index an array of the whole grid with."""
        return slice(self.r0, self.r1), slice(self.c0, self.c1)

    def grown(self, n: int) -> Box:
        """So many slots larger on every side; perhaps beyond the grid."""
        return Box(self.r0 - n, self.c0 - n, self.r1 + n, self.c1 + n)

    def clipped(self, shape: tuple[int, int]) -> Box:
        """The part inside an array of `shape`; an empty box when nothing is."""
        r0, c0 = max(0, self.r0), max(0, self.c0)
        return Box(r0, c0, max(r0, min(self.r1, shape[0])), max(c0, min(self.c1, shape[1])))

    def common(self, other: Box) -> Box:
        """The part that lies in both; an empty box when nothing does."""
        r0, c0 = max(self.r0, other.r0), max(self.c0, other.c0)
        return Box(r0, c0, max(r0, min(self.r1, other.r1)), max(c0, min(self.c1, other.c1)))

    def seen_from(self, other: Box) -> Box:
        """The same block, counted from the low corner of another: where it lies in an array of the
        other's shape."""
        return Box(self.r0 - other.r0, self.c0 - other.c0, self.r1 - other.r0, self.c1 - other.c0)

    def union(self, other: Box) -> Box:
        """The smallest box around both; an empty one adds nothing."""
        if self.empty:
            return other
        if other.empty:
            return self
        return Box(
            min(self.r0, other.r0),
            min(self.c0, other.c0),
            max(self.r1, other.r1),
            max(self.c1, other.c1),
        )

    def touches(self, other: Box) -> bool:
        """Whether the two share at least one slot."""
        return (
            self.r0 < other.r1 and other.r0 < self.r1 and self.c0 < other.c1 and other.c0 < self.c1
        )


NOWHERE = Box(0, 0, 0, 0)


def places_of(cells: Collection[tuple[int, int]]) -> npt.NDArray[np.int64]:
    """(N, 2) column and row of each cell, or of each offset: several times as quick as an array made of the cells themselves."""
    return np.fromiter(chain.from_iterable(cells), np.int64, 2 * len(cells)).reshape(-1, 2)


# The four sides of a cell in clockwise order from the top of the screen, as (d_row, d_col).
SIDES: tuple[tuple[int, int], ...] = ((-1, 0), (0, 1), (1, 0), (0, -1))
SIDE_NAMES = ("north", "east", "south", "west")


_as_cell = partial(tuple.__new__, Cell)


def cells_from(low: Cell, offs: Iterable[tuple[int, int]]) -> list[Cell]:
    """The cells so many columns and rows from another, each. Half of the time of ``Cell(col, row)``."""
    col, row = low
    return [_as_cell((col + c, row + r)) for c, r in offs]


def cells_at(cols: npt.NDArray[np.int64], rows: npt.NDArray[np.int64]) -> list[Cell]:
    """The cells at some columns and rows, (N,) each: the way back from `places_of`. A third of the time of ``Cell(col, row)``."""
    return list(map(_as_cell, zip(cols.tolist(), rows.tolist(), strict=True)))


def strips(box: Box, cells: int) -> Iterator[Box]:
    """A block by horizontal strips of about so many cells."""
    tall = max(16, cells // max(1, box.shape[1]))
    for r0 in range(box.r0, box.r1, tall):
        yield Box(r0, box.c0, min(box.r1, r0 + tall), box.c1)
