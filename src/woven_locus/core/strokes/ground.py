"""Strokes of Ground: brushes that act as they go, and shapes that are shown before they act."""

from __future__ import annotations

import numpy as np

from woven_locus.core.editing import History
from woven_locus.core.edits import ground, heights, obstacles
from woven_locus.core.edits.ground import Coat, Mask
from woven_locus.core.edits.heights import Sculpt
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.lines import (
    Brush,
    held_to_axis,
    rectangle,
    squared,
    staircase,
    swept,
)
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.strokes.base import Stroke


class PaintStroke(Stroke):
    """A coat under a brush."""

    def __init__(self, plan: Plan, history: History, coat: Coat, brush: Brush) -> None:
        super().__init__(plan, history)
        self.coat, self.brush = coat, brush
        self.label = phrase("Painted {coat}", coat=coat.name(plan))

    def _touch(self, cells: list[Cell]) -> None:
        self.history.do(ground.paint_brush(self.plan, cells, self.brush, self.coat))


class SculptStroke(Stroke):
    """Heights under a brush. However often it passes over a cell, one stroke changes it once; to level
    is to bring it to the height at which the stroke began."""

    def __init__(
        self, plan: Plan, history: History, how: Sculpt, amount: float, brush: Brush
    ) -> None:
        super().__init__(plan, history)
        self.how, self.amount, self.brush = how, amount, brush
        self.label = heights.sculpt_label(how)
        self._done: Mask = np.zeros(plan.spec.shape, bool)

    def start(self, cell: Cell) -> None:
        begun = self.plan.heights is None
        self.history.begin(self.label)
        if begun:
            self.history.do(heights.set_heights(self.plan, heights.flat(self.plan), self.label))
        assert self.plan.heights is not None
        if self.how is Sculpt.LEVEL and self.plan.spec.contains(cell):
            here = float(self.plan.heights[self.plan.spec.slot(cell)])
            # Where the height is not known, the one that was asked for.
            self.amount = self.amount if np.isnan(here) else here
        self._last = cell
        self._touch([cell])

    def _touch(self, cells: list[Cell]) -> None:
        box, mask = swept([self.plan.spec.slot(cell) for cell in cells], self.brush)
        inside = box.clipped(self.plan.spec.shape)
        if inside.empty:
            return
        part = mask[inside.seen_from(box).slices]
        fresh = part & ~self._done[inside.slices]
        self._done[inside.slices] |= part
        self.history.do(heights.sculpt(self.plan, self.how, inside, fresh, self.amount))


class ShapeStroke(Stroke):
    """A shape from the press to the pointer. Nothing changes before `finish`: `cover` says what would.

    held : keeps a line to one axis, and makes a rectangle a square.
    """

    def __init__(self, plan: Plan, history: History) -> None:
        super().__init__(plan, history)
        self._from = self._to = Cell(0, 0)

    def start(self, cell: Cell) -> None:
        self._from = self._to = cell

    def to(self, cell: Cell, held: bool = False) -> None:
        self._to = self._held(cell) if held else cell

    def cancel(self) -> None:
        self._to = self._from

    def finish(self) -> None:
        self._act()

    @property
    def ends(self) -> tuple[Cell, Cell]:
        """The two cells that the shape is drawn between, or None."""
        return self._from, self._to

    def cover(self) -> tuple[Box, Mask]:
        """The slots that would change: a box, perhaps beyond the grid, and a mask of its shape."""
        raise NotImplementedError

    def _held(self, cell: Cell) -> Cell:
        return squared(self._from, cell)

    def _act(self) -> None:
        raise NotImplementedError


class BrushLineStroke(ShapeStroke):
    """A straight line of a brush."""

    def __init__(self, plan: Plan, history: History, coat: Coat, brush: Brush) -> None:
        super().__init__(plan, history)
        self.coat, self.brush = coat, brush

    def _held(self, cell: Cell) -> Cell:
        return held_to_axis(self._from, cell)

    def cover(self) -> tuple[Box, Mask]:
        """The cells that it would change: a box and a mask of its shape."""
        cells = staircase(self._from, self._to)
        return swept([self.plan.spec.slot(cell) for cell in cells], self.brush)

    def _act(self) -> None:
        label = phrase("Painted a line of {coat}", coat=self.coat.name(self.plan))
        self.history.do(ground.paint(self.plan, self.coat, *self.cover(), label))


class BoxStroke(ShapeStroke):
    """A full rectangle of a coat."""

    def __init__(self, plan: Plan, history: History, coat: Coat) -> None:
        super().__init__(plan, history)
        self.coat = coat

    @property
    def box(self) -> Box:
        """The rectangle, in slots, perhaps beyond the grid."""
        return rectangle(self.plan.spec.slot(self._from), self.plan.spec.slot(self._to))

    def cover(self) -> tuple[Box, Mask]:
        """The cells that it would change: a box and a mask of its shape."""
        return self.box, np.ones(self.box.shape, bool)

    def _act(self) -> None:
        self.history.do(ground.paint_box(self.plan, self.box, self.coat))


class ClearStroke(BoxStroke):
    """Clears the obstacles in a rectangle."""

    def __init__(self, plan: Plan, history: History) -> None:
        super().__init__(plan, history, Coat("reserved", 0))
        self.cleared = 0

    def _act(self) -> None:
        numbers = obstacles.obstacles_in(self.plan, self.box)
        self.cleared = len(numbers)
        self.history.do(obstacles.clear_obstacles(self.plan, numbers))


class ProfileStroke(ShapeStroke):
    """A line along which heights are read. It changes nothing."""

    def _held(self, cell: Cell) -> Cell:
        return held_to_axis(self._from, cell)

    def cover(self) -> tuple[Box, Mask]:
        """The cells along the line: a box and a mask of its shape."""
        return Box(0, 0, 0, 0), np.zeros((0, 0), bool)

    def _act(self) -> None:
        """Reading is all."""
