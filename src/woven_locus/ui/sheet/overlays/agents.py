"""Agents: pointed where they go; from afar, dots."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage, QPen

from woven_locus.ui.parts import drawing
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

# More in sight than this are drawn as points.
MOST_SHAPED = 400
_MARGIN = 24


def draw(canvas: Canvas) -> None:
    walkers, camera = canvas.desk.walk.simulation.walkers, canvas.camera
    if not len(walkers):
        return
    spec = camera.spec
    corners = camera.point_at(-20, -20), camera.point_at(camera.width + 20, camera.height + 20)
    low, high = (tuple(map(end, zip(*corners, strict=True))) for end in (min, max))
    x, y = walkers.position[:, 0], walkers.position[:, 1]
    rows = np.flatnonzero((x > low[0]) & (x < high[0]) & (y > low[1]) & (y < high[1]))
    to_px = np.array([camera.ppc_x / spec.cell_w, camera.row_way * camera.ppc_y / spec.cell_h])
    xy = (walkers.position[rows] - (spec.origin_x, spec.origin_y)) * to_px
    xy += (camera.x_of(spec.origin_x), camera.y_of(spec.origin_y))
    if len(rows) > MOST_SHAPED or canvas.cell_px < 5:
        _points(canvas, xy)
        return
    heading = walkers.velocity[rows] * to_px
    for place, going in zip(xy.tolist(), heading.tolist(), strict=True):
        _agent(canvas, *place, *going)


def _points(canvas: Canvas, xy: npt.NDArray[np.float64]) -> None:
    """Dots of 3 x 3 pixels, set in one picture: thousands cost as much as a few."""
    camera = canvas.camera
    # A margin takes the dots that hang over an edge, so that nothing has to be sorted out.
    wide, tall = camera.width + 2 * _MARGIN, camera.height + 2 * _MARGIN
    pixels = np.zeros(wide * tall, np.uint32)
    cols, rows = (np.rint(xy) + _MARGIN).astype(np.intp).T
    at = np.clip(rows, 1, tall - 2) * wide + np.clip(cols, 1, wide - 2)
    dye = colour(canvas.palette.ink).rgba()
    for step in (-wide - 1, -wide, -wide + 1, -1, 0, 1, wide - 1, wide, wide + 1):
        pixels[at + step] = dye
    kind = QImage.Format.Format_ARGB32_Premultiplied
    image = QImage(pixels.data, wide, tall, 4 * wide, kind)  # type: ignore[call-overload]
    canvas.painter.drawImage(-_MARGIN, -_MARGIN, image)


def _agent(canvas: Canvas, x: float, y: float, go_x: float, go_y: float) -> None:
    painter = canvas.painter
    size = max(6.5, min(11.0, canvas.cell_px * 0.24))
    speed = float(np.hypot(go_x, go_y))
    painter.setPen(QPen(colour("#FBF7EF"), 1.6))
    painter.setBrush(colour("#A5383F"))
    at = QPointF(x, y)
    if speed < 1e-6:
        painter.drawEllipse(at, size * 0.8, size * 0.8)
        return
    ahead = QPointF(go_x / speed * size, go_y / speed * size)
    side = QPointF(-ahead.y(), ahead.x())
    drawing.polygon(
        painter,
        [
            at + ahead * 1.3,
            at + side * 0.75 - ahead * 0.7,
            at - ahead * 0.35,
            at - side * 0.75 - ahead * 0.7,
        ],
    )
    painter.setBrush(Qt.BrushStyle.NoBrush)
