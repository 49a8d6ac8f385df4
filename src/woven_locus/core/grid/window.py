"""A buildable window: a grid smaller than the terrain that lies on the same lattice.

It moves in whole cells only, so that the lattice under it never shifts.
"""

from __future__ import annotations

from woven_locus.core.errors import BadGrid
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid.snapping import low_cell
from woven_locus.core.grid.spec import LARGEST_INDEX, GridSpec
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value


class BuildWindow(Value):
    """low : its lowest cell.  cols, rows : its size. It may reach beyond the terrain."""

    low: Cell
    cols: int
    rows: int

    def __post_init__(self) -> None:
        if self.cols < 1 or self.rows < 1:
            raise BadGrid(
                phrase(
                    "a window needs at least one column and row, this one has {cols}x{rows}",
                    cols=self.cols,
                    rows=self.rows,
                )
            )
        if max(abs(self.low.col), abs(self.low.row), self.cols, self.rows) > LARGEST_INDEX:
            raise BadGrid(phrase("the window lies too far out"))

    def contains(self, cell: Cell) -> bool:
        """Whether the window has the cell, which the grid may lack."""
        return 0 <= cell.col - self.low.col < self.cols and 0 <= cell.row - self.low.row < self.rows

    @property
    def last(self) -> Cell:
        """The cell with the highest column and row."""
        return self.low.moved(self.cols - 1, self.rows - 1)

    def box(self, spec: GridSpec) -> Box:
        """The slots of the terrain that it covers."""
        row, col = spec.slot(self.low)
        return Box(row, col, row + self.rows, col + self.cols).clipped(spec.shape)

    def centred_on(self, spec: GridSpec, x: float, y: float) -> BuildWindow:
        """The same size around a world point, in whole cells: an odd side has the point's cell in its
        middle, an even one the intersection next to the point. Raises BadGrid."""
        return BuildWindow(low_cell(spec, x, y, self.cols, self.rows), self.cols, self.rows)
