"""Placed structures by number. Numbers are never used twice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from woven_locus.core.errors import Unknown
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import phrase

# Numbers are looked up in tables, so that they must stay within reason.
LARGEST_NUMBER = 2**24


@dataclass(frozen=True, slots=True)
class Structure:
    """One placed structure.

    cell : lowest column and row of the turned footprint's bounding box.  turn : 0 to 7, see
    `kinds.turns`.  price : what was paid.  placed : when, ISO 8601 text, given by the caller.
    since : the plan's clock when it was placed, seconds; its yields are counted from there.
    """

    number: int
    kind: str
    cell: Cell
    turn: int
    price: int
    placed: str
    since: int = 0


def structure_id(number: int) -> str:
    """The name by which the user and the command line call a structure: ``S12``."""
    return f"S{number}"


class Register:
    """Structures by number, in order of number. Only edits change it."""

    def __init__(self) -> None:
        self._rows: dict[int, Structure] = {}
        self._counts: Counter[str] = Counter()
        self.next_number = 1

    def __len__(self) -> int:
        return len(self._rows)

    def __iter__(self) -> Iterator[Structure]:
        return iter(self._rows.values())

    def __contains__(self, number: object) -> bool:
        return number in self._rows

    def __getitem__(self, number: int) -> Structure:
        """Raises Unknown."""
        try:
            return self._rows[number]
        except KeyError:
            raise Unknown(
                phrase(
                    "no structure {structure_id} in the register", structure_id=structure_id(number)
                )
            ) from None

    def numbers(self) -> list[int]:
        """Of all structures, ascending."""
        return list(self._rows)

    def those_of(self, numbers: Iterable[int]) -> list[Structure]:
        """The structures with these numbers, as far as there are any, in the order given."""
        get = self._rows.get
        return [row for number in numbers if (row := get(number)) is not None]

    def count(self, kind: str) -> int:
        """How many of a kind are placed."""
        return self._counts[kind]

    def put(self, structure: Structure) -> None:
        """Add or replace. For edits and loaders only."""
        self.put_all((structure,))

    def put_all(self, structures: Iterable[Structure]) -> None:
        """Add or replace several. For edits and loaders only."""
        last, backwards = next(reversed(self._rows), 0), False
        for structure in structures:
            old = self._rows.get(structure.number)
            if old is not None:
                self._counts[old.kind] -= 1
            elif structure.number < last:
                backwards = True
            last = max(last, structure.number)
            self._counts[structure.kind] += 1
            self._rows[structure.number] = structure
        if backwards:
            # Undo of a demolition brings back an old number: keep the order that files rely on.
            self._rows = dict(sorted(self._rows.items()))

    def copied(self) -> Register:
        """A copy that changes by itself; its rows are values."""
        twin = Register()
        twin._rows, twin.next_number = dict(self._rows), self.next_number
        twin._counts = self._counts.copy()
        return twin

    def drop_all(self, numbers: Iterable[int]) -> None:
        """Remove several. For edits only."""
        for number in numbers:
            self._counts[self._rows.pop(number).kind] -= 1
