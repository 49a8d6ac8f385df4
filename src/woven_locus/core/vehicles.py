"""Kinds of vehicle, and the trips that they make: data of the plan."""

from __future__ import annotations

import itertools
import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.grid import GridSpec
from woven_locus.core.junction_rules import JunctionRule
from woven_locus.core.names import key_problem, name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, replace

Floats = npt.NDArray[np.float64]

# Seconds of a run at most: a week; at 30 steps a second nobody waits for more.
LONGEST_RUN = 604_800.0
# The largest number of vehicles that one trip may send, and of all trips of a plan.
MOST_VEHICLES = 10_000_000
# The largest number that one structure may send by one rule.
MOST_BY_RULE = 10_000
# An end of a trip: a structure's number, or a cell.
TripEnd = int | Cell


class VehicleKind(Value):
    """One kind of vehicle, in world units and seconds; all numbers above 0.

    key : short name used in files.  dye : "#RRGGBB".  speed : the most it drives.  acceleration, braking : the most it
    speeds up, and what is comfortable when it brakes; nobody brakes harder than twice that.
    headway : seconds that it stays behind the one before it.  gap : the least distance to it when both stand.
    """

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

    def equilibrium_gap(self, v: Floats, fastest: float) -> Floats:
        """(N,) the gaps at which vehicles of this kind neither speed up nor slow down at speeds `v`, which are below
        `fastest`; by the Intelligent Driver Model (see `kernels.driving`)."""
        found: Floats = (self.gap + v * self.headway) / np.sqrt(1 - (v / fastest) ** 4)
        return found


class PersonKind(Value):
    """One kind of people on foot. key, name, dye : as of vehicles.  size : across, world units; speed : world units a
    second; both above 0."""

    key: str
    name: str
    dye: str
    size: float
    speed: float


def plain_vehicle(spec: GridSpec) -> VehicleKind:
    """What drives in a plan that says nothing of vehicles, to the measure of its cells."""
    cell = min(spec.cell_w, spec.cell_h)

    def of(share: float) -> float:
        return float(f"{share * cell:.6g}")

    return VehicleKind(
        "vehicle",
        "Vehicle",
        "#A5383F",
        length=of(0.3),
        width=of(0.1),
        speed=of(2.0),
        acceleration=of(0.6),
        braking=of(0.8),
        headway=1.2,
        gap=of(0.08),
    )


class Trip(Value):
    """Vehicles that go from one end to another.

    depart : when the first wants to set off, seconds from the beginning.  kind : key of the kind of vehicle, empty
    for the first of the plan.  every : seconds between two.  count : how many.
    """

    start: TripEnd
    goal: TripEnd
    depart: float = 0.0
    kind: str = ""
    every: float = 0.0
    count: int = 1


def plain_person(spec: GridSpec) -> PersonKind:
    """Somebody on foot, to the measure of a plan's cells."""
    cell = min(spec.cell_w, spec.cell_h)
    size, speed = float(f"{0.05 * cell:.6g}"), float(f"{0.4 * cell:.6g}")
    return PersonKind("people", "People", "#5B86A8", size, speed)


class Spacing(StrEnum):
    """How departures follow one another: EVENLY, or by CHANCE, as in a Poisson process of the same mean."""

    EVENLY = "evenly"
    CHANCE = "chance"


class TripRule(Value):
    """Each structure of a kind sends vehicles to the nearest one of another kind.

    start, goal : keys of kinds of structure.  kind : of vehicle, empty for the first of the plan.  depart : seconds at
    which it begins; every : between two, on average; count : vehicles of each structure.
    """

    start: str
    goal: str
    kind: str = ""
    depart: float = 0.0
    every: float = 60.0
    count: int = 10
    spacing: Spacing = Spacing.EVENLY


class TrafficPlan(Value):
    """What a plan says of its traffic. Raises BadPlan for a key twice, a value that makes no sense, a trip of a kind that
    there is not, far too many vehicles, or two rules for one junction. Ends of trips, and the cells of junctions, are
    looked at when a run begins: a structure or a road may go.

    junctions : the rules of those that have one, by row and column.  rules : that make trips; see `traffic.trips`.
    people : kinds of them on foot.  longest_crossing : seconds that people may hold vehicles up at a crossing in one go.
    """

    vehicles: tuple[VehicleKind, ...] = ()
    trips: tuple[Trip, ...] = ()
    junctions: tuple[JunctionRule, ...] = ()
    rules: tuple[TripRule, ...] = ()
    people: tuple[PersonKind, ...] = ()
    longest_crossing: float = 20.0

    def __post_init__(self) -> None:
        keys = _check_kinds(self.vehicles, self.people)
        _check_trips(self.trips, keys)
        _check_rules(self.rules, keys)
        if not (math.isfinite(self.longest_crossing) and 0 < self.longest_crossing <= 3600):
            raise BadPlan(
                "longest_crossing",
                phrase(
                    "must be above 0 and at most 3600 s, not {longest_crossing:g}",
                    longest_crossing=self.longest_crossing,
                ),
            )
        places = [_place(rule.cell) for rule in self.junctions]
        for before, after in itertools.pairwise(places):
            if before >= after:
                at = cell_text(Cell(*after[::-1]))
                what = "twice" if before == after else phrase("not in order of row and column")
                raise BadPlan(
                    "junctions",
                    phrase("the junction at {at} stands there {what}", at=at, what=what),
                )

    def rule_at(self, cell: Cell) -> JunctionRule | None:
        """The rule of a junction, None for first come, first served. O(log n)."""
        at = bisect_left(self.junctions, _place(cell), key=lambda rule: _place(rule.cell))
        found = self.junctions[at] if at < len(self.junctions) else None
        return found if found is not None and found.cell == cell else None

    def with_rule(self, cell: Cell, rule: JunctionRule | None) -> TrafficPlan:
        """The same with another rule for a junction, or none."""
        others = [other for other in self.junctions if other.cell != cell]
        if rule is not None:
            others.append(rule)
        others.sort(key=lambda rule: _place(rule.cell))
        return replace(self, junctions=tuple(others))

    def name_of(self, kind: str) -> str:
        """The name of a kind of vehicle or people by its key; empty for the first vehicle."""
        if not kind:
            return self.vehicles[0].name if self.vehicles else phrase("Vehicle")
        names = {item.key: item.name for item in self.vehicles}
        names |= {item.key: item.name for item in self.people}
        return names.get(kind, kind)

    def moved(self, to: Callable[[Cell], Cell]) -> TrafficPlan:
        """The same with all cells elsewhere. Of two junctions that come to lie in one cell the first one's rule counts."""
        trips = tuple(
            replace(trip, start=_moved(trip.start, to), goal=_moved(trip.goal, to))
            for trip in self.trips
        )
        rules: dict[tuple[int, int], JunctionRule] = {}
        for rule in self.junctions:
            cell = to(rule.cell)
            rules.setdefault(_place(cell), replace(rule, cell=cell))
        kept = tuple(rules[at] for at in sorted(rules))
        return replace(self, trips=trips, junctions=kept)


