"""Ends of a line that snap to a near road or door."""

from __future__ import annotations

from typing import NamedTuple

from woven_locus.core.geometry import SIDES, Box, Cell, cell_text
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan


class Caught(NamedTuple):
    """Where an end goes.  to : "" where it stays, else what it was caught by, in words."""

    cell: Cell
    to: str = ""


def caught(plan: Plan, cell: Cell, reach: int, what: str = "road") -> Caught:
    """The cell that an end snaps to: the nearest road (or barrier) or cell in front of a door within
    `reach` cells, 0 for none. Road goes before doors, then the lower row, then the lower column."""
    spec = plan.spec
    if reach <= 0 or not spec.contains(cell):
        return Caught(cell)
    row, col = spec.slot(cell)
    box = Box(row - reach, col - reach, row + reach + 1, col + reach + 1).clipped(spec.shape)
    layer = getattr(plan, what)[box.slices]
    best: tuple[int, int, int, int, str] | None = None
    for r, c in zip(*layer.nonzero(), strict=True):
        far = (int(r) + box.r0 - row) ** 2 + (int(c) + box.c0 - col) ** 2
        if far <= reach * reach:
            one = (far, 0, int(r) + box.r0, int(c) + box.c0, what)
            best = one if best is None or one < best else best
    if what == "road":
        doors = plan.network.doors[box.slices]
        for r, c in zip(*doors.nonzero(), strict=True):
            far = (int(r) + box.r0 - row) ** 2 + (int(c) + box.c0 - col) ** 2
            slot = (int(r) + box.r0, int(c) + box.c0)
            if far <= reach * reach and not plan.occupant[slot]:
                one = (far, 1, *slot, "door")
                best = one if best is None or one < best else best
    if best is None:
        return Caught(cell)
    at = spec.cell_of_slot((best[2], best[3]))
    return Caught(at, _words(plan, at, best[4]))


def _words(plan: Plan, at: Cell, by: str) -> str:
    if by != "door":
        return phrase("{by} at {at}", by=by, at=cell_text(at))
    for r, c in SIDES:
        who = plan.occupant_at(at.moved(c, r))
        if who > 0 and at in plan.approaches_of(plan.register[who]):
            return phrase("the door of {title_of}", title_of=plan.title_of(who))
    return phrase("the door at {at}", at=cell_text(at))
