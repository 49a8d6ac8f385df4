"""What every overlay gets to draw with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from PyQt6 import sip
from PyQt6.QtCore import QLineF, QRectF
from PyQt6.QtGui import QPainter

from woven_locus.core.geometry import Cell
from woven_locus.core.render import Palette
from woven_locus.ui.desk import Desk
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.camera import Camera


@dataclass
class Canvas:
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

    @property
    def cell_px(self) -> float:
        """Pixels of a cell's shorter side."""
        return min(self.camera.ppc_x, self.camera.ppc_y)


def lines_of(ends: npt.NDArray[np.float64]) -> Any:
    """Segments (N, 4) of (x0, y0, x1, y1) as lines for `drawLines`, made in one go: one by one, the
    tens of thousands of a screen full of contours would take longer than a frame. None for no lines."""
    if not len(ends):
        return None
    made: Any = sip.array(QLineF, len(ends))  # type: ignore[call-arg] # as documented, the stubs differ
    memory: Any = sip.voidptr(made, ends.nbytes)
    held = np.frombuffer(memory, np.float64).reshape(ends.shape)
    held[:] = ends
    return made
