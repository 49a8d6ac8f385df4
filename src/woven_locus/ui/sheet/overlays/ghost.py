"""What the pointer would do: the ghost with its marks, the cells of a stroke, the road proposed."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPen

from woven_locus.core.edits.blocks import rows_at
from woven_locus.core.geometry import SIDES, Cell
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.hand import BlockGhost, Ghost
from woven_locus.ui.session.stages import GroundTool, Stage
from woven_locus.ui.sheet.overlays import ground, marks
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour
from woven_locus.ui.tools.base import Tool


def draw(canvas: Canvas, tool: Tool) -> None:
    session = canvas.session
    verdict = tool.marks()
    if session.hand.ghost is not None:
        _reach(canvas, session.hand.ghost)
    if session.hand.ghost is not None and verdict is None:
        _near(canvas, session.hand.ghost)
        _ghost(canvas, session.hand.ghost)
        return
    if session.hand.block_ghost is not None:
        _block(canvas, session.hand.block_ghost)
    if verdict is not None:
        marks.draw_cells(canvas, verdict.cells)
        return
    covered = tool.cover()
    if covered is not None:
        ground.cover(canvas, covered, _dye(canvas))


def _dye(canvas: Canvas) -> str:
    """What a stroke of Ground would leave there."""
    chosen, plan = canvas.session.choices.ground, canvas.session.plan
    if canvas.session.choices.stage is not Stage.GROUND:
        return canvas.palette.woad
    if chosen.tool in (GroundTool.SCULPT, GroundTool.PROFILE):
        return canvas.palette.weld
    if chosen.tool is GroundTool.CLEAR:
        return canvas.palette.madder
    if chosen.coat.layer == "terrain":
        return plan.terrain_table[chosen.coat.code].dye
    return canvas.palette.heather if chosen.coat.code else canvas.palette.paper


def _ghost(canvas: Canvas, ghost: Ghost) -> None:
    painter = canvas.painter
    footprint = canvas.session.plan.footprint(ghost.kind, ghost.turn)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(ghost.kind.dye, 130))
    for cell in footprint.at(ghost.cell):
        painter.drawRect(canvas.rect_of(cell))
    marks.draw_cells(canvas, ghost.verdict.cells)
    _doors(canvas, ghost)


def _reach(canvas: Canvas, ghost: Ghost) -> None:
    """The actor, and how far the kind in hand may be from it."""
    actor, reach = canvas.session.plan.actor, ghost.kind.demands.reach
    if actor is None or reach is None:
        return
    painter, palette, spec = canvas.painter, canvas.palette, canvas.camera.spec
    at = QPointF(canvas.camera.x_of(actor.x), canvas.camera.y_of(actor.y))
    wide = reach / spec.cell_w * canvas.camera.ppc_x
    tall = reach / spec.cell_h * canvas.camera.ppc_y
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for width, dye in ((4.0, palette.paper), (1.8, palette.heather)):
        painter.setPen(QPen(colour(dye), width, Qt.PenStyle.DashLine))
        painter.drawEllipse(at, wide, tall)
    painter.setPen(QPen(colour(palette.paper), 1.5))
    painter.setBrush(colour(palette.heather))
    painter.drawEllipse(at, 6, 6)


def _near(canvas: Canvas, ghost: Ghost) -> None:
    """The nearest spot where a refused ghost may stand: an outline, and a thread that leads there."""
    spot = canvas.session.hand.near()
    if spot is None:
        return
    painter, palette = canvas.painter, canvas.palette
    footprint = canvas.session.plan.footprint(ghost.kind, ghost.turn)
    there = canvas.rect_of(spot, footprint.cols, footprint.rows)
    here = canvas.rect_of(ghost.cell, footprint.cols, footprint.rows)
    for width, dye in ((4.0, palette.paper), (2.0, palette.indigo)):
        pen = QPen(colour(dye), width)
        if width < 3:
            pen.setDashPattern([2, 2])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(here.center(), there.center())
        for c, r in footprint.cells:
            painter.drawRect(canvas.rect_of(spot.moved(c, r)))


def _block(canvas: Canvas, ghost: BlockGhost) -> None:
    """The outline of a block in hand, and its structures in their dyes."""
    painter, plan = canvas.painter, canvas.session.plan
    painter.setPen(Qt.PenStyle.NoPen)
    by_kind: dict[str, list[Cell]] = {}
    for row in rows_at(plan, ghost.block, ghost.cell, ""):
        by_kind.setdefault(row.kind, []).extend(plan.cells_of(row))
    for key, cells in by_kind.items():
        painter.setBrush(colour(plan.kinds[key].dye, 130))
        drawing.rects(painter, canvas.many_in_sight(cells))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(canvas.palette.ink), 1.5, Qt.PenStyle.DashLine))
    painter.drawRect(canvas.rect_of(ghost.cell, ghost.block.cols, ghost.block.rows))


def _doors(canvas: Canvas, ghost: Ghost) -> None:
    """An arrow out of each door."""
    painter, camera = canvas.painter, canvas.camera
    painter.setBrush(colour(canvas.palette.ink))
    painter.setPen(QPen(colour(canvas.palette.paper), 1))
    size = max(3.0, canvas.cell_px * 0.2)
    # As it is drawn, from its top left corner on.
    footprint = ghost.kind.footprint.turned(ghost.turn)
    corner = canvas.rect_of(ghost.cell, footprint.cols, footprint.rows).topLeft()
    for door in footprint.doors:
        x = corner.x() + (door.col + 0.5) * camera.ppc_x
        y = corner.y() + (door.row + 0.5) * camera.ppc_y
        d_row, d_col = SIDES[door.side]
        edge = QPointF(x + d_col * camera.ppc_x * 0.5, y + d_row * camera.ppc_y * 0.5)
        tip = edge + QPointF(d_col * size, d_row * size)
        side = QPointF(-d_row * size, d_col * size)
        drawing.polygon(painter, [tip, edge + side, edge - side])