def _moved(end: TripEnd, to: Callable[[Cell], Cell]) -> TripEnd:
    return to(end) if isinstance(end, Cell) else end


def _place(cell: Cell) -> tuple[int, int]:
    return cell.row, cell.col


_NUMBERS = ("length", "width", "speed", "acceleration", "braking", "headway", "gap")


def _check_kinds(vehicles: Sequence[VehicleKind], people: Sequence[PersonKind]) -> set[str]:
    """The keys of all kinds, each of which must be there once."""
    seen: set[str] = set()
    for at, kind in enumerate(vehicles):
        _check_kind(kind, f"vehicles[{at}]", phrase("a kind of vehicle"), _NUMBERS, seen)
    for at, person in enumerate(people):
        _check_kind(person, f"people[{at}]", phrase("a kind of people"), ("size", "speed"), seen)
    return seen


def _check_kind(
    kind: VehicleKind | PersonKind, where: str, what: str, numbers: Sequence[str], seen: set[str]
) -> None:
    if not kind.name.strip():
        raise BadPlan(where, phrase("{what} needs a name", what=what))
    if problem := name_problem(kind.name) or key_problem(kind.key):
        raise BadPlan(where, problem)
    if kind.key in seen:
        raise BadPlan(where, phrase("key {key!r} is used twice", key=kind.key))
    seen.add(kind.key)
    for name in numbers:
        value = getattr(kind, name)
        if not (math.isfinite(value) and value > 0):
            raise BadPlan(
                where,
                phrase("{name} must be a number above 0, not {value:g}", name=name, value=value),
            )


def _check_rules(rules: Sequence[TripRule], keys: set[str]) -> None:
    for at, rule in enumerate(rules):
        where = f"trip_rules[{at}]"
        if not (math.isfinite(rule.depart) and rule.depart >= 0):
            raise BadPlan(
                where,
                phrase("depart must be 0 seconds or more, not {depart:g}", depart=rule.depart),
            )
        if not (math.isfinite(rule.every) and rule.every > 0):
            raise BadPlan(
                where, phrase("every must be above 0 seconds, not {every:g}", every=rule.every)
            )
        if not 1 <= rule.count <= MOST_BY_RULE:
            raise BadPlan(
                where,
                phrase(
                    "count must be 1 to {most_by_rule:,}, not {count:,}",
                    most_by_rule=MOST_BY_RULE,
                    count=rule.count,
                ),
            )
        if rule.kind and rule.kind not in keys:
            known = ", ".join(sorted(keys)) or "none"
            raise BadPlan(
                where,
                phrase(
                    "no kind of vehicle or people {kind!r}; the plan has {known}",
                    kind=rule.kind,
                    known=known,
                ),
            )


def _check_trips(trips: Sequence[Trip], keys: set[str]) -> None:
    total = 0
    for at, trip in enumerate(trips):
        where = f"trips[{at}]"
        for what, value in (("depart", trip.depart), ("every", trip.every)):
            if not (math.isfinite(value) and value >= 0):
                raise BadPlan(
                    where,
                    phrase(
                        "{what} must be 0 seconds or more, not {value:g}", what=what, value=value
                    ),
                )
        if trip.count < 1:
            raise BadPlan(where, phrase("count must be 1 or more, not {count:,}", count=trip.count))
        total += trip.count
        if total > MOST_VEHICLES:
            raise BadPlan(
                where,
                phrase(
                    "trips may send {most_vehicles:,} vehicles in all, these send more",
                    most_vehicles=MOST_VEHICLES,
                ),
            )
        if trip.kind and trip.kind not in keys:
            known = ", ".join(sorted(keys)) or "none"
            raise BadPlan(
                where,
                phrase(
                    "no kind of vehicle or people {kind!r}; the plan has {known}",
                    kind=trip.kind,
                    known=known,
                ),
            )


# A plan that says nothing of traffic.
NO_TRAFFIC = TrafficPlan()
