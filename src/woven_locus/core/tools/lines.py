"""Cells of brushes and lines."""

from __future__ import annotations

from woven_locus.core.geometry import Cell

LARGEST_BRUSH = 9


def brush_low(middle: Cell, size: int) -> Cell:
    """The lowest cell of a square brush of size x size cells (1 to 9); an even size leans low."""
    return middle.moved(-(size // 2), -(size // 2))


def brush(middle: Cell, size: int) -> list[Cell]:
    """The cells of a square brush around a cell."""
    low = brush_low(middle, size)
    return [low.moved(c, r) for r in range(size) for c in range(size)]


def staircase(a: Cell, b: Cell) -> list[Cell]:
    """Cells from a to b, each sharing an edge with the one before, close to the straight line.

    Source: the midpoint idea of J. Bresenham, "Algorithm for computer control of a digital
    plotter", IBM Systems Journal 4 (1965), taking one axis a step so that no step is diagonal.
    """
    cols, rows = abs(b.col - a.col), abs(b.row - a.row)
    right, down = (1 if b.col > a.col else -1), (1 if b.row > a.row else -1)
    cells = [a]
    done_c = done_r = 0
    while done_c < cols or done_r < rows:
        # Step along the axis that is further behind its share of the way.
        if (done_c + 0.5) * rows < (done_r + 0.5) * cols:
            done_c += 1
        else:
            done_r += 1
        cells.append(Cell(a.col + right * done_c, a.row + down * done_r))
    return cells


def held_to_axis(a: Cell, b: Cell) -> Cell:
    """`b` moved onto the row or the column of `a`, whichever keeps the line longer."""
    if abs(b.col - a.col) >= abs(b.row - a.row):
        return Cell(b.col, a.row)
    return Cell(a.col, b.row)
