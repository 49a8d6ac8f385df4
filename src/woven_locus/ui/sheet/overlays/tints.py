"""What Ways lays over whole cells: groups, travel time, load, a search explained. Only what is in sight is
coloured, a sample of it when cells are smaller than pixels.

Classes differ in lightness first, and carry a letter or a number where there is room for one.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar
from weakref import ReferenceType, ref

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QImage, QPen

from woven_locus.core.geometry import Box
from woven_locus.core.lines import turns
from woven_locus.core.render.palette import mix, rgb
from woven_locus.core.routing.explain import Explained
from woven_locus.core.routing.reach import bands
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import Stage, WaysOverlay
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.theme import colour, number_font

Codes = npt.NDArray[np.uint8]
Made = TypeVar("Made")
Slices = tuple[slice, slice]

BANDS = 8
# Cells looked at for one of the screen, along each axis.
_LOOKS = 4
MOST_TEXTS = 600
OPEN_CODE = BANDS + 1
GROUP_DYES = ("#2F4B7C", "#A5383F", "#C99A1E", "#7C8A5A", "#8A6A93", "#5C4636", "#5B86A8")


def ramp(dark: bool) -> list[tuple[int, int, int]]:
    """The colours of bands 1 to BANDS, from light to dark (in the dark theme the other way round)."""
    light, deep = ("#F2D98A", "#3A2150") if not dark else ("#4A3D63", "#FBEFC4")
    middle = "#B5613F" if not dark else "#C08A5A"
    found: list[tuple[int, int, int]] = []
    for k in range(BANDS):
        at = k / (BANDS - 1) * 2
        two = mix(rgb(light), rgb(middle), at) if at <= 1 else mix(rgb(middle), rgb(deep), at - 1)
        red, green, blue = (round(part) for part in two)
        found.append((red, green, blue))
    return found


def draw(canvas: Canvas) -> None:
    session = canvas.session
    if session.choices.stage is not Stage.WAYS:
        return
    study, search = canvas.desk.study, canvas.desk.search
    if search.explained is not None:
        _explained(canvas, search.explained)
        return
    shown = session.choices.ways.shown
    if shown is WaysOverlay.GROUPS:
        _groups(canvas)
    elif shown is WaysOverlay.TIME and study.times is not None:
        _times(canvas, study.times)
    elif shown is WaysOverlay.LOAD and study.load is not None:
        _load(canvas, study.load.cells, study.load.most)


# (answer, view of it, codes) of the tint that was drawn last.
_last: list[tuple[ReferenceType[Any], object, Any]] = []


def kept(of: npt.NDArray[Any], view: object, make: Callable[[], Made]) -> Made:
    """What is made of an array of an answer, which never changes; the same as in the frame before when the
    answer and the view of it are the same."""
    if _last and _last[0][0]() is of and _last[0][1] == view:
        found: Made = _last[0][2]
        return found
    made = make()
    _last[:] = [(ref(of), view, made)]
    return made


class Sample:
    """The cells in sight, every `skip`th of them. codes are (rows, cols) of the sample.

    within : the block outside of which there is nothing to show."""

    def __init__(self, canvas: Canvas, within: Box | None = None) -> None:
        self.canvas = canvas
        sight = canvas.camera.visible()
        self.box = sight if within is None else sight.common(within)
        self.skip = max(1, int(1 / max(canvas.cell_px, 1e-6)))
        self.view = (self.box, self.skip)

    def of(self, layer: npt.NDArray[np.generic]) -> npt.NDArray[np.generic]:
        """A layer of the plan's shape at the sample."""
        box = self.box
        return layer[box.r0 : box.r1 : self.skip, box.c0 : box.c1 : self.skip]

    def most(self, layer: npt.NDArray[np.generic]) -> npt.NDArray[np.generic]:
        """The largest of a few cells in each place of the sample, so that thin lines are not lost."""
        return self.most_of(lambda at: layer[at])

    def most_of(self, look: Callable[[Slices], npt.NDArray[Any]]) -> npt.NDArray[Any]:
        """As `most`, of what `look` says of a part of the plan."""
        box, skip = self.box, self.skip
        best = look((slice(box.r0, box.r1, skip), slice(box.c0, box.c1, skip))).copy()
        every = max(1, skip // _LOOKS)
        for r in range(0, skip, every):
            for c in range(0, skip, every):
                part = look((slice(box.r0 + r, box.r1, skip), slice(box.c0 + c, box.c1, skip)))
                held = best[: part.shape[0], : part.shape[1]]
                np.maximum(held, part, out=held)
        return best

    def paint(self, codes: Codes, colours: list[tuple[int, int, int]], alpha: int) -> None:
        """Codes from 1 on as colours, 0 as nothing."""
        table = np.zeros(256, np.uint32)
        for code, (red, green, blue) in enumerate(colours, 1):
            table[code] = alpha << 24 | red << 16 | green << 8 | blue
        pixels = np.ascontiguousarray(table[codes[::-1] if self._up else codes])
        tall, wide = pixels.shape
        if not tall or not wide:
            return
        image = QImage(pixels.data, wide, tall, 4 * wide, QImage.Format.Format_ARGB32)  # type: ignore[call-overload]
        camera = self.canvas.camera
        first = camera.spec.cell_of_slot((self.box.r0, self.box.c0))
        x, y = camera.corner_of(first, tall * self.skip)
        rect = QRectF(x, y, wide * self.skip * camera.ppc_x, tall * self.skip * camera.ppc_y)
        self.canvas.painter.drawImage(rect, image)

    @property
    def _up(self) -> bool:
        return self.canvas.camera.spec.y_up

    def write(self, texts: npt.NDArray[np.bool_], word_at: object) -> None:
        """A word in the middle of the cells of a mask of the sample; word_at(row, col of the plan)."""
        canvas = self.canvas
        if self.skip > 1 or canvas.cell_px < 14 or int(texts.sum()) > MOST_TEXTS:
            return
        painter = canvas.painter
        font = QFont(number_font(8))  # shared: not to be changed
        font.setPixelSize(int(min(13, canvas.cell_px * 0.42)))
        font.setBold(True)
        painter.setFont(font)
        for row, col in np.argwhere(texts).tolist():
            slot = (row + self.box.r0, col + self.box.c0)
            rect = canvas.rect_of(canvas.camera.spec.cell_of_slot(slot))
            text = word_at(*slot)  # type: ignore[operator]
            for dx, dy in ((-1, 0), (1, 0), (0, -1), (0, 1)):
                painter.setPen(colour("#FBF7EF"))
                painter.drawText(rect.translated(dx, dy), Qt.AlignmentFlag.AlignCenter, text)
            painter.setPen(colour("#2B2A33"))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)


