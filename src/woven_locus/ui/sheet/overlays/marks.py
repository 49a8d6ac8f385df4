"""The marks of a verdict. They differ in shape and lightness, never in hue alone:

free: indigo outline with a dot.  blocked: madder hatch with a cross-stitch.  doubtful: weld dashes.
"""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen

from woven_locus.core.placing import CellVerdict
from woven_locus.core.render import Palette
from woven_locus.ui.parts import drawing
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

MOST_MARKS = 400


def draw_cells(canvas: Canvas, cells: tuple[CellVerdict, ...]) -> None:
    """Mark each cell of a verdict. Of very many only the outlines are drawn, in one go each."""
    if len(cells) > MOST_MARKS:
        painter, palette = canvas.painter, canvas.palette
        free_cells = [verdict.cell for verdict in cells if not verdict.reasons]
        refused = [verdict.cell for verdict in cells if verdict.reasons]
        for which, dye, style in (
            (free_cells, palette.indigo, Qt.BrushStyle.Dense7Pattern),
            (refused, palette.madder, Qt.BrushStyle.DiagCrossPattern),
        ):
            painter.setPen(QPen(colour(dye), 1))
            painter.setBrush(QBrush(colour(dye), style))
            drawing.rects(painter, canvas.many_in_sight(which))
        return
    for verdict in cells:
        rect = canvas.rect_of(verdict.cell)
        if verdict.ok and verdict.doubtful:
            doubtful(canvas.painter, canvas.palette, rect.adjusted(2, 2, -2, -2))
        elif verdict.ok:
            free(canvas.painter, canvas.palette, rect)
        else:
            blocked(canvas.painter, canvas.palette, rect)


def free(painter: QPainter, palette: Palette, rect: QRectF) -> None:
    size = min(rect.width(), rect.height())
    painter.setBrush(colour(palette.paper, 110))
    painter.setPen(QPen(colour(palette.indigo), 2 if size > 10 else 1))
    painter.drawRect(rect.adjusted(1, 1, -1, -1))
    painter.setBrush(colour(palette.indigo))
    painter.setPen(Qt.PenStyle.NoPen)
    radius = max(1.5, size * 0.11)
    painter.drawEllipse(rect.center(), radius, radius)


def blocked(painter: QPainter, palette: Palette, rect: QRectF) -> None:
    size = min(rect.width(), rect.height())
    madder = colour("#A5383F" if not palette.dark else "#F08D92")
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("#FAF0EA" if not palette.dark else "#2A1518", 165))
    painter.drawRect(rect)
    painter.setBrush(QBrush(colour(madder.name(), 170), Qt.BrushStyle.BDiagPattern))
    painter.drawRect(rect)
    painter.setPen(QPen(madder, 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
    cross_stitch(painter, rect.center(), size * 0.26, madder.name(), max(2.0, size * 0.1))


def cross_stitch(painter: QPainter, at: QPointF, arm: float, dye: str, thick: float) -> None:
    """An X of two threads."""
    painter.setPen(QPen(colour(dye), thick, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(QLineF(at.x() - arm, at.y() - arm, at.x() + arm, at.y() + arm))
    painter.drawLine(QLineF(at.x() - arm, at.y() + arm, at.x() + arm, at.y() - arm))


def doubtful(painter: QPainter, palette: Palette, rect: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(palette.paper), 4))
    painter.drawRect(rect)
    pen = QPen(colour(palette.weld), 2.5)
    pen.setDashPattern([3, 2])
    painter.setPen(pen)
    painter.drawRect(rect)
