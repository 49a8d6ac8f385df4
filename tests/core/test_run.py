"""Vehicles on the road: they never touch, keep to the model, give way in order, and are all accounted for."""

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.test_lanes import TABLE, drawn, plan_of
from tests.helpers.depth import examples
from tests.helpers.traffic import checked
from woven_locus.core import kernels
from woven_locus.core.errors import Refused, Unknown
from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import KeepSide, LaneGraph
from woven_locus.core.lanes.shape import lanes_each_way
from woven_locus.core.plan import Plan
from woven_locus.core.traffic import waiting
from woven_locus.core.traffic.run import Counts, TrafficRun
from woven_locus.core.traffic.streets import HARDEST
from woven_locus.core.value import replace
from woven_locus.core.vehicles import Trip, VehicleKind
from woven_locus.core.ways.roads import HALF_WIDTHS, Sign, class_of, road_byte

CART = VehicleKind("cart", "Cart", "#A5383F", 0.9, 0.22, 3.0, 1.5, 1.5, 1.0, 0.25)
WAIN = VehicleKind("wain", "Wain", "#2F4B7C", 1.6, 0.24, 2.0, 0.8, 1.2, 1.4, 0.3)


pytestmark = pytest.mark.usefixtures("compiled_kernels")


def road_cells(plan: Plan) -> list[Cell]:
    open_ = np.argwhere(np.isfinite(TABLE.costs[plan.road])).tolist()
    return [plan.spec.cell_of_slot(slot) for slot in open_]


def town(rng: np.random.Generator, side: int, lanes: bool, signs: bool) -> Plan:
    """Streets on a loose grid, some of them broad, some one way, some cells missing."""
    road = np.zeros((side, side), np.uint8)
    for at in rng.choice(side, 3, replace=False).tolist():
        road[at, :] = road_byte(int(rng.integers(3)) if lanes else 0)
    for at in rng.choice(side, 3, replace=False).tolist():
        road[:, at] = road_byte(int(rng.integers(3)) if lanes else 0)
    if signs:
        at = int(rng.integers(side))
        some = road[at] > 0
        road[at, some] |= (Sign.EAST if rng.integers(2) else Sign.WEST) << 5
    road[rng.random(road.shape) < 0.06] = 0
    return plan_of(road, KeepSide.LEFT if rng.integers(2) else KeepSide.RIGHT)


def trips_in(plan: Plan, rng: np.random.Generator, count: int) -> list[Trip]:
    cells = road_cells(plan)
    picked = rng.integers(len(cells), size=(count, 2)).tolist()
    return [
        Trip(cells[a], cells[b], float(rng.integers(10)), ("cart", "wain")[a % 2], 4.0, 12)
        for a, b in picked
    ]


@settings(max_examples=examples(25), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans(), st.booleans())
def test_vehicles_never_touch_nor_jump_and_keep_within_bounds(
    seed: int, lanes: bool, signs: bool
) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, lanes, signs)
    run = TrafficRun(plan, trips_in(plan, rng, 25), [CART, WAIN], step=0.1)
    fleet, kinds = run.fleet, run.streets.kinds
    for _ in range(500):
        before = {int(fleet.number[row]): row for row in fleet.under_way()}
        x, v = fleet.cars.x.copy(), fleet.cars.v.copy()
        run.advance()
        rows = fleet.under_way()
        stayed = np.array([row for row in rows if int(fleet.number[row]) in before], np.int64)
        # A vehicle's row changes when all are put in order.
        was = [before[number] for number in fleet.number[stayed].tolist()]
        kind = fleet.cars.kind[stayed]
        now = fleet.cars.v[stayed]
        np.testing.assert_allclose(fleet.cars.x[stayed] - x[was], now * run.step, atol=1e-9)
        assert (now >= 0).all()
        assert (now <= kinds.speed[kind] + 1e-9).all()
        gain = (now - v[was]) / run.step
        assert (gain <= kinds.accel[kind] + 1e-9).all()
        assert (gain >= -kinds.hardest[kind] - 1e-9).all()
        counts = run.counts()
        assert counts.wanted == counts.sent + counts.held_back + counts.no_way
        assert counts.sent == counts.arrived + counts.under_way == run.arrived + len(rows)
        assert fleet.overlaps() == []
        np.testing.assert_allclose(fleet.fronts(rows), fleet.poses(rows)[0], atol=1e-9)
    assert kinds.hardest.tolist() == [HARDEST * CART.braking, HARDEST * WAIN.braking]


