"""A kind of structure, and the catalogue that holds a plan's kinds."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Iterable, Iterator
from typing import Any

from woven_locus.core.errors import BadKind, Unknown
from woven_locus.core.kinds.demands import NO_DEMANDS, Demands
from woven_locus.core.kinds.footprint import Footprint
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.kinds.turns import MIRRORED, QUARTERS, turned_on
from woven_locus.core.names import fresh_key, key_problem, name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, force_setattr

# Money is whole and exact; sums of very many of these still fit into 64 bits.
LARGEST_MONEY = 10**12
LONGEST_NAME = 120
LONGEST_INTERVAL = 10**9


class Kind(Value):
    """A kind of structure.

    key : short name used in files and on the command line.  code : one to three letters drawn on
    the map.  dye : "#RRGGBB".  price : whole money units (exact, never a float).
    turns : the quarter turns that it may take.  mirror : whether it may be mirrored.
    art : world width and height of its picture, or None.
    pays, every : what one of it yields (negative: costs) each so many seconds; every 0 is never.
    tower : what it does to attackers, or None.
    Raises BadKind.
    """

    key: str
    name: str
    code: str
    dye: str
    price: int
    footprint: Footprint
    turns: tuple[int, ...] = QUARTERS
    mirror: bool = False
    art: tuple[float, float] | None = None
    pays: int = 0
    every: int = 0
    demands: Demands = NO_DEMANDS
    tower: Tower | None = None

    def __post_init__(self) -> None:
        problem = key_problem(self.key)
        if not problem and len(self.key) > LONGEST_NAME:
            problem = phrase("a key has up to {most} letters", most=LONGEST_NAME)
        if problem:
            raise BadKind(
                phrase("kind {key!r}: {problem}", key=shortened(self.key), problem=problem)
            )
        if problem := self._problem_of_look() or self._problem_of_numbers():
            raise BadKind(phrase("kind {key}: {problem}", key=self.key, problem=problem))
        force_setattr(self, "turns", tuple(sorted(set(self.turns))))

    def _problem_of_look(self) -> str:
        if len(self.name) > LONGEST_NAME:
            return phrase(
                "a name has up to {most} letters, this has {count:,}: {name!r}",
                most=LONGEST_NAME,
                count=len(self.name),
                name=shortened(self.name),
            )
        if problem := name_problem(self.name) or name_problem(self.code):
            return problem
        if not 1 <= len(self.code) <= 3:
            code = shortened(self.code)
            return phrase("the letter code has 1 to 3 letters, not {code!r}", code=code)
        if not re.fullmatch(r"#[0-9A-Fa-f]{6}", self.dye):
            return phrase("dye must be #RRGGBB, not {dye!r}", dye=shortened(self.dye))
        if self.art is not None and not all(math.isfinite(n) and n > 0 for n in self.art):
            return phrase("the art's size is two numbers above 0, not {art}", art=self.art)
        return ""

    def _problem_of_numbers(self) -> str:
        if self.price < 0:
            return phrase("the price must not be negative, it is {price}", price=self.price)
        if max(self.price, abs(self.pays)) > LARGEST_MONEY:
            return phrase("prices and yields go up to {most:,}", most=LARGEST_MONEY)
        if not 0 <= self.every <= LONGEST_INTERVAL:
            return phrase(
                "the interval is 0 (never) to {most:,} seconds, not {every:,}",
                most=LONGEST_INTERVAL,
                every=self.every,
            )
        if not self.turns or not set(self.turns) <= set(QUARTERS):
            return phrase("the turns allowed are one or more of 0, 1, 2, 3")
        return ""

    @property
    def all_turns(self) -> tuple[int, ...]:
        """Every turn that it may take, mirrored ones last; see `turns`."""
        more = tuple(turn + MIRRORED for turn in self.turns) if self.mirror else ()
        return self.turns + more

    def next_turn(self, turn: int, quarters: int) -> int:
        """The turn after so many quarters clockwise, or the next beyond it that the kind takes; the same
        when there is no other."""
        step = 1 if quarters > 0 else -1
        found = turned_on(turn, quarters)
        while not self.may_turn(found) and found != turn:
            found = turned_on(found, step)
        return found

    def may_turn(self, turn: int) -> bool:
        """Whether the kind takes a turn 0 to 7."""
        return turn % MIRRORED in self.turns and (turn < MIRRORED or self.mirror)


def shortened(text: str, longest: int = 40) -> str:
    """A text that may be of any length, for a message."""
    return text if len(text) <= longest else text[: longest - 1] + "…"


def fresh_kind_key(name: str, taken: Collection[str]) -> str:
    """A key made of a name that no kind has."""
    return fresh_key(name, taken, "kind", 40)


# One byte in the map's keys tells kinds apart.
MOST_KINDS = 255


class Catalogue:
    """The kinds of a plan, in the order of the shelf. Never changed: edits make another."""

    def __init__(self, kinds: Iterable[Kind] = ()) -> None:
        self._kinds: dict[str, Kind] = {}
        for kind in kinds:
            if kind.key in self._kinds:
                raise BadKind(phrase("kind {key!r} is there twice", key=kind.key))
            self._kinds[kind.key] = kind
        if len(self._kinds) > MOST_KINDS:
            raise BadKind(
                phrase(
                    "a catalogue holds at most {most_kinds} kinds, not {count}",
                    most_kinds=MOST_KINDS,
                    count=len(self._kinds),
                )
            )
        # The kinds that do not let everything come near; asked with every judgement.
        self.clearing = tuple(kind for kind in self if kind.demands.clear)
        # Which rules each kind has, as far as it was asked for; see `kind_rules.rules_of`.
        self.asked: dict[tuple[str, bool, bool], Any] = {}
        # What each kind must stay clear of, as far as it was asked for; see `clearance.asked_of`.
        self.clears: dict[str, Any] = {}

    def __iter__(self) -> Iterator[Kind]:
        return iter(self._kinds.values())

    def __len__(self) -> int:
        return len(self._kinds)

    def __contains__(self, key: object) -> bool:
        return key in self._kinds

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Catalogue) and list(self) == list(other)

    __hash__ = None  # type: ignore[assignment]

    def reshaped(self, other: Catalogue) -> set[str]:
        """Keys of the kinds in both whose footprints are not the same."""
        return {k.key for k in self if k.key in other and other[k.key].footprint != k.footprint}

    def __getitem__(self, key: str) -> Kind:
        """Raises Unknown, naming the kinds that there are."""
        try:
            return self._kinds[key]
        except KeyError:
            have = ", ".join(self._kinds) or phrase("no kinds yet")
            raise Unknown(
                phrase("no kind {key!r}; the plan has {have}", key=key, have=have)
            ) from None

    def keys(self) -> tuple[str, ...]:
        """In order."""
        return tuple(self._kinds)

    def with_kind(self, kind: Kind, key: str | None = None) -> Catalogue:
        """With a kind in place of the one with `key` (its own by default), or last."""
        key = kind.key if key is None else key
        if key in self._kinds:
            return Catalogue(kind if old.key == key else old for old in self)
        return Catalogue([*self, kind])

    def without(self, key: str) -> Catalogue:
        """The catalogue without one kind. Raises Unknown."""
        return Catalogue(kind for kind in self if kind.key != key)
