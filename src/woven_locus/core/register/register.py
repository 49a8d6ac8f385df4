"""Placed structures by number. Numbers are never used twice."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from woven_locus.core.errors import Unknown
from woven_locus.core.geometry import Cell

# Numbers are looked up in tables, so that they must stay within reason.
LARGEST_NUMBER = 2**24


@dataclass(frozen=True, slots=True)
class Structure:
    """One placed structure.

    cell : lowest column and row of the turned footprint's bounding box.  turn : quarter turns
    clockwise, 0 to 3.  price : what was paid.  placed : when, ISO 8601 text, given by the caller.
    """

    number: int
    kind: str
    cell: Cell
    turn: int
    price: int
    placed: str


def structure_id(number: int) -> str:
    """The name by which the user and the command line call a structure: ``S12``."""
    return f"S{number}"


class Register:
    """Structures by number, in order of number. Only edits change it."""

    def __init__(self) -> None:
        self._rows: dict[int, Structure] = {}
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
            raise Unknown(f"no structure {structure_id(number)} in the register") from None

    def numbers(self) -> list[int]:
        return list(self._rows)

    def put(self, structure: Structure) -> None:
        """Add or replace. For edits and loaders only."""
        last = next(reversed(self._rows), 0)
        self._rows[structure.number] = structure
        if structure.number < last:
            # Undo of a demolition brings back an old number: keep the order that files rely on.
            self._rows = dict(sorted(self._rows.items()))

    def copied(self) -> Register:
        twin = Register()
        twin._rows, twin.next_number = dict(self._rows), self.next_number
        return twin

    def drop(self, number: int) -> None:
        """Remove. For edits only."""
        del self._rows[number]
