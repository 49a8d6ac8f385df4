"""What is wrong with a plan, as far as it is known, in the order in which it matters."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.proof.misses import NearMiss
from woven_locus.core.register import structure_id
from woven_locus.core.routing.weak import WeakPoint
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.ranges import stretches
from woven_locus.core.waves.towers import towers_of
from woven_locus.core.waves.ways import EntryWay

# Of one sort, more than this are counted, not listed.
MOST_OF_A_SORT = 500
# Structures that a weak point names.
_MOST_NAMES = 8


@dataclass(frozen=True, slots=True)
class Finding:
    """what : its sort.  cell : where.  miss : the near miss that it is, if it is one.  structure : that it
    is about, or 0."""

    what: str
    cell: Cell
    words: str
    miss: NearMiss | None = None
    structure: int = 0

    @property
    def can_mend(self) -> bool:
        """Whether an edit is known that mends it."""
        return self.miss is not None and bool(self.miss.mend)


def findings(
    plan: Plan,
    misses: Iterable[NearMiss],
    cut_off: Iterable[int],
    unsound: Iterable[int],
    weak: Iterable[WeakPoint] = (),
    ways: Iterable[EntryWay] = (),
) -> list[Finding]:
    """misses : near misses.  cut_off : numbers of structures that reach no other by road.
    unsound : numbers of those that the judge would refuse where they stand; some may be gone since.
    weak : weak points, those that part most first.  ways : of attackers, as far as they are known."""
    found = [
        Finding(f"Near miss: {miss.kind}", miss.gap, miss.words(plan), miss, miss.structure)
        for miss in misses
    ]
    for number in list(cut_off)[:MOST_OF_A_SORT]:
        words = f"{plan.title_of(number)} reaches no other structure by road"
        found.append(Finding("Cut off", plan.register[number].cell, words, None, number))
    for number in sorted(unsound)[:MOST_OF_A_SORT]:
        if number in plan.register:
            words = f"{plan.title_of(number)} could not be placed where it stands"
            found.append(Finding("Unsound", plan.register[number].cell, words, None, number))
    found += [_weak(point) for point in list(weak)[:MOST_OF_A_SORT]]
    return found + _of_waves(plan, ways)


def _of_waves(plan: Plan, ways: Iterable[EntryWay]) -> list[Finding]:
    """Entries from which no way leads, towers that reach no way, and waves that send nobody."""
    found, known = [], list(ways)
    for way in known:
        entry = plan.waves.entry(way.entry)
        if entry is not None and not way.found:
            words = f"From {entry.id} {entry.name} no way leads over {way.moves.value} to a goal"
            found.append(Finding("Sealed", entry.cells[0], words))
    for placed in towers_of(plan) if known else ():
        if not any(
            way.found
            and placed.tower.can_hit(way.moves is Moves.AIR)
            and stretches(way.points, placed.centre, placed.tower.least, placed.tower.most)
            for way in known
        ):
            cell = plan.register[placed.number].cell
            words = f"{plan.title_of(placed.number)} has no way in its range"
            found.append(Finding("Idle tower", cell, words, None, placed.number))
    return found[:MOST_OF_A_SORT]


def _weak(point: WeakPoint) -> Finding:
    names = ", ".join(structure_id(n) for n in point.structures[:_MOST_NAMES])
    left = len(point.structures) - _MOST_NAMES
    more = f" and {left} more" if left > 0 else ""
    piece = f"Weak: {point.cells} cell{'s' * (point.cells != 1)}"
    return Finding(piece, point.cell, f"Without it {names}{more} would be cut off")
