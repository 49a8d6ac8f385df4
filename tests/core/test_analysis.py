"""What is worked out about a whole network, against brute force and SciPy."""

from itertools import combinations

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_routing import dijkstra_cost
from tests.helpers.builders import HUT, draw, put
from woven_locus.core import edits, kernels
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.ground import TerrainTable
from woven_locus.core.kinds import Catalogue, Door, Footprint
from woven_locus.core.placing import judge
from woven_locus.core.plan import Plan
from woven_locus.core.routing import Manner, NoRoute, Over, Route, find_route, prepare_route
from woven_locus.core.routing.explain import CLOSED, OPEN, UNSEEN, Heuristic, compare, explain
from woven_locus.core.routing.joining import propose_join
from woven_locus.core.routing.laying import Weights, lay_line
from woven_locus.core.routing.reach import bands, times_from
from woven_locus.core.routing.trips import all_pairs, road_load, route_matrix
from woven_locus.core.routing.weak import weak_points
from woven_locus.core.value import replace

HOUSE = replace(HUT, key="house", footprint=Footprint.block(1, 1, [Door(0, 0, 0)]))


def hamlet(rng: np.random.Generator, side: int = 9) -> Plan:
    """Random streets, and houses of one cell with one door each."""
    grid = rng.choice([".", "="], (side, side), p=[0.45, 0.55])
    plan = draw("\n".join("".join(row) for row in grid))
    plan.kinds = Catalogue([HOUSE])
    for _ in range(12):
        col, row, turn = (int(n) for n in (*rng.integers(0, side, 2), rng.integers(4)))
        if judge(plan, HOUSE, Cell(col, row), turn):
            put(plan, "house", col, row, turn)
    return plan


def doors_of(plan: Plan, number: int) -> list[Slot]:
    cells = plan.approaches_of(plan.register[number])
    return [
        plan.spec.slot(c) for c in cells if plan.spec.contains(c) and plan.road[plan.spec.slot(c)]
    ]


def test_the_matrix_is_what_single_routes_cost(compiled_kernels: None) -> None:
    rng = np.random.default_rng(4)
    compared = 0
    for _ in range(40):
        plan = hamlet(rng)
        numbers = plan.register.numbers()
        shares: list[float] = []
        matrix = route_matrix(plan, numbers, progress=shares.append)
        assert matrix is not None
        assert shares == sorted(shares)
        assert shares[-1:] == [1.0] * bool(numbers)
        for a, row in zip(numbers, matrix.cost, strict=True):
            for b, cost in zip(numbers, row.tolist(), strict=True):
                if a == b:
                    assert cost == 0
                    continue
                route = find_route(plan, a, b)
                assert cost == (route.cost if isinstance(route, Route) else np.inf)
                compared += isinstance(route, Route)
        assert route_matrix(plan, numbers, stopped=lambda: True) is None or not numbers
    assert compared > 40


def test_the_load_is_the_sum_of_cheapest_routes() -> None:
    plan = draw("=======\n..=....\n..=....\n.......")
    a, b, c = put(plan, "hut", 0, 1), put(plan, "hut", 6, 1), put(plan, "hut", 2, 3)
    load = road_load(plan, {a: [(b, 2.0), (c, 1.0)], c: [(b, 3.0)]})
    assert load is not None
    assert load.cells[0].tolist() == [3, 3, 6, 5, 5, 5, 5]
    assert load.cells[1:, 2].tolist() == [4, 4, 0]
    assert (load.trips, load.lost, load.most) == (6, 0, 6)
    d = put(plan, "hut", 6, 3)
    every = road_load(plan, all_pairs([a, b, c, d]))
    assert every is not None
    assert (every.trips, every.lost) == (6, 6)
    assert road_load(plan, all_pairs([a, b]), stopped=lambda: True) is None


