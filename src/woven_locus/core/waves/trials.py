"""Will it hold? Each wave alone and all in order, over several seeds."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable

from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.core.waves.ranges import effort_in_range
from woven_locus.core.waves.reach import per_shot
from woven_locus.core.waves.run import WaveRun
from woven_locus.core.waves.towers import towers_of
from woven_locus.core.waves.ways import find_ways


class Held(Value):
    """What came of runs over some seeds. wave : 0-based, None for all in order.  held : share of the runs in which a life was
    left.  lives : least, mean and most that were left.  first_lost : the wave, 0-based, in which the last life went, of the
    run that lost it soonest; None where none was lost.  through : attackers that came through, on average."""

    wave: int | None
    runs: int
    held: float
    lives: tuple[int, float, int]
    first_lost: int | None
    through: float


def will_hold(
    plan: Plan,
    seeds: int = 10,
    told: Callable[[float], object] = lambda _share: None,
    stopped: Callable[[], bool] = lambda: False,
) -> list[Held]:
    """Each wave alone, then all of them in order. told : called with the share that is done."""
    found: list[Held] = []
    waves: list[int | None] = [*range(len(plan.waves.waves)), None]
    total = len(waves) * seeds
    # Without chance every seed is the same run.
    chance = any(group.spread > 0 for wave in plan.waves.waves for group in wave.groups)
    count = seeds if chance else 1
    for wave in waves:
        runs = []
        for seed in range(count):
            if stopped():
                return found
            run = WaveRun(plan, seed, only=wave)
            run.finish(stopped)
            runs.append(run)
            told((len(found) * seeds + seed + 1) / total)
        lives = [run.lives for run in runs]
        lost = [_lost_in(run) for run in runs if run.lost]
        found.append(
            Held(
                wave,
                count,
                sum(not run.lost for run in runs) / count,
                (min(lives), sum(lives) / count, max(lives)),
                min(lost) if lost else None,
                sum(tally.through for run in runs for tally in run.waves) / count,
            )
        )
    return found


def _lost_in(run: WaveRun) -> int:
    """The last wave that cost a life."""
    return max(at for at, tally in enumerate(run.waves) if tally.lives)


def rewards(
    plan: Plan, seed: int = 0, stopped: Callable[[], bool] = lambda: False
) -> list[tuple[int, int]]:
    """(second on the plan's clock, money) that come in for attackers who fall, were all waves to come from now on against
    what stands; in order of time, those of one second together. None of them while no funds are kept."""
    if plan.funds is None:
        return []
    run = WaveRun(plan, seed)
    run.finish(stopped)
    found: Counter[int] = Counter()
    for fall in run.falls:
        # It can be spent at the next whole second.
        found[plan.funds.clock + math.ceil(fall.seconds - 1e-9)] += fall.reward
    return sorted(found.items())


class Strength(Value):
    """Of one wave: the health that comes, and the damage that all towers could deal to it, were each to shoot for as long as
    a walker is in its range."""

    health: float
    damage: float


def strengths(plan: Plan) -> list[Strength]:
    """Wave by wave, so that one sees where it gets hard. Armour is taken off each shot."""
    ways = {(way.entry, way.moves): way for way in find_ways(plan) if way.found}
    towers = towers_of(plan)
    found = []
    for wave in plan.waves.waves:
        health = damage = 0.0
        for group in wave.groups:
            kind = plan.waves.kind(group.kind)
            way = ways.get((group.entry, kind.moves)) if kind is not None else None
            if kind is None or way is None:
                continue
            health += kind.health * group.count
            lasts = group.every * (group.count - 1)
            for placed in towers:
                effort = effort_in_range(way, placed.centre, placed.tower)
                if effort:
                    # From when the first comes into range until the last leaves it.
                    shots = (effort / kind.speed + lasts) / placed.tower.interval
                    damage += shots * per_shot(placed.tower, kind)
        found.append(Strength(health, damage))
    return found
