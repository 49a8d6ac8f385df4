"""Costs from one place to all of a junction graph: buckets against a heap against SciPy."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra

from tests.core.test_analysis import hamlet
from woven_locus.core import kernels, side_by_side
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.routing import End, Manner, Over, Route, find_route, trips
from woven_locus.core.routing.trips import Spread
from woven_locus.core.ways.network import RoadNetwork
from woven_locus.core.ways.roads import RoadClass, RoadTable, Sign, road_byte

TABLE = RoadTable(
    [
        RoadClass("cart", "Cart road", "c", 4.0, 1.0, 2, "#EFE3C8"),
        RoadClass("path", "Path", "p", 2.0, 1.75, 1, "#C0A070"),
    ]
)
BYTES = np.array(
    [0, 0, *[road_byte(0)] * 6, road_byte(1), road_byte(0, Sign.EAST), road_byte(1, Sign.NORTH)],
    np.uint8,
)


def check(rng: np.random.Generator, heap: bool) -> int:
    shape = tuple(rng.integers(2, 14, 2).tolist())
    network = RoadNetwork(BYTES[rng.integers(len(BYTES), size=shape)], TABLE, cell=(2.0, 3.0))
    graph = network.graph
    nodes = graph.nodes()
    if not len(nodes):
        return 0
    starts = np.unique(rng.choice(nodes, min(2, len(nodes))))
    search = Spread(graph)
    assert (search._head is None) is (heap and len(graph.runs()) > 0)
    order = search.to_all(starts)
    edges = [
        (a, b, toll)
        for run in graph.runs().tolist()
        for (a, b), toll in zip(
            (graph.ends(run), graph.ends(run)[::-1]), graph.costs(run), strict=True
        )
        if np.isfinite(toll)
    ]
    count = graph.node_room
    best: dict[tuple[int, int], float] = {}
    for a, b, toll in edges:
        best[a, b] = min(toll, best.get((a, b), np.inf))
    a, b = np.array([*best], np.int64).reshape(-1, 2).T
    far = dijkstra(
        coo_matrix((list(best.values()), (a, b)), (count, count)).tocsr(),
        indices=starts,
        min_only=True,
    )
    np.testing.assert_allclose(search.g[nodes], far[nodes])
    assert sorted(order.tolist()) == sorted(nodes[np.isfinite(far[nodes])].tolist())
    # Each after the node that it was reached from, by the run that it was reached by.
    place = {node: at for at, node in enumerate(order.tolist())}
    for node in order.tolist():
        step = int(search.came[node])
        if step:
            run, way = step >> 1, step & 1
            before = graph.ends(run)[way]
            assert place[before] < place[node]
            assert search.g[node] == pytest.approx(search.g[before] + graph.costs(run)[way])
        else:
            assert node in starts
    return len(order)


@pytest.mark.parametrize("heap", [False, True])
def test_the_plain_spread_is_dijkstras(heap: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(trips, "_MOST_BUCKETS", 0 if heap else 1 << 18)
    rng = np.random.default_rng(31)
    assert sum(check(rng, heap) for _ in range(120)) > 800


def test_the_compiled_spread_is_dijkstras(compiled_kernels: None) -> None:
    rng = np.random.default_rng(32)
    assert sum(check(rng, False) for _ in range(600)) > 4000


def test_the_compiled_spread_is_its_twin(compiled_kernels: None) -> None:
    rng = np.random.default_rng(33)
    road = BYTES[rng.integers(len(BYTES), size=(30, 30))]
    found = []
    for compiled in (True, False):
        network = RoadNetwork(road.copy(), TABLE)
        search = Spread(network.graph)
        if not compiled:
            kernels.use_twins()
        order = search.to_all(network.graph.nodes()[:1])
        found.append((order, search.g.copy(), search.came.copy()))
    for ours, theirs in zip(*found, strict=True):
        np.testing.assert_array_equal(ours, theirs)


def test_work_side_by_side_is_all_done_and_tells_how_far_it_is() -> None:
    made, shares = [], []
    whole = side_by_side.each(range(40), lambda: made.append, lambda: False, shares.append)
    assert whole
    assert sorted(made) == list(range(40))
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert side_by_side.each([], lambda: made.append, lambda: False, shares.append)


def test_work_side_by_side_stops_and_raises() -> None:
    made: list[int] = []
    assert not side_by_side.each(
        range(1000), lambda: made.append, lambda: len(made) >= 5, lambda _share: None
    )
    assert 5 <= len(made) < 5 + 2 * side_by_side.THREADS

    def fails() -> object:
        def act(item: int) -> None:
            if item == 7:
                raise ValueError("seven")

        return act

    with pytest.raises(ValueError, match="seven"):
        side_by_side.each(range(100), fails, lambda: False, lambda _share: None)  # type: ignore[arg-type]


def test_routes_of_many_trips_are_those_of_each() -> None:
    rng = np.random.default_rng(35)
    both = 0
    for _ in range(25):
        plan = hamlet(rng)
        numbers = plan.register.numbers()
        road_cells = [plan.spec.cell_of_slot(at) for at in np.argwhere(plan.road).tolist()[:2]]
        ends = [*numbers, *road_cells]
        trips_ = [
            (a, b, Manner(over)) for over in (Over.ROADS, Over.GROUND) for a in ends for b in ends
        ]
        shares: list[float] = []
        found = list(trips.find_routes(plan, trips_, progress=shares.append))
        assert [trip for trip, _ in found] == trips_
        assert shares[-1:] == [1.0] * bool(trips_)
        for (a, b, manner), answer in found:
            alone = find_route(plan, a, b, manner)
            assert type(answer) is type(alone)
            if isinstance(answer, Route) and isinstance(alone, Route):
                both += 1
                assert answer.cost == pytest.approx(alone.cost)
                assert {answer.cells[0], answer.cells[-1]} <= {
                    *all_ends(plan, a),
                    *all_ends(plan, b),
                }
                steps = np.abs(np.diff(answer.slots, axis=0)).sum(axis=1)
                assert (steps == 1).all()
    assert both > 300


def all_ends(plan: Plan, end: End) -> list[Cell]:
    return [end] if isinstance(end, Cell) else plan.approaches_of(plan.register[end])


def test_many_trips_stop_between_two() -> None:
    plan = hamlet(np.random.default_rng(36))
    numbers = plan.register.numbers()
    pairs = [(a, b, Manner()) for a in numbers for b in numbers]
    asked = iter([False] * 5 + [True] * 999)
    assert len(list(trips.find_routes(plan, pairs, lambda: next(asked)))) == 5
