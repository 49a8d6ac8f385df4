"""What a plan says of its traffic, as rows of the document and of the journal, and trips as CSV."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from woven_locus.core.errors import BadPlan, FileProblem, WovenError
from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import JunctionRule, Phase, Rule, shown_side
from woven_locus.core.numbers import parse_number, parse_whole
from woven_locus.core.phrase import phrase, said
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.value import replace
from woven_locus.core.vehicles import (
    PersonKind,
    Spacing,
    TrafficPlan,
    Trip,
    TripEnd,
    TripRule,
    VehicleKind,
)
from woven_locus.files.atomic import read_bytes
from woven_locus.files.row_values import Pair, Strict, dye, num
from woven_locus.files.tables import LARGEST, read_table, table

# Sides as on screen, as signs are written.
_SIDES = "nesw"
COLUMNS = ("start", "end", "depart", "kind", "every", "count")


class VehicleRow(Strict):
    """A kind of vehicle. From version 5 on."""

    key: str
    name: str
    dye: str
    length: float
    width: float
    speed: float
    acceleration: float
    braking: float
    headway: float
    gap: float

    @classmethod
    def of(cls, kind: VehicleKind) -> VehicleRow:
        """The row of a value."""
        numbers: Any = (num(getattr(kind, name)) for name in cls.__struct_fields__[3:])
        return cls(kind.key, kind.name, kind.dye, *numbers)

    def made(self, where: str) -> VehicleKind:
        """The value of the row. Raises BadPlan or another WovenError."""
        numbers: Any = (getattr(self, name) for name in self.__struct_fields__[3:])
        return VehicleKind(self.key, self.name, dye(self.dye, where), *numbers)


class TripRow(Strict):
    """A trip. From version 5 on."""

    start: str
    end: str
    depart: float
    kind: str
    every: float
    count: int

    @classmethod
    def of(cls, trip: Trip) -> TripRow:
        """The row of a value."""
        ends = end_text(trip.start), end_text(trip.goal)
        return cls(*ends, num(trip.depart), trip.kind, num(trip.every), trip.count)

    def made(self, where: str) -> Trip:
        """The value of the row. Raises BadPlan."""
        try:
            ends = parse_trip_end(self.start), parse_trip_end(self.end)
        except ValueError as err:
            raise BadPlan(where, str(err)) from None
        return Trip(*ends, float(self.depart), self.kind, float(self.every), self.count)


class PhaseRow(Strict):
    """A phase of signals. From version 6 on."""

    turns: list[str]
    green: float
    amber: float

    @classmethod
    def of(cls, phase: Phase, up: bool) -> PhaseRow:
        """The row of a value. up : whether rows grow upwards; sides are as on screen."""
        turns = ["".join(_SIDES[shown_side(side, up)] for side in turn) for turn in phase.turns]
        return cls(turns, num(phase.green), num(phase.amber))

    def made(self, where: str, up: bool) -> Phase:
        """The value of the row. Raises BadPlan."""
        turns = []
        for text in self.turns:
            if len(text) != 2 or any(side not in _SIDES for side in text):
                raise BadPlan(
                    where,
                    phrase("a turn is two of n, e, s and w, like ns, not {text!r}", text=text),
                )
            came, goes = (shown_side(_SIDES.index(side), up) for side in text)
            turns.append((came, goes))
        return Phase(tuple(sorted(turns)), float(self.green), float(self.amber))


class JunctionRow(Strict):
    """The rule of a junction. From version 6 on."""

    cell: Pair
    rule: str
    phases: list[PhaseRow]
    offset: float

    @classmethod
    def of(cls, rule: JunctionRule, up: bool = False) -> JunctionRow:
        """The row of a value."""
        phases = [PhaseRow.of(phase, up) for phase in rule.phases]
        return cls((rule.cell.col, rule.cell.row), rule.rule.value, phases, num(rule.offset))

    def made(self, where: str, up: bool = False) -> JunctionRule:
        """The value of the row. Raises BadPlan."""
        if self.rule not in (Rule.LARGER, Rule.SIGNALS):
            raise BadPlan(
                where, phrase("a rule is larger or signals, not {rule!r}", rule=self.rule)
            )
        phases = tuple(row.made(where, up) for row in self.phases)
        return JunctionRule(Cell(*self.cell), Rule(self.rule), phases, float(self.offset))


class TripRuleRow(Strict):
    """A rule that makes trips. From version 6 on."""

    start: str
    end: str
    depart: float
    kind: str
    every: float
    count: int
    spacing: str

    @classmethod
    def of(cls, rule: TripRule) -> TripRuleRow:
        """The row of a value."""
        times = num(rule.depart), rule.kind, num(rule.every)
        return cls(rule.start, rule.goal, *times, rule.count, rule.spacing.value)

    def made(self, where: str) -> TripRule:
        """The value of the row. Raises BadPlan."""
        if self.spacing not in (Spacing.EVENLY, Spacing.CHANCE):
            raise BadPlan(
                where, phrase("spacing is evenly or chance, not {spacing!r}", spacing=self.spacing)
            )
        times = self.kind, float(self.depart), float(self.every)
        return TripRule(self.start, self.end, *times, self.count, Spacing(self.spacing))


class PersonRow(Strict):
    """A kind of people on foot. From version 6 on."""

    key: str
    name: str
    dye: str
    size: float
    speed: float

    @classmethod
    def of(cls, kind: PersonKind) -> PersonRow:
        """The row of a value."""
        return cls(kind.key, kind.name, kind.dye, num(kind.size), num(kind.speed))

    def made(self, where: str) -> PersonKind:
        """The value of the row. Raises BadPlan or another WovenError."""
        numbers = float(self.size), float(self.speed)
        return PersonKind(self.key, self.name, dye(self.dye, where), *numbers)


class TrafficRows(Strict):
    """All that a plan says of its traffic, as the journal holds it."""

    vehicles: tuple[VehicleRow, ...] = ()
    trips: tuple[TripRow, ...] = ()
    junctions: tuple[JunctionRow, ...] = ()
    trip_rules: tuple[TripRuleRow, ...] = ()
    people: tuple[PersonRow, ...] = ()
    longest_crossing: float = 20.0

    @classmethod
    def of(cls, plan: TrafficPlan, up: bool = False) -> TrafficRows:
        """The rows of a value. up : whether rows of the map grow upwards; the journal does not ask."""
        return cls(
            tuple(VehicleRow.of(kind) for kind in plan.vehicles),
            tuple(TripRow.of(trip) for trip in plan.trips),
            tuple(JunctionRow.of(rule, up) for rule in plan.junctions),
            tuple(TripRuleRow.of(rule) for rule in plan.rules),
            tuple(PersonRow.of(kind) for kind in plan.people),
            num(plan.longest_crossing),
        )

    def made(self, up: bool = False) -> TrafficPlan:
        """The value of the rows. Raises BadPlan or another WovenError."""
        return TrafficPlan(
            tuple(row.made(f"vehicles[{at}]") for at, row in enumerate(self.vehicles)),
            tuple(row.made(f"trips[{at}]") for at, row in enumerate(self.trips)),
            tuple(row.made(f"junctions[{at}]", up) for at, row in enumerate(self.junctions)),
            tuple(row.made(f"trip_rules[{at}]") for at, row in enumerate(self.trip_rules)),
            tuple(row.made(f"people[{at}]") for at, row in enumerate(self.people)),
            float(self.longest_crossing),
        )


def end_text(end: TripEnd) -> str:
    """An end of a trip as it is written: ``S12``, or a cell as ``14:-9``."""
    return f"{end.col}:{end.row}" if isinstance(end, Cell) else structure_id(end)


def parse_trip_end(text: str) -> TripEnd:
    """The inverse of `end_text`. Raises ValueError, saying what was expected."""
    text = text.strip()
    try:
        if text[:1] in ("S", "s"):
            number = parse_whole(text[1:])
            if number > 0:
                return number
        else:
            col, row = map(parse_whole, text.split(":"))
            return Cell(col, row)
    except ValueError:
        pass
    raise ValueError(
        phrase("{text!r} is neither a structure like S12 nor a cell like 14:9", text=text)
    )


def trips_csv(plan: Plan) -> str:
    """The trips of a plan, a line each."""
    rows = (TripRow.of(trip) for trip in plan.traffic.trips)
    return table(
        COLUMNS, ([row.start, row.end, row.depart, row.kind, row.every, row.count] for row in rows)
    )


def load(path: Path, plan: Plan) -> tuple[Trip, ...]:
    """Trips for a plan. Raises FileProblem for a file that is no such table, and for a line that makes no sense there: a
    structure or a kind of vehicle that it does not have, a cell outside, a number that is none."""
    return parse(read_bytes(path, LARGEST), path, plan)


def parse(data: bytes, path: object, plan: Plan) -> tuple[Trip, ...]:
    """See `load`."""
    trips = []
    for line, values in read_table(data, path, COLUMNS, ("start", "end", "depart")):
        try:
            trip = _trip(values)
            for end in (trip.start, trip.goal):
                check_end(plan, end)
            replace(plan.traffic, trips=(trip,))
        except BadPlan as err:
            raise FileProblem(path, phrase("line {line}", line=line), err.what) from None
        except (ValueError, WovenError) as err:
            raise FileProblem(path, phrase("line {line}", line=line), said(err)) from None
        trips.append(trip)
    try:
        return replace(plan.traffic, trips=tuple(trips)).trips
    except BadPlan as err:
        raise FileProblem(path, "", err.what) from None


def _trip(values: dict[str, str]) -> Trip:
    try:
        every = parse_number(values.get("every") or "0")
        count = parse_whole(values.get("count") or "1")
        depart = parse_number(values["depart"])
    except ValueError:
        raise ValueError(
            phrase("depart, every and count must be numbers, count a whole one")
        ) from None
    start, goal = parse_trip_end(values["start"]), parse_trip_end(values["end"])
    return Trip(start, goal, depart, values.get("kind", ""), every, count)


def check_end(plan: Plan, end: TripEnd) -> None:
    """Raises ValueError, Unknown for an end that the plan does not have."""
    if isinstance(end, Cell):
        if not plan.spec.contains(end):
            raise ValueError(
                phrase(
                    "cell {end_text} is outside the grid ({describe_range})",
                    end_text=end_text(end),
                    describe_range=plan.spec.describe_range(),
                )
            )
    else:
        _ = plan.register[end]