def _times(canvas: Canvas, times: npt.NDArray[np.float64]) -> None:
    sample = Sample(canvas)
    band = canvas.session.choices.ways.band
    codes = kept(
        times,
        (sample.view, band),
        lambda: bands(np.asarray(sample.of(times), np.float64), band, BANDS),
    )
    sample.paint(codes, ramp(canvas.palette.dark), 185)
    places = np.add.outer(np.arange(codes.shape[0]), np.arange(codes.shape[1]))
    every = (places + sample.box.r0 + sample.box.c0) % 4 == 0
    sample.write(every & (codes > 0), lambda r, c: f"{times[r, c]:.0f}")


def _load(canvas: Canvas, load: npt.NDArray[np.float64], most: float) -> None:
    if most <= 0:
        return
    sample = Sample(canvas)

    def made() -> Codes:
        seen = np.asarray(sample.most(load), np.float64)
        # Loads differ by orders of magnitude: bands are equal steps of the logarithm.
        with np.errstate(divide="ignore"):
            share = np.log1p(seen) / np.log1p(most)
        band = np.minimum(np.floor(share * BANDS), BANDS - 1) + 1
        return np.where(seen > 0, band, 0).astype(np.uint8)

    codes = kept(load, sample.view, made)
    sample.paint(codes, ramp(canvas.palette.dark), 225)
    sample.write(codes > 0, lambda r, c: f"{load[r, c]:g}")


