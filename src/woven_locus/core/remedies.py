"""What would help most: the junction where most time is lost, and what other rules or one more cell of road would
save."""

from __future__ import annotations

from collections.abc import Callable

from woven_locus.core.editing import Edit, History
from woven_locus.core.edits.roads import lay_road
from woven_locus.core.edits.traffic import set_rule
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.junction_rules import RULE_WORDS, JunctionRule, Rule
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.junctions import ranks
from woven_locus.core.traffic.report import junction_figures
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.signals import propose
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.value import Value
from woven_locus.core.ways.roads import class_of


class Remedy(Value):
    """words : what is done.  make : the edit that does it, of a plan like the one that was asked about."""

    words: str
    make: Callable[[Plan], Edit]


class Outcome(Value):
    """time : seconds that all vehicles spent on the road or waiting to set off; saved, how much less than as it is.
    arrived : vehicles.  why : why it could not be tried, else empty."""

    remedy: Remedy
    time: float
    saved: float
    arrived: int
    why: str = ""


def worst_junction(run: TrafficRun) -> Cell | None:
    """Where most time is lost, None where none is."""
    found = max(junction_figures(run), key=lambda item: item.delay, default=None)
    return found.cell if found is not None and found.delay > 0 else None


def remedies(run: TrafficRun, plan: Plan, cell: Cell) -> list[Remedy]:
    """What may be tried at a junction: the rules that it does not have, and one cell of road beside it, which joins two
    of its arms, where road may lie."""
    junctions = run.streets.junctions
    at = junctions.find(cell)
    if at is None:
        return []
    given = plan.traffic.rule_at(cell)
    now = given.rule if given is not None else Rule.FIRST
    found = []
    if now is not Rule.FIRST:
        found.append(Remedy(RULE_WORDS[Rule.FIRST], lambda plan: set_rule(plan, cell, None)))
    if now is not Rule.LARGER and ranks(junctions, at, plan.road_table).max() > 0:
        larger = JunctionRule(cell, Rule.LARGER)
        found.append(Remedy(RULE_WORDS[Rule.LARGER], lambda plan: set_rule(plan, cell, larger)))
    proposed = propose(run, at, given.offset if given is not None else 0.0)
    words = phrase("signals, worked out anew") if now is Rule.SIGNALS else RULE_WORDS[Rule.SIGNALS]
    found.append(Remedy(words, lambda plan: set_rule(plan, cell, proposed)))
    byte = int(plan.road[plan.spec.slot(cell)])
    for col, row in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
        corner = cell.moved(col, row)
        if _joins(plan, cell, corner):
            found.append(
                Remedy(
                    phrase("road at {corner} too", corner=cell_text(corner)),
                    lambda plan, corner=corner: lay_road(plan, [corner], class_of(byte)),  # type: ignore[misc]
                )
            )
    return found


def _joins(plan: Plan, cell: Cell, corner: Cell) -> bool:
    """Whether a cell diagonal to a junction lies between two of its arms, and has no road yet."""
    if not plan.spec.contains(corner) or plan.road[plan.spec.slot(corner)]:
        return False
    arms = (Cell(corner.col, cell.row), Cell(cell.col, corner.row))
    return all(bool(plan.road[plan.spec.slot(arm)]) for arm in arms)


def try_out(
    plan: Plan,
    remedy: Remedy | None,
    steps: int,
    step: float,
    seed: int,
    tell: Callable[[float], object],
    stopped: Callable[[], bool],
) -> TrafficRun | str:
    """A run of a plan with a remedy, or as it is; or why that cannot be. plan : one's own; it is changed.
    stopped : asked now and then; then it ends early."""
    try:
        if remedy is not None:
            edit = remedy.make(plan)
            if not edit.changes:
                return phrase("nothing may be laid there")
            History(plan).do(edit)
        run = TrafficRun(plan, all_trips(plan, seed), plan.traffic.vehicles, step)
    except WovenError as err:
        return str(err)
    while run.steps < steps and not stopped():
        run.advance(min(60, steps - run.steps))
        tell(run.steps / steps)
    return run


def ranked(asis: TrafficRun, tried: list[tuple[Remedy, TrafficRun | str]]) -> list[Outcome]:
    """The outcomes, what saves most first; what could not be tried last."""
    base = asis.record.time_spent
    found = []
    for remedy, run in tried:
        if isinstance(run, str):
            found.append(Outcome(remedy, 0.0, 0.0, 0, run))
        else:
            time = run.record.time_spent
            found.append(Outcome(remedy, time, base - time, run.arrived))
    return sorted(found, key=lambda outcome: (bool(outcome.why), -outcome.saved))
