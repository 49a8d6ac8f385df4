"""What towers could do to attackers that come by the ways as they are."""

from __future__ import annotations

import math
from collections import Counter
from typing import NamedTuple

from woven_locus.core.kinds.tower import Tower
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import AttackerKind, Moves
from woven_locus.core.waves.ranges import effort_in_range, in_range
from woven_locus.core.waves.towers import towers_of
from woven_locus.core.waves.ways import EntryWay, find_ways


class Reach(NamedTuple):
    """What one tower could do to one attacker that comes by one way, were it the only one.

    tower : number of its structure.  length : of the way in its range, world units; seconds : that the attacker is there.
    shots : that hit it.  damage : of all of them together, armour taken off, whatever its health.
    """

    tower: int
    entry: str
    moves: Moves
    kind: AttackerKind
    length: float
    seconds: float
    shots: int
    damage: float


def per_shot(tower: Tower, kind: AttackerKind) -> float:
    """Damage of one shot, armour taken off; 0 for what the tower cannot hit."""
    if not tower.can_hit(kind.moves is Moves.AIR):
        return 0.0
    return max(0.0, tower.damage - kind.armour)


def shots_in(seconds: float, interval: float) -> int:
    """How often a tower shoots at what is in its range so long: as it comes into range, and then once an interval."""
    return math.floor(seconds / interval + 1e-9) + 1 if seconds > 0 else 0


def who_comes(plan: Plan, way: EntryWay) -> list[tuple[AttackerKind, int]]:
    """The kinds that come by a way and how many of each in all waves, in the plan's order; where none does, one each of
    those that could."""
    counts: Counter[str] = Counter()
    for wave in plan.waves.waves:
        for group in wave.groups:
            if group.entry == way.entry:
                counts[group.kind] += group.count
    kinds = [kind for kind in plan.waves.attackers if kind.moves is way.moves]
    come = [(kind, counts[kind.key]) for kind in kinds if counts[kind.key]]
    return come or [(kind, 1) for kind in kinds]


def reach_of_towers(plan: Plan) -> tuple[Reach, ...]:
    """Each tower against each kind of attacker on each way of which some is in its range; in that order. Kept until the
    plan is written to."""
    return plan.worked_out("reach of towers", _reach)


def _reach(plan: Plan) -> tuple[Reach, ...]:
    found = []
    for placed in towers_of(plan):
        for way in find_ways(plan):
            if not way.found or not placed.tower.can_hit(way.moves is Moves.AIR):
                continue
            length = in_range(way.strokes.points, placed.centre, placed.tower)
            if not length:
                continue
            effort = effort_in_range(way, placed.centre, placed.tower)
            for kind, _count in who_comes(plan, way):
                seconds = effort / kind.speed
                shots = shots_in(seconds, placed.tower.interval)
                damage = shots * per_shot(placed.tower, kind)
                found.append(
                    Reach(placed.number, way.entry, way.moves, kind, length, seconds, shots, damage)
                )
    return tuple(found)
