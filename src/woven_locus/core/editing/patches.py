"""Changes of recorded layers: a block of one, or all of one that may be missing."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing.change import Boxes, Change
from woven_locus.core.geometry import Box, Cell, places_of
from woven_locus.core.layers import layer as layer_row
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value


class _OfLayer(Change):
    """A change of a recorded layer: what follows from it is in the layer's row."""

    __slots__ = ()

    @property
    def dirties_cells(self) -> bool:
        return layer_row(self.layer).dirties_cells

    @property
    def dirties_network(self) -> bool:
        return layer_row(self.layer).dirties_network


class Patch(_OfLayer, Value):
    """A block of one layer. before, after : (box rows, box cols), the layer's dtype."""

    layer: str
    box: Box
    before: npt.NDArray[Any]
    after: npt.NDArray[Any]

    @classmethod
    def of_cells(cls, plan: Plan, layer: str, cells: Iterable[Cell], code: int) -> Patch | None:
        """Set `code` on the cells (those outside the grid are passed over). None if nothing
        would change."""
        slots, _inside = _slots_of(plan, list(cells))
        box = Box.around_slots(slots)
        mask = np.zeros(box.shape, bool)
        mask[slots[:, 0] - box.r0, slots[:, 1] - box.c0] = True
        return cls.of_mask(plan, layer, box, mask, code)

    @classmethod
    def of_values(cls, plan: Plan, layer: str, values: Mapping[Cell, int]) -> Patch | None:
        """Set a value of its own on each cell (those outside the grid are passed over). None if nothing
        would change."""
        slots, inside = _slots_of(plan, values)
        box = Box.around_slots(slots)
        after = getattr(plan, layer)[box.slices].copy()
        after[slots[:, 0] - box.r0, slots[:, 1] - box.c0] = np.array(list(values.values()))[inside]
        return cls.of_block(plan, layer, box, after)

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
        same = layer_row(layer).same(before, after)
        return None if same.all() else cls(layer, box, before, after)

    def write(self, plan: Plan, undo: bool) -> Boxes:
        getattr(plan, self.layer)[self.box.slices] = self.before if undo else self.after
        return (self.box,)


class LayerChange(_OfLayer, Value, eq=False):
    """All of a layer that may be missing at once; None is a plan without it. The arrays are taken over:
    later patches write to them, and are undone before this is."""

    layer: str
    before: npt.NDArray[Any] | None
    after: npt.NDArray[Any] | None

    def write(self, plan: Plan, undo: bool) -> Boxes:
        setattr(plan, self.layer, self.before if undo else self.after)
        return (plan.spec.box,)


def _slots_of(
    plan: Plan, cells: Collection[Cell]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.bool_]]:
    """(N, 2) rows and columns of the cells that lie on the grid, and which of all do."""
    slots = (places_of(cells) - plan.spec.first)[:, ::-1]
    inside: npt.NDArray[np.bool_] = np.all((slots >= 0) & (slots < plan.spec.shape), axis=1)
    return slots[inside], inside
