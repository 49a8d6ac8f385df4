"""Junctions in Traffic: which one is looked at, and where signals let one drive in now."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPen

from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import JunctionRule, Rule
from woven_locus.core.lanes import LaneGraph
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour

# Pixels of a cell from which on the lines of its lanes can be told apart.
_FROM = 14
_RIM = "#FBF7EF"


def draw(canvas: Canvas) -> None:
    if canvas.session.choices.stage is not Stage.TRAFFIC:
        return
    graph = canvas.desk.lanes.graph
    if graph is None:
        return
    sight = canvas.camera.visible()
    spec = canvas.camera.spec
    for rule in canvas.session.plan.traffic.junctions:
        if not spec.contains(rule.cell) or not canvas.desk.junctions.is_one(rule.cell):
            continue
        slot = spec.slot(rule.cell)
        if sight.r0 <= slot.row < sight.r1 and sight.c0 <= slot.col < sight.c1:
            _rule(canvas, graph, rule)
    cell = canvas.desk.junctions.cell
    if cell is not None:
        _chosen(canvas, cell)


def _chosen(canvas: Canvas, cell: Cell) -> None:
    rect = canvas.rect_of(cell).adjusted(-2, -2, 2, 2)
    for wide, dye in ((4.0, _RIM), (2.0, canvas.palette.weld)):
        canvas.painter.setPen(QPen(colour(dye), wide))
        canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
        canvas.painter.drawRoundedRect(rect, 4, 4)


def _rule(canvas: Canvas, graph: LaneGraph, rule: JunctionRule) -> None:
    if rule.rule is Rule.SIGNALS and canvas.cell_px >= _FROM:
        _signals(canvas, graph, rule)
    else:
        _mark(canvas, rule)


def _mark(canvas: Canvas, rule: JunctionRule) -> None:
    """A round mark for signals, a pointed one for the larger road first."""
    x, y = canvas.camera.middle_of(rule.cell)
    size = max(3.0, min(7.0, canvas.cell_px * 0.2))
    painter = canvas.painter
    painter.setPen(QPen(colour(_RIM), 1.4))
    painter.setBrush(colour("#2B2A33"))
    if rule.rule is Rule.SIGNALS:
        painter.drawEllipse(QPointF(x, y), size, size)
    else:
        rect = QRectF(-size, -size, 2 * size, 2 * size)
        painter.save()
        painter.translate(x, y)
        painter.rotate(45)
        painter.drawRect(rect)
        painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _signals(canvas: Canvas, graph: LaneGraph, rule: JunctionRule) -> None:
    """Across each lane that leads in a bar: open in its middle where all turns of that side have green, open to one side
    where some have, and crossed where none has."""
    run = canvas.desk.traffic.run
    green = rule.green_at(run.seconds if run is not None else 0.0)
    spec, forms = canvas.camera.spec, graph.forms
    slot = spec.index(rule.cell)
    pattern = int(graph.pattern[slot])
    turns = forms.of(pattern).turns()
    half = canvas.cell_px * 0.16
    for side in range(4):
        mine = [turn for turn in turns if turn[0] == side]
        may = sum(turn in green for turn in mine)
        for local in forms.entry[pattern, side].tolist():
            if local < 0 or not mine:
                continue
            node = np.array([int(graph.first[slot]) + local])
            at = graph.places(node)[0]
            x, y = canvas.camera.x_of(float(at[0])), canvas.camera.y_of(float(at[1]))
            heading = math.radians(float(graph.headings(node)[0])) * canvas.camera.row_way
            _bar(canvas, QPointF(x, y), heading, half, may / len(mine))


def _bar(canvas: Canvas, at: QPointF, heading: float, half: float, share: float) -> None:
    painter = canvas.painter
    across = QPointF(-math.sin(heading), math.cos(heading)) * half
    along = QPointF(math.cos(heading), math.sin(heading)) * (half * 0.45)
    thick = max(2.0, half * 0.4)
    dye = canvas.palette.madder if share == 0 else canvas.palette.lichen
    if share == 0:
        parts = [QLineF(at - across, at + across)]
        parts += [QLineF(at - along - across * 0.45, at + along + across * 0.45)]
        parts += [QLineF(at - along + across * 0.45, at + along - across * 0.45)]
    elif share < 1:
        parts = [QLineF(at - across, at - across * 0.1)]
    else:
        parts = [QLineF(at - across, at - across * 0.6), QLineF(at + across * 0.6, at + across)]
    for wide, name in ((thick + 2.5, _RIM), (thick, dye)):
        painter.setPen(QPen(colour(name), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        for line in parts:
            painter.drawLine(line)
