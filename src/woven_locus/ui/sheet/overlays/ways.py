"""The marks of Ways: the line in hand with its ends and via points, a run that is pushed, signs to come,
near misses, weak points, and road that is proposed."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPen, QPolygonF

from woven_locus.core.geometry import Cell
from woven_locus.core.proof.misses import Miss
from woven_locus.core.strokes.ends import Caught
from woven_locus.core.strokes.ways import LineStroke, PushStroke, SignStroke
from woven_locus.core.ways.roads import Sign
from woven_locus.ui.parts import drawing
from woven_locus.ui.parts.texts import Face
from woven_locus.ui.session.stages import Stage, WaysOverlay
from woven_locus.ui.sheet.overlays import marks
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour, number_font

MOST_MARKS = 400


def draw(canvas: Canvas) -> None:
    session = canvas.session
    if session.choices.stage is not Stage.WAYS:
        return
    if canvas.desk.search.explained is None:
        _misses(canvas)
        if session.choices.ways.shown is WaysOverlay.WEAK and canvas.desk.study.weak is not None:
            _weak(canvas)
    for cell in canvas.desk.routes.proposed:
        marks.doubtful(canvas.painter, canvas.palette, canvas.rect_of(cell).adjusted(1, 1, -1, -1))
    stroke = canvas.desk.tools.current.stroke
    if isinstance(stroke, SignStroke):
        _signs(canvas, stroke)
    elif isinstance(stroke, LineStroke):
        _line(canvas, stroke)
    elif isinstance(stroke, PushStroke):
        _push(canvas, stroke)


def _line(canvas: Canvas, stroke: LineStroke) -> None:
    painter = canvas.painter
    if len(stroke.cells) > 1:
        points = QPolygonF([QPointF(*canvas.camera.middle_of(cell)) for cell in stroke.cells])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for wide, dye in ((5.0, canvas.palette.paper), (2.0, canvas.palette.ink)):
            painter.setPen(QPen(colour(dye), wide))
            painter.drawPolyline(points)
    for end in (stroke.first, stroke.last):
        if end is not None:
            _end(canvas, end)
    for via in stroke.vias:
        middle = QPointF(*canvas.camera.middle_of(via))
        size = max(5.0, canvas.cell_px * 0.22)
        painter.setPen(QPen(colour(canvas.palette.ink), 1.5))
        painter.setBrush(colour(canvas.palette.paper))
        painter.drawRect(QRectF(middle.x() - size, middle.y() - size, 2 * size, 2 * size))


def _end(canvas: Canvas, end: Caught) -> None:
    """A ring at an end; a double one, with the way from the pointer, where it was caught."""
    painter = canvas.painter
    middle = QPointF(*canvas.camera.middle_of(end.cell))
    radius = max(5.0, canvas.cell_px * 0.42)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    rings = (radius, radius + 4) if end.to else (radius,)
    for each in rings:
        for wide, dye in ((4.0, canvas.palette.paper), (2.0, canvas.palette.indigo)):
            painter.setPen(QPen(colour(dye), wide))
            painter.drawEllipse(middle, each, each)


def _push(canvas: Canvas, stroke: PushStroke) -> None:
    push = stroke.push
    if push is None:
        return
    painter = canvas.painter
    run = push.run
    side = (3 - run.along) if push.by > 0 else (5 - run.along) & 3
    steps = abs(push.by)
    for cell in run.cells:
        # What stays behind is struck out; what goes is marked where it will lie.
        rect = canvas.rect_of(cell).adjusted(3, 3, -3, -3)
        if steps and push.values.get(cell) == 0:
            painter.setPen(QPen(colour(canvas.palette.madder), 1.5, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect)
    ends = [cell.beyond(side, steps) for cell in (run.cells[0], run.cells[-1])]
    a, b = (QPointF(*canvas.camera.middle_of(cell)) for cell in ends)
    dye = canvas.palette.indigo if push.verdict else canvas.palette.madder
    for wide, ink in ((7.0, canvas.palette.paper), (3.5, dye)):
        painter.setPen(QPen(colour(ink), wide))
        painter.drawLine(a, b)


def _signs(canvas: Canvas, stroke: SignStroke) -> None:
    painter = canvas.painter
    signs = dict(stroke.signs())
    for cell in stroke.cells:
        rect = canvas.rect_of(cell).adjusted(2, 2, -2, -2)
        if cell not in signs:
            painter.setPen(QPen(colour(canvas.palette.muted), 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect)
            continue
        sign = signs[cell]
        if sign is Sign.CLOSED:
            thick = max(2.0, rect.width() * 0.1)
            marks.cross_stitch(
                painter, rect.center(), rect.width() * 0.35, canvas.palette.madder, thick
            )
        elif sign in (Sign.NONE, Sign.CROSSING):
            marks.free(painter, canvas.palette, rect)
        else:
            _arrow(canvas, cell, sign - 1)


def _arrow(canvas: Canvas, cell: Cell, side: int) -> None:
    middle = QPointF(*canvas.camera.middle_of(cell))
    to = QPointF(*canvas.camera.middle_of(cell.beyond(side)))
    along = (to - middle) * 0.36
    across = QPointF(-along.y(), along.x())
    lines = [
        QLineF(middle - along, middle + along),
        QLineF(middle + along, middle + across * 0.8),
        QLineF(middle + along, middle - across * 0.8),
    ]
    for wide, dye in ((5.0, canvas.palette.paper), (2.4, canvas.palette.indigo)):
        canvas.painter.setPen(QPen(colour(dye), wide))
        drawing.lines(canvas.painter, lines)


def _misses(canvas: Canvas) -> None:
    """A stitch that does not hold: two dots with a gap, in weld; the cell that would mend it in dashes."""
    box, spec = canvas.camera.visible(), canvas.camera.spec
    if canvas.cell_px < 4:
        return
    seen = [miss for miss in canvas.desk.study.misses() if box.has(spec.slot(miss.at))]
    for miss in seen[:MOST_MARKS]:
        for cell in miss.mend:  # none, where it cannot be mended
            marks.doubtful(
                canvas.painter, canvas.palette, canvas.rect_of(cell).adjusted(2, 2, -2, -2)
            )
        a, b = (QPointF(*canvas.camera.middle_of(cell)) for cell in (miss.at, miss.to))
        if miss.kind is Miss.DOOR:
            a = QPointF(*canvas.camera.middle_of(miss.gap))
        _needle(canvas, a, b)


def _needle(canvas: Canvas, a: QPointF, b: QPointF) -> None:
    painter = canvas.painter
    radius = max(3.0, min(6.0, canvas.cell_px * 0.16))
    middle = (a + b) / 2
    gap = (b - a) * 0.16
    for wide, dye in ((5.0, "#FBF7EF"), (2.4, "#A5383F")):
        painter.setPen(QPen(colour(dye), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(a, middle - gap)
        painter.drawLine(middle + gap, b)
    painter.setPen(QPen(colour("#FBF7EF"), 1.5))
    painter.setBrush(colour("#A5383F"))
    for point in (a, b):
        painter.drawEllipse(point, radius, radius)


def _weak(canvas: Canvas) -> None:
    """A diamond with the number of structures that would be cut off."""
    painter, box, spec = canvas.painter, canvas.camera.visible(), canvas.camera.spec
    weak = canvas.desk.study.weak or []
    seen = [each for each in weak if box.has(spec.slot(each.cell))]
    face = Face(number_font(8))
    painter.setFont(face.font)
    painter.setBrush(colour("#A5383F"))
    edge, pale = QPen(colour("#FBF7EF"), 2), colour("#FBF7EF")
    shapes = {
        size: QPolygonF([QPointF(0, -size), QPointF(size, 0), QPointF(0, size), QPointF(-size, 0)])
        for size in (11.0, 14.0)
    }
    for each in seen[:MOST_MARKS]:
        x, y = canvas.camera.middle_of(each.cell)
        words = str(len(each.structures))
        painter.setPen(edge)
        painter.drawPolygon(shapes[11.0 if len(words) < 3 else 14.0].translated(x, y))
        painter.setPen(pale)
        face.draw(painter, x - face.width(words) / 2, y - face.height / 2, words)