def widest(plan: Plan) -> list[VehicleKind]:
    """Vehicles as broad as the lanes of a plan allow, one of them as long as a cell."""
    unit = min(plan.spec.cell_w, plan.spec.cell_h)
    lanes = {TABLE[class_of(byte)].lanes for byte in np.unique(plan.road).tolist() if byte}
    wide = 0.999 * unit / 1.1 * min(HALF_WIDTHS[count] / lanes_each_way(count) for count in lanes)
    return [replace(CART, width=wide), replace(WAIN, width=wide, length=unit)]


@settings(max_examples=examples(8), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans(), st.booleans())
@example(18, False, False)
@example(22, True, False)
@example(6, True, False)
@example(32689, True, False)  # one waits right behind another that turns off
def test_as_broad_and_long_as_may_be_they_do_not_touch_either(
    seed: int, lanes: bool, signs: bool
) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, lanes, signs)
    run = TrafficRun(plan, trips_in(plan, rng, 25), widest(plan), step=0.1)
    for _ in range(300):
        run.advance()
        assert run.fleet.overlaps() == []


def test_long_vehicles_wait_farther_back_where_others_turn_beside_them() -> None:
    broad = [
        "....#....",
        "....#....",
        "#########",
        "....#....",
        "....#....",
    ]
    for lanes, kind, far in ((0, CART, False), (2, WAIN, True)):
        plan = drawn(*broad, code=lanes)
        tracks = TrafficRun(plan, [], [kind]).streets.tracks
        lines = tracks.back[tracks.starts_of(np.flatnonzero(tracks.inner))]
        assert bool(lines.max() > 0) is far
        # One need not stand farther back than one is long.
        assert lines.max() <= kind.length


def test_most_vehicles_come_to_their_goal() -> None:
    rng = np.random.default_rng(5)
    plan = town(rng, 14, False, False)
    run = TrafficRun(plan, trips_in(plan, rng, 30), [CART, WAIN])
    run.advance(30 * 400)
    counts = run.counts()
    assert counts.wanted == 30 * 12
    assert counts.under_way == counts.held_back == 0
    assert counts.arrived == len(run.arrivals.took) == counts.wanted - counts.no_way > 150
    # Nobody is quicker than an empty road lets him be, but for the way that one saves by not standing at its ends.
    assert min(run.arrivals.delay) > -1.0


