"""Plumb lines: from the raw pointer and the snapped point to the scales."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour


def draw(canvas: Canvas) -> None:
    session, painter, camera = canvas.session, canvas.painter, canvas.camera
    hover = session.pointer.hover
    if hover is None:
        return
    raw = QPointF(camera.x_of(hover.point.x), camera.y_of(hover.point.y))
    full = session.choices.stage is Stage.SURVEY
    # Upright lines need no smoothing, and a smoothed dotted line costs more than all the rest.
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    faint = QPen(colour(canvas.palette.ink, 120 if full else 70), 1, Qt.PenStyle.DotLine)
    painter.setPen(faint)
    drawing.lines(
        painter, [QLineF(raw.x(), 0, raw.x(), raw.y()), QLineF(0, raw.y(), raw.x(), raw.y())]
    )
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    if not full:
        return
    at = hover.snapped.at
    snapped = QPointF(camera.x_of(at.x), camera.y_of(at.y))
    dye = canvas.palette.madder
    painter.setPen(QPen(colour(dye), 1))
    drawing.lines(
        painter,
        [
            QLineF(snapped.x(), 0, snapped.x(), snapped.y()),
            QLineF(0, snapped.y(), snapped.x(), snapped.y()),
        ],
    )
    painter.setPen(QPen(colour(canvas.palette.paper), 4))
    painter.drawLine(raw, snapped)
    painter.setPen(QPen(colour(dye), 2))
    painter.drawLine(raw, snapped)
    painter.setBrush(colour(dye))
    painter.setPen(QPen(colour(canvas.palette.paper), 1.5))
    painter.drawEllipse(snapped, 4.5, 4.5)
