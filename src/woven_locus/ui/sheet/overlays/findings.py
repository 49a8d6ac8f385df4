"""Proof: a mark at each finding that is listed, by how grave it is."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPen, QPolygonF

from woven_locus.core.proof.finding import Finding, Severity
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

MOST_MARKS = 600


def draw(canvas: Canvas) -> None:
    """An error is a cross in a ring, a warning a triangle, a note a ring; each with a rim of paper."""
    if canvas.session.choices.stage is not Stage.PROOF:
        return
    box, spec = canvas.camera.visible(), canvas.camera.spec
    seen = [
        item
        for item in canvas.desk.proof.listed()
        if item.cell is not None and not item.reason and box.has(spec.slot(item.cell))
    ]
    # The gravest are drawn last, and lie on top.
    for item in reversed(seen[:MOST_MARKS]):
        _mark(canvas, item)


def _mark(canvas: Canvas, item: Finding) -> None:
    assert item.cell is not None
    painter, palette = canvas.painter, canvas.palette
    middle = QPointF(*canvas.camera.middle_of(item.cell))
    size = max(4.0, min(9.0, canvas.cell_px * 0.34))
    dye = {
        Severity.ERROR: palette.madder,
        Severity.WARNING: palette.weld,
        Severity.NOTE: palette.woad,
    }[item.severity]
    painter.setBrush(colour(palette.paper, 220))
    for wide, ink in ((5.0, palette.paper), (2.2, dye)):
        painter.setPen(QPen(colour(ink), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        if item.severity is Severity.WARNING:
            top, low = middle - QPointF(0, size), middle.y() + size * 0.8
            left, right = middle.x() - size, middle.x() + size
            painter.drawPolygon(QPolygonF([top, QPointF(right, low), QPointF(left, low)]))
            continue
        painter.drawEllipse(middle, size, size)
        if item.severity is Severity.ERROR:
            arm = size * 0.5
            painter.drawLine(middle - QPointF(arm, arm), middle + QPointF(arm, arm))
            painter.drawLine(middle - QPointF(arm, -arm), middle + QPointF(arm, -arm))
    painter.setBrush(Qt.BrushStyle.NoBrush)
