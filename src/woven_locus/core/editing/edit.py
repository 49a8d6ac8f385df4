"""An edit is a value: changes that are done together, and their name in words."""

from __future__ import annotations

from collections.abc import Iterable

from woven_locus.core.editing.change import Change
from woven_locus.core.editing.changes import StructuresChange
from woven_locus.core.geometry import NOWHERE, Box
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value


class Notice(Value):
    """What an edit touched; every view and cache follows from this.

    boxes : blocks of slots to look at again.  layers : names of what changed: the byte layers,
    "structures", "obstacles", "heights", "window", "kinds", "funds", "actor", "keep", "traffic", "waves", "accepted", "snap",
    "name", "money", "grid"; none when a gesture
    ended, which changes nothing by itself.  structures : numbers whose register row changed.  label : the edit, in words.
    reformed : the grid, the classes of terrain or road, or the kinds are others; whatever was made for
    the old ones is void.
    """

    boxes: tuple[Box, ...]
    layers: frozenset[str]
    structures: frozenset[int]
    label: str
    reformed: bool = False

    @property
    def cells(self) -> int:
        """Of all boxes."""
        return sum(box.shape[0] * box.shape[1] for box in self.boxes)

    def followed_by(self, later: Notice) -> Notice:
        """Both as one, for who heard of neither."""
        # Of another grid the blocks are others, and it is told whole.
        boxes = later.boxes if "grid" in later.layers else (*self.boxes, *later.boxes)
        return Notice(
            tuple(dict.fromkeys(boxes)),
            self.layers | later.layers,
            self.structures | later.structures,
            later.label,
            self.reformed or later.reformed,
        )

    def touches(self, box: Box) -> bool:
        """Whether any of its boxes shares a slot with `box`."""
        return any(box.touches(mine) for mine in self.boxes)


# What one more block costs when it is derived, in cells of a large one.
_CELLS_A_BLOCK = 20_000
_FEW = 32


def _fewer(boxes: Iterable[Box]) -> list[Box]:
    """Very many small blocks as the one around them, where that is quicker."""
    found = list(boxes)
    if len(found) <= _FEW:
        return found
    around = Box.around_all(found)
    return [around] if around.shape[0] * around.shape[1] <= _CELLS_A_BLOCK * len(found) else found


def _derive(plan: Plan, boxes: Iterable[Box], network: bool) -> None:
    """What follows from the layers in these blocks."""
    for box in _fewer(boxes):
        plan.refresh(box, network)
    plan.network.bring_up_to_date()
    plan.lanes.bring_up_to_date()


class Edit(Value):
    """A step of the history."""

    label: str
    changes: tuple[Change, ...]

    def apply(self, plan: Plan, *, undo: bool = False) -> Notice:
        """Write to the plan. Only `History` calls this."""
        boxes: dict[Box, None] = {}
        derive: dict[Box, None] = {}
        layers: set[str] = set()
        structures: set[int] = set()
        network = any(change.dirties_network for change in self.changes)
        plan.version += 1
        try:
            for change in reversed(self.changes) if undo else self.changes:
                if change.layer == "grid":
                    # Blocks of one grid are none of another, and each has what follows from its own.
                    _derive(plan, derive, network)
                    boxes.clear()
                    derive.clear()
                for box in change.write(plan, undo):
                    if box != NOWHERE:
                        boxes[box] = None
                        if change.dirties_cells:
                            derive[box] = None
                layers.add(change.layer)
                if isinstance(change, StructuresChange):
                    structures |= change.numbers
            _derive(plan, derive, network)
        finally:
            # Within the write, so that a copy taken elsewhere knows which state it holds.
            plan.revision += 1
            plan.version += 1
        reformed = any(change.reforms for change in self.changes)
        return Notice(tuple(boxes), frozenset(layers), frozenset(structures), self.label, reformed)

    def joined(self, later: Edit) -> Edit | None:
        """This step and the next as one, for steps of the same one thing that goes on: a clock that
        runs, an actor that walks. None for all others."""
        if len(self.changes) != 1 or len(later.changes) != 1:
            return None
        whole = self.changes[0].joined(later.changes[0])
        return Edit(later.label, (whole,)) if whole is not None else None
