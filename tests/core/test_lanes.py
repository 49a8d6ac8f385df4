"""The lane graph: where its points lie, what follows what, and the ways through it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from tests.helpers.builders import KINDS
from tests.helpers.lanes import assert_lanes_are_current, cells_ahead
from woven_locus import kernel_cache
from woven_locus.core import kernels
from woven_locus.core.editing import History
from woven_locus.core.edits import place
from woven_locus.core.edits.road_classes import change_class
from woven_locus.core.edits.roads import erase_road, keep_to, lay_road, put_signs
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue
from woven_locus.core.lanes import KeepSide, LaneGraph
from woven_locus.core.plan import Plan
from woven_locus.core.routing import LaneWay, NoRoute, find_lane_way
from woven_locus.core.routing.lane_ways import nodes_of, search
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import RoadClass, RoadTable, Sign, road_byte
from woven_locus.document.starter import starter_terrain

TABLE = RoadTable(
    [
        RoadClass("lane", "Lane", "l", 5.0, 1.0, 2, "#EFE3C8"),
        RoadClass("street", "Street", "s", 8.0, 1.0, 4, "#E0D0B0"),
        RoadClass("broad", "Broad road", "b", 13.0, 1.0, 6, "#D0C0A0"),
        RoadClass("path", "Path", "p", 2.0, 2.0, 1, "#C0A070"),
    ]
)
BYTES = [0] * 3 + [road_byte(0)] * 5 + [road_byte(1), road_byte(2), road_byte(3)]
SIGNED = BYTES + [road_byte(code, sign) for code in (0, 1) for sign in Sign if sign]


def plan_of(road: np.ndarray, keep: KeepSide = KeepSide.RIGHT, y_up: bool = False) -> Plan:
    rows, cols = road.shape
    spec = GridSpec(cols, rows, 4.0, 3.0, 10.0, -20.0, first_col=-2, first_row=5, y_up=y_up)
    kinds = Catalogue(KINDS)
    return Plan("Lanes", spec, starter_terrain(), kinds, road_table=TABLE, road=road, keep=keep)


def drawn(*rows: str, code: int = 0, **named: object) -> Plan:
    """A plan from rows of # (road) and . (none)."""
    road = np.array([[road_byte(code) if mark == "#" else 0 for mark in row] for row in rows])
    return plan_of(road.astype(np.uint8), **named)  # type: ignore[arg-type]


def roads(signed: bool = True, side: int = 7) -> st.SearchStrategy[np.ndarray]:
    shape = st.tuples(st.integers(1, side), st.integers(1, side))
    return hnp.arrays(np.uint8, shape, elements=st.sampled_from(SIGNED if signed else BYTES))


sides = st.sampled_from(KeepSide)


def _right_of(graph: LaneGraph, nodes: np.ndarray, y_up: bool) -> np.ndarray:
    """(N, 2) unit vectors to the right of each heading, as on screen, in world units."""
    angle = np.radians(graph.headings(nodes))
    quarter = -np.pi / 2 if y_up else np.pi / 2
    return np.stack([np.cos(angle + quarter), np.sin(angle + quarter)], axis=1)


@given(roads(), sides, st.booleans())
def test_every_point_lies_in_its_cell_and_on_the_travel_side(
    road: np.ndarray, keep: KeepSide, y_up: bool
) -> None:
    plan = plan_of(road, keep, y_up)
    graph = plan.lanes.graph
    nodes = graph.nodes()
    points = graph.places(nodes)
    for node, point in zip(nodes.tolist(), points.tolist(), strict=True):
        assert plan.spec.locate(*point) == graph.cell(node)
    slots = np.stack(divmod(graph.slot[nodes].astype(np.int64), plan.spec.cols), axis=1)
    aside = ((points - plan.spec.centres(slots)) * _right_of(graph, nodes, y_up)).sum(axis=1)
    aside = aside if keep is KeepSide.RIGHT else -aside
    assert (aside[~graph.turns_about(nodes)] > 0.02).all()