def joined_pairs(plan: Plan, without: Slot | None = None) -> set[tuple[int, int]]:
    """By NetworkX: the pairs of structures that some piece of road joins, with one cell gone."""
    cells = {tuple(slot) for slot in np.argwhere(plan.road).tolist()} - {without}
    graph = nx.Graph()
    graph.add_nodes_from(cells)
    graph.add_edges_from(
        ((r, c), near) for r, c in cells for near in ((r + 1, c), (r, c + 1)) if near in cells
    )
    piece = {cell: k for k, part in enumerate(nx.connected_components(graph)) for cell in part}
    touched = {
        n: {piece[tuple(d)] for d in doors_of(plan, n) if tuple(d) in piece}
        for n in plan.register.numbers()
    }
    return {(a, b) for a, b in combinations(sorted(touched), 2) if touched[a] & touched[b]}


def weak_cells(plan: Plan) -> set[tuple[int, int]]:
    """By definition: the road cells whose loss unjoins two structures that were joined."""
    before = joined_pairs(plan)
    return {
        (r, c)
        for r, c in np.argwhere(plan.road).tolist()
        if joined_pairs(plan, Slot(r, c)) < before
    }


def named_weak(plan: Plan) -> set[tuple[int, int]]:
    """The cells that `weak_points` names, those of a run all together."""
    found: set[tuple[int, int]] = set()
    for weak in weak_points(plan):
        slot = plan.spec.slot(weak.cell)
        slots = [slot]
        if run := plan.network.graph.run_at(plan.spec.index(weak.cell)):
            flat = plan.network.cells_of_run(run).tolist()
            slots = [Slot(*divmod(at, plan.spec.cols)) for at in flat]
        assert len(slots) == weak.cells
        assert weak.structures
        found |= {tuple(each) for each in slots}
    return found


SHED = replace(HUT, key="shed", footprint=Footprint.block(2, 2))
HALL = replace(HUT, key="hall", footprint=Footprint.block(3, 3))


def village(rng: np.random.Generator, side: int = 10) -> Plan:
    """Random streets, and doorless structures of 1, 4 and 9 cells that lean on several of their cells."""
    grid = rng.choice([".", "="], (side, side), p=[0.5, 0.5])
    plan = draw("\n".join("".join(row) for row in grid))
    plan.kinds = Catalogue([replace(HOUSE, key="hut", footprint=HUT.footprint), SHED, HALL])
    kinds = [kind.key for kind in plan.kinds]
    for _ in range(40):
        key = kinds[int(rng.integers(3))]
        cell = Cell(*(int(n) for n in rng.integers(0, side, 2)))
        if judge(plan, plan.kinds[key], cell, 0):
            put(plan, key, cell.col, cell.row)
    return plan


def test_weak_points_are_the_cells_whose_loss_unjoins_structures(compiled_kernels: None) -> None:
    rng = np.random.default_rng(9)
    compared = 0
    for k in range(160):
        plan = hamlet(rng) if k % 4 == 0 else village(rng, int(rng.integers(4, 11)))
        expected = weak_cells(plan)
        assert named_weak(plan) == expected
        compared += len(expected)
        order = [len(weak.structures) for weak in weak_points(plan)]
        assert order == sorted(order, reverse=True)
    assert compared > 400


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("A===B==", {(0, 1), (0, 2), (0, 3)}),
        ("===.\n=AB=", {(0, 1), (0, 2)}),
        ("==A=\n==B=", set()),
        ("A==B", {(0, 1), (0, 2)}),
        ("A=B=C", {(0, 1), (0, 3)}),
    ],
)
def test_what_leans_on_road_with_several_cells(
    text: str, expected: set[tuple[int, int]], compiled_kernels: None
) -> None:
    plan = draw("".join(ch if ch in "=\n" else "." for ch in text))
    for row, line in enumerate(text.split("\n")):
        for col, ch in enumerate(line):
            if ch.isalpha():
                put(plan, "hut", col, row)
    assert weak_cells(plan) == expected
    assert named_weak(plan) == expected


