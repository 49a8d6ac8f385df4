"""An edit is a value: what stood there before and what stands there after."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import NOWHERE, Box, Cell
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure


@dataclass(frozen=True, slots=True)
class Patch:
    """A block of one byte layer. before, after : (box rows, box cols) uint8."""

    layer: str
    box: Box
    before: npt.NDArray[np.uint8]
    after: npt.NDArray[np.uint8]

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
        part = Box(inside.r0 - box.r0, inside.c0 - box.c0, inside.r1 - box.r0, inside.c1 - box.c0)
        before = getattr(plan, layer)[inside.slices].copy()
        after = before.copy()
        after[mask[part.slices]] = code
        return None if np.array_equal(before, after) else cls(layer, inside, before, after)

    def write(self, plan: Plan, undo: bool) -> tuple[Box, ...]:
        getattr(plan, self.layer)[self.box.slices] = self.before if undo else self.after
        return (self.box,)


@dataclass(frozen=True, slots=True)
class StructureChange:
    """One row of the register: None before is a placement, None after a demolition."""

    before: Structure | None
    after: Structure | None

    @property
    def number(self) -> int:
        row = self.before or self.after
        assert row is not None
        return row.number

    def write(self, plan: Plan, undo: bool) -> tuple[Box, ...]:
        old, new = (self.after, self.before) if undo else (self.before, self.after)
        boxes = []
        if old is not None:
            self._stand(plan, old, 0)
            boxes.append(plan.box_of(old))
            if new is None:
                plan.register.drop(old.number)
        if new is not None:
            self._stand(plan, new, new.number)
            boxes.append(plan.box_of(new))
            plan.register.put(new)
        # A number is taken by its placement and given back only by the placement's own undo.
        if self.before is None:
            plan.register.next_number = self.number + (0 if undo else 1)
        return tuple(boxes)

    @staticmethod
    def _stand(plan: Plan, structure: Structure, who: int) -> None:
        for cell in plan.cells_of(structure):
            plan.occupant[plan.spec.slot(cell)] = who


Change = Patch | StructureChange


@dataclass(frozen=True, slots=True)
class Notice:
    """What an edit touched; every view and cache follows from this.

    boxes : blocks of slots to look at again.  layers : names of byte layers that changed.
    structures : numbers whose register row changed.  label : the edit, in words.
    """

    boxes: tuple[Box, ...]
    layers: frozenset[str]
    structures: frozenset[int]
    label: str

    def touches(self, box: Box) -> bool:
        return any(box.touches(mine) for mine in self.boxes)


@dataclass(frozen=True, slots=True)
class Edit:
    """A step of the history: changes that are done together, and their name in words."""

    label: str
    changes: tuple[Change, ...]

    def apply(self, plan: Plan, *, undo: bool = False) -> Notice:
        """Write to the plan. Only `History` calls this."""
        boxes: list[Box] = []
        layers: set[str] = set()
        structures: set[int] = set()
        for change in reversed(self.changes) if undo else self.changes:
            mine = [box for box in change.write(plan, undo) if box != NOWHERE]
            boxes += mine
            if isinstance(change, Patch):
                layers.add(change.layer)
            else:
                structures.add(change.number)
        for box in dict.fromkeys(boxes):
            plan.refresh(box, "road" in layers)
        return Notice(
            tuple(dict.fromkeys(boxes)), frozenset(layers), frozenset(structures), self.label
        )
