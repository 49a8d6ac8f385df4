"""Two plans: a stitch around each place where they differ."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPen

from woven_locus.ui.language import tr
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

MOST = 600


def draw(canvas: Canvas) -> None:
    """Heather stitches on paper, whatever the stage, while two plans are compared."""
    lines = canvas.desk.compared.lines
    if not lines:
        return
    painter, palette, spec = canvas.painter, canvas.palette, canvas.camera.spec
    painter.setBrush(Qt.BrushStyle.NoBrush)
    places = [
        (line.low, line.high)
        for line in lines
        if line.low is not None and line.high is not None and not line.follows
    ]
    for low, high in places[:MOST]:
        if not spec.contains(low):
            continue
        rect = canvas.rect_of(low, high.col - low.col + 1, high.row - low.row + 1).adjusted(
            -2, -2, 2, 2
        )
        for wide, ink, style in (
            (4.0, palette.paper, Qt.PenStyle.SolidLine),
            (2.0, palette.heather, Qt.PenStyle.DashLine),
        ):
            painter.setPen(QPen(colour(ink), wide, style))
            painter.drawRect(rect)


def which(canvas: Canvas) -> None:
    """The name of the plan that is shown, at the top of the sheet."""
    path = canvas.desk.compared.path
    if path is None:
        return
    painter, palette = canvas.painter, canvas.palette
    words = tr("As in {path}; press anywhere to go back", path=path.name)
    room = painter.fontMetrics().boundingRect(words).adjusted(-10, -5, 10, 5)
    room.moveTop(8)
    room.moveLeft(max(8, (round(canvas.camera.width) - room.width()) // 2))
    painter.setPen(QPen(colour(palette.heather), 2.0))
    painter.setBrush(colour(palette.paper))
    painter.drawRect(room)
    painter.setPen(colour(palette.ink))
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)
