"""Routes: a stitched thread along the road, and the place where a route is broken."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPen, QPolygonF

from woven_locus.core.routing import LaneWay, NoRoute, Route
from woven_locus.document import PinnedRoute
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import marks
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour


def draw(canvas: Canvas) -> None:
    if canvas.session.choices.stage not in (Stage.WAYS, Stage.TRAFFIC):
        return
    keeper = canvas.desk.routes
    if canvas.session.choices.stage is Stage.WAYS and canvas.desk.search.explained is not None:
        return  # its own path is drawn with it
    for pin in keeper.pins:
        if pin is not keeper.current:
            _route(canvas, pin, strong=False)
    if keeper.current is not None and not _by_lane(canvas):
        _route(canvas, keeper.current, strong=True)


def _by_lane(canvas: Canvas) -> bool:
    """Whether the current route is drawn along its lanes, see `lanes`."""
    traffic = canvas.session.choices.stage is Stage.TRAFFIC
    return traffic and isinstance(canvas.desk.lanes.way, LaneWay)


def _route(canvas: Canvas, pin: PinnedRoute, strong: bool) -> None:
    if isinstance(pin.answer, Route):
        _thread(canvas, pin.answer, strong)
    elif isinstance(pin.answer, NoRoute) and strong and pin.answer.gap:
        _gap(canvas, pin.answer)


def _thread(canvas: Canvas, route: Route, strong: bool) -> None:
    # Where it turns, and its ends: a line along thousands of cells is drawn as a few strokes.
    steps = np.diff(route.slots, axis=0)
    turns = np.flatnonzero((steps[1:] != steps[:-1]).any(axis=1)) + 1
    points = route.points[np.concatenate(([0], turns, [len(route.points) - 1]))]
    thread(canvas, points, max(3.0, min(9.0, canvas.cell_px * 0.22)), strong)


def thread(canvas: Canvas, points: npt.NDArray[np.float64], thick: float, strong: bool) -> None:
    """A line through world points, (N, 2), from a round start to a square goal."""
    painter, camera = canvas.painter, canvas.camera
    line = QPolygonF([QPointF(camera.x_of(x), camera.y_of(y)) for x, y in points.tolist()])
    cap, join = Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if strong:
        painter.setPen(
            QPen(colour(canvas.palette.paper), thick + 3, Qt.PenStyle.SolidLine, cap, join)
        )
        painter.drawPolyline(line)
    dye = canvas.palette.indigo if strong else canvas.palette.woad
    pen = QPen(colour(dye), thick if strong else thick * 0.75, Qt.PenStyle.SolidLine, cap, join)
    painter.setPen(pen)
    painter.drawPolyline(line)
    if strong and thick >= 4:
        stitches = QPen(colour(canvas.palette.paper), max(1.2, thick * 0.25))
        stitches.setDashPattern([4, 4])
        painter.setPen(stitches)
        painter.drawPolyline(line)
    radius = thick * 1.05
    painter.setPen(QPen(colour(canvas.palette.paper), 2))
    painter.setBrush(colour(dye))
    painter.drawEllipse(line.first(), radius, radius)
    goal = line.last()
    painter.drawRect(
        int(goal.x() - radius), int(goal.y() - radius), int(2 * radius), int(2 * radius)
    )


def _gap(canvas: Canvas, answer: NoRoute) -> None:
    assert answer.gap is not None
    painter = canvas.painter
    a, b = (QPointF(*canvas.camera.middle_of(cell)) for cell in answer.gap)
    # The same in both themes: it lies on road, which is light in both.
    painter.setPen(QPen(colour("#FBF7EF"), 7))
    painter.drawLine(a, b)
    pen = QPen(colour("#A5383F"), 3)
    pen.setDashPattern([2, 2])
    painter.setPen(pen)
    painter.drawLine(a, b)
    size = max(5.0, canvas.cell_px * 0.22)
    marks.cross_stitch(painter, (a + b) / 2, size, "#FBF7EF", size * 0.9)
    marks.cross_stitch(painter, (a + b) / 2, size, "#A5383F", size * 0.5)
