"""Which structures are joined by road, and which are cut off."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure


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


# More structures than this are looked at in array passes.
MANY = 200


class Connections:
    """Keeps the approach slots of every structure, so that an edit asks only about its own."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._slots: dict[int, npt.NDArray[np.int64]] = {}
        self._learn(plan.register)

    def _learn(self, structures: Iterable[Structure]) -> None:
        """Many structures, by kind and turn: structures alike have approaches alike."""
        plan, spec = self._plan, self._plan.spec
        alike: dict[tuple[str, int], list[Structure]] = {}
        for row in structures:
            alike.setdefault((row.kind, row.turn), []).append(row)
        for (kind, turn), rows in alike.items():
            footprint = plan.footprint(plan.kinds[kind], turn)
            ways = np.array(footprint.approaches(Cell(0, 0)), np.int64)
            flat = (part for row in rows for part in row.cell)
            cells = np.fromiter(flat, np.int64, 2 * len(rows)).reshape(-1, 2)
            at = cells[:, None] + ways - np.array(spec.first)
            inside = (at >= 0).all(axis=2) & (at < (spec.cols, spec.rows)).all(axis=2)
            slots = at[:, :, 1] * spec.cols + at[:, :, 0]
            whole = inside.all(axis=1).tolist()
            for k, (row, mine) in enumerate(zip(rows, slots, strict=True)):
                self._slots[row.number] = mine if whole[k] else mine[inside[k]]

    def _approach(self, structure: Structure) -> npt.NDArray[np.int64]:
        spec = self._plan.spec
        cells = [c for c in self._plan.approaches_of(structure) if spec.contains(c)]
        return np.array([spec.index(cell) for cell in cells], np.int64)

    def update(self, numbers: Iterable[int]) -> None:
        """The register rows of these structures changed (placed, moved, demolished)."""
        register = self._plan.register
        numbers = list(numbers)
        if len(numbers) > MANY:
            for number in numbers:
                self._slots.pop(number, None)
            self._learn(register[number] for number in numbers if number in register)
            return
        for number in numbers:
            if number in register:
                self._slots[number] = self._approach(register[number])
            else:
                self._slots.pop(number, None)

    def links(self) -> Links:
        """What is joined now. O(structures), as array passes."""
        numbers = np.array(sorted(self._slots), np.int64)
        if not len(numbers):
            return Links((), ())
        slots = [self._slots[number] for number in numbers.tolist()]
        owner = np.repeat(numbers, [len(mine) for mine in slots])
        label = self._plan.network.labels.ravel()[np.concatenate(slots)].astype(np.int64)
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
