"""Ways of very many trips: as short as SciPy finds them, whoever else asks, and whole from end to end."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from tests.core.test_lanes import plan_of, roads, sides
from tests.core.test_run import CART, WAIN, town, trips_in
from tests.helpers.builders import put
from tests.helpers.depth import examples
from woven_locus import kernel_cache
from woven_locus.core import kernels, side_by_side
from woven_locus.core.editing import History
from woven_locus.core.edits import put_signs
from woven_locus.core.errors import Stopped
from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import KeepSide, LaneGraph
from woven_locus.core.lanes.graph import LaneEdges, sums_along
from woven_locus.core.placing import judge
from woven_locus.core.traffic import TrafficRun, ways
from woven_locus.core.traffic.replan import carried_over
from woven_locus.core.traffic.streets import Streets
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.traffic.way_search import NO_WAY, THERE, Found, WaySearch
from woven_locus.core.traffic.ways import WayFinder
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import Sign


def tracks_of(road: np.ndarray, keep: KeepSide = KeepSide.RIGHT) -> tuple[Tracks, LaneGraph]:
    streets = Streets(plan_of(road, keep), [CART])
    return streets.tracks, streets.graph


def driven(tracks: Tracks, found: Found, pair: int) -> list[int]:
    """The dense nodes of a way, from its first edge to its last."""
    pieces = found.pieces_of(pair)
    nodes = tracks.nodes_along(pieces)
    before = int(found.first[pair] - tracks.begins[pieces[0]])
    beyond = int(tracks.begins[pieces[-1] + 1] - 1 - found.last[pair])
    return nodes[before : len(nodes) - beyond]


def seconds_of(edges: LaneEdges, way: list[int]) -> float:
    count = len(edges.first) - 1
    matrix = csr_matrix((edges.seconds, edges.to, edges.first), (count, count))
    steps = [float(matrix[a, b]) for a, b in pairwise(way)]
    assert all(steps)
    return sum(steps)


@given(st.data(), roads(side=9), sides)
def test_ways_take_as_long_as_scipy_finds(
    data: st.DataObject, road: np.ndarray, keep: KeepSide
) -> None:
    """From and to any nodes, within pieces too, more starts than goals and fewer."""
    tracks, graph = tracks_of(road, keep)
    edges, count = graph.edges(), len(graph.nodes())
    matrix = csr_matrix((edges.seconds, edges.to, edges.first), (count, count))
    leaves, comes = np.flatnonzero(np.diff(edges.first)), np.unique(edges.to)
    if not len(leaves):
        return

    def ends(of: np.ndarray) -> list[np.ndarray]:
        some = st.sets(st.sampled_from(of.tolist()), min_size=1, max_size=4)
        return [
            np.array(sorted(each)) for each in data.draw(st.lists(some, min_size=1, max_size=4))
        ]

    starts, goals = ends(leaves), ends(comes)
    asked = np.stack(np.meshgrid(range(len(starts)), range(len(goals))), axis=-1).reshape(-1, 2)
    found = WaySearch(tracks).search(starts, goals, asked)
    for pair, (a, b) in enumerate(asked.tolist()):
        best = dijkstra(matrix, indices=starts[a])[:, goals[b]].min()
        if np.isinf(best) or best == 0:
            assert found.first[pair] == found.last[pair] == (NO_WAY if best else THERE)
            assert not len(found.pieces_of(pair))
            continue
        way = driven(tracks, found, pair)
        assert way[0] in starts[a]
        assert way[-1] in goals[b]
        assert seconds_of(edges, way) == pytest.approx(best, rel=1e-9, abs=1e-9)


@settings(max_examples=examples(10), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans(), st.booleans())
def test_compiled_side_by_side_and_alone_they_are_the_same(
    seed: int, lanes: bool, signs: bool
) -> None:
    rng = np.random.default_rng(seed)
    streets = Streets(town(rng, 12, lanes, signs), [CART])
    comes = np.unique(streets.tracks.edge_to)
    leaves = np.unique(streets.tracks.edge_start)
    starts = [np.unique(rng.choice(leaves, 2)) for _ in range(15)]
    goals = [np.unique(rng.choice(comes, 2)) for _ in range(40)]
    asked = np.stack([rng.integers(15, size=60), rng.integers(40, size=60)], axis=1)

    def all_of() -> list[list[int]]:
        found = WaySearch(streets.tracks).search(starts, goals, asked)
        ways = [found.pieces_of(pair).tolist() for pair in range(len(asked))]
        return [*ways, found.first.tolist(), found.last.tolist()]

    plain = all_of()
    kernel_cache.install(("trips",))
    try:
        assert all_of() == plain
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(side_by_side, "THREADS", 1)
            assert all_of() == plain
    finally:
        kernels.use_twins()


@given(st.integers(0, 2**32 - 1))
def test_ways_that_run_together_are_what_each_is_by_itself(seed: int) -> None:
    """From one start to every place where one may stop: most are copied from others for the greater part."""
    rng = np.random.default_rng(seed)
    streets = Streets(town(rng, 10, True, True), [CART])
    search = WaySearch(streets.tracks)
    leaves, comes = np.unique(streets.tracks.edge_start), np.unique(streets.tracks.edge_to)
    starts = [np.sort(rng.choice(leaves, 2, replace=False))]
    goals = [np.array([node]) for node in rng.permutation(comes)[:60].tolist()]
    many = search.search(starts, goals, np.array([(0, goal) for goal in range(len(goals))]))
    for at, goal in enumerate(goals):
        alone = search.search(starts, [goal], np.zeros((1, 2), np.int64))
        assert many.pieces_of(at).tolist() == alone.pieces_of(0).tolist()
        assert (many.first[at], many.last[at]) == (alone.first[0], alone.last[0])


def test_a_trip_of_a_structure_that_is_gone_does_not_touch_the_others() -> None:
    rng = np.random.default_rng(8)
    plan = town(rng, 12, True, False)
    streets = Streets(plan, [CART])
    cells = [plan.spec.cell_of_slot(slot) for slot in np.argwhere(plan.road).tolist()]
    good, *others = (
        (cells[0], cells[-1], CART),
        (99, cells[-1], CART),
        (cells[0], 99, CART),
        (99, 99, CART),
    )
    finder = WayFinder(plan, streets.graph, streets.tracks)
    way, *gone = finder.find_all([good, *others])
    alone = WayFinder(plan, streets.graph, streets.tracks).find_all([good])[0]
    assert not isinstance(way, str)
    assert not isinstance(alone, str)
    assert way.pieces.tolist() == alone.pieces.tolist()
    assert all(isinstance(why, str) and "99 is not there" in why for why in gone)
    assert finder.find_all([]) == []


def test_all_trips_are_answered_as_each_is_by_itself() -> None:
    rng = np.random.default_rng(8)
    plan = town(rng, 12, True, False)
    streets = Streets(plan, [CART, WAIN])
    cells = [plan.spec.cell_of_slot(slot) for slot in np.argwhere(plan.road).tolist()]
    off = Cell(plan.spec.last.col + 3, 0)
    asked = [
        (cells[a], cells[b], (CART, WAIN)[k % 2])
        for k, (a, b) in enumerate(rng.integers(len(cells), size=(60, 2)).tolist())
    ]
    asked += [(cells[0], cells[0], CART), (off, cells[0], CART), asked[3], (*asked[3][:2], WAIN)]
    all_of = WayFinder(plan, streets.graph, streets.tracks).find_all(asked)
    assert len(all_of) == len(asked)
    for question, way in zip(asked, all_of, strict=True):
        alone = WayFinder(plan, streets.graph, streets.tracks).find_all([question])[0]
        if isinstance(way, str):
            assert alone == way
            continue
        assert not isinstance(alone, str)
        assert alone.seconds == pytest.approx(way.seconds, rel=1e-6)
        # It is as long as it says, from piece to piece.
        tracks, pieces = streets.tracks, way.pieces
        assert (tracks.ends_of(pieces[:-1]) == tracks.starts_of(pieces[1:])).all()
        assert 0 < way.x <= way.goal_x <= tracks.length[pieces].sum() + 1e-9
    assert "it begins where it ends" in all_of
    assert any(isinstance(way, str) and "outside the grid" in way for way in all_of)
    assert sum(not isinstance(way, str) for way in all_of) > 20


@given(st.integers(0, 2**32 - 1))
def test_the_ends_of_many_structures_are_those_of_each(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 12, True, False)
    for _ in range(40):
        kind, turn = ("hut", "barn")[rng.integers(2)], int(rng.integers(4))
        at = plan.spec.cell_of_slot(tuple(rng.integers(plan.spec.shape).tolist()))
        if judge(plan, plan.kinds[kind], at, turn):
            put(plan, kind, *at, turn)
    road = [plan.spec.cell_of_slot(slot) for slot in np.argwhere(plan.road).tolist()]
    signs = [Sign(int(sign)) for sign in rng.integers(7, size=len(road) // 4)]
    History(plan).do(put_signs(plan, road[: len(signs)], signs))
    streets = Streets(plan, [CART])
    for sets_off in (True, False):
        many, alone = (WayFinder(plan, streets.graph, streets.tracks) for _ in range(2))
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(ways, "_MANY", 0)
            many._look_up_many(plan.register.numbers(), sets_off)
        for number in plan.register.numbers():
            (nodes, why), (nodes_alone, why_alone) = (
                finder._nodes(number, sets_off) for finder in (many, alone)
            )
            assert (nodes.tolist(), why) == (nodes_alone.tolist(), why_alone)


def test_stopped_no_run_is_made() -> None:
    rng = np.random.default_rng(9)
    plan = town(rng, 12, False, False)
    asked: list[int] = []
    told: list[float] = []

    def stopped() -> bool:
        asked.append(1)
        return len(asked) > 3

    trips = trips_in(plan, rng, 25)
    with pytest.raises(Stopped):
        TrafficRun(plan, trips, [CART, WAIN], stopped=stopped)
    assert len(asked) == 4
    run = TrafficRun(plan, trips, [CART, WAIN], progress=told.append)
    assert told == sorted(told)
    assert told[-1] == 1.0
    run.advance(100)
    asked.clear()
    with pytest.raises(Stopped):
        carried_over(run, plan, stopped)


@settings(max_examples=examples(20), deadline=None)
@given(st.integers(0, 2**32 - 1), st.floats(-7, 2))
def test_however_slow_a_class_is_ways_are_found(seed: int, exponent: float) -> None:
    """Many rounds of the ring of buckets beyond what is near."""
    rng = np.random.default_rng(seed)
    streets = Streets(town(rng, 10, True, False), [CART])
    tracks = streets.tracks
    slow = np.where(rng.random(len(tracks)) < 0.3, 10.0 ** (-exponent), 1.0)
    each = np.diff(tracks.seconds, prepend=0.0)
    each[tracks.begins[:-1]] = tracks.seconds[tracks.begins[:-1]]
    each *= np.repeat(slow, np.diff(tracks.begins))
    seconds = sums_along(each, tracks.begins)
    search = WaySearch(replace(tracks, seconds=seconds))
    leaves, comes = np.unique(tracks.edge_start), np.unique(tracks.edge_to)
    starts, goals = ([np.array([node]) for node in rng.choice(of, 6)] for of in (leaves, comes))
    asked = np.stack(np.meshgrid(range(6), range(6)), axis=-1).reshape(-1, 2)
    count = len(tracks.nodes)
    of_edge = np.empty(len(each))
    of_edge[tracks.edges] = each
    matrix = csr_matrix((of_edge, (tracks.edge_start, tracks.edge_to)), (count, count))
    best = dijkstra(matrix, indices=[int(start[0]) for start in starts])
    found = search.search(starts, goals, asked)
    for pair, (a, b) in enumerate(asked.tolist()):
        cost = best[a, int(goals[b][0])]
        if np.isinf(cost) or starts[a][0] == goals[b][0]:
            assert found.first[pair] < 0
            continue
        steps = pairwise(driven(tracks, found, pair))
        spent = sum(float(matrix[a, b]) for a, b in steps)
        assert spent == pytest.approx(cost, rel=1e-6)
