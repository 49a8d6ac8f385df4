"""A* against SciPy's Dijkstra on random ground, and what a route says of itself."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra

from tests.helpers.builders import draw, put
from tests.helpers.depth import examples
from woven_locus.core.errors import Unknown
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.kernels import astar, compiled
from woven_locus.core.routing import ON_FOOT, Manner, NoRoute, Over, Route, find_route, parse_end
from woven_locus.core.routing.mended import Mended, Tree
from woven_locus.core.routing.search import NO_EXITS, find_path

COSTS = np.full(256, np.inf)
COSTS[1:5] = (1.0, 1.5, 4.0, 0.25)
STEPS = {4: [(-1, 0), (0, 1), (1, 0), (0, -1)]}
STEPS[8] = STEPS[4] + [(-1, 1), (1, 1), (1, -1), (-1, -1)]


def dijkstra_cost(
    code: np.ndarray,
    starts: list[Slot],
    goals: list[Slot],
    moves: int,
    cell: tuple[float, float],
    costs: np.ndarray = COSTS,
) -> float:
    """The cheapest cost by an independent way: an explicit graph and SciPy."""
    rows, cols = code.shape
    cost = costs[code]
    a, b, weights = [], [], []
    for dr, dc in STEPS[moves]:
        for r in range(max(0, -dr), min(rows, rows - dr)):
            for c in range(max(0, -dc), min(cols, cols - dc)):
                if not (np.isfinite(cost[r, c]) and np.isfinite(cost[r + dr, c + dc])):
                    continue
                squeezed = dr and dc and not np.isfinite(cost[r + dr, c] + cost[r, c + dc])
                if not squeezed:
                    a.append(r * cols + c)
                    b.append((r + dr) * cols + c + dc)
                    length = np.hypot(dr * cell[1], dc * cell[0])
                    weights.append(length * (cost[r, c] + cost[r + dr, c + dc]) / 2)
    graph = coo_matrix((weights, (a, b)), shape=(rows * cols, rows * cols)).tocsr()
    from_ = [r * cols + c for r, c in starts if np.isfinite(cost[r, c])]
    to = [r * cols + c for r, c in goals if np.isfinite(cost[r, c])]
    if not from_ or not to:
        return np.inf
    return float(dijkstra(graph, indices=from_, min_only=True)[to].min())


def path_cost(code: np.ndarray, slots: np.ndarray, cell: tuple[float, float]) -> float:
    total = 0.0
    for (r, c), (r2, c2) in zip(slots[:-1].tolist(), slots[1:].tolist(), strict=True):
        assert max(abs(r - r2), abs(c - c2)) == 1
        length = np.hypot((r - r2) * cell[1], (c - c2) * cell[0])
        total += length * (COSTS[code[r, c]] + COSTS[code[r2, c2]]) / 2
    return total


def random_case(
    rng: np.random.Generator,
) -> tuple[np.ndarray, list[Slot], list[Slot], int, tuple[float, float]]:
    rows, cols = (int(n) for n in rng.integers(1, 14, 2))
    code = rng.integers(0, 5, (rows, cols)).astype(np.uint8)
    if rng.random() < 0.5:
        code[rng.random((rows, cols)) < 0.4] = 0
    elif rng.random() < 0.5:
        code[code > 0] = 1  # many ties

    def ends() -> list[Slot]:
        return [
            Slot(int(rng.integers(rows)), int(rng.integers(cols)))
            for _ in range(rng.integers(1, 4))
        ]

    cell = (float(rng.choice([1, 24, 0.5])), float(rng.choice([1, 24, 7])))
    return code, ends(), ends(), int(rng.choice([4, 8])), cell


def check_against_dijkstra(cases: int, seed: int) -> int:
    rng = np.random.default_rng(seed)
    found = 0
    for _ in range(cases):
        code, starts, goals, moves, cell = random_case(rng)
        path = find_path(code, COSTS, starts, goals, moves=moves, cell=cell)
        expected = dijkstra_cost(code, starts, goals, moves, cell)
        assert path.cost == pytest.approx(expected, rel=1e-9)
        if path:
            found += 1
            assert tuple(path.slots[0]) in starts
            assert tuple(path.slots[-1]) in goals
            assert path_cost(code, path.slots, cell) == pytest.approx(path.cost)
            assert path.explored <= code.size * 4
    return found


def test_the_plain_search_is_optimal() -> None:
    assert check_against_dijkstra(400, seed=1) > 100


def test_the_compiled_search_is_optimal(compiled_kernels: None) -> None:
    assert check_against_dijkstra(3000, seed=2) > 800


def test_the_compiled_search_is_its_twin_step_by_step(compiled_kernels: None) -> None:
    rng = np.random.default_rng(3)
    for _ in range(300):
        code, starts, goals, moves, (w, h) = random_case(rng)
        rows, cols = code.shape
        flat = [
            np.array([r * cols + c for r, c in ends if code[r, c]], np.int64)
            for ends in (starts, goals)
        ]
        if not len(flat[0]) or not len(flat[1]):
            continue
        arguments = (code.ravel(), cols, rows, COSTS, NO_EXITS, w, h, moves, *flat, 0.25)
        mine, theirs = compiled.search(*arguments), astar.search(*arguments)
        np.testing.assert_array_equal(mine[0], theirs[0])
        assert mine[1:] == theirs[1:]


def test_great_differences_in_cost_widen_the_buckets_and_stay_exact() -> None:
    costs = np.full(256, np.inf)
    costs[1], costs[2] = 1e-4, 1e4
    code = np.array([[1, 2, 1], [1, 1, 1]], np.uint8)
    path = find_path(code, costs, [Slot(0, 0)], [Slot(0, 2)])
    assert path.slots.tolist() == [[0, 0], [1, 0], [1, 1], [1, 2], [0, 2]]
    assert path.cost == pytest.approx(4e-4)


@pytest.mark.parametrize(
    ("code", "costs", "moves", "error"),
    [
        (np.ones(4, np.uint8), COSTS, 4, TypeError),
        (np.ones((2, 2)), COSTS, 4, TypeError),
        (np.ones((2, 2), np.uint8), COSTS[:3], 4, TypeError),
        (np.ones((2, 2), np.uint8), COSTS, 6, ValueError),
        (np.ones((2, 2), np.uint8), np.zeros(256), 4, ValueError),
    ],
)
def test_the_front_refuses_what_the_kernel_could_not_take(
    code: np.ndarray, costs: np.ndarray, moves: int, error: type[Exception]
) -> None:
    with pytest.raises(error):
        find_path(code, costs, [Slot(0, 0)], [Slot(1, 1)], moves=moves)


def test_a_view_that_is_not_contiguous_and_ends_outside_are_taken() -> None:
    code = np.ones((4, 8), np.uint8)[:, ::2]
    assert find_path(code, COSTS, [Slot(0, 0), Slot(-1, 0)], [Slot(3, 3), Slot(9, 9)]).cost == 6
    assert not find_path(code, COSTS, [Slot(-1, 0)], [Slot(3, 3)])


def test_start_and_goal_in_one_cell_is_a_route_of_no_length() -> None:
    plan = draw("=", first=(3, -2))
    route = find_route(plan, Cell(3, -2), Cell(3, -2))
    assert isinstance(route, Route)
    assert (route.length, route.cost, route.cells) == (0, 0, (Cell(3, -2),))


ROADS = """
    ........
    .=====..
    .=...=..
    .=...===
    ........
