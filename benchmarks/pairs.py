"""Questions over many pairs of structures on a dense network: matrix, load, weak points, travel times."""

from __future__ import annotations

import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from benchmarks.table import Row, best_of, seconds
from benchmarks.towns import town
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.core.routing import Manner
from woven_locus.core.routing.reach import times_from
from woven_locus.core.routing.trips import all_pairs, road_load, route_matrix
from woven_locus.core.routing.weak import weak_points
from woven_locus.files.formats import FORMATS, ROUTES_LINES, Out


def dense(side: int, structures: int) -> Plan:
    """Streets every third cell, so that a third of all cells are junctions or lead to one."""
    base = town(side, 0)
    road = np.zeros((side, side), np.uint8)
    road[::3, :] = 1
    road[:, ::3] = 1
    rng = np.random.default_rng(4)
    spots = rng.permutation((side // 3 - 1) ** 2)[:structures]
    per = side // 3 - 1
    spec = GridSpec(side, side, 24, 24)
    rows = [
        Structure(
            k + 1,
            "spring-house",
            spec.cell_of_slot((3 * (s // per) + 1, 3 * (s % per) + 1)),
            0,
            0,
            "2031-01-01T00:00:00Z",
        )
        for k, s in enumerate(spots.tolist())
    ]
    return Plan("Dense", spec, base.terrain_table, base.kinds, road=road, structures=rows)


def rows(side: int, structures: int) -> list[Row]:
    plan = dense(side, structures)
    numbers = plan.register.numbers()
    _ = plan.network.graph
    case = f"{structures} structures on a dense {side}² net"
    made = []
    for name, ask in (
        ("costs between all pairs", lambda: route_matrix(plan, numbers)),
        ("load of all trips", lambda: road_load(plan, all_pairs(numbers))),
        ("weak points", lambda: weak_points(plan)),
        ("travel times from one", lambda: times_from(plan, numbers[0], Manner())),
    ):
        took = best_of(ask, 2)
        made.append(Row("pairs", f"{name}, {case}", seconds(took), "", None, "information", True))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "routes.json"
        start = time.perf_counter()
        FORMATS[ROUTES_LINES].write(plan, path, Out())
        took = time.perf_counter() - start
    made.append(
        Row("pairs", f"all routes as lines, {case}", seconds(took), "", None, "information", True)
    )
    for name, long in (
        ("costs between all pairs", lambda stop: route_matrix(plan, numbers, stop)),
        ("load of all trips", lambda stop: road_load(plan, all_pairs(numbers), stop)),
    ):
        late = _stop(long)
        made.append(
            Row(
                "pairs",
                f"{name}, {case}: after Stop",
                seconds(late),
                "",
                None,
                "≤ 200 ms",
                late <= 0.2,
            )
        )
    return made


def _stop(long: Callable[[Callable[[], bool]], object]) -> float:
    """Seconds from Stop, a moment after the beginning, until it has ended."""
    stop = threading.Event()
    pressed: list[float] = []

    def press() -> None:
        pressed.append(time.perf_counter())
        stop.set()

    timer = threading.Timer(0.1, press)
    timer.start()
    long(stop.is_set)
    ended = time.perf_counter()
    timer.cancel()
    return max(0.0, ended - pressed[0]) if pressed else 0.0
