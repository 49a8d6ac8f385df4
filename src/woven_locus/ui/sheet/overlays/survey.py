"""What Survey lays over the map: art at its true scale, the actor and the cells ahead of it, and the
places of a lattice."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPen

from woven_locus.core.geometry import Cell
from woven_locus.core.grid.art import Art, check
from woven_locus.core.grid.probe import Actor
from woven_locus.ui.parts import drawing
from woven_locus.ui.sheet.overlays.base import Canvas, lines_of
from woven_locus.ui.theme import colour

# Copies of the art, across and down.
COPIES = 4
# Pixels between marks of the lattice below which they would be a grey wash.
CLOSEST = 12


def lattice(canvas: Canvas) -> None:
    """A cross on each place that the rule can give, where it is coarser than the grid's own."""
    settings, camera = canvas.session.choices.snap, canvas.camera
    axes = settings.axes(camera.spec)
    spec = camera.spec
    own = (spec.cell_w, spec.cell_h)
    if all(math.isclose(axis.step, cell) for axis, cell in zip(axes, own, strict=True)):
        return
    spacing = min(
        axes[0].step / spec.cell_w * camera.ppc_x, axes[1].step / spec.cell_h * camera.ppc_y
    )
    if spacing < CLOSEST:
        return
    corners = camera.point_at(0, 0), camera.point_at(camera.width, camera.height)
    places = []
    for way, axis in enumerate(axes):
        # Only where the grid is: beyond it the lattice goes on, but nobody looks there.
        low = max(min(corner[way] for corner in corners), (spec.origin_x, spec.origin_y)[way])
        high = min(max(corner[way] for corner in corners), spec.high[way])
        first = math.ceil((low - axis.value(0)) / axis.step)
        last = math.floor((high - axis.value(0)) / axis.step)
        held = settings.holds[way]
        places.append(
            [held] if held is not None else [axis.value(k) for k in range(first, last + 1)]
        )
    arm = min(4.0, spacing / 6)
    xs = np.array([camera.x_of(x) for x in places[0]])
    ys = np.array([camera.y_of(y) for y in places[1]])
    x, y = (grid.ravel() for grid in np.meshgrid(xs, ys))
    across = np.stack([x - arm, y, x + arm, y], axis=1)
    lines = lines_of(np.concatenate([across, np.stack([x, y - arm, x, y + arm], axis=1)]))
    if lines is None:
        return
    painter = canvas.painter
    painter.setRenderHint(painter.RenderHint.Antialiasing, False)
    painter.setPen(QPen(colour(canvas.palette.madder), 1))
    painter.drawLines(lines)
    painter.setRenderHint(painter.RenderHint.Antialiasing, True)


def art(canvas: Canvas, shown: Art) -> None:
    """Copies of a picture side by side, each with its low corner on the corner of its cells: gaps are
    left open with a hatch, overlaps are hatched across."""
    session, camera, painter, palette = (
        canvas.session,
        canvas.camera,
        canvas.painter,
        canvas.palette,
    )
    spec = camera.spec
    hover = session.pointer.hover
    if hover is not None:
        middle = hover.cell
    else:
        box = camera.visible()
        middle = spec.cell_of_slot(((box.r0 + box.r1) // 2, (box.c0 + box.c1) // 2))
    # On the lattice of blocks, so that the copies do not slide with the pointer.
    low = Cell(
        spec.first_col + (middle.col - spec.first_col) // shown.cols * shown.cols,
        spec.first_row + (middle.row - spec.first_row) // shown.rows * shown.rows,
    )
    scale_x, scale_y = camera.ppc_x / spec.cell_w, camera.ppc_y / spec.cell_h
    wide, tall = shown.size[0] * scale_x, shown.size[1] * scale_y
    first = low.moved(-(COPIES // 2) * shown.cols, -(COPIES // 2) * shown.rows)
    places = [
        canvas.rect_of(first.moved(c * shown.cols, r * shown.rows), shown.cols, shown.rows)
        for r in range(COPIES)
        for c in range(COPIES)
    ]
    for block in places:
        painter.fillRect(block, colour(palette.paper, 150))
        painter.fillRect(block, QBrush(colour(palette.madder, 150), Qt.BrushStyle.Dense6Pattern))
    rects = []
    for block in places:
        y = block.bottom() - tall if spec.y_up else block.top()
        rects.append(QRectF(block.left(), y, wide, tall))
    for rect in rects:
        painter.fillRect(rect, colour(palette.woad, 150))
        painter.setPen(QPen(colour(palette.indigo), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)
    over = check(spec, shown)
    if over[0].over > 0 or over[1].over > 0:
        for at, rect in enumerate(rects):
            for other in rects[at + 1 :]:
                both = rect.intersected(other)
                if not both.isEmpty():
                    painter.fillRect(
                        both, QBrush(colour(palette.madder), Qt.BrushStyle.DiagCrossPattern)
                    )
    painter.setPen(QPen(colour(palette.ink), 1, Qt.PenStyle.DashLine))
    for block in places:
        painter.drawRect(block)


def actor(canvas: Canvas, shown: Actor) -> None:
    """The actor as a disc with a beak, its reach as a line, and the place that it addresses."""
    camera, painter, palette = canvas.camera, canvas.painter, canvas.palette
    at = QPointF(camera.x_of(shown.at.x), camera.y_of(shown.at.y))
    target = QPointF(camera.x_of(shown.target.x), camera.y_of(shown.target.y))
    cells = shown.cells(camera.spec)
    low = cells[0]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    rect = canvas.rect_of(low, shown.cols, shown.rows)
    for width, dye in ((4.5, palette.paper), (2.5, palette.ink)):
        painter.setPen(QPen(colour(dye), width))
        painter.drawRect(rect)
    for width, dye in ((4.0, palette.paper), (1.8, palette.madder)):
        painter.setPen(QPen(colour(dye), width))
        painter.drawLine(at, target)
    painter.drawEllipse(target, 4, 4)
    size = max(7.0, min(14.0, canvas.cell_px * 0.3))
    ahead_x, ahead_y = shown.ahead
    ahead_y *= camera.row_way
    ahead = QPointF(ahead_x * size, ahead_y * size)
    side = QPointF(-ahead.y(), ahead.x())
    painter.setPen(QPen(colour(palette.paper), 2))
    painter.setBrush(colour(palette.madder))
    drawing.polygon(
        painter, [at + ahead * 1.9, at + side * 0.8 + ahead * 0.4, at - side * 0.8 + ahead * 0.4]
    )
    painter.drawEllipse(at, size, size)
    painter.setBrush(colour(palette.paper))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(at, size * 0.35, size * 0.35)
