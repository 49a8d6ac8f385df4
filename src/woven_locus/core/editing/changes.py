"""What an edit is made of: values that know what stood there before and what stands there after.

Each `write`s itself to a plan, forwards or backwards, and returns the blocks of slots that changed.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import BuildWindow
from woven_locus.core.ground import Obstacle, TerrainTable
from woven_locus.core.plan import Heights, Plan
from woven_locus.core.register import Structure

Boxes = tuple[Box, ...]
# Which derived layers a change asks for besides its own: see `Edit.apply`.
NO_LAYER = ""


@dataclass(frozen=True, slots=True)
class Patch:
    """A block of one layer. before, after : (box rows, box cols), the layer's dtype."""

    layer: str
    box: Box
    before: npt.NDArray[Any]
    after: npt.NDArray[Any]

    @classmethod
    def of_cells(cls, plan: Plan, layer: str, cells: Iterable[Cell], code: int) -> Patch | None:
        """Set `code` on the cells (those outside the grid are passed over). None if nothing
        would change."""
        slots = [plan.spec.slot(cell) for cell in cells if plan.spec.contains(cell)]
        box = Box.around(slots)
        mask = np.zeros(box.shape, bool)
        for row, col in slots:
            mask[row - box.r0, col - box.c0] = True
        return cls.of_mask(plan, layer, box, mask, code)

    @classmethod
    def of_mask(
        cls, plan: Plan, layer: str, box: Box, mask: npt.NDArray[np.bool_], code: int
    ) -> Patch | None:
        """Set `code` where a mask of the box's shape is True; what lies outside the grid is passed
        over. None if nothing would change."""
        inside = box.clipped(plan.spec.shape)
        if inside.empty:
            return None
        after = getattr(plan, layer)[inside.slices].copy()
        # Not by index: this lets other threads run meanwhile.
        np.copyto(after, after.dtype.type(code), where=mask[inside.seen_from(box).slices])
        return cls.of_block(plan, layer, inside, after)

    @classmethod
    def of_block(cls, plan: Plan, layer: str, box: Box, after: npt.NDArray[Any]) -> Patch | None:
        """Put a whole block in place of what is there. box : within the grid. `after` is taken over.
        None if nothing would change."""
        before = getattr(plan, layer)[box.slices].copy()
        after = np.ascontiguousarray(after, before.dtype)
        same = before == after
        if before.dtype.kind == "f":
            same |= np.isnan(before) & np.isnan(after)
        return None if same.all() else cls(layer, box, before, after)

    def write(self, plan: Plan, undo: bool) -> Boxes:
        getattr(plan, self.layer)[self.box.slices] = self.before if undo else self.after
        return (self.box,)


@dataclass(frozen=True, slots=True)
class StructureChange:
    """One row of the register: None before is a placement, None after a demolition."""

    before: Structure | None
    after: Structure | None

    layer = NO_LAYER

    @property
    def number(self) -> int:
        row = self.before or self.after
        assert row is not None
        return row.number

    def write(self, plan: Plan, undo: bool) -> Boxes:
        old, new = (self.after, self.before) if undo else (self.before, self.after)
        boxes = []
        if old is not None:
            _stand(plan, plan.cells_of(old), 0)
            boxes.append(plan.box_of(old))
            if new is None:
                plan.register.drop(old.number)
        if new is not None:
            _stand(plan, plan.cells_of(new), new.number)
            boxes.append(plan.box_of(new))
            plan.register.put(new)
        # A number is taken by its placement and given back only by the placement's own undo.
        if self.before is None:
            plan.register.next_number = self.number + (0 if undo else 1)
        return tuple(boxes)


@dataclass(frozen=True, slots=True)
class ObstaclesChange:
    """Obstacles that go and obstacles that come; thousands of them in a few array passes."""

    gone: tuple[Obstacle, ...]
    come: tuple[Obstacle, ...]

    layer = NO_LAYER

    def write(self, plan: Plan, undo: bool) -> Boxes:
        gone, come = (self.come, self.gone) if undo else (self.gone, self.come)
        for item in gone:
            del plan.obstacles[item.number]
        plan.put_obstacles(come)
        boxes = []
        for items, sign in ((gone, 0), (come, -1)):
            if not items:
                continue
            flat = (part for item in items for cell in item.cells for part in cell)
            cells = np.fromiter(flat, np.int64).reshape(-1, 2) - np.array(plan.spec.first)
            who = np.repeat(
                np.array([sign * item.number for item in items], np.int32),
                [len(item.cells) for item in items],
            )
            plan.occupant[cells[:, 1], cells[:, 0]] = who
            low, high = cells.min(axis=0).tolist(), cells.max(axis=0).tolist()
            boxes.append(Box(low[1], low[0], high[1] + 1, high[0] + 1))
        return tuple(boxes)


def _stand(plan: Plan, cells: Iterable[Cell], who: int) -> None:
    for cell in cells:
        plan.occupant[plan.spec.slot(cell)] = who


@dataclass(frozen=True, slots=True)
class WindowChange:
    """The buildable window; None is the whole terrain."""

    before: BuildWindow | None
    after: BuildWindow | None

    layer = "window"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        old, new = (self.after, self.before) if undo else (self.before, self.after)
        plan.window = new
        whole = plan.spec.box
        a = old.box(plan.spec) if old is not None else whole
        b = new.box(plan.spec) if new is not None else whole
        return tuple(_difference(a, b))


def _difference(a: Box, b: Box) -> list[Box]:
    """Boxes that hold every slot that is in one of two boxes but not in the other."""
    found = []
    for one, other in ((a, b), (b, a)):
        if one.empty:
            continue
        if other.empty or not one.touches(other):
            found.append(one)
            continue
        found += [
            Box(one.r0, one.c0, other.r0, one.c1),
            Box(other.r1, one.c0, one.r1, one.c1),
            Box(one.r0, one.c0, one.r1, other.c0),
            Box(one.r0, other.c1, one.r1, one.c1),
        ]
    return [box for box in found if not box.empty]


@dataclass(frozen=True, slots=True)
class TableChange:
    """The terrain classes. A class's code is its place in the table; what lies on the map under a code
    that changes its meaning is the business of a `Patch` beside it."""

    before: TerrainTable
    after: TerrainTable

    layer = "terrain"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.terrain_table = self.before if undo else self.after
        return (plan.spec.box,)


@dataclass(frozen=True, slots=True, eq=False)
class HeightsChange:
    """All heights at once; None is a plan without. The arrays are taken over: later patches write to
    them, and are undone before this is."""

    before: Heights | None
    after: Heights | None

    layer = "heights"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.heights = self.before if undo else self.after
        return (plan.spec.box,)