@given(roads(), sides)
def test_edges_go_on_within_a_cell_or_to_the_next_and_never_bend_sharply(
    road: np.ndarray, keep: KeepSide
) -> None:
    plan = plan_of(road, keep)
    graph, edges = plan.lanes.graph, plan.lanes.graph.edges()
    nodes = graph.nodes()
    starts = np.repeat(nodes, np.diff(edges.first))
    ends = nodes[edges.to]
    a, b = (np.stack(divmod(graph.slot[some], plan.spec.cols), axis=1) for some in (starts, ends))
    assert (np.abs(a - b).sum(axis=1) <= 1).all()
    turn = np.abs((graph.headings(ends) - graph.headings(starts) + 180) % 360 - 180)
    assert (turn < 60).all()
    assert (edges.length > 0).all()
    assert np.isfinite(edges.seconds).all()
    # Nothing is faster than its class, and nothing is driven twice.
    assert (edges.seconds >= edges.length / TABLE.speeds.max() * (1 - 1e-12)).all()
    pairs = set(zip(starts.tolist(), ends.tolist(), strict=True))
    assert len(pairs) == len(starts)


@given(roads(side=6), sides)
def test_lanes_lead_to_the_cells_that_signs_allow(road: np.ndarray, keep: KeepSide) -> None:
    plan = plan_of(road, keep)
    graph, cols = plan.lanes.graph, plan.spec.cols
    for row, col in np.argwhere(np.isfinite(TABLE.costs[road])).tolist():
        seen = set(graph.nodes_at(row * cols + col).tolist())
        waiting = list(seen)
        while waiting:
            for to in graph.follows(waiting.pop()):
                if to not in seen:
                    seen.add(to)
                    waiting.append(to)
        found = {divmod(int(graph.slot[node]), cols) for node in seen}
        assert found == cells_ahead(plan, (row, col))


@given(st.data(), roads(), sides)
def test_the_graph_follows_any_edit(data: st.DataObject, road: np.ndarray, keep: KeepSide) -> None:
    plan = plan_of(road, keep)
    history = History(plan)
    _ = plan.lanes.graph
    spec = plan.spec
    cells = st.builds(
        Cell,
        st.integers(spec.first_col, spec.last.col),
        st.integers(spec.first_row, spec.last.row),
    )
    for _ in range(4):
        some = data.draw(st.lists(cells, min_size=1, max_size=4, unique=True))
        what = data.draw(st.integers(0, 5))
        if what == 0:
            history.do(erase_road(plan, some))
        elif what == 1:
            history.do(put_signs(plan, some, [data.draw(st.sampled_from(Sign))] * len(some)))
        elif what == 2:
            history.do(keep_to(plan, data.draw(sides)))
        elif what == 3:
            lanes, speed = data.draw(st.integers(1, 6)), data.draw(st.sampled_from([3.0, 9.0]))
            other = replace(plan.road_table[0], lanes=lanes, speed=speed)
            history.do(change_class(plan, 0, other))
        elif what == 4:
            history.undo()
        else:
            history.do(lay_road(plan, some, data.draw(st.integers(0, 3))))
        assert_lanes_are_current(plan)


def test_a_graph_that_was_made_for_a_copy_is_taken_over_and_follows_edits() -> None:
    plan = drawn("#####", "..#..", "..#..")
    worked_on = plan.snapshot()
    assert worked_on.lanes.graph.nodes().size
    assert not plan.lanes.made
    plan.lanes.adopt(worked_on.lanes)
    assert plan.lanes.made
    assert not worked_on.lanes.made
    below = plan.spec.cell_of_slot((1, 2))
    History(plan).do(erase_road(plan, [below]))
    assert_lanes_are_current(plan)
    assert_lanes_are_current(worked_on)
    erased = plan.spec.index(below)
    assert not plan.lanes.graph.nodes_at(erased).size
    assert worked_on.lanes.graph.nodes_at(erased).size
    mine = plan.lanes.graph
    plan.lanes.adopt(plan.snapshot().lanes)
    assert plan.lanes.graph is mine


