"""Lanes: those of the cell under the pointer with their points and headings, and the way of the current route along
them."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QPen

from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lines import turning_points
from woven_locus.core.routing import LaneWay
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import routes
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

# Pixels of a cell from which on its points can be told apart.
_FROM = 40


def draw(canvas: Canvas) -> None:
    if canvas.session.choices.stage is not Stage.TRAFFIC:
        return
    way = canvas.desk.lanes.way
    if isinstance(way, LaneWay):
        thick = max(2.0, min(6.0, canvas.cell_px * 0.1))
        routes.thread(canvas, turning_points(way.points), thick, strong=True)
    hover = canvas.session.pointer.hover
    if hover is None or canvas.cell_px < _FROM:
        return
    node = canvas.desk.lanes.nearest(hover.cell, hover.point)
    graph = canvas.desk.lanes.graph
    if node is not None and graph is not None:
        _cell(canvas, graph, node)


def _cell(canvas: Canvas, graph: LaneGraph, chosen: int) -> None:
    """All points of a cell and where each leads; the chosen one stands out."""
    nodes = graph.nodes_at(int(graph.slot[chosen]))
    ahead = graph.out[nodes]
    starts = np.repeat(nodes, (ahead > 0).sum(axis=1))
    ends = ahead[ahead > 0].astype(np.int64)
    pen = QPen(colour(canvas.palette.ink), 1.2)
    for a, b in zip(_places(canvas, graph, starts), _places(canvas, graph, ends), strict=True):
        canvas.painter.setPen(pen)
        canvas.painter.drawLine(QLineF(a, b))
    size = max(2.0, min(6.5, canvas.cell_px * 0.034))
    way = canvas.camera.row_way
    headings = graph.headings(nodes).tolist()
    for node, at, heading in zip(
        nodes.tolist(), _places(canvas, graph, nodes), headings, strict=True
    ):
        strong = node == chosen
        # Small ones would be all rim.
        rim = QPen(colour("#FBF7EF"), 1.2) if size > 4 else QPen(Qt.PenStyle.NoPen)
        canvas.painter.setPen(rim)
        canvas.painter.setBrush(colour("#A5383F" if strong else "#2F4B7C"))
        _arrow(canvas, at, math.radians(heading) * way, size * (1.5 if strong else 1.0))
    canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
    canvas.painter.setPen(QPen(colour("#A5383F"), 2))
    follows = np.array(graph.follows(chosen), np.int64)
    for at in _places(canvas, graph, follows):
        canvas.painter.drawEllipse(at, size * 1.6, size * 1.6)


def _places(canvas: Canvas, graph: LaneGraph, nodes: npt.NDArray[np.int64]) -> list[QPointF]:
    camera = canvas.camera
    return [QPointF(camera.x_of(x), camera.y_of(y)) for x, y in graph.places(nodes).tolist()]


def _arrow(canvas: Canvas, at: QPointF, angle: float, size: float) -> None:
    ahead = QPointF(math.cos(angle) * size, math.sin(angle) * size)
    side = QPointF(-ahead.y(), ahead.x())
    points = [at + ahead * 1.2, at + side * 0.8 - ahead * 0.8, at - side * 0.8 - ahead * 0.8]
    drawing.polygon(canvas.painter, points)
