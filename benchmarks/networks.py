"""Rows 2 and 3: routes by road and connection on a large network; what an edit of it costs."""

from __future__ import annotations

import statistics
import time

import numpy as np

from benchmarks.grounds import FAMILIES
from benchmarks.reference import build
from benchmarks.table import Row, best_of, seconds
from benchmarks.towns import winding_town
from woven_locus.core.geometry import Box, Slot
from woven_locus.core.plan import Plan
from woven_locus.core.routing import Route, find_route
from woven_locus.core.routing.along import find_along
from woven_locus.core.routing.search import Path, find_path
from woven_locus.core.ways.network import RoadNetwork


def rows(side: int, cells: int, structures: int, family_side: int) -> list[Row]:
    plan = winding_town(side, cells, structures)
    count = int((plan.road != 0).sum())
    made = _routes(plan, f"town of {count:,} road cells, {len(plan.register):,} structures")
    made += _families(family_side)
    made += _connection(plan)
    return made


def _routes(plan: Plan, case: str) -> list[Row]:
    library = build.load()
    if library is None:
        return [Row("2", "routes by road", "", "no g++ on this machine", None, "", False)]
    rng = np.random.default_rng(3)
    numbers = plan.register.numbers()
    cost = np.where(plan.road != 0, 1.0, np.inf).astype(np.float32)
    ratios, times, references = [], [], []
    same = True
    while len(ratios) < 24:
        a, b = (int(n) for n in rng.choice(numbers, 2, replace=False))
        route = find_route(plan, a, b)
        if not isinstance(route, Route):
            continue
        ours = best_of(lambda a=a, b=b: find_route(plan, a, b), 3)
        ends = [tuple(route.slots[k].tolist()) for k in (0, -1)]
        theirs_cost, _ = build.astar(library, cost, *ends, 4, 1.0)
        theirs = best_of(lambda ends=ends: build.astar(library, cost, *ends, 4, 1.0), 3)
        # The town's cells are 24 wide; the ends that a door chooses are the reference's too.
        same &= bool(np.isclose(route.cost, theirs_cost * plan.spec.cell_w, rtol=1e-9))
        ratios.append(ours / theirs)
        times.append(ours)
        references.append(theirs)
    made = []
    for name, pick, times_less in (("median", statistics.median, 200), ("longest", max, 100)):
        ratio = pick(ratios)
        text = f"route by road, {name} of {len(ratios)}, {case}" + (
            "" if same else ", COSTS DIFFER"
        )
        made.append(
            Row(
                "2",
                text,
                seconds(pick(times)),
                seconds(statistics.median(references)),
                ratio,
                f"≤ 1/{times_less} of C++ A*",
                same and ratio <= 1 / times_less,
            )
        )
    return made


def _families(side: int) -> list[Row]:
    library = build.load()
    made: list[Row] = []
    for family, make in FAMILIES.items():
        road = (make(side, 7) > 0).astype(np.uint8)
        network = RoadNetwork(road)
        begun = time.perf_counter()
        _ = network.graph
        built = time.perf_counter() - begun
        if library is not None:
            made.append(_family_routes(family, side, network, library))
        took, worst = _edits(network)
        case = f"road cell erased and laid, {family} {side}² as road (built in {seconds(built)})"
        made.append(
            Row(
                "4",
                f"{case}, longest",
                seconds(worst),
                seconds(took),
                None,
                "≤ 16 ms",
                worst <= 0.016,
            )
        )
    return made


def _family_routes(family: str, side: int, network: RoadNetwork, library: object) -> Row:
    rng = np.random.default_rng(5)
    road = network.road
    cost = np.where(road != 0, 1.0, np.inf).astype(np.float32)
    cells = np.argwhere(road)
    ratios, times = [], []
    same = True
    while len(ratios) < 8:
        start, goal = (tuple(int(n) for n in cells[k]) for k in rng.integers(len(cells), size=2))
        path = _route(network, start, goal)
        if not path:
            continue
        ours = best_of(lambda start=start, goal=goal: _route(network, start, goal), 3)
        theirs = best_of(
            lambda start=start, goal=goal: build.astar(library, cost, start, goal, 4, 1.0),
            2,  # type: ignore[arg-type]
        )
        same &= bool(np.isclose(path.cost, build.astar(library, cost, start, goal, 4, 1.0)[0]))  # type: ignore[arg-type]
        ratios.append(ours / theirs)
        times.append(ours)
    ratio = statistics.median(ratios)
    words = f"route over {family} {side}² as road, median" + ("" if same else ", COSTS DIFFER")
    goal = "≤ 1 × C++ A*"
    return Row("2", words, seconds(statistics.median(times)), "", ratio, goal, same and ratio <= 1)


def _route(network: RoadNetwork, start: tuple[int, int], goal: tuple[int, int]) -> Path:
    """As a plan's route is found: over the graph, or over the cells where that is quicker."""
    ends = [Slot(*start)], [Slot(*goal)]
    if network.worthwhile:
        return find_along(network, *ends)
    return find_path(network.road, network.table.costs, *ends)


def _edits(network: RoadNetwork) -> tuple[float, float]:
    """(median, longest) seconds to take in a cell erased, and laid again."""
    rng = np.random.default_rng(9)
    cells = np.argwhere(network.road)
    times = []
    for row, col in cells[rng.integers(len(cells), size=150)].tolist():
        for code in (0, 1):
            network.road[row, col] = code
            network.touch(Box(row, col, row + 1, col + 1))
            begun = time.perf_counter()
            network.bring_up_to_date()
            times.append(time.perf_counter() - begun)
    return statistics.median(times), max(times)


def _connection(plan: Plan) -> list[Row]:
    """The first question after an edit, on networks of which one is a thousand times larger."""
    small = RoadNetwork(np.ones((1, 1000), np.uint8))
    found = []
    for network in (small, plan.network):
        _ = network.graph
        cells = np.flatnonzero(network.road)
        a, b = int(cells[0]), int(cells[-1])
        rng = np.random.default_rng(9)
        times = []
        for slot in rng.choice(cells, 300).tolist():
            row, col = divmod(slot, network.road.shape[1])
            for code in (0, int(network.road[row, col])):
                network.road[row, col] = code
                network.touch(Box(row, col, row + 1, col + 1))
                # The edit's own last act, see `Edit.apply`.
                network.bring_up_to_date()
                begun = time.perf_counter()
                _ = network.group_at(a) == network.group_at(b)
                times.append(time.perf_counter() - begun)
        found.append(statistics.median(times))
    ratio = found[1] / found[0]
    case = f"connected? the first question after an edit, {int((plan.road != 0).sum()):,} cells against 1,000"
    goal = "the same (≤ 1.5 ×)"
    return [Row("3", case, seconds(found[1]), seconds(found[0]), ratio, goal, ratio <= 1.5)]