def _groups(canvas: Canvas) -> None:
    network = canvas.session.plan.network
    sample = Sample(canvas)
    box, cols = sample.box, canvas.camera.spec.cols
    road = np.asarray(sample.most(canvas.session.plan.road)) > 0
    rows_at = np.arange(box.r0, box.r1, sample.skip)[:, None] * cols
    slots = rows_at + np.arange(box.c0, box.c1, sample.skip)
    groups = np.zeros(road.shape, np.int64)
    groups[road] = network.groups_at(slots[road])
    # A coarse sample may have met the road a cell off.
    codes = np.where(groups > 0, groups % len(GROUP_DYES) + 1, 0).astype(np.uint8)
    dyes = [tuple(int(part) for part in rgb(dye)) for dye in GROUP_DYES]
    sample.paint(codes, dyes, 200)  # type: ignore[arg-type]
    if sample.skip > 1 or canvas.cell_px < 12 or not network.has_graph:
        return
    nodes = network.graph.is_node(slots)
    sample.write(nodes, lambda r, c: letters(int(groups[r - box.r0, c - box.c0])))


def letters(group: int) -> str:
    """A group's number as letters: A, B … Z, AA."""
    text = ""
    while group > 0:
        group, at = divmod(group - 1, 26)
        text = chr(ord("A") + at) + text
    return text


def _explained(canvas: Canvas, said: Explained) -> None:
    search = canvas.desk.search
    sample = Sample(canvas, said.reached)
    step, top = search.step, said.highest or 1.0

    def rank(at: Slices) -> npt.NDArray[np.float64]:
        """Of closed cells, from just above 0 to 1; 0 of all others. `g` is only set where one was opened."""
        order = said.order[at]
        closed = (order > 0) & (order <= step)
        by = said.g[at] / top if search.by_cost else order / max(1, said.steps)
        return np.where(closed, np.maximum(by, 1e-9), 0.0)

    def made() -> tuple[Codes, npt.NDArray[np.bool_]]:
        ranks = sample.most_of(rank)
        seen = sample.most_of(lambda at: (said.opened[at] > 0) & (said.opened[at] <= step))
        band = np.minimum((ranks * BANDS).astype(np.uint8), BANDS - 1) + 1
        codes = np.where(ranks > 0, band, 0).astype(np.uint8)
        front = seen & (codes == 0)
        codes[front] = OPEN_CODE
        return codes, front

    codes, front = kept(said.order, (sample.view, step, search.by_cost), made)
    front_dye = rgb("#5B86A8")
    colours = [*ramp(canvas.palette.dark), tuple(int(part) for part in front_dye)]
    sample.paint(codes, colours, 190)  # type: ignore[arg-type]
    if sample.skip == 1 and canvas.cell_px >= 6 and int(front.sum()) <= 4 * MOST_TEXTS:
        _rings(canvas, sample, front)
    if search.step >= said.steps and len(said.slots):
        _path(canvas, said)


def _rings(canvas: Canvas, sample: Sample, front: npt.NDArray[np.bool_]) -> None:
    """Open cells carry a ring, so that they can be told from closed ones without colour."""
    painter = canvas.painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour("#FBF7EF"), 1.6))
    for row, col in np.argwhere(front).tolist():
        slot = (row + sample.box.r0, col + sample.box.c0)
        middle = canvas.camera.middle_of(canvas.camera.spec.cell_of_slot(slot))
        radius = canvas.cell_px * 0.24
        painter.drawEllipse(QPointF(*middle), radius, radius)


def _path(canvas: Canvas, said: Explained) -> None:
    """The path found, and the straight line that it is measured against."""
    painter, spec = canvas.painter, canvas.camera.spec
    slots = said.slots[turns(said.slots.astype(np.float64))]
    points = [QPointF(*canvas.camera.middle_of(spec.cell_of_slot(slot))) for slot in slots.tolist()]
    straight = QPen(colour(canvas.palette.ink), 1.5, Qt.PenStyle.DashLine)
    painter.setPen(QPen(colour(canvas.palette.paper), 3.5))
    painter.drawLine(points[0], points[-1])
    painter.setPen(straight)
    painter.drawLine(points[0], points[-1])
    for wide, dye in ((6.0, "#FBF7EF"), (3.0, "#2F4B7C")):
        painter.setPen(QPen(colour(dye), wide))
        drawing.polyline(painter, points)
