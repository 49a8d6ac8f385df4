"""What can be wrong with entries, goals, waves and towers."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from woven_locus.core.derived.cells import movement_costs
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Fault
from woven_locus.core.proof.subject import Subject
from woven_locus.core.wave_plan import Goal, Moves
from woven_locus.core.waves.ranges import effort_in_range
from woven_locus.core.waves.towers import towers_of
from woven_locus.core.waves.ways import find_ways, ground_of, slots_of, walk


def sealed(subject: Subject) -> Iterator[Fault]:
    """Entries from which no way leads to a goal."""
    plan = subject.plan
    for way in find_ways(plan) if plan.waves.goals else ():
        entry = plan.waves.entry(way.entry)
        if entry is None or way.found:
            continue
        open_ = np.isfinite(movement_costs(plan))[plan.movement]
        shut = way.moves is Moves.GROUND and not any(
            open_[plan.spec.slot(cell)] for cell in entry.cells
        )
        why = (
            phrase("it lies on blocked ground")
            if shut
            else phrase("no way leads over {moves} to a goal", moves=phrase(way.moves.value))
        )
        yield Fault(
            phrase("From {id} {entry} nobody comes: {why}", id=entry.id, entry=entry.name, why=why),
            entry.cells[0],
        )


def missing(subject: Subject) -> Iterator[Fault]:
    """Entries without a goal, goals without an entry, and waves that send nobody."""
    plan, waves = subject.plan, subject.plan.waves
    if waves.entries and not waves.goals:
        yield Fault(phrase("There are entries, and no goal"), waves.entries[0].cells[0])
    if waves.goals and not waves.entries:
        yield Fault(phrase("There are goals, and no entry"), waves.goals[0].cells[0])
    if waves.entries and waves.goals:
        for at, wave in enumerate(waves.waves, 1):
            if not wave.count:
                yield Fault(phrase("Wave {at} {wave} sends nobody", at=at, wave=wave.name))
        for goal in waves.goals if len(waves.goals) > 1 else ():
            if not _comes_to(plan, goal):
                yield Fault(
                    phrase("Nobody can come to {id} {goal}", id=goal.id, goal=goal.name),
                    goal.cells[0],
                )


def _comes_to(plan: Plan, goal: Goal) -> bool:
    """Whether a way leads to a goal from some entry that may go there."""
    ground, costs = ground_of(plan)
    for entry in plan.waves.entries:
        if goal not in plan.waves.goals_of(entry):
            continue
        for moves in plan.waves.moves_from(entry):
            if moves is Moves.AIR:
                return True
            starts = slots_of(plan, [entry])
            if walk(plan, entry, moves, starts, ground, costs, [goal]):
                return True
    return False


def idle_towers(subject: Subject) -> Iterator[Fault]:
    """Towers that reach no way of anybody that they can hit."""
    plan = subject.plan
    ways = find_ways(plan) if plan.waves.entries and plan.waves.goals else ()
    for placed in towers_of(plan) if ways else ():
        if not any(
            way.found
            and placed.tower.can_hit(way.moves is Moves.AIR)
            and effort_in_range(way, placed.centre, placed.tower)
            for way in ways
        ):
            cell = plan.register[placed.number].cell
            words = phrase(
                "{title_of} has no way in its range", title_of=plan.title_of(placed.number)
            )
            yield Fault(words, cell, placed.number)
