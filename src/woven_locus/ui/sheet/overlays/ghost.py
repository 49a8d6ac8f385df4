"""What the pointer would do: the ghost with its marks, the brush, the road proposed."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPen

from woven_locus.core.geometry import SIDES, Cell
from woven_locus.core.tools.lines import brush_low
from woven_locus.ui.session import Ghost
from woven_locus.ui.sheet.overlays import marks
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.stages import Stage
from woven_locus.ui.theme import colour
from woven_locus.ui.tools.base import Tool


def draw(canvas: Canvas, tool: Tool) -> None:
    session = canvas.session
    if session.ghost is not None:
        _ghost(canvas, session.ghost)
        return
    verdict = tool.marks()
    if verdict is not None:
        marks.draw_cells(canvas, verdict.cells)
    elif session.stage is Stage.GROUND and session.hover is not None:
        _brush(canvas, session.hover.cell)


def _ghost(canvas: Canvas, ghost: Ghost) -> None:
    painter = canvas.painter
    footprint = ghost.kind.footprint.turned(ghost.turn)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(ghost.kind.dye, 130))
    for cell in footprint.at(ghost.cell):
        painter.drawRect(canvas.rect_of(cell))
    marks.draw_cells(canvas, ghost.verdict.cells)
    _doors(canvas, ghost)


def _doors(canvas: Canvas, ghost: Ghost) -> None:
    """An arrow out of each door."""
    painter, camera = canvas.painter, canvas.camera
    painter.setBrush(colour(canvas.palette.ink))
    painter.setPen(QPen(colour(canvas.palette.paper), 1))
    size = max(3.0, canvas.cell_px * 0.2)
    for door in ghost.kind.footprint.turned(ghost.turn).doors:
        x, y = camera.middle_of(Cell(ghost.cell.col + door.col, ghost.cell.row + door.row))
        d_row, d_col = SIDES[door.side]
        edge = QPointF(x + d_col * camera.ppc_x * 0.5, y + d_row * camera.ppc_y * 0.5)
        tip = edge + QPointF(d_col * size, d_row * size)
        side = QPointF(-d_row * size, d_col * size)
        painter.drawPolygon([tip, edge + side, edge - side])


def _brush(canvas: Canvas, middle: Cell) -> None:
    size = canvas.session.brush_size
    low = brush_low(middle, size)
    rect: QRectF = canvas.rect_of(low, size, size)
    painter = canvas.painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(canvas.palette.paper), 4))
    painter.drawRect(rect)
    painter.setPen(QPen(colour(canvas.palette.ink), 2))
    painter.drawRect(rect)
