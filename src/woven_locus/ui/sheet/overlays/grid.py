"""Grid lines, and the edge of the grid."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QPen

from woven_locus.ui.parts import drawing
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

# Cells smaller than this would be nothing but lines.
LINES_FROM = 7


def draw(canvas: Canvas, lines: bool) -> None:
    """lines : whether cell borders are wanted; the edge of the grid always shows."""
    camera, painter = canvas.camera, canvas.painter
    box = camera.sight()
    if box.empty:
        return
    x0, y0 = box.c0 * camera.ppc_x - camera.left, box.r0 * camera.ppc_y - camera.top
    x1, y1 = box.c1 * camera.ppc_x - camera.left, box.r1 * camera.ppc_y - camera.top
    if lines and canvas.cell_px >= LINES_FROM:
        every = [
            QLineF(x, y0, x, y1)
            for x in (c * camera.ppc_x - camera.left for c in range(box.c0, box.c1 + 1))
        ]
        every += [
            QLineF(x0, y, x1, y)
            for y in (r * camera.ppc_y - camera.top for r in range(box.r0, box.r1 + 1))
        ]
        ink = "#FFFFFF" if canvas.palette.dark else "#2B2A33"
        painter.setPen(QPen(colour(ink, 34 if canvas.palette.dark else 44), 0))
        drawing.lines(painter, every)
    painter.setPen(QPen(colour(canvas.palette.ink), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    spec = camera.spec
    painter.drawRect(
        QRectF(
            -camera.left - 0.5,
            -camera.top - 0.5,
            spec.cols * camera.ppc_x,
            spec.rows * camera.ppc_y,
        )
    )
