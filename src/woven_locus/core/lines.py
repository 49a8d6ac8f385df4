"""Cells of brushes and lines."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box, Cell, Slot
from woven_locus.core.value import Value

Floats = npt.NDArray[np.float64]

LARGEST_BRUSH = 64


def step_lengths(points: Floats) -> Floats:
    """(N - 1,) how far apart points that follow one another are. points : (N, 2)."""
    x, y = points[:, 0], points[:, 1]
    found: Floats = np.hypot(x[1:] - x[:-1], y[1:] - y[:-1])
    return found


def distances(points: Floats) -> Floats:
    """(N,) how far along the line through them points lie. points : (N, 2)."""
    found: Floats = np.concatenate(([0.0], np.cumsum(step_lengths(points))))
    return found


class Brush(Value):
    """size x size cells (1 to LARGEST_BRUSH), or those of them within a circle. An even size leans
    low: its middle cell is the first of the upper half."""

    size: int = 3
    round: bool = False

    def low(self, middle: Cell) -> Cell:
        """The lowest cell of the square around the brush."""
        return middle.moved(-(self.size // 2), -(self.size // 2))

    def mask(self) -> npt.NDArray[np.bool_]:
        """(size, size) bool: the cells that it covers."""
        if not self.round:
            return np.ones((self.size, self.size), bool)
        off = np.arange(self.size) - (self.size - 1) / 2
        return np.asarray(np.hypot(off[:, None], off) <= self.size / 2)


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


def swept(slots: list[Slot], brush: Brush) -> tuple[Box, npt.NDArray[np.bool_]]:
    """What a brush covers that comes past each of `slots` (its middles): a box, perhaps beyond the
    grid, and a mask of the box's shape."""
    half, size = brush.size // 2, brush.size
    whole = Box.around(slots)
    whole = Box(whole.r0 - half, whole.c0 - half, whole.r1 - half, whole.c1 - half)
    whole = Box(whole.r0, whole.c0, whole.r1 + size - 1, whole.c1 + size - 1)
    mask, shape = np.zeros(whole.shape, bool), brush.mask()
    for row, col in slots:
        r, c = row - half - whole.r0, col - half - whole.c0
        mask[r : r + size, c : c + size] |= shape
    return whole, mask


def rectangle(a: Slot, b: Slot) -> Box:
    """The block with two slots in opposite corners."""
    return Box(min(a.row, b.row), min(a.col, b.col), max(a.row, b.row) + 1, max(a.col, b.col) + 1)


def squared(a: Cell, b: Cell) -> Cell:
    """`b` moved so that the block between the two is a square, the longer side kept."""
    side = max(abs(b.col - a.col), abs(b.row - a.row))
    return Cell(
        a.col + (side if b.col >= a.col else -side), a.row + (side if b.row >= a.row else -side)
    )


def turning_points(points: Floats) -> Floats:
    """(M, 2) the ends of a line through points, (N, 2), and where it turns: a long way is a few strokes."""
    return points[turns(points)]


def turns(points: Floats) -> npt.NDArray[np.bool_]:
    """(N,) the ends of a line through points, (N, 2), and where it turns."""
    found = np.ones(len(points), bool)
    if len(points) > 2:
        step = np.diff(points, axis=0)
        bends = np.abs(step[:-1, 0] * step[1:, 1] - step[:-1, 1] * step[1:, 0]) > 1e-9
        found[1:-1] = bends | ((step[:-1] * step[1:]).sum(axis=1) < 0)
    return found
