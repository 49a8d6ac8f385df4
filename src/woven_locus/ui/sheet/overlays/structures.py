"""What the raster cannot hold: letter codes, the selection, who is cut off or stands unsoundly."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QFontMetricsF, QPen

from woven_locus.core.geometry import Cell
from woven_locus.core.placing.things import numbers_in
from woven_locus.core.register import Structure
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import marks
from woven_locus.ui.sheet.overlays.base import Canvas, lines_of
from woven_locus.ui.theme import colour, text_font

CODES_FROM = 8
# Pixels that the stitching takes of a structure, both sides together.
_STITCHING = 6
# Pixels of a code that can be read.
_LEAST_SIZE = 8
# More than this many in sight are too small to read one by one.
MOST_CODES = 800
MOST_MARKS = 120


def in_sight(canvas: Canvas) -> list[Structure]:
    """The structures of which a cell shows; none when there are too many to tell apart."""
    plan = canvas.session.plan
    box = canvas.camera.visible()
    if box.empty or canvas.cell_px < 3:
        return []
    numbers = numbers_in(plan, box)
    if len(numbers) > MOST_CODES:
        return []
    return [plan.register[number] for number in numbers.tolist()]


def draw(canvas: Canvas) -> None:
    session = canvas.session
    shown = in_sight(canvas)
    if canvas.cell_px >= CODES_FROM:
        _codes(canvas, shown)
    if session.choices.stage in (Stage.BUILD, Stage.WAYS):
        unsound, _all = session.document.known_unsound()
        _mark_all(canvas, [row for row in shown if row.number in unsound], _doubt)
    if session.choices.stage in (Stage.WAYS, Stage.TRAFFIC):
        linked = session.document.is_linked
        _mark_all(canvas, [row for row in shown if not linked(row.number)], _broken_thread)
    if len(session.selection.numbers) > MOST_MARKS:
        chosen = set(session.selection.numbers)
        _outlines(canvas, [_around(canvas, row) for row in shown if row.number in chosen])
    else:
        register = session.plan.register
        _selected(canvas, [register[number] for number in session.selection.numbers])


def _mark_all(
    canvas: Canvas, rows: list[Structure], mark: Callable[[Canvas, QRectF], None]
) -> None:
    """A mark on each; when there are too many to be read, a plain outline of all in one go."""
    rects = [_around(canvas, row) for row in rows]
    if len(rects) <= MOST_MARKS:
        for rect in rects:
            mark(canvas, rect)
        return
    painter = canvas.painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(canvas.palette.madder), 2))
    drawing.rects(painter, rects)


def _outlines(canvas: Canvas, rects: list[QRectF]) -> None:
    """Very many that are selected, in one go."""
    painter = canvas.painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for width, dye in ((5.0, canvas.palette.paper), (2.5, canvas.palette.ink)):
        painter.setPen(QPen(colour(dye), width))
        drawing.rects(painter, rects)


def _doubt(canvas: Canvas, rect: QRectF) -> None:
    marks.doubtful(canvas.painter, canvas.palette, rect)


def _around(canvas: Canvas, row: Structure) -> QRectF:
    footprint = canvas.session.plan.footprint_of(row)
    return canvas.rect_of(row.cell, footprint.cols, footprint.rows)


def _code_cell(canvas: Canvas, row: Structure) -> QRectF:
    """Where the code is written: the middle of a block, else the longest run of cells in a row."""
    footprint = canvas.session.plan.footprint_of(row)
    if len(footprint.cells) == footprint.cols * footprint.rows:
        return _around(canvas, row)
    wide, col, line = _longest_run(footprint.cells)
    return canvas.rect_of(Cell(row.cell.col + col, row.cell.row + line), wide)


@lru_cache(maxsize=1024)
def _longest_run(cells: tuple[tuple[int, int], ...]) -> tuple[int, int, int]:
    """(length, first column, row) of the longest run, the one nearest the top among equals."""
    held = set(cells)
    best = (0, 0, 0)
    for col, row in cells:
        if (col - 1, row) in held:
            continue
        wide = 1
        while (col + wide, row) in held:
            wide += 1
        if wide > best[0]:
            best = (wide, col, row)
    return best


def _codes(canvas: Canvas, shown: list[Structure]) -> None:
    """Within the stitching, smaller where there is less room, or not at all."""
    painter, kinds = canvas.painter, canvas.session.plan.kinds
    size = int(min(30, max(_LEAST_SIZE, canvas.cell_px * 0.5)))
    metrics = QFontMetricsF(_face(size))
    faces: dict[int, QFont] = {}
    painter.setPen(colour("#FBF7EF"))
    for row in shown:
        code = kinds[row.kind].code
        rect = _code_cell(canvas, row)
        wide, room = metrics.horizontalAdvance(code), rect.width() - _STITCHING
        fits = size if wide <= room else int(size * room / wide)
        if fits >= _LEAST_SIZE and rect.height() - _STITCHING >= fits + 2:
            if fits not in faces:
                faces[fits] = _face(fits)
            painter.setFont(faces[fits])
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, code)


def _face(size: int) -> QFont:
    """The face of codes, so many pixels high."""
    font = text_font(bold=True)
    font.setPixelSize(size)
    return font


def _selected(canvas: Canvas, rows: list[Structure]) -> None:
    """Every cell's outer edge in ink and paper, so that it shows on any ground."""
    camera, kinds = canvas.camera, canvas.session.plan.kinds
    sheet, scale = QRectF(0, 0, camera.width, camera.height), [camera.ppc_x, camera.ppc_y] * 2
    edges = []
    for row in rows:
        rect = _around(canvas, row)
        if rect.adjusted(-5, -5, 5, 5).intersects(sheet):
            # As it is drawn, from its top left corner on.
            footprint = kinds[row.kind].footprint.turned(row.turn)
            edges.append(_edges(footprint.cells) * scale + [rect.x(), rect.y()] * 2)
    if not edges:
        return
    together = lines_of(np.concatenate(edges))
    for width, dye in ((5, canvas.palette.paper), (2.5, canvas.palette.ink)):
        pen = QPen(colour(dye), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap)
        canvas.painter.setPen(pen)
        canvas.painter.drawLines(together)


