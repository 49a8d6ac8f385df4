"""A running game's own agents: rings with a beak, unlike anything that runs here."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPen

from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.overlays.vehicles import MOST_SHAPED, dots, pixels
from woven_locus.ui.theme import colour

_MARGIN = 20
_RADIUS, _BEAK = 5.0, 10.0
# Pixels from the pointer within which an agent says who it is.
_REACH = 14.0


def draw(canvas: Canvas) -> None:
    """All that are in sight, and the name of the one under the pointer."""
    agents = canvas.desk.reported.agents
    if agents is None:
        return
    camera, painter, palette = canvas.camera, canvas.painter, canvas.palette
    at = pixels(canvas, agents.places)
    seen = ((at > -_MARGIN) & (at < (camera.width + _MARGIN, camera.height + _MARGIN))).all(axis=1)
    rows = np.flatnonzero(seen)
    if len(rows) > MOST_SHAPED:
        dyes = np.full(len(rows), colour(palette.heather).rgba(), np.uint32)
        dots(canvas, at[rows], dyes)
    else:
        places, headings = at[rows].tolist(), agents.headings[rows].tolist()
        for wide, dye in ((4.0, palette.paper), (2.0, palette.heather)):
            painter.setPen(QPen(colour(dye), wide))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for (x, y), heading in zip(places, headings, strict=True):
                painter.drawEllipse(QPointF(x, y), _RADIUS, _RADIUS)
                if not math.isnan(heading):
                    painter.drawLine(_beak(canvas, x, y, math.radians(heading)))
    _name(canvas)


def _beak(canvas: Canvas, x: float, y: float, heading: float) -> QLineF:
    across, down = math.cos(heading), math.sin(heading) * canvas.camera.row_way
    return QLineF(x + _RADIUS * across, y + _RADIUS * down, x + _BEAK * across, y + _BEAK * down)


def _name(canvas: Canvas) -> None:
    hover, reported = canvas.session.pointer.hover, canvas.desk.reported
    if hover is None or reported.agents is None:
        return
    spec, camera = canvas.camera.spec, canvas.camera
    row = reported.nearest(hover.point, _REACH * spec.cell_w / camera.ppc_x)
    if row is None:
        return
    agents, painter, palette = reported.agents, canvas.painter, canvas.palette
    ((x, y),) = pixels(canvas, agents.places[row : row + 1]).tolist()
    words = " ".join(filter(None, (agents.names[row], agents.kinds[row])))
    wide = painter.fontMetrics().horizontalAdvance(words) + 12
    tall = painter.fontMetrics().height() + 4
    left = min(x + 14, camera.width - wide - 4)
    room = QRectF(left, max(4.0, y - tall - 8), wide, tall)
    painter.setPen(QPen(colour(palette.heather), 1.5))
    painter.setBrush(colour(palette.paper))
    painter.drawRect(room)
    painter.setPen(colour(palette.ink))
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)
