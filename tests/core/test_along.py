"""Routes by way of the junction graph, against SciPy's Dijkstra on the raw cells."""

import sys

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra

from tests.helpers.builders import draw, put
from tests.helpers.networks import may_step
from woven_locus.core import edits, kernels
from woven_locus.core.editing import History
from woven_locus.core.errors import NotReady
from woven_locus.core.geometry import SIDES, Box, Cell, Slot
from woven_locus.core.kernels import journeys
from woven_locus.core.routing import Manner, NoRoute, Over, Route, find_route, prepare_route
from woven_locus.core.routing.along import find_along
from woven_locus.core.routing.room import reaching, with_room
from woven_locus.core.routing.search import find_path
from woven_locus.core.value import replace
from woven_locus.core.ways.network import RoadNetwork
from woven_locus.core.ways.roads import RoadClass, RoadTable, Sign, road_byte

TABLE = RoadTable(
    [
        RoadClass("cart", "Cart road", "c", 4.0, 1.0, 2, "#EFE3C8"),
        RoadClass("path", "Path", "p", 2.0, 2.75, 1, "#C0A070"),
    ]
)


def graph_of(road: np.ndarray, cell: tuple[float, float]) -> coo_matrix:
    """Every step along the road as an edge."""
    rows, cols = road.shape
    a, b, tolls = [], [], []
    for r, c in np.argwhere(np.isfinite(TABLE.costs[road])).tolist():
        for side, (d_row, d_col) in enumerate(SIDES):
            to = (r + d_row, c + d_col)
            if not (0 <= to[0] < rows and 0 <= to[1] < cols):
                continue
            x, y = int(road[r, c]), int(road[to])
            if np.isfinite(TABLE.costs[y]) and may_step(x, y, side + 1, TABLE.exits.tolist()):
                a.append(r * cols + c)
                b.append(to[0] * cols + to[1])
                tolls.append(cell[1 - side % 2] * (TABLE.costs[x] + TABLE.costs[y]) / 2)
    return coo_matrix((tolls, (a, b)), shape=(road.size, road.size)).tocsr()


def check(rng: np.random.Generator, cases: int) -> int:
    found = 0
    for _ in range(cases):
        rows, cols = rng.integers(1, 13, 2).tolist()
        road = (rng.random((rows, cols)) < rng.uniform(0.4, 0.95)).astype(np.uint8)
        road[(rng.random(road.shape) < 0.15) & (road > 0)] = road_byte(1)
        for sign in Sign:
            road[(rng.random(road.shape) < 0.03) & (road > 0)] = road_byte(0, sign)
        doors = (rng.random(road.shape) < 0.1).astype(np.uint8)
        cell = (float(rng.choice([1, 24])), float(rng.choice([1, 7])))
        network = RoadNetwork(road, TABLE, doors, cell)
        for _ in range(3):
            row, col = int(rng.integers(rows)), int(rng.integers(cols))
            road[row, col] = 0 if road[row, col] else 1
            network.touch(Box(row, col, row + 1, col + 1))
            is_open = [Slot(*at) for at in np.argwhere(np.isfinite(TABLE.costs[road])).tolist()]
            if len(is_open) < 2:
                continue
            starts, goals = (
                [is_open[k] for k in rng.integers(len(is_open), size=rng.integers(1, 3))]
                for _ in range(2)
            )
            path = find_along(network, starts, goals)
            far = dijkstra(
                graph_of(road, cell), indices=[r * cols + c for r, c in starts], min_only=True
            )
            expected = min(far[r * cols + c] for r, c in goals)
            assert path.cost == pytest.approx(expected, rel=1e-9)
            cells = find_path(road, TABLE.costs, starts, goals, cell=cell, exits=TABLE.exits)
            assert cells.cost == pytest.approx(expected, rel=1e-9)
            if path:
                found += 1
                assert tuple(path.slots[0]) in starts
                assert tuple(path.slots[-1]) in goals
                assert walked(road, path.slots, cell) == pytest.approx(path.cost)
    return found


def walked(road: np.ndarray, slots: np.ndarray, cell: tuple[float, float]) -> float:
    """The cost of going cell by cell; asserts that every step is allowed."""
    total = 0.0
    for at, to in zip(slots[:-1].tolist(), slots[1:].tolist(), strict=True):
        side = SIDES.index((to[0] - at[0], to[1] - at[1]))
        x, y = int(road[tuple(at)]), int(road[tuple(to)])
        assert may_step(x, y, side + 1, TABLE.exits.tolist())
        total += cell[1 - side % 2] * (TABLE.costs[x] + TABLE.costs[y]) / 2
    return total


def test_the_plain_way_along_the_graph_costs_what_dijkstra_says() -> None:
    assert check(np.random.default_rng(1), 60) > 50


def test_the_compiled_way_along_the_graph_costs_what_dijkstra_says(
    compiled_kernels: None,
) -> None:
    assert check(np.random.default_rng(2), 500) > 500


@pytest.mark.parametrize(("dear", "ring"), [(2.75, 4), (1e7, 4), (1e7, 2048), (1e19, 64)])
def test_however_dear_a_class_and_short_the_ring(
    monkeypatch: pytest.MonkeyPatch, dear: float, ring: int
) -> None:
    """Costs of many rounds of the ring, and beyond its last bucket."""
    classes = [TABLE[0], replace(TABLE[1], cost=dear)]
    monkeypatch.setattr(sys.modules[__name__], "TABLE", RoadTable(classes))
    monkeypatch.setattr(journeys, "RING", ring)
    assert check(np.random.default_rng(29), 40) > 30


