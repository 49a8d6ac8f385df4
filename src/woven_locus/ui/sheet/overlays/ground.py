"""What lies over the ground: contour lines, the buildable window, cells that a stroke would change,
the line of a profile."""

from __future__ import annotations

import math
import time
from typing import Any

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPen

from woven_locus.core.geometry import Box
from woven_locus.core.grid import BuildWindow
from woven_locus.core.ground.contours import contours, levels_of, nice_interval
from woven_locus.ui.parts import drawing
from woven_locus.ui.sheet.overlays.base import Canvas, lines_of
from woven_locus.ui.theme import colour
from woven_locus.ui.tools.base import Cover

# Contours are worked out from at most about so many heights a side; of more, every nth.
MOST_HEIGHTS = 240
# Lines that took longer than this are not made anew in every frame.
AT_ONCE_SECONDS = 0.006
# Row-runs of a mask that are drawn one by one.
MOST_RUNS = 4000


class Contours:
    """Contour lines around what is in sight, kept until one looks beyond them or the heights change."""

    def __init__(self) -> None:
        self._key: tuple[object, ...] = ()
        self._held = Box(0, 0, 0, 0)
        self._thin: Any = None
        self._thick: Any = None
        self._took = 0.0

    def draw(self, canvas: Canvas, patient: bool) -> bool:
        """Draw them; True when they are out of date and should be drawn again once it is quiet.

        patient : work them out now, however long it takes.
        """
        session, camera = canvas.session, canvas.camera
        plan, view = session.plan, session.choices.ground.view
        if plan.heights is None:
            return False
        key = (
            camera.step,
            camera.sharp,
            plan.spec,
            session.document.revision,
            view.lowest,
            view.highest,
        )
        seen = camera.visible()
        fresh = key == self._key and seen.union(self._held) == self._held
        # Lines that take long wait until the stroke or the zooming pauses, unless they would be
        # drawn at another zoom's size.
        if not fresh and (patient or self._took < AT_ONCE_SECONDS):
            start = time.perf_counter()
            self._key = key
            rows, cols = seen.shape
            more = max(2, max(rows, cols) // 4)
            self._held = seen.grown(more).clipped(plan.spec.shape)
            self._work_out(canvas)
            self._took = time.perf_counter() - start
            fresh = True
        if self._key[:2] != key[:2]:
            return not fresh
        painter = canvas.painter
        painter.save()
        painter.translate(-camera.left, -camera.top)
        for lines, width in ((self._thin, 1.0), (self._thick, 2.0)):
            painter.setPen(QPen(colour(canvas.palette.walnut), width))
            if lines is not None:
                painter.drawLines(lines)
        painter.restore()
        return not fresh

    def _work_out(self, canvas: Canvas) -> None:
        """The lines in pixels of the whole map at this zoom."""
        plan, camera, view = canvas.session.plan, canvas.camera, canvas.session.choices.ground.view
        self._thin = self._thick = None
        thin: list[np.ndarray] = []
        thick: list[np.ndarray] = []
        box = self._held
        if plan.heights is None or box.empty:
            return
        skip = max(1, math.ceil(max(box.shape) / MOST_HEIGHTS))
        part = plan.heights[box.r0 : box.r1 : skip, box.c0 : box.c1 : skip]
        known = part[~np.isnan(part)]
        if not known.size:
            return
        # One interval for the whole map, so that lines stay where they are while one looks around.
        interval = nice_interval(view.highest - view.lowest)
        spec = plan.spec
        levels = levels_of(float(known.min()), float(known.max()), interval)
        for level, ends in zip(levels.tolist(), contours(part, levels), strict=True):
            x = (box.c0 + (ends[:, ::2] - 0.5) * skip + 0.5) * camera.ppc_x
            y = box.r0 + (ends[:, 1::2] - 0.5) * skip + 0.5
            y = (spec.rows - y if spec.y_up else y) * camera.ppc_y
            fifth = round(level / interval) % 5 == 0
            (thick if fifth else thin).append(np.stack([x, y], -1).reshape(-1, 4))
        self._thin, self._thick = (
            lines_of(np.concatenate(parts) if parts else np.empty((0, 4)))
            for parts in (thin, thick)
        )


def window(canvas: Canvas, shown: BuildWindow) -> None:
    """The buildable window: outside it the map is dimmed and hatched."""
    painter, camera, palette = canvas.painter, canvas.camera, canvas.palette
    spec = camera.spec
    inner = canvas.rect_of(shown.low, shown.cols, shown.rows)
    whole = canvas.rect_of(spec.first, spec.cols, spec.rows)
    area = whole.intersected(QRectF(0, 0, camera.width, camera.height))
    cut = inner.intersected(area)
    painter.setPen(Qt.PenStyle.NoPen)
    if cut.isEmpty():
        around = [area]
    else:
        around = [
            QRectF(area.left(), area.top(), area.width(), cut.top() - area.top()),
            QRectF(area.left(), cut.bottom(), area.width(), area.bottom() - cut.bottom()),
            QRectF(area.left(), cut.top(), cut.left() - area.left(), cut.height()),
            QRectF(cut.right(), cut.top(), area.right() - cut.right(), cut.height()),
        ]
    for rect in around:
        painter.fillRect(rect, colour(palette.paper, 120))
        painter.fillRect(rect, QBrush(colour(palette.muted, 110), Qt.BrushStyle.BDiagPattern))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for width, dye in ((4.0, palette.paper), (2.0, palette.ink)):
        painter.setPen(QPen(colour(dye), width))
        painter.drawRect(inner)


def cover(canvas: Canvas, shown: Cover, dye: str) -> None:
    """Cells that would change: tinted, with the outline of the whole."""
    painter, camera, palette = canvas.painter, canvas.camera, canvas.palette
    box, mask = shown
    if box.empty:
        return
    screen = camera.spec.mirrored(box)
    mask = mask[::-1] if camera.spec.y_up else mask
    left, top = screen.c0 * camera.ppc_x - camera.left, screen.r0 * camera.ppc_y - camera.top
    tint = colour(dye, 120)
    painter.setRenderHint(painter.RenderHint.Antialiasing, False)
    edges: list[QLineF] = []
    rects = []
    if mask.all():
        rows, cols = mask.shape
        rect = QRectF(left, top, cols * camera.ppc_x, rows * camera.ppc_y)
        rects.append(rect)
        edges = _sides(rect)
    else:
        sight = camera.sight()
        part = Box(
            max(0, sight.r0 - screen.r0),
            max(0, sight.c0 - screen.c0),
            max(0, sight.r1 - screen.r0),
            max(0, sight.c1 - screen.c0),
        ).clipped(mask.shape)
        seen = mask[part.slices]
        x0, y0 = left + part.c0 * camera.ppc_x, top + part.r0 * camera.ppc_y
        rects, edges = _runs(seen, x0, y0, camera.ppc_x, camera.ppc_y)
    for rect in rects:
        painter.fillRect(rect, tint)
    for width, ink in ((3.0, palette.paper), (1.4, palette.ink)):
        painter.setPen(QPen(colour(ink), width))
        drawing.lines(painter, edges)
    painter.setRenderHint(painter.RenderHint.Antialiasing, True)


def _sides(rect: QRectF) -> list[QLineF]:
    a, b, c, d = rect.topLeft(), rect.topRight(), rect.bottomRight(), rect.bottomLeft()
    return [QLineF(a, b), QLineF(b, c), QLineF(c, d), QLineF(d, a)]


def _runs(
    mask: np.ndarray, x0: float, y0: float, wide: float, tall: float
) -> tuple[list[QRectF], list[QLineF]]:
    """Rows of a mask as rectangles, and the outline of it all. Past MOST_RUNS only the outline's box."""
    padded = np.pad(mask, 1)
    turns = np.diff(padded[1:-1].astype(np.int8), axis=1)
    rows, starts = np.nonzero(turns == 1)
    _rows, ends = np.nonzero(turns == -1)
    if len(rows) > MOST_RUNS:
        whole = QRectF(x0, y0, mask.shape[1] * wide, mask.shape[0] * tall)
        return [], _sides(whole)
    rects = [
        QRectF(x0 + a * wide, y0 + r * tall, (b - a) * wide, tall)
        for r, a, b in zip(rows.tolist(), starts.tolist(), ends.tolist(), strict=True)
    ]
    edges = [
        QLineF(x0 + c * wide, y0 + r * tall, x0 + c * wide, y0 + (r + 1) * tall)
        for r, c in np.argwhere(turns != 0).tolist()
    ]
    level = np.diff(padded[:, 1:-1].astype(np.int8), axis=0)
    edges += [
        QLineF(x0 + c * wide, y0 + r * tall, x0 + (c + 1) * wide, y0 + r * tall)
        for r, c in np.argwhere(level != 0).tolist()
    ]
    return rects, edges


def profile(canvas: Canvas) -> None:
    """The line along which heights are read, from a square to a disc."""
    if canvas.session.choices.profile is None:
        return
    painter, palette = canvas.painter, canvas.palette
    a, b = (QPointF(*canvas.camera.middle_of(cell)) for cell in canvas.session.choices.profile)
    for width, dye in ((5.0, palette.paper), (2.0, palette.madder)):
        painter.setPen(QPen(colour(dye), width))
        painter.drawLine(a, b)
    painter.setBrush(colour(palette.madder))
    painter.setPen(QPen(colour(palette.paper), 1.5))
    painter.drawRect(QRectF(a.x() - 5, a.y() - 5, 10, 10))
    painter.drawEllipse(b, 5.5, 5.5)