def test_a_weak_point_says_who_is_left_without(compiled_kernels: None) -> None:
    plan = draw("=====\n..=..\n..=..\n.....")
    a, b, c = put(plan, "hut", 0, 1), put(plan, "hut", 4, 1), put(plan, "hut", 2, 3)
    told = {weak.cell: weak for weak in weak_points(plan)}
    stem = told[Cell(2, 1)]
    assert (stem.cells, stem.structures) == (1, (c,))
    assert (told[Cell(2, 2)].structures, told[Cell(0, 0)].structures) == ((c,), (a,))
    assert told[Cell(2, 0)].structures == (b, c) or len(told[Cell(2, 0)].structures) == 2


@given(st.integers(0, 10_000))
def test_every_sure_heuristic_finds_a_cheapest_path(seed: int) -> None:
    rng = np.random.default_rng(seed)
    text = "\n".join("".join(row) for row in rng.choice(list("..bk="), (7, 8)))
    plan = draw(text, cell=(2.0, 1.0))
    moves = int(rng.choice([4, 8]))
    start, goal = (Cell(int(rng.integers(8)), int(rng.integers(7))) for _ in range(2))
    query = prepare_route(plan, start, goal, Manner(Over.GROUND, moves))
    if isinstance(query, NoRoute):
        return
    best = query.search().cost
    for said in compare(query):
        if said.heuristic.sure(moves):
            assert said.cost == pytest.approx(best)
        else:
            assert said.cost >= best - 1e-9 or said.cost == pytest.approx(best)
            assert said.cost <= 2 * best + 1e-9 or said.heuristic is Heuristic.MANHATTAN
        if not np.isfinite(said.cost):
            continue
        expanded = said.order[said.order > 0]
        assert len(np.unique(expanded)) == len(expanded) <= said.steps
        assert said.opened[plan.spec.slot(start)] == 1
        here = Slot(*said.slots[-1].tolist())
        assert said.g[here] == pytest.approx(said.cost)
        assert said.h(here) == 0
        assert said.state(plan.spec.slot(start), 1) == CLOSED
        assert said.state(here, 0) == UNSEEN
        seen = [said.state(Slot(*at), said.steps) for at in np.argwhere(said.opened > 0).tolist()]
        assert set(seen) <= {OPEN, CLOSED}


def test_better_heuristics_look_at_less(compiled_kernels: None) -> None:
    plan = draw("\n".join(["." * 30] * 30))
    query = prepare_route(plan, Cell(3, 15), Cell(26, 15), Manner(Over.GROUND))
    assert not isinstance(query, NoRoute)
    steps = {said.heuristic: said.steps for said in compare(query)}
    assert steps[Heuristic.ZERO] > steps[Heuristic.OCTILE] >= steps[Heuristic.MANHATTAN]
    assert explain(query).heuristic is Heuristic.MANHATTAN
    assert compare(query, stopped=lambda: True) == []


def test_the_fewest_cells_that_join_two_groups() -> None:
    plan = draw("===..===\n.......k\n=======.\n........")
    a, b = put(plan, "hut", 0, 1), put(plan, "hut", 7, 3)
    proposal = propose_join(plan, Cell(0, 0), Cell(7, 0))
    assert proposal.cells == (Cell(3, 0), Cell(4, 0))
    joined = propose_join(plan, a, b)
    assert len(joined.cells) == 1  # one cell in front of the hut at the lower right
    History(plan).do(edits.lay_road(plan, joined.cells))
    assert find_route(plan, a, b)
    walled = draw("=k=\n=k=")
    assert not propose_join(walled, Cell(0, 0), Cell(2, 0))


