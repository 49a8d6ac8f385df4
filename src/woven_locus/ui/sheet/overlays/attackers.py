"""Attackers and shots: a shape by what they move over, a bar for the health that is left."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPen, QPolygonF

from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.run import WaveRun
from woven_locus.ui.parts import drawing
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.overlays.vehicles import pixels
from woven_locus.ui.theme import colour

Floats = npt.NDArray[np.float64]
# More in sight than this are drawn as points.
MOST_SHAPED = 400
_MARGIN = 20


def draw(canvas: Canvas) -> None:
    """All who are on the map, and the shots of the last frame."""
    keeper = canvas.desk.waves
    run = keeper.run
    if run is None:
        return
    _shots(canvas)
    rows = run.attackers.there()
    at = pixels(canvas, run.points(rows))
    camera = canvas.camera
    seen = ((at > -_MARGIN) & (at < (camera.width + _MARGIN, camera.height + _MARGIN))).all(axis=1)
    rows, at = rows[seen], at[seen]
    if len(rows) > MOST_SHAPED:
        _dots(canvas, at)
        return
    chosen = keeper.chosen - 1
    if 0 <= chosen < len(run.attackers.here) and run.attackers.here[chosen]:
        _way(canvas, run, chosen)
    size = run.attackers.sizes(rows) / camera.spec.cell_w * camera.ppc_x
    for row, (x, y), wide in zip(rows.tolist(), at.tolist(), size.tolist(), strict=True):
        _shape(canvas, run, row, QPointF(x, y), max(3.5, wide / 2), row == chosen)
    canvas.painter.setBrush(Qt.BrushStyle.NoBrush)


def _shots(canvas: Canvas) -> None:
    """From towers to whom they hit."""
    painter, palette = canvas.painter, canvas.palette
    for _tower, start, end in canvas.desk.waves.shots:
        (x0, y0), (x1, y1) = pixels(canvas, np.array([start, end])).tolist()
        for width, dye in ((3.0, palette.paper), (1.4, palette.ink)):
            pen = QPen(colour(dye), width)
            if width < 2:
                pen.setDashPattern([4, 2])
            painter.setPen(pen)
            painter.drawLine(QLineF(x0, y0, x1, y1))


def _way(canvas: Canvas, run: WaveRun, row: int) -> None:
    """What the one that was clicked has before it."""
    painter = canvas.painter
    painter.setPen(QPen(colour(canvas.palette.weld), max(2.6, min(6.0, canvas.cell_px * 0.11 + 1))))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    line = pixels(canvas, run.way_ahead(row)).tolist()
    painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in line]))


def _shape(canvas: Canvas, run: WaveRun, row: int, at: QPointF, arm: float, chosen: bool) -> None:
    """A triangle flies, a diamond comes over roads, a circle over the ground."""
    painter, palette = canvas.painter, canvas.palette
    kind = run.kinds[run.attackers.kind[row]]
    edge = colour(palette.weld if chosen else palette.paper)
    painter.setPen(QPen(edge, 2.4 if chosen else 1.4))
    painter.setBrush(colour(kind.dye))
    corners = {
        Moves.AIR: ((0.0, -1.0), (1.0, 0.8), (-1.0, 0.8)),
        Moves.ROADS: ((0.0, -1.0), (1.0, 0.0), (0.0, 1.0), (-1.0, 0.0)),
    }.get(kind.moves)
    if corners is None:
        painter.drawEllipse(at, arm, arm)
    else:
        drawing.polygon(painter, [at + QPointF(x, y) * arm for x, y in corners])
    share = float(run.attackers.health[row]) / run.attackers.full_health(row)
    if share < 0.999:
        _health(canvas, at, arm, share)


def _health(canvas: Canvas, at: QPointF, arm: float, share: float) -> None:
    """What is left, as a bar over it."""
    painter, palette = canvas.painter, canvas.palette
    wide = max(9.0, arm * 2)
    box = QRectF(at.x() - wide / 2, at.y() - arm - 5, wide, 3)
    painter.fillRect(box.adjusted(-1, -1, 1, 1), colour(palette.paper))
    painter.fillRect(box, colour(palette.muted))
    painter.fillRect(
        QRectF(box.left(), box.top(), math.ceil(wide * share), 3), colour(palette.madder)
    )


def _dots(canvas: Canvas, at: Floats) -> None:
    """Very many, as dots."""
    painter = canvas.painter
    painter.setPen(QPen(colour(canvas.palette.madder), 3.0))
    painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in at.tolist()]))
