"""Edge scales: cell indices, and on a second line world units, along the top and the left."""

from __future__ import annotations

import math

from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from woven_locus.core.geometry import Cell
from woven_locus.core.grid.snapping import number
from woven_locus.core.render import Palette
from woven_locus.ui import drawing
from woven_locus.ui.session import Session
from woven_locus.ui.sheet.camera import Camera
from woven_locus.ui.theme import colour, number_font

TOP = 36
LEFT = 56
_NICE = (1, 2, 5)


def stride(px_per_cell: float, room: float) -> int:
    """Cells between two labels, a nice round number, so that each has `room` pixels."""
    need = room / px_per_cell
    if need <= 1:
        return 1
    magnitude = 10 ** math.floor(math.log10(need))
    for nice in (*_NICE, 10):
        if nice * magnitude >= need:
            return int(nice * magnitude)
    return int(10 * magnitude)


def draw(
    painter: QPainter,
    camera: Camera,
    session: Session,
    palette: Palette,
    span: tuple[Cell, int, int] | None,
) -> None:
    """Draw on a painter whose origin is the widget's. span : low cell, columns, rows to mark."""
    spec = camera.spec
    origin_x, origin_y = spec.origin_x, spec.origin_y
    wide, tall = camera.width, camera.height
    painter.fillRect(0, 0, LEFT + wide, TOP, colour(palette.panel))
    painter.fillRect(0, TOP, LEFT, tall, colour(palette.panel))
    if span is not None:
        _span(painter, camera, palette, span)
    font = number_font(8)
    painter.setFont(font)
    metrics = QFontMetricsF(font)
    hover = session.hover
    box = camera.visible()

    painter.save()
    painter.setClipRect(LEFT, 0, wide, TOP)
    widest = max(
        metrics.horizontalAdvance(number(spec.corner(Cell(spec.last.col, 0)).x)),
        metrics.horizontalAdvance(str(spec.last.col)),
    )
    every = stride(camera.ppc_x, widest + 12)
    ticks = []
    for col in range(box.c0, box.c1):
        index = col + spec.first_col
        if index % every:
            continue
        x = LEFT + col * camera.ppc_x - camera.left
        middle = x + camera.ppc_x / 2
        painter.setPen(colour(palette.ink))
        painter.drawText(
            QRectF(middle - 60, 1, 120, 16), Qt.AlignmentFlag.AlignCenter, _index(index)
        )
        painter.setPen(colour(palette.muted))
        painter.drawText(
            QRectF(x + 3, 17, 120, 14),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            number(origin_x + col * spec.cell_w),
        )
        ticks.append(QLineF(x, 20, x, TOP))
    painter.setPen(QPen(colour(palette.muted), 1))
    drawing.lines(painter, ticks)
    if hover is not None:
        _pointer_mark(painter, palette, LEFT + camera.x_of(hover.point.x), TOP, down=True)
    painter.restore()

    painter.save()
    painter.setClipRect(0, TOP, LEFT, tall)
    every = stride(camera.ppc_y, 2 * metrics.height() + 4)
    ticks = []
    for row in range(box.r0, box.r1):
        index = row + spec.first_row
        if index % every:
            continue
        y = TOP + camera.corner_of(Cell(spec.first_col, index))[1]
        middle = y + camera.ppc_y / 2
        # World values belong to the low edge of a cell, which is its lower one where y grows upwards.
        edge = TOP + camera.y_of(origin_y + row * spec.cell_h)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        # One block of two lines, in the middle of the cell when there is room for it there.
        upper = max(y, middle - metrics.height()) if camera.ppc_y > 26 else y
        painter.setPen(colour(palette.ink))
        painter.drawText(QRectF(0, upper, LEFT - 8, metrics.height()), right, _index(index))
        painter.setPen(colour(palette.muted))
        painter.drawText(
            QRectF(0, upper + metrics.height() - 1, LEFT - 8, metrics.height()),
            right,
            number(origin_y + row * spec.cell_h),
        )
        ticks.append(QLineF(LEFT - 6, edge, LEFT, edge))
    painter.setPen(QPen(colour(palette.muted), 1))
    drawing.lines(painter, ticks)
    if hover is not None:
        _pointer_mark(painter, palette, LEFT, TOP + camera.y_of(hover.point.y), down=False)
    painter.restore()

    painter.fillRect(0, 0, LEFT, TOP, colour(palette.raised))
    painter.setFont(number_font(7))
    painter.setPen(colour(palette.ink))
    painter.drawText(QRectF(0, 3, LEFT - 4, 14), Qt.AlignmentFlag.AlignRight, "cell")
    painter.setPen(colour(palette.muted))
    painter.drawText(QRectF(0, 18, LEFT - 4, 14), Qt.AlignmentFlag.AlignRight, spec.unit[:8])
    painter.setPen(QPen(colour(palette.line), 1))
    painter.drawLine(QLineF(LEFT - 0.5, 0, LEFT - 0.5, TOP + tall))
    painter.drawLine(QLineF(0, TOP - 0.5, LEFT + wide, TOP - 0.5))


def _index(index: int) -> str:
    return str(index).replace("-", "\N{MINUS SIGN}")


def _span(painter: QPainter, camera: Camera, palette: Palette, span: tuple[Cell, int, int]) -> None:
    low, cols, rows = span
    x, y = camera.corner_of(low, rows)
    mark = colour(palette.weld, 150)
    area = QRectF(LEFT, 0, camera.width, TOP)
    painter.fillRect(QRectF(LEFT + x, 0, cols * camera.ppc_x, TOP).intersected(area), mark)
    area = QRectF(0, TOP, LEFT, camera.height)
    painter.fillRect(QRectF(0, TOP + y, LEFT, rows * camera.ppc_y).intersected(area), mark)


def _pointer_mark(painter: QPainter, palette: Palette, x: float, y: float, down: bool) -> None:
    painter.setPen(QPen(colour(palette.madder), 2))
    if down:
        painter.drawLine(QLineF(x, y - 8, x, y))
    else:
        painter.drawLine(QLineF(x - 8, y, x, y))