def test_a_bridge_may_be_proposed_where_terrain_allows_one() -> None:
    plan = draw("=s=")
    assert not propose_join(plan, Cell(0, 0), Cell(2, 0))
    table = [replace(item, bridge=item.key == "stream") for item in plan.terrain_table]
    plan.terrain_table = TerrainTable(table)
    proposal = propose_join(plan, Cell(0, 0), Cell(2, 0))
    assert proposal.cells == (Cell(1, 0),)
    History(plan).do(edits.lay_road(plan, proposal.cells))
    assert isinstance(find_route(plan, Cell(0, 0), Cell(2, 0)), Route)


def test_isochrones_are_times_along_the_road(compiled_kernels: None) -> None:
    plan = draw("=====\n....=\n.....", cell=(8.0, 8.0))
    hut = put(plan, "hut", 0, 1)
    times = times_from(plan, hut, Manner())
    assert not isinstance(times, NoRoute)
    # The plain road class goes 4 units a second: two seconds a cell.
    assert times[0].tolist() == [0, 2, 4, 6, 8]
    assert times[1, 4] == 10
    assert np.isinf(times[2]).all()
    assert bands(times, 4.0, 2)[0].tolist() == [1, 1, 2, 2, 0]
    with pytest.raises(ValueError, match="more than 0 seconds"):
        bands(times, 0, 3)
    assert isinstance(times_from(plan, Cell(0, 2), Manner()), NoRoute)
    near = times_from(plan, hut, Manner(Over.GROUND), most=5.0)
    assert not isinstance(near, NoRoute)
    assert np.isfinite(near).sum() < near.size


@given(st.integers(0, 5000))
def test_times_over_ground_are_dijkstras(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = draw("\n".join("".join(row) for row in rng.choice(list("...k"), (5, 6))))
    start = Cell(int(rng.integers(6)), int(rng.integers(5)))
    times = times_from(plan, start, Manner(Over.GROUND, 4))
    if isinstance(times, NoRoute):
        assert plan.movement[plan.spec.slot(start)] == 0
        return
    code = (plan.movement > 0).astype(np.uint8)
    for at in np.argwhere(code).tolist():
        # Meadow costs 1, at half the pace of the plain road's 4 units a second.
        units = dijkstra_cost(code, [plan.spec.slot(start)], [Slot(*at)], 4, (1.0, 1.0))
        assert times[tuple(at)] == pytest.approx(units / 2)


def test_the_compiled_explanation_is_its_twin(compiled_kernels: None) -> None:
    rng = np.random.default_rng(6)
    for _ in range(40):
        text = "\n".join("".join(row) for row in rng.choice(list("..bk="), (9, 11)))
        plan = draw(text, cell=(2.0, 3.0))
        moves = int(rng.choice([4, 8]))
        ends = [Cell(int(rng.integers(11)), int(rng.integers(9))) for _ in range(2)]
        query = prepare_route(plan, *ends, Manner(Over.GROUND, moves))
        if isinstance(query, NoRoute):
            continue
        heuristic = list(Heuristic)[rng.integers(4)]
        kernels.install()
        ours = explain(query, heuristic)
        kernels.use_twins()
        theirs = explain(query, heuristic)
        assert (ours.cost, ours.steps) == (theirs.cost, theirs.steps)
        for name in ("slots", "order", "opened"):
            np.testing.assert_array_equal(getattr(ours, name), getattr(theirs, name))


def test_the_compiled_line_is_its_twin(compiled_kernels: None) -> None:
    rng = np.random.default_rng(7)
    for _ in range(40):
        plan = draw("\n".join("".join(row) for row in rng.choice(list("...ck="), (8, 9))))
        plan.heights = rng.normal(size=plan.spec.shape).astype(np.float32)
        a, b = (Cell(int(rng.integers(9)), int(rng.integers(8))) for _ in range(2))
        weights = Weights(*rng.uniform(0, 2, 3).tolist(), float(rng.uniform()))
        kernels.install()
        ours = lay_line(plan, [a, b], weights)
        kernels.use_twins()
        assert ours == lay_line(plan, [a, b], weights)
