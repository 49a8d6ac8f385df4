"""What a rule of a kind is asked: one spot, or a block of spots at once; and what a rule is."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.kinds import Footprint, Kind
from woven_locus.core.kinds.footprint import Off
from woven_locus.core.placing.shifts import any_over, count_over, reach_of, wide_of
from woven_locus.core.placing.verdict import Remark
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value, field


class Ask(NamedTuple):
    """One question. footprint : as it lies on the plan.  row, col : the low cell's slot.
    lifted : number of a structure that is taken as gone, or 0."""

    plan: Plan
    kind: Kind
    cell: Cell
    turn: int
    footprint: Footprint
    row: int
    col: int
    lifted: int = 0

    def inside(self, row: int, col: int) -> bool:
        """Whether the grid has a slot."""
        shape = self.plan.blocks.shape
        return bool(0 <= row < shape[0] and 0 <= col < shape[1])


class Spots(Value):
    """Many questions: every low slot of a block, for one kind and turn."""

    plan: Plan
    kind: Kind
    turn: int
    footprint: Footprint
    box: Box
    lifted: int = 0
    # Masks of cells are the same in every turn: kept by rule while one block is worked on.
    shared: dict[Reason, Mask] = field(default_factory=dict)

    def any_cell(self, reason: Reason, mask: Callable[[Box], Mask]) -> Mask:
        """Where a mask is set under any cell of the footprint; the mask is worked out once for all turns
        that share this."""
        offs = self.footprint.cells
        side = max(self.footprint.cols, self.footprint.rows) - 1
        known = self.shared.get(reason)
        if known is None:
            wide = Box(self.box.r0, self.box.c0, self.box.r1 + side, self.box.c1 + side)
            known = np.zeros(wide.shape, bool)
            inside = wide.clipped(self.plan.blocks.shape)
            if not inside.empty:
                known[inside.seen_from(wide).slices] = mask(inside)
            self.shared[reason] = known
        return any_over(known, reach_of(offs), self.box.shape, offs)

    def around(
        self, offs: tuple[Off, ...], mask: Callable[[Box], Mask], fill: bool = False
    ) -> tuple[Mask, Box]:
        """A mask of all slots that the offsets reach from these spots (`fill` beyond the grid), and the
        reach."""
        reach = reach_of(offs)
        wide = wide_of(self.box, reach)
        inside = wide.clipped(self.plan.blocks.shape)
        out = np.full(wide.shape, fill)
        if not inside.empty:
            out[inside.seen_from(wide).slices] = mask(inside)
        return out, reach

    def any(self, offs: tuple[Off, ...], mask: Callable[[Box], Mask]) -> Mask:
        """Where a mask is set on any cell that the offsets reach."""
        around, reach = self.around(offs, mask)
        return any_over(around, reach, self.box.shape, offs)

    def at_least(self, least: int, offs: tuple[Off, ...], mask: Callable[[Box], Mask]) -> Mask:
        """Where a mask is set on at least so many cells that the offsets reach."""
        if least == 1:
            return self.any(offs, mask)
        around, reach = self.around(offs, mask)
        return np.asarray(count_over(around, reach, self.box.shape, offs) >= least)


class KindRule(Value):
    """reason : its code.  title : what it asks, in words.  asked : whether a kind has it.
    check : what it says to one spot, None when it is content.  spots : (block) bool, True where it
    refuses; None for a rule that says the same everywhere."""

    reason: Reason
    title: Callable[[Plan, Kind], str]
    asked: Callable[[Plan, Kind], bool]
    check: Callable[[Ask], Remark | None]
    spots: Callable[[Spots], Mask] | None
