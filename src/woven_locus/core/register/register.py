"""Placed structures by number. Numbers are never used twice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from woven_locus.core.errors import Unknown
from woven_locus.core.phrase import phrase
from woven_locus.core.register.alike import Alike, Rows, alike
from woven_locus.core.register.structure import Structure, structure_id


class Register:
    """Structures by number, in order of number. Only edits change it."""

    def __init__(self) -> None:
        self._rows: dict[int, Structure] = {}
        self._counts: Counter[str] = Counter()
        # None: not known since the last change.
        self._alike: list[Alike] | None = None
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

    def get(self, number: int) -> Structure | None:
        """The structure with this number, if there is one."""
        return self._rows.get(number)

    def numbers(self) -> list[int]:
        """Of all structures, ascending."""
        return list(self._rows)

    def those_of(self, numbers: Iterable[int]) -> list[Structure]:
        """The structures with these numbers, as far as there are any, in the order given."""
        get = self._rows.get
        return [row for number in numbers if (row := get(number)) is not None]

    def alike(self) -> list[Alike]:
        """All structures by kind and turn; see `alike`. Not to be changed. O(structures) after a change."""
        if self._alike is None:
            self._alike = alike(self._rows.values())
        return self._alike

    def count(self, kind: str) -> int:
        """How many of a kind are placed."""
        return self._counts[kind]

    def put(self, structure: Structure) -> None:
        """Add or replace. For edits and loaders only."""
        self.put_all(Rows((structure,)))

    def put_all(self, structures: Rows) -> None:
        """Add or replace several. For edits and loaders only."""
        new = {row.number: row for row in structures}
        fresh = [number for number in new if number not in self._rows]
        last = next(reversed(self._rows), 0)
        in_order = not fresh or (last < fresh[0] and fresh == sorted(fresh))
        # They are all there is, as when the demolition of all is undone.
        alone = not self._rows and in_order and len(new) == len(structures)
        if len(fresh) < len(new):
            self._counts.subtract(Counter(row.kind for row in self.those_of(new)))
        if len(new) == len(structures):
            for (kind, _since), count in structures.counts.items():
                self._counts[kind] += count
        else:
            self._counts.update(row.kind for row in new.values())
        self._rows.update(new)
        self._alike = structures.alike if alone else None
        if not in_order:
            # Undo of a demolition brings back an old number: keep the order that files rely on.
            self._rows = dict(sorted(self._rows.items()))

    def copied(self) -> Register:
        """A copy that changes by itself; its rows are values."""
        twin = Register()
        twin._rows, twin.next_number = dict(self._rows), self.next_number
        twin._counts, twin._alike = self._counts.copy(), self._alike
        return twin

    def drop_all(self, numbers: Iterable[int]) -> None:
        """Remove several. For edits only."""
        gone = set(numbers)
        if not gone:
            return
        self._alike = None
        if gone == self._rows.keys():
            self._rows.clear()
            self._counts.clear()
        else:
            self._counts.subtract(Counter([self._rows.pop(number).kind for number in gone]))
