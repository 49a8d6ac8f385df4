"""Who may drive into a junction first: data of the plan, by the cell of the junction."""

from __future__ import annotations

import math
from collections.abc import Iterable
from enum import StrEnum

from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import SIDE_NAMES, Cell, cell_text
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

# From which side one comes, by which one leaves: 0 north (the row before in the array), then clockwise.
Turn = tuple[int, int]
# Seconds that a phase or an offset may last at most.
LONGEST_PHASE = 3600.0
MOST_PHASES = 12


class Rule(StrEnum):
    """FIRST: first come, first served, where a plan says nothing. LARGER: who comes by the road of more lanes, or of
    as many and a higher speed. SIGNALS: by phases."""

    FIRST = "first"
    LARGER = "larger"
    SIGNALS = "signals"


RULE_WORDS = {
    Rule.FIRST: phrase("first come, first served"),
    Rule.LARGER: phrase("the larger road first"),
    Rule.SIGNALS: "signals",
}


class Phase(Value):
    """turns : that may be driven, in ascending order.  green : seconds in which one may drive in; amber : seconds after
    it in which nobody may, before the next phase."""

    turns: tuple[Turn, ...]
    green: float
    amber: float


class JunctionRule(Value):
    """The rule of the junction at a cell. Raises BadPlan for phases without signals, signals without a phase, times that
    make no sense, a turn twice in a phase.

    offset : seconds after the beginning of a run at which the first phase begins.
    """

    cell: Cell
    rule: Rule
    phases: tuple[Phase, ...] = ()
    offset: float = 0.0

    def __post_init__(self) -> None:
        where = phrase("the junction at {cell}", cell=cell_text(self.cell))
        if self.rule is Rule.FIRST:
            raise BadPlan(where, phrase("first come, first served needs no rule"))
        if self.rule is Rule.LARGER and (self.phases or self.offset):
            raise BadPlan(where, phrase("only signals have phases and an offset"))
        if self.rule is Rule.SIGNALS and not 1 <= len(self.phases) <= MOST_PHASES:
            raise BadPlan(
                where,
                phrase(
                    "signals need 1 to {most_phases} phases, not {count}",
                    most_phases=MOST_PHASES,
                    count=len(self.phases),
                ),
            )
        if not (math.isfinite(self.offset) and 0 <= self.offset <= LONGEST_PHASE):
            raise BadPlan(
                where,
                phrase(
                    "offset must be 0 to {longest_phase:g} s, not {offset:g}",
                    longest_phase=LONGEST_PHASE,
                    offset=self.offset,
                ),
            )
        for number, phase in enumerate(self.phases, 1):
            _check(phase, where, number)

    @property
    def cycle(self) -> float:
        """Seconds from one beginning of the first phase to the next."""
        return sum(phase.green + phase.amber for phase in self.phases)

    def never_green(self, turns: Iterable[Turn]) -> tuple[Turn, ...]:
        """Those of some turns that no phase lets go."""
        green = {turn for phase in self.phases for turn in phase.turns}
        return tuple(turn for turn in turns if turn not in green)

    def green_at(self, seconds: float) -> frozenset[Turn]:
        """The turns that have green so many seconds after the beginning of a run."""
        time = (seconds - self.offset) % self.cycle
        found: set[Turn] = set()
        begun = 0.0
        for phase in self.phases:
            if begun <= time < begun + phase.green:
                found.update(phase.turns)
            begun += phase.green + phase.amber
        return frozenset(found)


def _check(phase: Phase, where: str, number: int) -> None:
    what = phrase("phase {number}", number=number)
    if not (math.isfinite(phase.green) and 0 < phase.green <= LONGEST_PHASE):
        raise BadPlan(
            where,
            phrase(
                "{what}: green must be above 0 and at most {longest_phase:g} s, not {green:g}",
                what=what,
                longest_phase=LONGEST_PHASE,
                green=phase.green,
            ),
        )
    if not (math.isfinite(phase.amber) and 0 <= phase.amber <= LONGEST_PHASE):
        raise BadPlan(
            where,
            phrase(
                "{what}: amber must be 0 to {longest_phase:g} s, not {amber:g}",
                what=what,
                longest_phase=LONGEST_PHASE,
                amber=phase.amber,
            ),
        )
    if any(not (0 <= side < 4) for turn in phase.turns for side in turn):
        raise BadPlan(where, phrase("{what}: a side is 0 to 3", what=what))
    if list(phase.turns) != sorted(set(phase.turns)):
        raise BadPlan(where, phrase("{what}: turns must be given once each, in order", what=what))


def turn_words(turn: Turn, y_up: bool = False) -> str:
    """``north to east``, as on screen."""
    a, b = (phrase(SIDE_NAMES[shown_side(side, y_up)]) for side in turn)
    return phrase("{a} to {b}", a=a, b=b)


def shown_side(side: int, y_up: bool) -> int:
    """A side of the array as it is on screen, and the other way round."""
    return (2 - side) % 4 if y_up else side
