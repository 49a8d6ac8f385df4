"""Edge scales: cell indices, and on a second line world units, along the top and the left."""

from __future__ import annotations

import math

from PyQt6.QtCore import QLineF, QRect, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from woven_locus.core.geometry import Cell
from woven_locus.core.grid.snapping import number
from woven_locus.core.render import Palette
from woven_locus.core.render.scale import stride
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts import drawing
from woven_locus.ui.parts.texts import Face
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.camera import Camera
from woven_locus.ui.theme import colour, number_font, row_height


def top() -> int:
    """Height of the upper scale: two lines of figures."""
    return _even(max(36, 2 * row_height(number_font(8), 0) + 6))


def left() -> int:
    """Width of the scale on the left: room for seven figures."""
    return _even(max(56, math.ceil(QFontMetricsF(number_font(8)).horizontalAdvance("0") * 7) + 10))


def _even(length: int) -> int:
    """A multiple of four, so that the map begins on a whole pixel of a screen that is scaled, too."""
    return -(-length // 4) * 4


def span(desk: Desk) -> tuple[Cell, int, int] | None:
    """What is marked on the scales: the ghost, the brush, or the pointer's cell; its low cell, columns and rows."""
    session = desk.session
    if session.hand.ghost is not None:
        footprint = session.plan.footprint(session.hand.ghost.kind, session.hand.ghost.turn)
        return session.hand.ghost.cell, footprint.cols, footprint.rows
    if session.hand.block_ghost is not None:
        block = session.hand.block_ghost
        return block.cell, block.block.cols, block.block.rows
    if session.pointer.hover is None:
        return None
    covered = desk.tools.current.cover()
    if covered is not None:
        box = covered[0].clipped(session.plan.spec.shape)
        if not box.empty:
            return session.plan.spec.cell_of_slot((box.r0, box.c0)), box.shape[1], box.shape[0]
    return session.pointer.hover.cell, 1, 1


def worked_on(desk: Desk, camera: Camera) -> QRect | None:
    """The span as pixels of the sheet; None without a pointer."""
    marked = span(desk)
    if marked is None:
        return None
    cell, cols, rows = marked
    x, y = camera.corner_of(cell, rows)
    size = cols * camera.ppc_x, rows * camera.ppc_y
    return QRectF(x + left(), y + top(), *size).toAlignedRect()


def draw(
    painter: QPainter,
    camera: Camera,
    session: Session,
    palette: Palette,
    marked: tuple[Cell, int, int] | None,
) -> None:
    """Draw on a painter whose origin is the widget's. marked : low cell, columns, rows to mark."""
    high, margin = top(), left()
    wide, tall = camera.width, camera.height
    painter.fillRect(0, 0, margin + wide, high, colour(palette.panel))
    painter.fillRect(0, high, margin, tall, colour(palette.panel))
    across, down = _bands(camera, marked)
    for band in (across, down):
        painter.fillRect(band, colour(palette.weld, 150))
    painter.setFont(number_font(8))
    hover = session.pointer.hover
    painter.save()
    painter.setClipRect(margin, 0, wide, high)
    _columns(painter, camera, palette, across)
    if hover is not None:
        _pointer_mark(painter, palette, margin + camera.x_of(hover.point.x), high, down=True)
    painter.restore()
    painter.save()
    painter.setClipRect(0, high, margin, tall)
    _rows(painter, camera, palette, down)
    if hover is not None:
        _pointer_mark(painter, palette, margin, high + camera.y_of(hover.point.y), down=False)
    painter.restore()
    _corner(painter, camera, palette)


def _columns(painter: QPainter, camera: Camera, palette: Palette, band: QRectF) -> None:
    """The figures along the top: indices, and below them world units at the left edge of each cell."""
    spec, box = camera.spec, camera.visible()
    high, margin, line = top(), left(), row_height(number_font(8), 0)
    face = Face(painter.font())
    widest = max(
        face.width(number(spec.corner(Cell(spec.last.col, 0)).x)), face.width(str(spec.last.col))
    )
    every = stride(camera.ppc_x, widest + 12)
    ink, muted = colour(palette.ink), colour(palette.muted)
    ticks = []
    for col in range(box.c0 + -(box.c0 + spec.first_col) % every, box.c1, every):
        x = margin + col * camera.ppc_x - camera.left
        middle = x + camera.ppc_x / 2
        index = _index(col + spec.first_col)
        painter.setPen(ink)
        face.draw(painter, middle - face.width(index) / 2, 1 + (line + 2 - face.height) / 2, index)
        place = number(spec.origin_x + col * spec.cell_w)
        # Muted text cannot be read on a marked cell.
        marked = x + 3 < band.right() and x + 3 + face.width(place) > band.left()
        painter.setPen(ink if marked else muted)
        face.draw(painter, x + 3, line + 3 + (line + 1 - face.height) / 2, place)
        ticks.append(QLineF(x, line + 6, x, high))
    painter.setPen(QPen(colour(palette.muted), 1))
    drawing.lines(painter, ticks)


def _rows(painter: QPainter, camera: Camera, palette: Palette, band: QRectF) -> None:
    """The figures on the left: for each row its index, and below it world units at its low edge."""
    spec, box = camera.spec, camera.visible()
    high, margin = top(), left()
    face = Face(painter.font())
    every = stride(camera.ppc_y, 2 * face.height + 4)
    ink, muted = colour(palette.ink), colour(palette.muted)
    ticks = []
    for row in range(box.r0 + -(box.r0 + spec.first_row) % every, box.r1, every):
        index = row + spec.first_row
        y = high + camera.corner_of(Cell(spec.first_col, index))[1]
        middle = y + camera.ppc_y / 2
        # World values belong to the low edge of a cell, which is its lower one where y grows upwards.
        edge = high + camera.y_of(spec.origin_y + row * spec.cell_h)
        # One block of two lines, in the middle of the cell when there is room for it there.
        upper = max(y, middle - face.height) if camera.ppc_y > 26 else y
        lower = upper + face.height - 1
        marked = lower < band.bottom() and lower + face.height > band.top()
        for dye, place, text in (
            (ink, upper, _index(index)),
            (ink if marked else muted, lower, number(spec.origin_y + row * spec.cell_h)),
        ):
            painter.setPen(dye)
            face.draw(painter, margin - 8 - face.width(text), place, text)
        ticks.append(QLineF(margin - 6, edge, margin, edge))
    painter.setPen(QPen(colour(palette.muted), 1))
    drawing.lines(painter, ticks)


def _corner(painter: QPainter, camera: Camera, palette: Palette) -> None:
    """What the figures are, where both scales meet."""
    high, margin, line = top(), left(), row_height(number_font(8), 0)
    painter.fillRect(0, 0, margin, high, colour(palette.raised))
    painter.setFont(number_font(7))
    painter.setPen(colour(palette.ink))
    painter.drawText(QRectF(0, 2, margin - 4, line + 1), Qt.AlignmentFlag.AlignRight, tr("cell"))
    painter.setPen(colour(palette.muted))
    painter.drawText(
        QRectF(0, line + 3, margin - 4, line + 1),
        Qt.AlignmentFlag.AlignRight,
        camera.spec.unit[:8],
    )
    painter.setPen(QPen(colour(palette.line), 1))
    painter.drawLine(QLineF(margin - 0.5, 0, margin - 0.5, high + camera.height))
    painter.drawLine(QLineF(0, high - 0.5, margin + camera.width, high - 0.5))


def _index(index: int) -> str:
    return str(index).replace("-", "\N{MINUS SIGN}")


def _bands(camera: Camera, marked: tuple[Cell, int, int] | None) -> tuple[QRectF, QRectF]:
    """What of the scales along the top and on the left is marked; empty without a marked."""
    if marked is None:
        return QRectF(), QRectF()
    low, cols, rows = marked
    high, margin = top(), left()
    x, y = camera.corner_of(low, rows)
    across = QRectF(margin + x, 0, cols * camera.ppc_x, high)
    down = QRectF(0, high + y, margin, rows * camera.ppc_y)
    return (
        across.intersected(QRectF(margin, 0, camera.width, high)),
        down.intersected(QRectF(0, high, margin, camera.height)),
    )


def _pointer_mark(painter: QPainter, palette: Palette, x: float, y: float, down: bool) -> None:
    painter.setPen(QPen(colour(palette.madder), 2))
    if down:
        painter.drawLine(QLineF(x, y - 8, x, y))
    else:
        painter.drawLine(QLineF(x - 8, y, x, y))
