"""What every overlay gets to draw with."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
from PyQt6 import sip
from PyQt6.QtCore import QLineF, QRectF
from PyQt6.QtGui import QPainter

from woven_locus.core.geometry import Cell, places_of
from woven_locus.core.render import Palette
from woven_locus.core.value import Record
from woven_locus.ui.desk import Desk
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.camera import Camera


class Canvas(Record):
    """One frame. The painter's origin is the map area's top left."""

    painter: QPainter
    camera: Camera
    desk: Desk
    palette: Palette

    @property
    def session(self) -> Session:
        return self.desk.session

    def rect_of(self, cell: Cell, cols: int = 1, rows: int = 1) -> QRectF:
        """A block of cells whose lowest is `cell`."""
        x, y = self.camera.corner_of(cell, rows)
        return QRectF(x, y, cols * self.camera.ppc_x, rows * self.camera.ppc_y)

    def rects_in_sight(self, cells: Sequence[Cell]) -> list[QRectF]:
        """Where those of some cells are that reach into the picture."""
        return [QRectF(*rect) for rect in self._in_sight(cells).tolist()]

    def many_in_sight(self, cells: Sequence[Cell]) -> Any:
        """The same for `drawing.rects`: thousands cost as much as a few."""
        return _made_of(QRectF, self._in_sight(cells)) or []

    def _in_sight(self, cells: Sequence[Cell]) -> npt.NDArray[np.float64]:
        """(N, 4) left, top, width and height."""
        camera, spec = self.camera, self.camera.spec
        col, row = places_of(cells).T - np.array(spec.first)[:, None]
        if spec.y_up:
            row = spec.rows - row - 1
        wide, tall = camera.ppc_x, camera.ppc_y
        x, y = col * wide - camera.left, row * tall - camera.top
        seen = (x > -wide) & (y > -tall) & (x < camera.width) & (y < camera.height)
        found = np.empty((int(np.count_nonzero(seen)), 4))
        found[:, 0], found[:, 1], found[:, 2:] = x[seen], y[seen], (wide, tall)
        return found

    def rect_around(self, cells: Sequence[Cell]) -> QRectF:
        """The smallest rectangle around some cells, in sight or not."""
        cols, rows = zip(*cells, strict=True)
        low, high = Cell(min(cols), min(rows)), Cell(max(cols), max(rows))
        return self.rect_of(low).united(self.rect_of(high))

    @property
    def cell_px(self) -> float:
        """Pixels of a cell's shorter side."""
        return min(self.camera.ppc_x, self.camera.ppc_y)


def lines_of(ends: npt.NDArray[np.float64]) -> Any:
    """Segments (N, 4) of (x0, y0, x1, y1) as lines for `drawLines`, made in one go: one by one, the
    tens of thousands of a screen full of contours would take longer than a frame. None for no lines."""
    return _made_of(QLineF, ends)


def _made_of(kind: type[QLineF] | type[QRectF], values: npt.NDArray[np.float64]) -> Any:
    """Lines or rectangles of which each is four numbers, (N, 4). None for none."""
    if not len(values):
        return None
    made: Any = sip.array(kind, len(values))  # type: ignore[call-arg] # as documented, the stubs differ
    memory: Any = sip.voidptr(made, values.nbytes)
    held = np.frombuffer(memory, np.float64).reshape(values.shape)
    held[:] = values
    return made