def test_numbers_stay_and_are_used_again() -> None:
    plan = drawn("#######", ".......", "...#...")
    history = History(plan)
    graph = plan.lanes.graph
    far, room = graph.nodes_at(0), graph.room
    for _ in range(20):
        history.do(lay_road(plan, [Cell(1, 6)]))
        history.undo()
    assert plan.lanes.graph is graph
    np.testing.assert_array_equal(graph.nodes_at(0), far)
    # A crossing has more nodes than a straight; both sizes are given out only once.
    assert graph.room <= 2 * room + 100


@given(roads(), sides)
def test_a_map_in_the_mirror_keeps_to_the_other_side(road: np.ndarray, keep: KeepSide) -> None:
    other = KeepSide.LEFT if keep is KeepSide.RIGHT else KeepSide.RIGHT
    mirrored = road[:, ::-1].copy()
    signs = mirrored >> 5
    for here, there in ((Sign.EAST, Sign.WEST), (Sign.WEST, Sign.EAST)):
        mirrored[signs == here] = (mirrored[signs == here] & 31) | there << 5
    a, b = (plan_of(*args).lanes.graph for args in ((road, keep), (mirrored, other)))
    left, right = a.places(a.nodes()), b.places(b.nodes())
    right[:, 0] = 2 * 10.0 + 4.0 * road.shape[1] - right[:, 0]
    for points in (left, right):
        points[:] = np.round(points, 6)
    assert sorted(map(tuple, left.tolist())) == sorted(map(tuple, right.tolist()))
    assert a.edges().seconds.sum() == pytest.approx(b.edges().seconds.sum())


@given(st.data(), roads(side=9), sides)
def test_a_way_takes_no_longer_than_scipy_finds(
    data: st.DataObject, road: np.ndarray, keep: KeepSide
) -> None:
    plan = plan_of(road, keep)
    open_ = np.argwhere(np.isfinite(TABLE.costs[road])).tolist()
    if not open_:
        return
    graph = plan.lanes.graph
    edges, nodes = graph.edges(), graph.nodes()
    matrix = csr_matrix((edges.seconds, edges.to, edges.first), (len(nodes), len(nodes)))
    for _ in range(3):
        a, b = (Slot(*data.draw(st.sampled_from(open_))) for _ in "ab")
        ends = [np.flatnonzero(np.isin(nodes, nodes_of(graph, [slot]))) for slot in (a, b)]
        best = dijkstra(matrix, indices=ends[0])[:, ends[1]].min()
        found = find_lane_way(plan, *(plan.spec.cell_of_slot(slot) for slot in (a, b)))
        if np.isfinite(best):
            assert isinstance(found, LaneWay)
            assert found.seconds == pytest.approx(best, rel=1e-9, abs=1e-12)
        else:
            assert isinstance(found, NoRoute)
            assert found.why


def test_the_compiled_search_is_the_plain_one() -> None:
    rng = np.random.default_rng(4)
    road = rng.choice(np.array(SIGNED[3:] + BYTES[3:] * 4, np.uint8), (40, 40))
    plan = plan_of(road)
    graph = plan.lanes.graph
    open_ = np.argwhere(np.isfinite(TABLE.costs[road])).tolist()
    asked = [[Slot(*open_[at]) for at in rng.integers(len(open_), size=2)] for _ in range(12)]

    def answers() -> list[tuple[list[int], int]]:
        found = []
        for a, b in asked:
            nodes, looked = search(graph, plan, nodes_of(graph, [a]), nodes_of(graph, [b]))
            found.append((nodes.tolist(), looked))
        return found

    kernels.use_twins()
    plain = answers()
    kernel_cache.install(("lanes",))
    try:
        assert answers() == plain
    finally:
        kernels.use_twins()
    assert sum(len(nodes) > 0 for nodes, _ in plain) > 3


