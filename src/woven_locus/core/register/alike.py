"""Structures of one kind and turn together, so that thousands are looked at in a few array passes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Sequence
from functools import cached_property
from operator import attrgetter
from typing import overload

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell, places_of
from woven_locus.core.register.structure import Structure
from woven_locus.core.value import Value

Ints = npt.NDArray[np.int64]


class Alike(Value, eq=False):
    """Structures that differ in their place only.

    numbers : (N,) theirs.  lows : (N, 2) column and row of the cell of each.
    """

    kind: str
    turn: int
    numbers: Ints
    lows: Ints

    def parts(self, most: int) -> Iterator[Alike]:
        """The same in parts of so many at most."""
        for begin in range(0, len(self.numbers), most):
            some = slice(begin, begin + most)
            yield Alike(self.kind, self.turn, self.numbers[some], self.lows[some])


_kind_and_turn = attrgetter("kind", "turn")
_kind_and_since = attrgetter("kind", "since")
_number: attrgetter[int] = attrgetter("number")
_price: attrgetter[int] = attrgetter("price")
_cell: attrgetter[Cell] = attrgetter("cell")


def alike(structures: Collection[Structure]) -> list[Alike]:
    """Structures by kind and turn, in the order in which each first comes. O(structures)."""
    many = len(structures)
    keys = list(map(_kind_and_turn, structures))
    places = {key: at for at, key in enumerate(dict.fromkeys(keys))}
    numbers = np.fromiter(map(_number, structures), np.int64, many)
    lows = places_of(list(map(_cell, structures)))
    if len(places) < 2:
        return [Alike(kind, turn, numbers, lows) for kind, turn in places]
    which = np.fromiter(map(places.__getitem__, keys), np.int64, many)
    order = np.argsort(which, kind="stable")
    parts = np.split(order, np.cumsum(np.bincount(which))[:-1])
    return [
        Alike(kind, turn, numbers[part], lows[part])
        for (kind, turn), part in zip(places, parts, strict=True)
    ]


class Rows(Sequence[Structure]):
    """Rows of the register that come or go together: a value. What is asked of all of them each time they do, which may be
    thousands, is worked out once."""

    def __init__(self, rows: Iterable[Structure] = ()) -> None:
        self._rows = tuple(rows)

    @overload
    def __getitem__(self, at: int) -> Structure: ...
    @overload
    def __getitem__(self, at: slice) -> Rows: ...
    def __getitem__(self, at: int | slice) -> Structure | Rows:
        return Rows(self._rows[at]) if isinstance(at, slice) else self._rows[at]

    def __len__(self) -> int:
        return len(self._rows)

    def __iter__(self) -> Iterator[Structure]:
        return iter(self._rows)

    def __eq__(self, other: object) -> bool:
        return self._rows == other._rows if isinstance(other, Rows) else NotImplemented

    def __hash__(self) -> int:
        return hash(self._rows)

    def __repr__(self) -> str:
        return f"Rows({self._rows!r})"

    @cached_property
    def numbers(self) -> frozenset[int]:
        """Of all of them."""
        return frozenset(map(_number, self._rows))

    @cached_property
    def counts(self) -> Counter[tuple[str, int]]:
        """How many of each kind there are since each moment of the clock. Not to be changed."""
        return Counter(map(_kind_and_since, self._rows))

    @cached_property
    def paid(self) -> int:
        """What all of them have cost."""
        return sum(map(_price, self._rows))

    @cached_property
    def alike(self) -> list[Alike]:
        """See `alike`. Not to be changed."""
        return alike(self._rows)