def test_a_route_within_one_run_and_around_a_ring() -> None:
    road = np.ones((4, 9), np.uint8)
    road[1:3, 1:8] = 0
    network = RoadNetwork(road)
    assert find_along(network, [Slot(0, 2)], [Slot(0, 6)]).slots[:, 1].tolist() == [2, 3, 4, 5, 6]
    around = find_along(network, [Slot(3, 7)], [Slot(0, 7)])
    assert around.cost == 5
    assert around.slots[:, 1].tolist() == [7, 8, 8, 8, 8, 7]
    road[0, 4] = road_byte(0, Sign.WEST)
    network.touch(Box(0, 4, 1, 5))
    assert find_along(network, [Slot(0, 2)], [Slot(0, 6)]).cost == 18
    assert find_along(network, [Slot(0, 6)], [Slot(0, 2)]).cost == 4
    here = find_along(network, [Slot(0, 6)], [Slot(0, 6), Slot(3, 3)])
    assert (here.cost, here.slots.tolist()) == (0, [[0, 6]])


def test_no_graph_is_asked_for_before_there_is_one(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("woven_locus.core.ways.network.TWIN_LIMIT", 1)
    kernels.use_twins()
    plan = draw("===")
    with pytest.raises(NotReady, match="not compiled"):
        find_along(plan.network, [Slot(0, 0)], [Slot(0, 2)])
    query = prepare_route(plan, Cell(0, 0), Cell(2, 0))
    assert not isinstance(query, NoRoute)
    assert not query.at_once
    assert query.search().cost == 2


def test_open_squares_are_searched_by_cells(compiled_kernels: None) -> None:
    square, streets = np.ones((80, 80), np.uint8), np.zeros((80, 80), np.uint8)
    streets[::8] = streets[:, ::8] = 1
    assert not RoadNetwork(square).worthwhile
    assert RoadNetwork(streets).worthwhile
    plan = draw("\n".join(["=" * 80] * 80))
    query = prepare_route(plan, Cell(0, 0), Cell(79, 79))
    assert not isinstance(query, NoRoute)
    assert not query.at_once
    assert query.search().cost == find_along(plan.network, [Slot(0, 0)], [Slot(79, 79)]).cost == 158


def test_one_way_and_closed_roads_have_their_say() -> None:
    plan = draw("=====\n.....")
    a, b = put(plan, "hut", 0, 1), put(plan, "hut", 4, 1)
    history = History(plan)
    history.do(edits.put_signs(plan, [Cell(2, 0)], [Sign.EAST]))
    assert isinstance(find_route(plan, a, b), Route)
    back = find_route(plan, b, a)
    assert isinstance(back, NoRoute)
    assert "only against a one-way sign" in back.why
    assert isinstance(find_route(plan, b, a, Manner(Over.GROUND)), Route)  # signs are for the road
    history.do(edits.put_signs(plan, [Cell(2, 0)], [Sign.CLOSED]))
    assert "does not meet" in find_route(plan, a, b).why  # type: ignore[union-attr]
    assert find_route(plan, Cell(2, 0), Cell(4, 0)).why == "cell 2, 0 is closed road"  # type: ignore[union-attr]
    over = find_route(plan, a, b, Manner(Over.GROUND))
    assert isinstance(over, Route)
    assert Cell(2, 0) not in over.cells


def test_roads_are_preferred_but_the_cost_is_told_as_it_is() -> None:
    plan = draw("...\n=.=\n===")
    across = find_route(plan, Cell(0, 1), Cell(2, 1), Manner(Over.GROUND))
    along = find_route(plan, Cell(0, 1), Cell(2, 1), Manner(Over.PREFERRED))
    assert isinstance(across, Route)
    assert isinstance(along, Route)
    assert across.length == 2
    assert (along.length, along.cost, along.detour) == (4, 4, 2)


def test_a_wide_agent_needs_room() -> None:
    code = np.array([[1, 1, 1, 1], [1, 1, 0, 1], [1, 1, 1, 1]], np.uint8)
    costs = np.full(256, np.inf)
    costs[1] = 1.0
    assert with_room(code, costs, 1) is code
    assert np.argwhere(with_room(code, costs, 2)).tolist() == [[1, 1], [2, 1]]
    assert not with_room(code, costs, 3).any()
    assert with_room(np.ones((3, 3), np.uint8), costs, 3).tolist() == [
        [0, 0, 0],
        [0, 1, 0],
        [0, 0, 0],
    ]
    with pytest.raises(ValueError, match="1 to 3 cells wide, not 4"):
        with_room(code, costs, 4)
    assert set(reaching([Slot(5, 5)], 2)) == {(5, 5), (5, 6), (6, 5), (6, 6)}
    plan = draw("......\n......\n..k...\n......\n......")
    a, b = put(plan, "hut", 0, 2), put(plan, "hut", 5, 2)
    wide = find_route(plan, a, b, Manner(Over.GROUND, 4, 2))
    assert isinstance(wide, Route)
    assert {cell.row for cell in wide.cells} & {0, 1, 4}
    none = find_route(plan, a, b, Manner(Over.GROUND, 4, 3))
    assert isinstance(none, NoRoute)
    assert "no way wide enough" in none.why
