"""Which structures are joined by road, and which are cut off."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.core.ways.doors import approach_slots


@dataclass(frozen=True, slots=True)
class Group:
    """Structures (numbers, ascending) that one connected piece of road joins."""

    structures: tuple[int, ...]
    road_cells: int


@dataclass(frozen=True, slots=True)
class Links:
    """groups : pieces of road that join two structures or more, largest first.
    cut_off : numbers of the structures that reach no other by road."""

    groups: tuple[Group, ...]
    cut_off: tuple[int, ...]


class Connections:
    """Keeps the approach slots of every structure, so that an edit asks only about its own."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._slots = approach_slots(plan, plan.register)

    def update(self, numbers: Iterable[int]) -> None:
        """The register rows of these structures changed (placed, moved, demolished)."""
        register = self._plan.register
        numbers = list(numbers)
        for number in numbers:
            self._slots.pop(number, None)
        there = (register[number] for number in numbers if number in register)
        self._slots.update(approach_slots(self._plan, there))

    def links(self) -> Links:
        """What is joined now. O(structures), as array passes."""
        numbers = np.array(sorted(self._slots), np.int64)
        if not len(numbers):
            return Links((), ())
        slots = [self._slots[number] for number in numbers.tolist()]
        owner = np.repeat(numbers, [len(mine) for mine in slots])
        label = self._plan.network.groups_at(np.concatenate(slots)).astype(np.int64)
        pairs = np.unique(np.stack([label, owner], axis=1)[label > 0], axis=0)
        edges = np.flatnonzero(np.diff(pairs[:, 0], prepend=-1))
        groups = [
            Group(tuple(part[:, 1].tolist()), self._plan.network.size(int(part[0, 0])))
            for part in np.split(pairs, edges[1:])
            if len(part) > 1
        ]
        groups.sort(key=lambda group: (-len(group.structures), group.structures))
        joined = [number for group in groups for number in group.structures]
        return Links(tuple(groups), tuple(np.setdiff1d(numbers, joined).tolist()))


def find_links(plan: Plan) -> Links:
    """Everything that is joined by road.

    A structure belongs to each piece of road that it has a door on. Being on a road that leads to
    no other structure is being cut off too.
    """
    return Connections(plan).links()
