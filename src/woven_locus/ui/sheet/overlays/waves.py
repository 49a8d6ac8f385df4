"""Waves: entries and goals, the ways between them, the ranges of towers, attackers and shots."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from woven_locus.core.geometry import Cell, Point
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.lines import distances, step_lengths
from woven_locus.core.wave_plan import Entry, Goal, Moves
from woven_locus.core.waves.ranges import stretches
from woven_locus.core.waves.towers import towers_of
from woven_locus.core.waves.ways import EntryWay
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import attackers
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.overlays.vehicles import pixels
from woven_locus.ui.theme import colour, number_font

# Pixels of a cell from which on stitches around it can be told apart.
_STITCHED_FROM = 5

Floats = npt.NDArray[np.float64]


def draw(canvas: Canvas) -> None:
    """All that the stage Waves lays over the map."""
    if canvas.session.choices.stage is not Stage.WAVES:
        return
    _gains(canvas)
    _ways(canvas)
    _ranges(canvas)
    _narrow(canvas)
    _cuts(canvas)
    _places(canvas)
    attackers.draw(canvas)


# --- where a tower would gain most ----------------------------------------------------------------


def _gains(canvas: Canvas) -> None:
    keeper = canvas.desk.gains
    found = keeper.found
    best = found.best(keeper.measure) if found is not None else ()
    if found is None or not best:
        return
    gained = found.of(keeper.measure)
    most = found.at(best[0], keeper.measure)
    plan, painter = canvas.session.plan, canvas.painter
    kind = plan.kinds[found.kind]
    footprint = plan.footprint(kind, found.turn)
    rows, cols = gained.shape
    # A band from light to strong, with the middle of the footprint as its cell.
    # What makes a way dearer may make it shorter: that is no gain.
    shares = np.maximum(np.nan_to_num(gained, nan=0.0), 0.0) / most
    levels = np.ceil(shares * 5).astype(np.uint8)
    base = colour(canvas.palette.indigo)
    table = np.zeros(6, np.uint32)
    for level in range(1, 6):
        alpha = 24 + 34 * level
        table[level] = QColor(base.red(), base.green(), base.blue(), alpha).rgba()
    image_rows = table[levels[::-1] if plan.spec.y_up else levels]
    image_rows = np.ascontiguousarray(image_rows)
    image = QImage(image_rows.data, cols, rows, 4 * cols, QImage.Format.Format_ARGB32)  # type: ignore[call-overload]
    middle = (footprint.cols - 1) // 2, (footprint.rows - 1) // 2
    first = plan.spec.first
    whole = canvas.rect_of(Cell(first.col, first.row), cols, rows)
    step_y = canvas.camera.ppc_y if not plan.spec.y_up else -canvas.camera.ppc_y
    whole.translate(middle[0] * canvas.camera.ppc_x, middle[1] * step_y)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
    painter.drawImage(whole, image)
    painter.setFont(number_font(8))
    for nth, cell in enumerate(best, 1):
        at = canvas.rect_of(cell, footprint.cols, footprint.rows)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for width, dye in ((3.5, canvas.palette.paper), (1.5, canvas.palette.ink)):
            painter.setPen(QPen(colour(dye), width))
            painter.drawRect(at)
        if canvas.cell_px >= 14:
            painter.drawText(at, Qt.AlignmentFlag.AlignCenter, str(nth))


# --- ways -----------------------------------------------------------------------------------------


def _ways(canvas: Canvas) -> None:
    keeper = canvas.desk.wave_ways
    changed = {(g.before.entry, g.before.moves): g.after for g in keeper.growth if g.changed}
    ghost = canvas.session.hand.ghost
    for way in keeper.ways:
        if not way.found:
            continue
        after = changed.get((way.entry, way.moves))
        _thread(canvas, way, faint=after is not None)
        if after is not None and after.found:
            _thread(canvas, after, faint=False, new=True)
    tower = ghost.kind.tower if ghost is not None else None
    shown: list[tuple[Tower, Point]] = []
    plan = canvas.session.plan
    if tower is not None and ghost is not None:
        shown.append((tower, _middle(canvas)))
    for number in canvas.session.selection.numbers:
        if number in plan.register and plan.kinds[plan.register[number].kind].tower is not None:
            row = plan.register[number]
            found = plan.kinds[row.kind].tower
            assert found is not None
            shown.append((found, plan.middle_of(row)))
    for some, centre in shown:
        for way in keeper.ways:
            now = changed.get((way.entry, way.moves), way)
            if now.found and some.can_hit(now.moves is Moves.AIR):
                _in_range(canvas, now, some, centre)


def _middle(canvas: Canvas) -> Point:
    """Of the ghost, in the world."""
    ghost, plan = canvas.session.hand.ghost, canvas.session.plan
    assert ghost is not None
    return plan.middle_at(plan.footprint(ghost.kind, ghost.turn), ghost.cell)


def _line(canvas: Canvas, points: Floats) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in pixels(canvas, points).tolist()])


def _thick(canvas: Canvas) -> float:
    return max(1.6, min(5.0, canvas.cell_px * 0.11))


def _thread(canvas: Canvas, way: EntryWay, faint: bool, new: bool = False) -> None:
    """A stitched line with arrows; by its stitches one tells roads, ground and air."""
    painter, palette = canvas.painter, canvas.palette
    line, thick = _line(canvas, way.strokes.points), _thick(canvas)
    cap, join = Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin
    painter.setBrush(Qt.BrushStyle.NoBrush)
    dye = palette.madder if new else palette.indigo
    if not faint:
        painter.setPen(QPen(colour(palette.paper), thick + 2.5, Qt.PenStyle.SolidLine, cap, join))
        painter.drawPolyline(line)
    pen = QPen(colour(dye, 90 if faint else 255), thick, Qt.PenStyle.SolidLine, cap, join)
    dashes = {Moves.ROADS: [7.0, 1.6], Moves.GROUND: [3.0, 1.6], Moves.AIR: [1.0, 2.2]}
    pen.setDashPattern(dashes[way.moves])
    painter.setPen(pen)
    painter.drawPolyline(line)
    if not faint:
        _arrows(canvas, way.strokes.points, colour(dye))


def _arrows(canvas: Canvas, points: Floats, dye: QColor) -> None:
    """Which way it goes, every few cells."""
    size = max(3.5, min(9.0, canvas.cell_px * 0.2))
    at = pixels(canvas, points)
    steps, lengths, total = np.diff(at, axis=0), step_lengths(at), distances(at)
    painter = canvas.painter
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(dye)
    apart = max(90.0, canvas.cell_px * 5)
    for far in np.arange(apart / 2, float(total[-1]), apart).tolist():
        k = int(np.searchsorted(total, far, side="right")) - 1
        if k >= len(steps) or lengths[k] == 0:
            continue
        x, y = (at[k] + steps[k] * (far - total[k]) / lengths[k]).tolist()
        dx, dy = (steps[k] / lengths[k] * size).tolist()
        tip = QPointF(x + dx, y + dy)
        left, right = QPointF(x - dx - dy, y - dy + dx), QPointF(x - dx + dy, y - dy - dx)
        drawing.polygon(painter, [tip, left, right])
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _in_range(canvas: Canvas, way: EntryWay, tower: Tower, centre: Point) -> None:
    """The parts of a way in range, as thicker stitches."""
    painter, palette = canvas.painter, canvas.palette
    points_, total = way.strokes.points, distances(way.strokes.points)
    for part in stretches(points_, centre, tower.least, tower.most):
        inside = (total > part.begin) & (total < part.end)
        ends = [
            [float(np.interp(x, total, points_[:, axis])) for axis in (0, 1)]
            for x in (part.begin, part.end)
        ]
        points = np.concatenate(([ends[0]], points_[inside], [ends[1]]))
        line = _line(canvas, points)
        cap = Qt.PenCapStyle.FlatCap
        for width, dye, dashes in (
            (_thick(canvas) * 2 + 4, palette.paper, []),
            (_thick(canvas) * 2 + 1.5, palette.weld, [1.2, 0.5]),
        ):
            pen = QPen(colour(dye), width, Qt.PenStyle.SolidLine, cap)
            if dashes:
                pen.setDashPattern(dashes)
            painter.setPen(pen)
            painter.drawPolyline(line)


# --- ranges ---------------------------------------------------------------------------------------


def _ranges(canvas: Canvas) -> None:
    session, plan = canvas.session, canvas.session.plan
    chosen = set(session.selection.numbers)
    ghost = session.hand.ghost
    for placed in towers_of(plan):
        if placed.number in chosen:
            _ring(canvas, placed.tower, placed.centre, strong=True)
        elif session.choices.waves.ranges:
            _ring(canvas, placed.tower, placed.centre, strong=False)
    if ghost is not None and ghost.kind.tower is not None:
        _ring(canvas, ghost.kind.tower, _middle(canvas), strong=True)


def _ring(canvas: Canvas, tower: Tower, centre: Point, strong: bool) -> None:
    painter, palette, camera = canvas.painter, canvas.palette, canvas.camera
    at = QPointF(camera.x_of(centre.x), camera.y_of(centre.y))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for radius in (tower.most, tower.least):
        if radius <= 0:
            continue
        wide = radius / camera.spec.cell_w * camera.ppc_x
        tall = radius / camera.spec.cell_h * camera.ppc_y
        if strong:
            painter.setPen(QPen(colour(palette.paper), 3.5))
            painter.drawEllipse(at, wide, tall)
        pen = QPen(colour(palette.heather, 255 if strong else 210), 1.8 if strong else 1.2)
        pen.setDashPattern([6, 3] if strong else [2, 3])
        painter.setPen(pen)
        painter.drawEllipse(at, wide, tall)


def _narrow(canvas: Canvas) -> None:
    """Where the ways are narrow: a dotted line across, and how many cells it takes."""
    painter, palette, camera = canvas.painter, canvas.palette, canvas.camera
    painter.setFont(number_font(9))
    for place in canvas.desk.narrow.found or ():
        ends = [canvas.session.plan.spec.centre(place.cells[k]) for k in (0, -1)]
        first, last = (QPointF(camera.x_of(end.x), camera.y_of(end.y)) for end in ends)
        for width, dye, dots in ((5.0, palette.paper, False), (2.4, palette.walnut, True)):
            pen = QPen(colour(dye), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
            if dots:
                pen.setDashPattern([0.1, 2.0])
            painter.setPen(pen)
            painter.drawLine(QLineF(first, last))
        text = str(len(place.cells))
        wide = painter.fontMetrics().horizontalAdvance(text) + 6
        tall = painter.fontMetrics().height()
        at = canvas.rect_of(place.at).center()
        box = QRectF(at.x() - wide / 2, at.y() - tall / 2, wide, tall)
        painter.fillRect(box, colour(palette.paper, 235))
        painter.setPen(QPen(colour(palette.ink)))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _cuts(canvas: Canvas) -> None:
    """The fewest cells that close a way, each with a bar across it."""
    painter, palette = canvas.painter, canvas.palette
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for cut in canvas.desk.cuts.found or ():
        rects = [rect.adjusted(2, 2, -2, -2) for rect in canvas.rects_in_sight(cut.cells)]
        for width, dye in ((5.0, palette.paper), (2.4, palette.madder)):
            painter.setPen(QPen(colour(dye), width))
            drawing.rects(painter, rects)
            drawing.lines(
                painter,
                [
                    QLineF(rect.left(), rect.center().y(), rect.right(), rect.center().y())
                    for rect in rects
                ],
            )


# --- entries and goals ----------------------------------------------------------------------------


def _places(canvas: Canvas) -> None:
    waves = canvas.session.plan.waves
    for entry in waves.entries:
        _place(canvas, entry, canvas.palette.madder)
    for goal in waves.goals:
        _place(canvas, goal, canvas.palette.indigo)


def _place(canvas: Canvas, place: Entry | Goal, dye: str) -> None:
    """Its cells with slanted stitches, a chevron (entry) or a square (goal) in each, and its id beside the first."""
    painter, palette = canvas.painter, canvas.palette
    rects = canvas.rects_in_sight(place.cells)
    painter.setPen(Qt.PenStyle.NoPen)
    if canvas.cell_px < _STITCHED_FROM:
        # From afar a mark that can be seen, however small the cell.
        more = max(0.0, 2.0 - canvas.cell_px) / 2
        painter.setBrush(colour(dye))
        drawing.rects(painter, [rect.adjusted(-more, -more, more, more) for rect in rects])
    else:
        rects = [rect.adjusted(1, 1, -1, -1) for rect in rects]
        painter.setBrush(colour(dye, 70))
        drawing.rects(painter, rects)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = QPen(colour(dye), 1.8)
        pen.setDashPattern([3, 2])
        painter.setPen(pen)
        drawing.rects(painter, rects)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if canvas.cell_px >= 9:
        painter.setPen(QPen(colour(dye), max(1.4, canvas.cell_px * 0.07)))
        for rect in rects:
            middle, arm = rect.center(), min(rect.width(), rect.height()) * 0.22
            if isinstance(place, Entry):
                tip = middle + QPointF(arm, 0)
                painter.drawLine(QLineF(tip, tip + QPointF(-arm, -arm)))
                painter.drawLine(QLineF(tip, tip + QPointF(-arm, arm)))
            else:
                painter.drawRect(QRectF(middle.x() - arm, middle.y() - arm, 2 * arm, 2 * arm))
    around = canvas.rect_around(place.cells)
    view = QRectF(0, 0, canvas.camera.width, canvas.camera.height)
    if not around.intersects(view):
        return
    painter.setFont(number_font(9))
    text = f"{place.id} {place.name}" if canvas.cell_px >= 12 else place.id
    wide = painter.fontMetrics().horizontalAdvance(text) + 8
    tall = painter.fontMetrics().height() + 2
    left = min(max(2.0, around.left()), canvas.camera.width - wide - 2.0)
    top = around.top() - tall - 2
    if top < 2:
        top = around.bottom() + 2
    box = QRectF(left, top, wide, tall)
    painter.fillRect(box, colour(palette.paper, 225))
    painter.setPen(QPen(colour(palette.ink)))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
