"""Rows 8 and 2b: steps of traffic on a town of streets, and the ways of trips on a large network."""

from __future__ import annotations

import time

import numpy as np

from benchmarks.table import Row, best_of, seconds
from benchmarks.towns import town, winding_town
from woven_locus.core.geometry import Cell
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.streets import Streets
from woven_locus.core.traffic.ways import WayFinder
from woven_locus.core.vehicles import Trip, plain_vehicle

# Steps that are timed, after as many that fill the road.
_STEPS = 90
# Of 100 000 trips between ends chosen at random so many are asked for, with as large a share of the time; and so many goals
# have all of them where they share them.
_ASKED, _GOALS = 500, 50


def rows(sizes: tuple[tuple[int, int], ...], network: tuple[int, int, int]) -> list[Row]:
    """sizes : (side of the town, vehicles), the fewest first.  network : side, cells, structures of row 2b."""
    made, each = [], []
    for side, count in sizes:
        step, there = _step(side, count)
        reference = _reference(there)
        each.append(step / there)
        case = f"a step of {there:,} vehicles that queue, turn and give way, {side}²"
        made.append(Row("8", case, seconds(step), "", None, "≤ 33 ms", step <= 1 / 30))
        text = f"{seconds(reference)} (NumPy, a += b·dt, four)"
        ratio = step / reference
        made.append(Row("8", f"{case}, by vehicle {seconds(step / there)}", seconds(step), text, ratio, "≤ 25 ×", ratio <= 25))  # fmt: skip
    grows = each[-1] / each[0]
    case = f"cost per vehicle, {sizes[0][1]:,} to {sizes[-1][1]:,}"
    made.append(Row("8", case, seconds(each[-1]), seconds(each[0]), grows, "≤ 1.5 ×", grows <= 1.5))
    return [*made, *_ways(*network)]


def _step(side: int, count: int) -> tuple[float, int]:
    """Seconds of a step, the mean of many, and how many vehicles there were."""
    plan = town(side, 100)
    rng = np.random.default_rng(3)
    rows_ = 8 + 16 * rng.integers(side // 16, size=count)
    cols = rng.integers(max(1, side - 100), size=count)
    trips = [
        Trip(Cell(col, row), Cell(min(side - 1, col + 90), min(side - 8, row + 16 * up)))
        for col, row, up in zip(
            cols.tolist(), rows_.tolist(), rng.integers(3, size=count).tolist(), strict=True
        )
    ]
    run = TrafficRun(plan, [trip for trip in trips if plan.road[trip.goal.row, trip.goal.col]])  # type: ignore[union-attr]
    run.advance(_STEPS)
    start = time.perf_counter()
    run.advance(_STEPS)
    spent = (time.perf_counter() - start) / _STEPS
    return spent, run.counts().under_way


def _reference(count: int) -> float:
    """NumPy's own pass over as many vehicles."""
    state, change = np.zeros((4, count)), np.ones(count)

    def go() -> None:
        for array in state:
            array += change * 0.03

    return best_of(go, 20)


def _ways(side: int, cells: int, structures: int) -> list[Row]:
    plan = winding_town(side, cells, structures)
    kind = plain_vehicle(plan.spec)
    streets = Streets(plan, [kind])
    numbers, rng = plan.register.numbers(), np.random.default_rng(5)
    some = rng.choice(numbers, (_ASKED, 2))
    many = np.stack((rng.choice(numbers, 100_000), rng.choice(rng.choice(numbers, _GOALS), 100_000)), axis=1)  # fmt: skip
    count = int((plan.road != 0).sum())
    made = []
    for pairs, between in ((some, f"{structures:,} structures"), (many, f"{_GOALS} goals")):
        asked = [(a, b, kind) for a, b in pairs.tolist()]
        finder = WayFinder(plan, streets.graph, streets.tracks)
        start = time.perf_counter()
        finder.find_all(asked)
        spent = time.perf_counter() - start
        share = 2.0 * len(asked) / 100_000
        case = f"ways of {len(asked):,} trips, {between}, {count:,} road cells, two threads"
        made.append(
            Row("2b", case, seconds(spent), "", None, f"≤ {seconds(share)}", spent <= share)
        )
    return made
