"""What can be wrong with trips, junctions and, once traffic has run, with the traffic."""

from __future__ import annotations

from collections.abc import Iterator

from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import Rule, turn_words
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.placing.verdict import listed
from woven_locus.core.proof.finding import Fault
from woven_locus.core.proof.subject import Subject
from woven_locus.core.register import structure_id
from woven_locus.core.routing.route import End
from woven_locus.core.traffic.waiting import ring_names


def no_way(subject: Subject) -> Iterator[Fault]:
    """Trips without a way, and traffic that there is no room for."""
    plan, traffic = subject.plan, subject.plan.traffic
    if not (traffic.trips or traffic.rules):
        return
    run = subject.traffic
    if isinstance(run, str):
        yield Fault(phrase("Traffic cannot be made: {run}", run=run))
        return
    for trip, way in zip(run.trips, run.ways, strict=True):
        if isinstance(way, str):
            start = trip.start if isinstance(trip.start, int) else 0
            cell = plan.register[start].cell if start in plan.register else None
            if isinstance(trip.start, Cell):
                cell = trip.start
            ends = phrase("from {end} to {end2}", end=_end(trip.start), end2=_end(trip.goal))
            structure = start if start in plan.register else 0
            yield Fault(
                phrase("The trip {ends} has no way: {way}", ends=ends, way=way), cell, structure
            )


def _end(end: End) -> str:
    return f"{end.col}, {end.row}" if isinstance(end, Cell) else structure_id(end)


def never_green(subject: Subject) -> Iterator[Fault]:
    """Signals with a turn that never gets green, and rules for a junction where there is none."""
    plan = subject.plan
    if not plan.traffic.junctions:
        return
    run = subject.traffic
    if isinstance(run, str):
        return
    for rule in plan.traffic.junctions:
        junction = run.streets.junctions.find(rule.cell)
        if junction is None:
            yield Fault(phrase("There is a rule for a junction here, and no junction"), rule.cell)
        elif rule.rule is Rule.SIGNALS:
            turns = rule.never_green(run.streets.junctions.turns_of(junction))
            if turns:
                words = listed([turn_words(turn, plan.spec.y_up) for turn in turns])
                yield Fault(
                    phrase("The signals here never show green to {words}", words=words), rule.cell
                )


def gridlock(subject: Subject) -> Iterator[Fault]:
    """Rings of vehicles that wait for one another, once traffic has run for some time."""
    for ring, (cell, seconds) in subject.motion.rings.items():
        words = phrase(
            "{count} vehicles wait for one another after {seconds:.0f} s",
            count=len(ring),
            seconds=seconds,
        )
        yield Fault(f"{words}: {ring_names(ring)}", cell)


def overlaps(subject: Subject) -> Iterator[Fault]:
    """Vehicles that stand in one another, once traffic has run for some time."""
    for (a, b), (cell, seconds) in subject.motion.overlaps.items():
        yield Fault(
            phrase("V{a} and V{b} overlap after {seconds:.0f} s", a=a, b=b, seconds=seconds), cell
        )


def held_back(subject: Subject) -> Iterator[Fault]:
    """Vehicles and people that found no room to set off, once traffic has run for some time."""
    motion = subject.motion
    if motion.held_back:
        who = counted(
            motion.held_back,
            "{n} vehicle or person found no room to set off",
            "{n} vehicles or people found no room to set off",
        )
        yield Fault(phrase("{who} within {seconds:.0f} s", who=who, seconds=motion.seconds))
