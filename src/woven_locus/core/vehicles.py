"""Kinds of vehicle, and the trips that they make: data of the plan."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.names import key_problem, name_problem

# The largest number of vehicles that one trip may send, and of all trips of a plan.
MOST_VEHICLES = 10_000_000
# An end of a trip: a structure's number, or a cell.
TripEnd = int | Cell


@dataclass(frozen=True, slots=True)
class VehicleKind:
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


def plain_vehicle(spec: GridSpec) -> VehicleKind:
    """What drives in a plan that says nothing of vehicles, to the measure of its cells."""
    unit = min(spec.cell_w, spec.cell_h)
    return VehicleKind(
        "vehicle",
        "Vehicle",
        "#A5383F",
        length=0.3 * unit,
        width=0.1 * unit,
        speed=2.0 * unit,
        acceleration=0.6 * unit,
        braking=0.8 * unit,
        headway=1.2,
        gap=0.08 * unit,
    )


@dataclass(frozen=True, slots=True)
class Trip:
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


@dataclass(frozen=True, slots=True)
class TrafficPlan:
    """What a plan says of its traffic. Raises BadPlan for a key twice, a value that makes no sense, a trip of a kind that
    there is not, or far too many vehicles. Ends are looked at when somebody sets off: a structure may go."""

    vehicles: tuple[VehicleKind, ...] = ()
    trips: tuple[Trip, ...] = ()

    def __post_init__(self) -> None:
        _check_kinds(self.vehicles)
        _check_trips(self.trips, self.vehicles)


def _check_kinds(kinds: Sequence[VehicleKind]) -> None:
    seen: set[str] = set()
    for at, kind in enumerate(kinds):
        where = f"vehicles[{at}]"
        if not kind.name.strip():
            raise BadPlan(where, "a kind of vehicle needs a name")
        if problem := name_problem(kind.name) or key_problem(kind.key):
            raise BadPlan(where, problem)
        if kind.key in seen:
            raise BadPlan(where, f"key {kind.key!r} is used twice")
        seen.add(kind.key)
        for what in ("length", "width", "speed", "acceleration", "braking", "headway", "gap"):
            value = getattr(kind, what)
            if not (math.isfinite(value) and value > 0):
                raise BadPlan(where, f"{what} must be a number above 0, not {value:g}")


def _check_trips(trips: Sequence[Trip], kinds: Sequence[VehicleKind]) -> None:
    keys = {kind.key for kind in kinds}
    total = 0
    for at, trip in enumerate(trips):
        where = f"trips[{at}]"
        for what, value in (("depart", trip.depart), ("every", trip.every)):
            if not (math.isfinite(value) and value >= 0):
                raise BadPlan(where, f"{what} must be 0 seconds or more, not {value:g}")
        if trip.count < 1:
            raise BadPlan(where, f"count must be 1 or more, not {trip.count:,}")
        total += trip.count
        if total > MOST_VEHICLES:
            raise BadPlan(
                where, f"trips may send {MOST_VEHICLES:,} vehicles in all, these send more"
            )
        if trip.kind and trip.kind not in keys:
            known = ", ".join(sorted(keys)) or "none"
            raise BadPlan(where, f"no kind of vehicle {trip.kind!r}; the plan has {known}")


# A plan that says nothing of traffic.
NO_TRAFFIC = TrafficPlan()