@lru_cache(maxsize=1024)
def _edges(cells: tuple[tuple[int, int], ...]) -> npt.NDArray[np.float64]:
    """(N, 4) x0, y0, x1, y1 of the outer edges, in cells from the top left corner on."""
    held = set(cells)
    found = []
    for col, row in cells:
        right, down = col + 1, row + 1
        for beyond, edge in (
            ((col, row - 1), (col, row, right, row)),
            ((right, row), (right, row, right, down)),
            ((col, down), (col, down, right, down)),
            ((col - 1, row), (col, row, col, down)),
        ):
            if beyond not in held:
                found.append(edge)
    return np.array(found, np.float64)


def _broken_thread(canvas: Canvas, rect: QRectF) -> None:
    """Cut off: a disc at the corner with a thread that does not meet."""
    painter = canvas.painter
    radius = min(11.0, max(6.0, canvas.cell_px * 0.4))
    at = rect.topRight()
    painter.setPen(QPen(colour(canvas.palette.ink), 1.5))
    painter.setBrush(colour(canvas.palette.paper))
    painter.drawEllipse(at, radius, radius)
    dye = "#A5383F" if not canvas.palette.dark else "#F08D92"
    pen = QPen(colour(dye), max(2.0, radius / 4), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    far, near, lift = radius * 0.6, radius * 0.15, radius * 0.35
    painter.drawLine(QPointF(at.x() - far, at.y()), QPointF(at.x() - near, at.y()))
    painter.drawLine(QPointF(at.x() + near, at.y()), QPointF(at.x() + far, at.y()))
    painter.drawLine(QPointF(at.x() - near, at.y()), QPointF(at.x() - near, at.y() - lift))
    painter.drawLine(QPointF(at.x() + near, at.y()), QPointF(at.x() + near, at.y() + lift))
