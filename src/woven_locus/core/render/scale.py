"""Zoom steps. A cell is a whole number of pixels, or a pixel a whole number of cells, so that the
raster is always drawn at exactly the size at which it was made."""

from __future__ import annotations

import math

from woven_locus.core.geometry import Box
from woven_locus.core.value import Value

# Round numbers of cells between two labels, times a power of ten.
_NICE = (1, 2, 5, 10)
# Pixels for the shorter side of a cell; negative: cells for one pixel.
STEPS = (
    *(-64, -48, -32, -24, -16, -12, -8, -6, -4, -3, -2),
    *(1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14, 16, 20, 24, 28, 32, 40, 48, 64, 96, 128, 192),
)
TILE = 128
MOST_TILE_CELLS = 384


class Scale(Value):
    """One zoom step.

    pw, ph : pixels of a cell (1 when `skip` is above 1).  skip : cells for one pixel, each way.
    """

    pw: int
    ph: int
    skip: int = 1

    @classmethod
    def at(cls, step: int, cell_w: float, cell_h: float, sharp: float = 1.0) -> Scale:
        """Step `step` of STEPS for cells of that shape; the longer side is rounded to pixels.
        sharp : pixels of the screen for one of STEPS, on a screen that is scaled."""
        size = STEPS[step]
        if size < 0:
            return cls(1, 1, max(1, round(-size / sharp)))
        size = max(1, round(size * sharp))
        short = min(cell_w, cell_h)
        most = 8 * size
        return cls(
            min(most, max(1, round(size * cell_w / short))),
            min(most, max(1, round(size * cell_h / short))),
        )

    @property
    def px_per_cell(self) -> tuple[float, float]:
        """Pixels of a cell, across and down; below 1 when cells are skipped."""
        return self.pw / self.skip, self.ph / self.skip

    @property
    def tile_cells(self) -> tuple[int, int]:
        """(rows, cols) of cells in a raster tile: about TILE pixels a side, and never so many cells
        that one tile would hold up a frame."""
        if self.skip > 1:
            side = MOST_TILE_CELLS // self.skip * self.skip
            return side, side
        return (
            max(1, TILE // self.ph),
            max(1, TILE // self.pw),
        )

    def tile_box(self, row: int, col: int) -> Box:
        """The slots of a tile (perhaps beyond the grid)."""
        tall, wide = self.tile_cells
        return Box(row * tall, col * wide, (row + 1) * tall, (col + 1) * wide)


def stride(size: float, room: float) -> int:
    """Cells between two labels along a scale, a nice round number, so that each has `room`. size : of a cell, in the units of
    `room`."""
    need = room / size
    if need <= 1:
        return 1
    magnitude = 10 ** math.floor(math.log10(need))
    return int(next(nice * magnitude for nice in _NICE if nice * magnitude >= need))
