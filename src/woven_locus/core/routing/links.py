"""Which structures are joined by road, and which are cut off."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from functools import cached_property

import numpy as np
import numpy.typing as npt

from woven_locus.core.plan import Plan
from woven_locus.core.register import Alike, alike
from woven_locus.core.value import Value
from woven_locus.core.ways.doors import approaches_alike

Numbers = npt.NDArray[np.int64]


class Group(Value):
    """Structures (numbers, ascending) that one connected piece of road joins."""

    structures: tuple[int, ...]
    road_cells: int


class Links:
    """groups : pieces of road that join two structures or more, largest first.
    cut_off : numbers of the structures that reach no other by road, ascending.

    Both are made when they are first asked for: an answer is needed after every edit, all of it seldom.
    """

    def __init__(self, whose: Numbers, of: Numbers, joined: dict[int, int], apart: Numbers) -> None:
        """whose, of : (N,) a structure and a piece of road that it has a door on, each pair once.
        joined : road cells of the pieces that join some.  apart : those that reach no other."""
        self._whose, self._of, self._joined, self._apart = whose, of, joined, apart

    __hash__ = None  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Links):
            return NotImplemented
        return (self.groups, self.cut_off) == (other.groups, other.cut_off)

    @property
    def cut_off_count(self) -> int:
        """How many are cut off."""
        return len(self._apart)

    @cached_property
    def cut_off(self) -> tuple[int, ...]:
        """See the class."""
        return tuple(np.sort(self._apart).tolist())

    @cached_property
    def _is_apart(self) -> npt.NDArray[np.bool_]:
        """(highest number + 2,) whether a number is one of `cut_off`; the last place is no structure's."""
        found = np.zeros(int(self._apart.max(initial=0)) + 2, bool)
        found[self._apart] = True
        return found

    def reaches_another(self, number: int) -> bool:
        """Whether a structure reaches another by road."""
        return not self._is_apart[min(number, len(self._is_apart) - 1)]

    def same_reach(self, other: Links) -> bool:
        """Whether it is sure that the same structures reach another."""
        return np.array_equal(self._apart, other._apart)

    @property
    def group_count(self) -> int:
        """How many pieces of road join some."""
        return len(self._joined)

    @cached_property
    def groups(self) -> tuple[Group, ...]:
        """See the class."""
        order = np.lexsort((self._whose, self._of))
        of, who = self._of[order], self._whose[order]
        begins = np.searchsorted(of, list(self._joined)).tolist()
        ends = np.searchsorted(of, list(self._joined), side="right").tolist()
        found = [
            Group(tuple(who[first:last].tolist()), cells)
            for first, last, cells in zip(begins, ends, self._joined.values(), strict=True)
        ]
        return tuple(sorted(found, key=lambda group: (-len(group.structures), group.structures)))


class Connections:
    """Keeps the approach slots of every structure, so that an edit asks only about its own."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._count = 0
        # By number, the row of both arrays; -1 for none.
        self._rows: npt.NDArray[np.int32] = np.zeros(0, np.int32)
        self._numbers: Numbers = np.zeros(0, np.int64)
        # (rows, most approaches of one) flat slots, -1 for none.
        self._slots: Numbers = np.zeros((0, 1), np.int64)
        self._put(plan.register.alike())

    def update(self, numbers: Collection[int]) -> None:
        """The register rows of these structures changed (placed, moved, demolished)."""
        register = self._plan.register
        if 2 * len(numbers) > self._count:
            # Sooner than to take out one by one what is gone.
            self._rows[:] = -1
            self._count = 0
            self._put(register.alike())
            return
        self._put(alike(register.those_of(numbers)))
        for number in numbers:
            if number not in register:
                self._drop(number)

    def _put(self, groups: Iterable[Alike]) -> None:
        for group in groups:
            slots = approaches_alike(self._plan, group)
            self._make_room(
                int(group.numbers.max()), self._count + len(group.numbers), slots.shape[1]
            )
            new = group.numbers[self._rows[group.numbers] < 0]
            self._rows[new] = np.arange(self._count, self._count + len(new))
            self._count += len(new)
            at = self._rows[group.numbers]
            self._numbers[at] = group.numbers
            self._slots[at] = -1
            self._slots[at, : slots.shape[1]] = slots

    def _drop(self, number: int) -> None:
        """The last row takes the place of the one that goes."""
        row = int(self._rows[number]) if number < len(self._rows) else -1
        if row < 0:
            return
        self._rows[number] = -1
        self._count -= 1
        last = self._count
        if row != last:
            moved = int(self._numbers[last])
            self._numbers[row], self._slots[row] = moved, self._slots[last]
            self._rows[moved] = row

    def _make_room(self, highest: int, rows: int, wide: int) -> None:
        if highest >= len(self._rows):
            longer = np.full(highest + highest // 4 + 16, -1, np.int32)
            longer[: len(self._rows)] = self._rows
            self._rows = longer
        tall, across = self._slots.shape
        if rows > tall or wide > across:
            tall, across = max(tall, rows + rows // 4 + 16), max(across, wide)
            grown = np.full((tall, across), -1, np.int64)
            grown[: self._slots.shape[0], : self._slots.shape[1]] = self._slots
            numbers = np.zeros(tall, np.int64)
            numbers[: len(self._numbers)] = self._numbers
            self._slots, self._numbers = grown, numbers

    def links(self) -> Links:
        """What is joined now. O(structures), as array passes."""
        count = self._count
        numbers, slots = self._numbers[:count].copy(), self._slots[:count]
        groups = self._plan.network.groups_at(np.maximum(slots, 0)).astype(np.int64)
        groups[slots < 0] = 0
        # Each piece of road once for each structure.
        groups.sort(axis=1)
        groups[:, 1:][groups[:, 1:] == groups[:, :-1]] = 0
        some = np.flatnonzero(groups)
        of, whose = groups.ravel()[some], numbers[some // groups.shape[1]]
        sizes = np.bincount(of, minlength=1)
        linked = (sizes[groups] > 1).any(axis=1) if len(of) else np.zeros(count, bool)
        size = self._plan.network.size
        joined = {group: size(group) for group in np.flatnonzero(sizes > 1).tolist()}
        return Links(whose, of, joined, numbers[~linked])


def find_links(plan: Plan) -> Links:
    """Everything that is joined by road.

    A structure belongs to each piece of road that it has a door on. Being on a road that leads to
    no other structure is being cut off too.
    """
    return Connections(plan).links()
