"""Draws docs/road-shapes.png: the sixteen shapes of a road cell with their numbers, by the program's own raster."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QWidget

from woven_locus.core.geometry import SIDES, Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.render import LIGHT, Raster, Scale
from woven_locus.core.render.scale import STEPS
from woven_locus.core.ways.shapes import SHAPES
from woven_locus.document.starter import starter_terrain
from woven_locus.ui.theme import colour, number_font, text_font

_PX, _ACROSS, _WIDE, _TALL = 32, 8, 132, 158


class ShapesChart(QWidget):
    """Each shape in the middle of three by three cells, below it its number, name and turn."""

    def __init__(self) -> None:
        super().__init__()
        self.resize(_ACROSS * _WIDE, 2 * _TALL)

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(LIGHT.paper))
        for mask, shape in enumerate(SHAPES):
            left, top = mask % _ACROSS * _WIDE, mask // _ACROSS * _TALL
            picture, _held = _drawn(mask)
            painter.drawImage(left + (_WIDE - 3 * _PX) // 2, top + 8, picture)
            painter.setPen(colour(LIGHT.ink))
            painter.setFont(number_font(11))
            below = QRectF(left, top + 3 * _PX + 10, _WIDE, 20)
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, str(mask))
            painter.setFont(text_font(9))
            words = f"{shape.name}, turn {shape.turn}"
            painter.drawText(below.translated(0, 19), Qt.AlignmentFlag.AlignCenter, words)


def _drawn(mask: int) -> tuple[QImage, np.ndarray]:
    road = np.zeros((3, 3), np.uint8)
    road[1, 1] = 1
    for side, (row, col) in enumerate(SIDES):
        if mask >> side & 1:
            road[1 + row, 1 + col] = 1
    plan = Plan("Shapes", GridSpec(3, 3), starter_terrain(), road=road)
    scale = Scale.at(STEPS.index(_PX), 1, 1)
    pixels = np.ascontiguousarray(Raster(plan, LIGHT).shade(Box(0, 0, 3, 3), scale))
    tall, wide = pixels.shape
    image = QImage(pixels.data, wide, tall, 4 * wide, QImage.Format.Format_RGB32)  # type: ignore[call-overload]
    # The image borrows the array.
    return image, pixels
