"""The grid's geometry, in constant time in both directions."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadGrid, OutsideGrid
from woven_locus.core.geometry import Box, Cell, Point, Slot
from woven_locus.core.grid.axis import Axis
from woven_locus.core.names import name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

# 16 M cells is what the program is made for; four times that still fits in memory.
MOST_CELLS = 64 * 1024 * 1024
LARGEST_INDEX = 2**31 - 1


class GridSpec(Value):
    """Columns x rows of equal cells, laid from a world origin.

    cell_w, cell_h : size of a cell, world units, not always equal.
    anchor_x, anchor_y : the grid's low corner, or its middle when `centred`.
    centred : the grid keeps its middle on the anchor whatever its size is.
    first_col, first_row : index of the first cell; may be negative.
    unit : name of a world unit, for display only.
    y_up : whether y, and with it the row, grows up the screen rather than down. It turns the picture
    only: which row a point lies in does not depend on it.

    Raises BadGrid for a grid that cannot exist.
    """

    cols: int
    rows: int
    cell_w: float = 1.0
    cell_h: float = 1.0
    anchor_x: float = 0.0
    anchor_y: float = 0.0
    centred: bool = False
    first_col: int = 0
    first_row: int = 0
    unit: str = "units"
    y_up: bool = False

    def __post_init__(self) -> None:
        if self.cols < 1 or self.rows < 1:
            raise BadGrid(
                phrase(
                    "a grid needs at least one column and row, this one has {cols}x{rows}",
                    cols=self.cols,
                    rows=self.rows,
                )
            )
        if self.cols * self.rows > MOST_CELLS:
            raise BadGrid(
                phrase(
                    "{cols}x{rows} is {cols2:,} cells; the most is {most_cells:,}",
                    cols=self.cols,
                    rows=self.rows,
                    cols2=self.cols * self.rows,
                    most_cells=MOST_CELLS,
                )
            )
        if problem := name_problem(self.unit):
            raise BadGrid(phrase("unit: {problem}", problem=problem))
        for name, size in (("width", self.cell_w), ("height", self.cell_h)):
            if not (math.isfinite(size) and size > 0):
                raise BadGrid(
                    phrase(
                        "cell {name} must be a number above 0, not {size:g}", name=name, size=size
                    )
                )
        if not (math.isfinite(self.anchor_x) and math.isfinite(self.anchor_y)):
            raise BadGrid(
                phrase(
                    "the origin must be two finite numbers, not {anchor_x:g}, {anchor_y:g}",
                    anchor_x=self.anchor_x,
                    anchor_y=self.anchor_y,
                )
            )
        for first, count in ((self.first_col, self.cols), (self.first_row, self.rows)):
            if abs(first) + count > LARGEST_INDEX:
                raise BadGrid(
                    phrase(
                        "first index {first} is too large; the most is {largest_index:,}",
                        first=first,
                        largest_index=LARGEST_INDEX,
                    )
                )
        # A cell smaller than the spacing of floats out there would make neighbours coincide.
        for low, size, count in (
            (self.origin_x, self.cell_w, self.cols),
            (self.origin_y, self.cell_h, self.rows),
        ):
            far = max(abs(low), abs(low + size * count))
            if not math.isfinite(far) or math.ulp(far) * 8 > size:
                raise BadGrid(
                    phrase(
                        "cells of {size:g} cannot be told apart at {far:g}; choose larger cells or an origin nearer to 0",
                        size=size,
                        far=far,
                    )
                )

    @property
    def origin_x(self) -> float:
        """World x of the low corner of the first cell."""
        return self.anchor_x - self.cols * self.cell_w / 2 if self.centred else self.anchor_x

    @property
    def origin_y(self) -> float:
        """World y of the low corner of the first cell."""
        return self.anchor_y - self.rows * self.cell_h / 2 if self.centred else self.anchor_y

    @property
    def shape(self) -> tuple[int, int]:
        """(rows, cols): the shape of every array laid on this grid."""
        return self.rows, self.cols

    @property
    def box(self) -> Box:
        """All slots."""
        return Box(0, 0, self.rows, self.cols)

    @property
    def first(self) -> Cell:
        """The cell with the lowest column and row."""
        return Cell(self.first_col, self.first_row)

    @property
    def last(self) -> Cell:
        """The cell with the highest column and row."""
        return Cell(self.first_col + self.cols - 1, self.first_row + self.rows - 1)

    @property
    def extent(self) -> tuple[float, float]:
        """Total width and height, world units."""
        return self.cols * self.cell_w, self.rows * self.cell_h

    @property
    def high(self) -> Point:
        """The far corner; it belongs to no cell, since cells are half-open."""
        return Point(
            self.origin_x + self.cols * self.cell_w, self.origin_y + self.rows * self.cell_h
        )

    def contains(self, cell: Cell) -> bool:
        """Whether the grid has the cell."""
        return (
            0 <= cell.col - self.first_col < self.cols
            and 0 <= cell.row - self.first_row < self.rows
        )

    @property
    def axes(self) -> tuple[Axis, Axis]:
        """The lattice of cells along x and along y, counted from 0 at the low corner."""
        return Axis(self.origin_x, self.cell_w), Axis(self.origin_y, self.cell_h)

    def locate_virtual(self, x: float, y: float) -> Cell:
        """The cell of the endless lattice under a world point: floor, also for negatives, and exact:
        a cell's own corner is in that cell, the float just below it is not.

        Raises BadGrid for a point that is not finite or too far out to count cells.
        """
        across, along = self.axes
        return Cell(across.index(x) + self.first_col, along.index(y) + self.first_row)

    def locate(self, x: float, y: float) -> Cell | None:
        """The cell under a world point, or None outside the grid."""
        cell = self.locate_virtual(x, y)
        return cell if self.contains(cell) else None

    def corner(self, cell: Cell) -> Point:
        """World place of the cell's low corner; cells outside the grid are on the lattice too."""
        return Point(
            self.origin_x + (cell.col - self.first_col) * self.cell_w,
            self.origin_y + (cell.row - self.first_row) * self.cell_h,
        )

    def centre(self, cell: Cell) -> Point:
        """World place of the cell's middle; cells outside the grid are on the lattice too."""
        return Point(
            self.origin_x + (cell.col - self.first_col + 0.5) * self.cell_w,
            self.origin_y + (cell.row - self.first_row + 0.5) * self.cell_h,
        )

    def slot(self, cell: Cell) -> Slot:
        """The array place of a cell. Not checked: outside cells give outside slots."""
        return Slot(cell.row - self.first_row, cell.col - self.first_col)

    def cell_of_slot(self, slot: Slot | tuple[int, int]) -> Cell:
        """The inverse of `slot`."""
        return Cell(int(slot[1]) + self.first_col, int(slot[0]) + self.first_row)

    def checked_slot(self, cell: Cell) -> Slot:
        """`slot`, or OutsideGrid."""
        if not self.contains(cell):
            raise OutsideGrid(cell, self.describe_range())
        return self.slot(cell)

    def index(self, cell: Cell) -> int:
        """Single index, row by row from 0. Raises OutsideGrid."""
        row, col = self.checked_slot(cell)
        return row * self.cols + col

    def cell_at_index(self, index: int) -> Cell:
        """The inverse of `index`. Raises OutsideGrid."""
        if not 0 <= index < self.cols * self.rows:
            raise OutsideGrid(
                (index, 0), phrase("indices 0 to {cols}", cols=self.cols * self.rows - 1)
            )
        return self.cell_of_slot(Slot(index // self.cols, index % self.cols))

    def locate_many(
        self, points: npt.NDArray[np.float64]
    ) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.bool_]]:
        """`locate_virtual` and `contains` for many points at once.

        points : (N, 2) float64 of (x, y). Returns the cells of the endless lattice, (N, 2) int64 of
        (col, row), the virtual answer; and (N,) bool, whether the grid has them, the strict one.
        Raises BadGrid, naming the row, for a point that is not finite or too far out.
        """
        checked_points(points)
        slots = np.empty(points.shape, np.int64)
        inside = np.ones(len(points), bool)
        for at, (axis, count) in enumerate(zip(self.axes, (self.cols, self.rows), strict=True)):
            steps = axis.indices(points[:, at])
            inside &= (steps >= 0) & (steps < count)
            slots[:, at] = steps
        return slots + np.array(self.first), inside

    def centres(self, slots: npt.NDArray[np.integer]) -> npt.NDArray[np.float64]:
        """World centres of array slots. slots : (N, 2) of (row, col) -> (N, 2) of (x, y)."""
        centres = np.empty((len(slots), 2))
        # A column at a time: several times as quick as two numbers at a time.
        centres[:, 0] = (slots[:, 1] + 0.5) * self.cell_w + self.origin_x
        centres[:, 1] = (slots[:, 0] + 0.5) * self.cell_h + self.origin_y
        return centres

    def mirrored(self, box: Box) -> Box:
        """A block of slots as rows of the screen, top first, and the other way round: the same block,
        unless y grows upwards."""
        if not self.y_up:
            return box
        return Box(self.rows - box.r1, box.c0, self.rows - box.r0, box.c1)

    def describe_range(self) -> str:
        """The addressable cells in words, for messages."""
        last = self.last
        return phrase(
            "columns {first_col} to {col}, rows {first_row} to {row}",
            first_col=self.first_col,
            col=last.col,
            first_row=self.first_row,
            row=last.row,
        )


def checked_points(points: npt.NDArray[np.float64]) -> None:
    """Raises BadGrid unless points are (N, 2)."""
    if points.ndim != 2 or points.shape[1] != 2:
        raise BadGrid(phrase("points must be (N, 2), got {shape}", shape=points.shape))
