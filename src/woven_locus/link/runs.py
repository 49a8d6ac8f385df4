"""Traffic and waves that run for a client, on a copy of the plan, a moment at a time."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

from woven_locus.core.errors import Refused
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.waves.run import WaveRun
from woven_locus.files.trace_csv import COLUMNS, rows_now
from woven_locus.link.table import Subscribe

# Moments of one run at most.
MOST_MOMENTS = 100_000


def moments(plan: Plan, asked: Subscribe, stopped: Callable[[], bool]) -> Iterator[dict[str, Any]]:
    """Each moment that is told, the last one with "done". Raises Refused."""
    times = (asked.seconds, asked.every)
    if (
        not all(math.isfinite(t) and t > 0 for t in times)
        or asked.seconds / asked.every > MOST_MOMENTS
    ):
        raise Refused(f"seconds and every are above 0, with at most {MOST_MOMENTS:,} moments")
    yield from (_traffic if asked.to == "traffic" else _waves)(plan, asked, stopped)


def _traffic(plan: Plan, asked: Subscribe, stopped: Callable[[], bool]) -> Iterator[dict[str, Any]]:
    run = TrafficRun(plan, all_trips(plan, asked.seed), plan.traffic.vehicles, seed=asked.seed)
    often, last = max(1, round(asked.every / run.step)), round(asked.seconds / run.step)
    for at in range(1, last + 1):
        if stopped():
            return
        run.advance()
        if at % often == 0 or at == last:
            agents = [dict(zip(COLUMNS[1:], row[1:], strict=True)) for row in rows_now(run)]
            yield {"time": round(run.seconds, 9), "agents": agents, "done": at == last}


def _waves(plan: Plan, asked: Subscribe, stopped: Callable[[], bool]) -> Iterator[dict[str, Any]]:
    run = WaveRun(plan, asked.seed)
    often, last = max(1, round(asked.every / run.step)), round(asked.seconds / run.step)
    for at in range(1, last + 1):
        if stopped():
            return
        run.advance()
        done = at == last or run.over
        if at % often == 0 or done:
            yield _wave_moment(run, done)
        if done:
            return


def _wave_moment(run: WaveRun, done: bool) -> dict[str, Any]:
    men, rows = run.attackers, run.attackers.there()
    places = run.points(rows).tolist()
    return {
        "time": round(run.seconds, 9),
        "lives": run.lives,
        "funds": run.funds,
        "attackers": [
            {
                "agent": f"A{row + 1}",
                "kind": run.kinds[int(men.kind[row])].key,
                "x": round(x, 6),
                "y": round(y, 6),
                "health": round(float(men.health[row]), 6),
            }
            for row, (x, y) in zip(rows.tolist(), places, strict=True)
        ],
        "done": done,
    }
