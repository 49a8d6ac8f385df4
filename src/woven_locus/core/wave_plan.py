"""Entries, goals, kinds of attacker and waves: data of the plan."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from enum import StrEnum

from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.names import key_problem, name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, replace

# The largest number of attackers of all waves of a plan.
MOST_ATTACKERS = 1_000_000
MOST_LIVES = 1_000_000
# The longest time that a wave may begin at, or that a group may take, seconds.
LONGEST = 1e6


class Moves(StrEnum):
    """What attackers of a kind move over."""

    ROADS = "roads"
    GROUND = "ground"
    AIR = "air"


class Entry(Value):
    """Where attackers come from. id : E1, E2 …  goals : ids of those that they may go to, none for all."""

    id: str
    name: str
    cells: tuple[Cell, ...]
    goals: tuple[str, ...] = ()


class Goal(Value):
    """Where they go to. id : G1, G2 …"""

    id: str
    name: str
    cells: tuple[Cell, ...]


class AttackerKind(Value):
    """key, name, dye : as of vehicles.  size : across, world units.  speed : world units a second.  health : damage that
    stops it.  armour : what is taken off every hit.  reward : money for stopping it.  lives : that it costs at the goal.
    queues : whether it stays behind the one before it, else several may share a place."""

    key: str
    name: str
    dye: str
    size: float
    speed: float
    health: float
    armour: float = 0.0
    reward: int = 0
    lives: int = 1
    moves: Moves = Moves.GROUND
    queues: bool = False


class Group(Value):
    """Attackers of one kind from one entry. after : seconds from the beginning of the wave to the first of them.
    every : seconds between two.  spread : each may come so many seconds later, by chance."""

    entry: str
    kind: str
    count: int
    every: float = 1.0
    after: float = 0.0
    spread: float = 0.0


class Wave(Value):
    """begins : seconds from the beginning of the run."""

    name: str
    begins: float
    groups: tuple[Group, ...] = ()

    @property
    def count(self) -> int:
        """How many attackers come."""
        return sum(group.count for group in self.groups)


class WavePlan(Value):
    """What a plan says of its waves.

    lives : at the beginning.  moves : 4 or 8, of those that come over the ground.  terrain_slows : whether the move cost
    of the ground divides their speed.  height_reach : by how much the range of a tower grows for each world unit
    that it stands above whom it aims at, and shrinks below.

    Raises BadPlan for an id, name or key twice, an entry or goal without a cell or with one that is there twice,
    values that make no sense, what refers to nothing, far too many attackers. Cells outside the grid are found when the
    plan is made.
    """

    entries: tuple[Entry, ...] = ()
    goals: tuple[Goal, ...] = ()
    attackers: tuple[AttackerKind, ...] = ()
    waves: tuple[Wave, ...] = ()
    lives: int = 20
    moves: int = 8
    terrain_slows: bool = False
    height_reach: float = 0.0

    def __post_init__(self) -> None:
        _check_places(self.entries, "entries", "E")
        _check_places(self.goals, "goals", "G")
        goals = {goal.id for goal in self.goals}
        for at, entry in enumerate(self.entries):
            for wanted in entry.goals:
                if wanted not in goals:
                    raise BadPlan(
                        f"entries[{at}]", phrase("there is no goal {wanted!r}", wanted=wanted)
                    )
        for at, kind in enumerate(self.attackers):
            _check_attacker(kind, f"attackers[{at}]")
        keys = [kind.key for kind in self.attackers]
        if twice := _twice(keys):
            raise BadPlan("attackers", phrase("key {twice!r} is used twice", twice=twice))
        _check_waves(self.waves, {entry.id for entry in self.entries}, set(keys))
        if not 1 <= self.lives <= MOST_LIVES:
            raise BadPlan(
                "lives",
                phrase(
                    "must be 1 to {most_lives:,}, not {lives:,}",
                    most_lives=MOST_LIVES,
                    lives=self.lives,
                ),
            )
        if self.moves not in (4, 8):
            raise BadPlan("moves", phrase("must be 4 or 8, not {moves}", moves=self.moves))
        if not (math.isfinite(self.height_reach) and 0 <= self.height_reach <= 1000):
            raise BadPlan(
                "height_reach",
                phrase("must be 0 to 1,000, not {height_reach:g}", height_reach=self.height_reach),
            )

    def entry(self, id_: str) -> Entry | None:
        """The entry of an id, None where there is none."""
        return next((entry for entry in self.entries if entry.id == id_), None)

    def kind(self, key: str) -> AttackerKind | None:
        """The kind of attacker of a key, None where there is none."""
        return next((kind for kind in self.attackers if kind.key == key), None)

    def goals_of(self, entry: Entry) -> tuple[Goal, ...]:
        """Those that attackers from an entry may go to."""
        if not entry.goals:
            return self.goals
        return tuple(goal for goal in self.goals if goal.id in entry.goals)

    def moves_from(self, entry: Entry) -> tuple[Moves, ...]:
        """What those that come from an entry move over, in order; the ground where nobody comes on foot."""
        kinds = {
            group.kind for wave in self.waves for group in wave.groups if group.entry == entry.id
        }
        found = {kind.moves for kind in self.attackers if kind.key in kinds}
        return tuple(moves for moves in Moves if moves in (found or {Moves.GROUND}))

    @property
    def walked(self) -> tuple[Entry, ...]:
        """The entries from which attackers come over the ground."""
        return tuple(entry for entry in self.entries if Moves.GROUND in self.moves_from(entry))

    def cells(self) -> set[Cell]:
        """All cells of entries and goals."""
        places: list[Entry | Goal] = [*self.entries, *self.goals]
        return {cell for place in places for cell in place.cells}

    def moved(self, to: Callable[[Cell], Cell], inside: Callable[[Cell], bool]) -> WavePlan:
        """The same with all cells elsewhere; those that come to lie outside are dropped, with an entry or a goal that has
        no other, and with what refers to that."""

        def laid(places: Sequence[Entry | Goal]) -> dict[str, tuple[Cell, ...]]:
            # Of two that come to lie in one cell the first has it.
            taken: dict[Cell, str] = {}
            for place in places:
                for cell in filter(inside, map(to, place.cells)):
                    taken.setdefault(cell, place.id)
            found: dict[str, list[Cell]] = {}
            for cell, whose in taken.items():
                found.setdefault(whose, []).append(cell)
            return {whose: tuple(cells) for whose, cells in found.items()}

        mine, theirs = laid(self.entries), laid(self.goals)
        entries = tuple(replace(p, cells=mine[p.id]) for p in self.entries if p.id in mine)
        goals = tuple(replace(p, cells=theirs[p.id]) for p in self.goals if p.id in theirs)
        return self.with_places(entries, goals)

    def with_places(self, entries: tuple[Entry, ...], goals: tuple[Goal, ...]) -> WavePlan:
        """The same with other entries and goals; what refers to one that is gone goes too."""
        known = {goal.id for goal in goals}
        kept = []
        for entry in entries:
            left = tuple(id_ for id_ in entry.goals if id_ in known)
            # An entry whose goals are all gone leads to none, not to all.
            if left or not entry.goals or not known:
                kept.append(replace(entry, goals=left))
        there = {entry.id for entry in kept}
        waves = tuple(
            replace(wave, groups=tuple(group for group in wave.groups if group.entry in there))
            for wave in self.waves
        )
        return replace(self, entries=tuple(kept), goals=goals, waves=waves)


def _twice(values: Sequence[str]) -> str:
    seen: set[str] = set()
    for value in values:
        if value in seen:
            return value
        seen.add(value)
    return ""


def _check_places(places: Sequence[Entry | Goal], what: str, letter: str) -> None:
    for at, place in enumerate(places):
        where = f"{what}[{at}]"
        if not re.fullmatch(rf"{letter}[1-9][0-9]{{0,8}}", place.id):
            raise BadPlan(
                where,
                phrase(
                    "an id is {letter} and a number, like {letter2}1, not {id!r}",
                    letter=letter,
                    letter2=letter,
                    id=place.id,
                ),
            )
        if not place.name.strip():
            raise BadPlan(where, phrase("{id} needs a name", id=place.id))
        if problem := name_problem(place.name):
            raise BadPlan(where, problem)
        if not place.cells:
            raise BadPlan(where, phrase("{place} needs at least one cell", place=place.name))
        if len(set(place.cells)) < len(place.cells):
            raise BadPlan(where, phrase("{place} names a cell twice", place=place.name))
    if twice := _twice([place.id for place in places]):
        raise BadPlan(what, phrase("id {twice!r} is used twice", twice=twice))
    if twice := _twice([place.name for place in places]):
        raise BadPlan(what, phrase("the name {twice!r} is used twice", twice=twice))
    cells: dict[Cell, str] = {}
    for place in places:
        for cell in place.cells:
            if cell in cells:
                raise BadPlan(
                    what,
                    phrase(
                        "{cells} and {place} share {cell}",
                        cells=cells[cell],
                        place=place.name,
                        cell=cell_text(cell),
                    ),
                )
            cells[cell] = place.name


def _check_attacker(kind: AttackerKind, where: str) -> None:
    if not kind.name.strip():
        raise BadPlan(where, phrase("a kind of attacker needs a name"))
    if problem := name_problem(kind.name) or key_problem(kind.key):
        raise BadPlan(where, problem)
    for name in ("size", "speed", "health"):
        value = getattr(kind, name)
        if not (math.isfinite(value) and 0 < value <= 1e9):
            raise BadPlan(
                where,
                phrase("{name} must be a number above 0, not {value:g}", name=name, value=value),
            )
    if not (math.isfinite(kind.armour) and 0 <= kind.armour <= 1e9):
        raise BadPlan(where, phrase("armour must be 0 or more, not {armour:g}", armour=kind.armour))
    for name, most in (("reward", 10**9), ("lives", MOST_LIVES)):
        value = getattr(kind, name)
        if not 0 <= value <= most:
            raise BadPlan(
                where,
                phrase(
                    "{name} must be 0 to {most:,}, not {value:,}", name=name, most=most, value=value
                ),
            )


def _check_waves(waves: Sequence[Wave], entries: set[str], kinds: set[str]) -> None:
    total = 0
    for at, wave in enumerate(waves):
        where = f"waves[{at}]"
        if problem := name_problem(wave.name):
            raise BadPlan(where, problem)
        if not (math.isfinite(wave.begins) and 0 <= wave.begins <= LONGEST):
            raise BadPlan(
                where,
                phrase(
                    "begins must be 0 to {longest:,.0f} s, not {begins:g}",
                    longest=LONGEST,
                    begins=wave.begins,
                ),
            )
        for nth, group in enumerate(wave.groups):
            _check_group(group, f"{where}.groups[{nth}]", entries, kinds)
            total += group.count
            if total > MOST_ATTACKERS:
                raise BadPlan(
                    where,
                    phrase(
                        "waves may send {most_attackers:,} attackers in all, these send more",
                        most_attackers=MOST_ATTACKERS,
                    ),
                )


def _check_group(group: Group, where: str, entries: set[str], kinds: set[str]) -> None:
    for name, value, known in (("entry", group.entry, entries), ("kind", group.kind, kinds)):
        if value not in known:
            there = ", ".join(sorted(known)) or "none"
            raise BadPlan(
                where,
                phrase(
                    "no {name} {value!r}; the plan has {there}", name=name, value=value, there=there
                ),
            )
    if not 1 <= group.count <= MOST_ATTACKERS:
        raise BadPlan(
            where,
            phrase(
                "count must be 1 to {most_attackers:,}, not {count:,}",
                most_attackers=MOST_ATTACKERS,
                count=group.count,
            ),
        )
    for name in ("every", "after", "spread"):
        value = getattr(group, name)
        if not (math.isfinite(value) and 0 <= value <= LONGEST):
            raise BadPlan(
                where,
                phrase(
                    "{name} must be 0 to {longest:,.0f} s, not {value:g}",
                    name=name,
                    longest=LONGEST,
                    value=value,
                ),
            )


# A plan that says nothing of waves.
NO_WAVES = WavePlan()