def ring(count: int, kind: VehicleKind) -> tuple[TrafficRun, float]:
    """Vehicles that set off at once on a road without a beginning, going round for ever; and its length."""
    size = 14
    rows = ["#" * size, *(["#" + "." * (size - 2) + "#"] * (size - 2)), "#" * size]
    plan = drawn(*rows)
    graph = plan.lanes.graph
    # The cells in the order in which one comes through them on the outer lane.
    cells, node = [], int(graph.nodes_at(size * 5)[0])
    while (cell := graph.cell(node)) not in cells:
        cells.append(cell)
        while graph.cell(node) == cell:
            (node,) = graph.follows(node)
    some = [cells[at * len(cells) // count] for at in range(count)]
    trips = [Trip(cell, cells[(cells.index(cell) + 3) % len(cells)]) for cell in some]
    run = TrafficRun(plan, trips, [kind], step=0.05)
    piece = int(
        run.streets.tracks.piece_of[run.streets.tracks.edges_between(*_dense(run, graph, node))[0]]
    )
    length = float(run.streets.tracks.length[piece])
    run.fleet.pieces = np.full(400, piece, np.int64)
    run.plans.way[:], run.plans.way_end[:] = 0, 400
    run.plans.goal_x[:] = 400 * length
    return run, length


def _dense(run: TrafficRun, graph: LaneGraph, node: int) -> tuple[np.ndarray, np.ndarray]:
    numbers = run.streets.tracks.nodes.tolist()
    return np.array([numbers.index(node)]), np.array([numbers.index(graph.follows(node)[0])])


@pytest.mark.parametrize("wanted", [20, 35, 50])
def test_on_a_ring_vehicles_settle_to_the_models_own_speed(wanted: int) -> None:
    kind = VehicleKind("bead", "Bead", "#000000", 0.9, 0.2, 1.2, 0.8, 1.0, 2.0, 0.3)
    run, length = ring(wanted, kind)
    run.advance(20 * 1200)
    # One or two may have found no room between the others that set off with them.
    count = run.counts().under_way
    assert wanted - 3 <= count <= wanted
    speeds = run.fleet.cars.v[run.fleet.under_way()]
    # In equilibrium nobody speeds up: (s0 + v T) / sqrt(1 - (v / v0)^4) is the gap that each has.
    gap = length / count - kind.length
    low, high = 0.0, kind.speed
    for _ in range(60):
        v = (low + high) / 2
        wish = (kind.gap + v * kind.headway) / math.sqrt(1 - (v / kind.speed) ** 4 + 1e-15)
        low, high = (v, high) if wish < gap else (low, v)
    np.testing.assert_allclose(speeds, low, rtol=0.01)
    # Flow: how many pass a place a second.
    x = run.fleet.cars.x[run.fleet.under_way()].copy()
    run.advance(20 * 60)
    passed = (run.fleet.cars.x[run.fleet.under_way()] - x).sum() / length / 60
    assert passed == pytest.approx(low * count / length, rel=0.01)


CROSSING = ("....#....", "....#....", "....#....", "....#....", "#########", "....#....", "....#....", "....#....", "....#....")  # fmt: skip


@pytest.mark.parametrize("late", [0, 1])
def test_at_a_crossing_first_come_is_first_served(late: int) -> None:
    plan = drawn(*CROSSING)
    trips = [
        Trip(Cell(-2, 9), Cell(6, 9), 4.0 * (late == 0)),  # eastwards
        Trip(Cell(2, 13), Cell(2, 5), 4.0 * (late == 1)),  # northwards
    ]
    run = TrafficRun(plan, trips, [CART])
    inside: list[set[int]] = []
    tracks, fleet = run.streets.tracks, run.fleet
    (area,) = np.flatnonzero(np.bincount(tracks.area[tracks.area >= 0]) > 4)
    while run.arrived < 2 and run.steps < 2000:
        run.advance()
        rows = fleet.under_way()
        held = {
            int(fleet.trip[row])
            for row in rows.tolist()
            if (
                tracks.area[fleet.pieces[fleet.cars.tail[row] : fleet.cars.at[row] + 1]] == area
            ).any()
        }
        if held and (not inside or inside[-1] != held):
            inside.append(held)
    # Their ways cross: one is through before the other drives in, and the one that came first goes first.
    assert inside == [{1 - late}, {late}]


def test_ways_that_do_not_conflict_are_driven_together() -> None:
    plan = drawn(*CROSSING)
    trips = [Trip(Cell(-2, 9), Cell(6, 9)), Trip(Cell(6, 9), Cell(-2, 9))]
    run = TrafficRun(plan, trips, [CART])
    run.advance(600)
    assert run.counts().arrived == 2
    assert run.arrivals.took[0] == pytest.approx(run.arrivals.took[1])
    assert max(run.arrivals.delay) < 3.0


def test_a_run_is_the_same_whoever_runs_it_and_in_whatever_portions() -> None:
    rng = np.random.default_rng(11)
    plan = town(rng, 10, True, True)
    trips = trips_in(plan, rng, 20)
    compiled = TrafficRun(plan, trips, [CART, WAIN])
    compiled.advance(300)
    portions = TrafficRun(plan.twin(), trips, [CART, WAIN])
    for part in (1, 99, 150, 50):
        portions.advance(part)
    kernels.use_twins()
    plain = TrafficRun(plan, trips, [CART, WAIN])
    plain.advance(300)
    assert compiled.digest() == portions.digest() == plain.digest()
    plain.advance()
    assert compiled.digest() != plain.digest()


def test_who_wants_to_set_off_is_counted() -> None:
    plan = drawn("##########", "..........", "###.......")
    trips = [
        Trip(Cell(-2, 5), Cell(7, 5), 0.0, "", 0.0, 5),  # all at once: four are held back
        Trip(Cell(-2, 5), Cell(0, 7), 1.0, "", 2.0, 3),  # there is no way there
    ]
    run = TrafficRun(plan, trips, [CART])
    assert run.counts() == Counts(0, 0, 0, 0, 0, 0, 0)
    assert isinstance(run.ways[1], str)
    run.advance()
    assert run.counts() == Counts(5, 1, 0, 1, 4, 0, 0)
    run.advance(95)
    counts = run.counts()
    assert (counts.wanted, counts.no_way) == (7, 2)
    run.advance(3000)
    assert run.counts() == Counts(8, 5, 5, 0, 0, 3, 0)


def test_what_cannot_be_driven_is_refused_in_words() -> None:
    plan = drawn("####")
    for wrong, words in (
        ({"width": 0.9}, r"Cart is 0.9 wide; a lane of Lane has room for 0.8455"),
        ({"length": 4.0}, r"Cart is 4 long; on cells of 3"),
    ):
        with pytest.raises(Refused, match=words):
            TrafficRun(plan, [], [replace(CART, **wrong)])
    with pytest.raises(Refused, match="a step must be"):
        TrafficRun(plan, [], step=0.0)
    with pytest.raises(Unknown, match="no kind of vehicle or people 'ox'"):
        TrafficRun(plan, [Trip(Cell(-2, 5), Cell(1, 5), kind="ox")], [CART])
    gone = TrafficRun(plan, [Trip(7, Cell(1, 5))], [CART])
    assert gone.ways == ["S7 is not there"]


def test_a_ring_of_vehicles_that_wait_for_one_another_is_found(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    plan = drawn("##########")
    run = TrafficRun(plan, [Trip(Cell(at, 5), Cell(7, 5)) for at in (-1, 1, 3, 5)], [CART])
    run.advance()
    rows = {int(run.fleet.number[row]): int(row) for row in run.fleet.under_way()}
    waits = np.full(run.fleet.room, -1, np.int64)
    for who, other in ((1, 2), (2, 3), (3, 1), (4, 3)):
        waits[rows[who]] = rows[other]
    monkeypatch.setattr(waiting, "waits_for", lambda _run: waits)
    run.fleet.cars.v[:] = 0.0
    # The fourth waits for one of the ring, and is none of it.
    assert waiting.stuck(run) == [[1, 2, 3]]
    run.fleet.cars.v[rows[2]] = 1.0
    assert waiting.stuck(run) == []


def test_who_waits_for_whom_at_a_crossing() -> None:
    plan = drawn(*CROSSING)
    trips = [Trip(Cell(-2, 9), Cell(6, 9)), Trip(Cell(2, 13), Cell(2, 5))]
    run = TrafficRun(plan, trips, [CART])
    seen = set()
    while run.arrived < 1:
        run.advance()
        waits = waiting.waits_for(run)
        for row in run.fleet.under_way().tolist():
            if waits[row] >= 0:
                seen.add((int(run.fleet.number[row]), int(run.fleet.number[waits[row]])))
    assert len(seen) == 1
    assert seen <= {(1, 2), (2, 1)}


def test_leave_and_room_add_up_at_every_step() -> None:
    rng = np.random.default_rng(23)
    plan = town(rng, 10, True, True)
    run = TrafficRun(plan, trips_in(plan, rng, 25), [CART, WAIN], step=0.1)
    for _ in range(400):
        run.advance()
        checked(run)