"""


def test_length_and_cost_are_in_world_units() -> None:
    plan = draw(ROADS, cell=(24, 16))
    a, b = put(plan, "hut", 0, 3), put(plan, "hut", 7, 2)
    route = find_route(plan, a, b)
    assert isinstance(route, Route)
    assert (route.cells[0], route.cells[-1]) == (Cell(1, 3), Cell(7, 3))
    assert route.length == route.cost == 2 * 16 + 4 * 24 + 2 * 16 + 2 * 24
    assert route.points[0].tolist() == [36, 56]


def test_ground_costs_the_mean_of_two_cells_and_road_is_cheap() -> None:
    plan = draw("..bb")
    route = find_route(plan, Cell(0, 0), Cell(3, 0), ON_FOOT)
    assert isinstance(route, Route)
    assert (route.length, route.cost) == (3, 1 + 2 + 3)
    road = find_route(draw("=bbb="), Cell(0, 0), Cell(4, 0), ON_FOOT)
    assert isinstance(road, Route)
    assert road.cost == 2 + 3 + 3 + 2


def test_a_diagonal_needs_both_cells_beside_it() -> None:
    plan = draw("..\n..")
    free = find_route(plan, Cell(0, 0), Cell(1, 1), Manner(Over.GROUND, 8))
    assert free.length == pytest.approx(2**0.5)  # type: ignore[union-attr]
    corner = find_route(draw(".k\n.."), Cell(0, 0), Cell(1, 1), Manner(Over.GROUND, 8))
    assert corner.length == 2  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("text", "start", "goal", "words"),
    [
        ("=.=", Cell(0, 0), Cell(2, 0), "does not meet .* nearest at 0, 0 and 2, 0"),
        ("=..", Cell(0, 0), Cell(2, 0), "cell 2, 0 is not road"),
        ("===", Cell(0, 0), Cell(3, 0), "outside the grid"),
    ],
)
def test_no_route_says_why(text: str, start: Cell, goal: Cell, words: str) -> None:
    answer = find_route(draw(text), start, goal)
    assert isinstance(answer, NoRoute)
    assert not answer
    with pytest.raises(AssertionError, match=words):
        raise AssertionError(answer.why)


def test_a_structure_without_road_at_its_door_says_where_the_door_is() -> None:
    plan = draw("....\n....\n....\n.===")
    barn, hut = put(plan, "barn", 0, 0), put(plan, "hut", 3, 2)
    answer = find_route(plan, barn, hut)
    assert isinstance(answer, NoRoute)
    assert answer.why == "S1 Barn has no road at its door (cell 1, 2)"
    assert find_route(plan, hut, hut).cost == 0  # type: ignore[union-attr]
    blocked = find_route(draw(".k."), Cell(0, 0), Cell(2, 0), ON_FOOT)
    assert "blocked ground" in blocked.why  # type: ignore[union-attr]
    with pytest.raises(Unknown):
        find_route(plan, 77, hut)


@given(st.integers(1, 10**6), st.integers(-(10**6), 10**6), st.integers(-(10**6), 10**6))
def test_ends_are_read_back(number: int, col: int, row: int) -> None:
    assert parse_end(f"S{number}") == parse_end(f" s{number}") == number
    assert parse_end(f"{col},{row}") == parse_end(f"{col}, {row}") == Cell(col, row)


@pytest.mark.parametrize("text", ["", "12", "S", "S-1", "1,2,3", "a,b"])
def test_other_ends_are_refused(text: str) -> None:
    with pytest.raises(Unknown, match="neither a structure like S12 nor a cell"):
        parse_end(text)


@settings(max_examples=examples(150), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_mended_path_costs_what_one_from_scratch_does(seed: int) -> None:
    rng = np.random.default_rng(seed)
    code, starts, goals, moves, cell = random_case(rng)
    mended = Mended(*(Tree(code, COSTS, ends, moves=moves, cell=cell) for ends in (starts, goals)))
    for _ in range(3):
        closed = [Slot(*rng.integers(code.shape).tolist()) for _ in range(int(rng.integers(4)))]
        row, col = rng.integers(code.shape).tolist()
        deep, wide = rng.integers(0, 4, 2).tolist()
        closed += [Slot(row + r, col + c) for r in range(deep) for c in range(wide)]
        closed = [slot for slot in closed if slot.row < code.shape[0] and slot.col < code.shape[1]]
        after = code.copy()
        for slot in closed:
            after[slot] = 0
        path = mended.find(closed)
        expected = dijkstra_cost(after, starts, goals, moves, cell)
        assert path.cost == pytest.approx(expected, rel=1e-8)
        assert bool(path) is bool(np.isfinite(expected))
        if path:
            assert path_cost(after, path.slots, cell) == pytest.approx(expected, rel=1e-8)
            assert tuple(path.slots[0]) in starts
            assert tuple(path.slots[-1]) in goals
