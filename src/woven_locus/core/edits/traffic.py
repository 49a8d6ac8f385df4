"""Edits of the kinds of vehicle, the trips and the rules of junctions. Each returns an `Edit` (perhaps empty);
none touches the plan."""

from __future__ import annotations

from collections.abc import Sequence

from woven_locus.core.editing import Edit, TrafficChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.junction_rules import RULE_WORDS, JunctionRule, Rule
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.vehicles import PersonKind, TrafficPlan, Trip, TripRule, VehicleKind


def _edit(plan: Plan, label: str, after: TrafficPlan) -> Edit:
    if after == plan.traffic:
        return Edit("", ())
    return Edit(label, (TrafficChange(plan.traffic, after),))


def set_trips(plan: Plan, trips: Sequence[Trip], label: str = phrase("Changed the trips")) -> Edit:
    """These trips in place of those that there are. Raises BadPlan."""
    return _edit(plan, label, replace(plan.traffic, trips=tuple(trips)))


def set_trip_rules(
    plan: Plan, rules: Sequence[TripRule], label: str = phrase("Changed the rules of trips")
) -> Edit:
    """These rules that make trips in place of those that there are. Raises BadPlan."""
    return _edit(plan, label, replace(plan.traffic, rules=tuple(rules)))


def add_vehicle(plan: Plan, kind: VehicleKind) -> Edit:
    """One more kind of vehicle, last in the list. Raises BadPlan."""
    vehicles = (*plan.traffic.vehicles, kind)
    return _edit(
        plan, phrase("Added {kind}", kind=kind.name), replace(plan.traffic, vehicles=vehicles)
    )


def change_vehicle(plan: Plan, key: str, kind: VehicleKind) -> Edit:
    """Another look or other numbers for a kind of vehicle; trips follow a new key. Raises BadPlan, Refused."""
    _known(plan, key)
    vehicles = tuple(kind if old.key == key else old for old in plan.traffic.vehicles)
    trips = tuple(
        replace(trip, kind=kind.key) if trip.kind == key else trip for trip in plan.traffic.trips
    )
    rules = tuple(
        replace(rule, kind=kind.key) if rule.kind == key else rule for rule in plan.traffic.rules
    )
    after = replace(plan.traffic, vehicles=vehicles, trips=trips, rules=rules)
    return _edit(plan, phrase("Changed {kind}", kind=kind.name), after)


def remove_vehicle(plan: Plan, key: str) -> Edit:
    """Take away a kind of vehicle that no trip is made with. Raises Refused, saying how many are."""
    kind = _known(plan, key)
    _check_unused(plan, key, kind.name)
    vehicles = tuple(old for old in plan.traffic.vehicles if old.key != key)
    return _edit(
        plan, phrase("Removed {kind}", kind=kind.name), replace(plan.traffic, vehicles=vehicles)
    )


def add_person(plan: Plan, kind: PersonKind) -> Edit:
    """One more kind of people on foot. Raises BadPlan."""
    people = (*plan.traffic.people, kind)
    return _edit(plan, phrase("Added {kind}", kind=kind.name), replace(plan.traffic, people=people))


def change_person(plan: Plan, key: str, kind: PersonKind) -> Edit:
    """Another look or other numbers for a kind of people, under the same key. Raises BadPlan, Refused."""
    if key != kind.key or key not in [old.key for old in plan.traffic.people]:
        raise Refused(
            phrase("there is no kind of people {key!r}, or its key would change", key=key)
        )
    people = tuple(kind if old.key == key else old for old in plan.traffic.people)
    return _edit(
        plan, phrase("Changed {kind}", kind=kind.name), replace(plan.traffic, people=people)
    )


def remove_person(plan: Plan, key: str) -> Edit:
    """Take away a kind of people that no trip is made by. Raises Refused, saying how many are."""
    for kind in plan.traffic.people:
        if kind.key == key:
            _check_unused(plan, key, kind.name)
            people = tuple(old for old in plan.traffic.people if old.key != key)
            return _edit(
                plan, phrase("Removed {kind}", kind=kind.name), replace(plan.traffic, people=people)
            )
    raise Refused(phrase("there is no kind of people {key!r}", key=key))


def set_longest_crossing(plan: Plan, seconds: float) -> Edit:
    """How long people may hold vehicles up at a crossing in one go. Raises BadPlan."""
    label = phrase("Vehicles wait at crossings for {seconds:g} s at most", seconds=seconds)
    return _edit(plan, label, replace(plan.traffic, longest_crossing=seconds))


def set_rule(plan: Plan, cell: Cell, rule: JunctionRule | None) -> Edit:
    """Another rule for the junction at a cell; None for first come, first served. Raises Refused for a cell outside."""
    if not plan.spec.contains(cell):
        raise Refused(
            phrase(
                "{cell} is outside the grid ({describe_range}): no junction is there",
                cell=cell_text(cell),
                describe_range=plan.spec.describe_range(),
            )
        )
    words = RULE_WORDS[rule.rule if rule is not None else Rule.FIRST]
    label = phrase("Junction {cell}: {words}", cell=cell_text(cell), words=words)
    return _edit(plan, label, plan.traffic.with_rule(cell, rule))


def _known(plan: Plan, key: str) -> VehicleKind:
    for kind in plan.traffic.vehicles:
        if kind.key == key:
            return kind
    raise Refused(phrase("there is no kind of vehicle {key!r}", key=key))


def _check_unused(plan: Plan, key: str, name: str) -> None:
    if used := sum(trip.kind == key for trip in plan.traffic.trips):
        raise Refused(
            counted(
                used,
                "{name} cannot be removed: {n:,} trip names it",
                "{name} cannot be removed: {n:,} trips name it",
                name=name,
            )
        )
    if used := sum(rule.kind == key for rule in plan.traffic.rules):
        raise Refused(
            counted(
                used,
                "{name} cannot be removed: {n:,} rule names it",
                "{name} cannot be removed: {n:,} rules name it",
                name=name,
            )
        )