def test_a_straight_has_one_point_a_lane_a_quarter_of_the_band_aside() -> None:
    plan = drawn("###")
    graph = plan.lanes.graph
    # Half the band of two lanes is 0.31 of the shorter side, 3 units; the lane lies in its middle.
    aside = 3.0 * 0.31 / 2
    nodes = graph.nodes_at(1)
    assert graph.places(nodes).tolist() == [[16.0, -18.5 - aside], [16.0, -18.5 + aside]]
    assert graph.headings(nodes).tolist() == [180.0, 0.0]


def test_both_ways_at_a_crossing_of_one_lane_each_way() -> None:
    plan = drawn(".#.", "###", ".#.")
    graph = plan.lanes.graph
    nodes = graph.nodes_at(4)
    # Four ways in and four out; of twelve movements four go straight on, eight have an arc of five points.
    assert len(nodes) == 8 + 8 * 5
    entries = [node for node in nodes.tolist() if len(graph.follows(node)) == 3]
    assert len(entries) == 4


def test_who_may_turn_from_which_lane() -> None:
    plan = drawn(".#.", "###", ".#.", code=2)  # three lanes each way
    graph = plan.lanes.graph
    forms = graph.forms
    first = int(graph.first[4])
    for lane, ways in ((0, 2), (1, 3), (2, 2)):
        entry = first + int(forms.entry[graph.pattern[4], 3, lane])
        ends = set()
        for node in graph.follows(entry):
            while graph.slot[node] == 4:
                last, node = node, (graph.follows(node) or [0])[0]
            ends.add(round(float(graph.headings(np.array([last]))[0])))
        assert len(ends) == ways
        assert 0 in ends  # straight on, towards higher columns
        assert (270 in ends) == (lane < 2)
        assert (90 in ends) == (lane > 0)


def test_lanes_change_on_a_straight_and_join_where_there_are_fewer() -> None:
    road = np.array([[road_byte(2)] * 3 + [road_byte(0)] * 2], np.uint8)
    plan = plan_of(road)
    graph = plan.lanes.graph

    def eastward(slot: int) -> list[int]:
        nodes = graph.nodes_at(slot)
        return nodes[graph.headings(nodes) == 0].tolist()  # type: ignore[no-any-return]

    inner, middle, outer = eastward(1)
    there = eastward(2)
    assert [sorted(graph.follows(node)) for node in (inner, middle, outer)] == [
        there[:2],
        there,
        there[1:],
    ]
    # Three lanes become one, and on the way back the one becomes three.
    assert [graph.follows(node) for node in there] == [eastward(3)] * 3
    west = [node for node in graph.nodes_at(3).tolist() if node not in eastward(3)]
    onto = [node for node in graph.nodes_at(2).tolist() if node not in there]
    assert sorted(graph.follows(west[0])) == onto


def test_a_trip_follows_doors_and_the_side_of_the_road() -> None:
    plan = drawn("........", "########", "........", "........")
    history = History(plan)
    for col in (-1, 4):
        history.do(place(plan, "hut", Cell(col, 7), 0, "now"))
    there, back = find_lane_way(plan, 1, 2), find_lane_way(plan, 2, 1)
    assert isinstance(there, LaneWay)
    assert isinstance(back, LaneWay)
    assert there.length == back.length == 20.0
    # Eastward traffic keeps right of the centre line, at y = -15.5; westward left of it on the map.
    assert set(there.points[:, 1]) == {-15.5 + 0.465}
    assert set(back.points[:, 1]) == {-15.5 - 0.465}
    history.do(keep_to(plan, KeepSide.LEFT))
    other = find_lane_way(plan, 1, 2)
    assert isinstance(other, LaneWay)
    assert set(other.points[:, 1]) == {-15.5 - 0.465}


def test_why_there_is_no_way() -> None:
    plan = drawn("##.##")
    assert "does not meet" in find_lane_way(plan, Cell(-2, 5), Cell(2, 5)).why  # type: ignore[union-attr]
    assert "is not road" in find_lane_way(plan, Cell(0, 5), Cell(2, 5)).why  # type: ignore[union-attr]
    same = find_lane_way(plan, Cell(-2, 5), Cell(-2, 5))
    assert isinstance(same, LaneWay)
    assert same.seconds == 0.0
    assert len(same.nodes) == 1
