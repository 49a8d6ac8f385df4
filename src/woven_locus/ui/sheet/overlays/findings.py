"""Proof: a mark at each finding that is listed, by how grave it is."""

from __future__ import annotations

import math
from functools import lru_cache

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen, QPolygonF

from woven_locus.core.proof.finding import Finding, Severity
from woven_locus.core.render import Palette
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

MOST_MARKS = 600
# Paper around a mark, pixels.
_RIM = 2.5


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
    sharp, palette = canvas.camera.sharp, canvas.palette
    size = max(4.0, min(9.0, canvas.cell_px * 0.34))
    x, y = (each * sharp for each in canvas.camera.middle_of(item.cell))
    # Between pixels of the screen where the middle of a cell is; to a quarter, so that there are few pictures.
    left, top = math.floor(x), math.floor(y)
    within = (round(4 * (x - left)) / 4, round(4 * (y - top)) / 4)
    room = math.ceil((size + _RIM) * sharp)
    picture = _picture(item.severity, size, palette, within, room, sharp)
    canvas.painter.drawImage(QPointF((left - room) / sharp, (top - room) / sharp), picture)


@lru_cache(maxsize=64)
def _picture(
    severity: Severity,
    size: float,
    palette: Palette,
    within: tuple[float, float],
    room: int,
    sharp: float,
) -> QImage:
    """A mark, drawn once for hundreds of them.

    size : its radius.  within : of its middle, in pixels of the screen from the whole one that is `room` of them from the
    picture's left and top.  sharp : pixels of the screen for one of the sheet's.
    """
    picture = QImage(2 * room + 2, 2 * room + 2, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(Qt.GlobalColor.transparent)
    picture.setDevicePixelRatio(sharp)
    with painting(picture, "finding") as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        _draw(painter, palette, severity, QPointF(*((room + off) / sharp for off in within)), size)
    return picture


def _draw(
    painter: QPainter, palette: Palette, severity: Severity, middle: QPointF, size: float
) -> None:
    dye = {
        Severity.ERROR: palette.madder,
        Severity.WARNING: palette.weld,
        Severity.NOTE: palette.woad,
    }[severity]
    painter.setBrush(colour(palette.paper, 220))
    for wide, ink in ((2 * _RIM, palette.paper), (2.2, dye)):
        painter.setPen(QPen(colour(ink), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        if severity is Severity.WARNING:
            top, low = middle - QPointF(0, size), middle.y() + size * 0.8
            left, right = middle.x() - size, middle.x() + size
            painter.drawPolygon(QPolygonF([top, QPointF(right, low), QPointF(left, low)]))
            continue
        painter.drawEllipse(middle, size, size)
        if severity is Severity.ERROR:
            arm = size * 0.5
            painter.drawLine(middle - QPointF(arm, arm), middle + QPointF(arm, arm))
            painter.drawLine(middle - QPointF(arm, -arm), middle + QPointF(arm, -arm))
