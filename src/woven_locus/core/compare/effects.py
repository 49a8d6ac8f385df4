"""What follows from the differences between two plans: findings that came or went, trips that take longer."""

from __future__ import annotations

from collections.abc import Collection

from woven_locus.core.errors import Unknown
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Finding
from woven_locus.core.proof.table import prove
from woven_locus.core.routing.lane_ways import LaneWay, find_lane_way
from woven_locus.core.value import Value
from woven_locus.core.vehicles import Trip, TripEnd

# Ends of trips that are looked at, at most.
MOST_TRIPS = 200


class Taking(Value):
    """Seconds that the way of a trip takes on an empty road; None where there is none."""

    start: TripEnd
    goal: TripEnd
    before: float | None
    after: float | None


class Effects(Value):
    """came, went : findings that are there after, or before, alone; accepted ones left out.  routes : those of trips in
    both plans that take another time."""

    came: tuple[Finding, ...] = ()
    went: tuple[Finding, ...] = ()
    routes: tuple[Taking, ...] = ()


def came(after: Plan, known: Collection[Finding]) -> tuple[Finding, ...]:
    """What is wrong with a plan, proved without traffic, that is not among findings that are known."""
    keys = {item.key for item in known}
    return tuple(item for item in prove(after).findings if item.key not in keys)


def effects(before: Plan, after: Plan) -> Effects:
    """Of one plan becoming the other. Both are proved, without traffic."""
    old, new = prove(before).findings, prove(after).findings
    known, left = {item.key for item in old}, {item.key for item in new}
    return Effects(
        tuple(item for item in new if item.key not in known),
        tuple(item for item in old if item.key not in left),
        _routes(before, after),
    )


def _routes(before: Plan, after: Plan) -> tuple[Taking, ...]:
    def ends(trips: tuple[Trip, ...]) -> dict[tuple[TripEnd, TripEnd], None]:
        return dict.fromkeys((trip.start, trip.goal) for trip in trips)

    old, found = ends(before.traffic.trips), []
    both = [pair for pair in ends(after.traffic.trips) if pair in old][:MOST_TRIPS]
    for start, goal in both:
        then, now = _seconds(before, start, goal), _seconds(after, start, goal)
        if then != now:
            found.append(Taking(start, goal, then, now))
    return tuple(found)


def _seconds(plan: Plan, start: TripEnd, goal: TripEnd) -> float | None:
    try:
        way = find_lane_way(plan, start, goal)
    except Unknown:
        return None
    return way.seconds if isinstance(way, LaneWay) else None
