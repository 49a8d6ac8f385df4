"""Which structures are joined by road, and which are cut off."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core.plan import Plan
from woven_locus.core.ways.doors import approach_slots

Numbers = npt.NDArray[np.int64]


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
        self._flat: tuple[Numbers, Numbers, Numbers] | None = None

    def update(self, numbers: Iterable[int]) -> None:
        """The register rows of these structures changed (placed, moved, demolished)."""
        register = self._plan.register
        numbers = list(numbers)
        if numbers:
            self._flat = None
        for number in numbers:
            self._slots.pop(number, None)
        there = (register[number] for number in numbers if number in register)
        self._slots.update(approach_slots(self._plan, there))

    def _laid_out(self) -> tuple[Numbers, Numbers, Numbers]:
        """(numbers, whose, slots): every structure, and every approach with whose it is."""
        if self._flat is None:
            numbers = np.array(sorted(self._slots), np.int64)
            slots = [self._slots[number] for number in numbers.tolist()]
            whose = np.repeat(numbers, [len(mine) for mine in slots])
            self._flat = numbers, whose, np.concatenate(slots) if slots else numbers
        return self._flat

    def links(self) -> Links:
        """What is joined now. O(structures), as array passes."""
        numbers, whose, slots = self._laid_out()
        if not len(numbers):
            return Links((), ())
        groups = self._plan.network.groups_at(slots).astype(np.int64)
        # A group and a structure as one number, which is sorted much sooner than pairs are.
        keys = np.unique((groups << 32 | whose)[groups > 0])
        of, who = keys >> 32, keys & 0xFFFFFFFF
        edges = np.flatnonzero(np.diff(of, prepend=-1))
        ends = np.append(edges[1:], len(of))
        joined = ends - edges > 1
        network = self._plan.network
        found = [
            Group(tuple(who[first:last].tolist()), network.size(int(of[first])))
            for first, last in zip(edges[joined].tolist(), ends[joined].tolist(), strict=True)
        ]
        found.sort(key=lambda group: (-len(group.structures), group.structures))
        linked = who[np.repeat(joined, ends - edges)]
        return Links(tuple(found), tuple(np.setdiff1d(numbers, linked).tolist()))


def find_links(plan: Plan) -> Links:
    """Everything that is joined by road.

    A structure belongs to each piece of road that it has a door on. Being on a road that leads to
    no other structure is being cut off too.
    """
    return Connections(plan).links()
