"""People on foot: where they may walk, how they and vehicles let one another go, and that nobody is run over."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.test_lanes import drawn
from tests.core.test_run import CART, CROSSING, WAIN, road_cells, town, trips_in
from tests.helpers.depth import examples
from woven_locus.core import kernels
from woven_locus.core.editing import History
from woven_locus.core.edits.roads import erase_road, lay_road, put_signs
from woven_locus.core.errors import BadPlan, Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.kernels.traffic_state import FOR_PEOPLE
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.footways import Footway, Footways
from woven_locus.core.traffic.replan import carried_over
from woven_locus.core.traffic.report import Watch, figures, run_over
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.timeline import TrafficTimeline
from woven_locus.core.traffic.walkers import ON_CROSSING, WAITING
from woven_locus.core.value import replace
from woven_locus.core.vehicles import PersonKind, TrafficPlan, Trip
from woven_locus.core.ways.roads import Sign

FOLK = PersonKind("folk", "Folk", "#5B86A8", 0.15, 1.2)


pytestmark = pytest.mark.usefixtures("compiled_kernels")


def run_of(
    plan: Plan, trips: list[Trip], longest: float = 20.0, step: float = 1 / 30
) -> TrafficRun:
    plan.traffic = TrafficPlan((CART, WAIN), tuple(trips), people=(FOLK,), longest_crossing=longest)
    return TrafficRun(plan, trips, [CART, WAIN], step)


def on_foot(plan: Plan, rng: np.random.Generator, count: int) -> list[Trip]:
    spec = plan.spec
    cells = [
        Cell(
            int(rng.integers(spec.first_col, spec.last.col + 1)),
            int(rng.integers(spec.first_row, spec.last.row + 1)),
        )
        for _ in range(2 * count)
    ]
    return [
        Trip(a, b, float(rng.integers(8)), "folk", 3.0, 8)
        for a, b in zip(cells[::2], cells[1::2], strict=True)
        if a != b
    ]


@settings(max_examples=examples(20), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans())
# Somebody waits in the corner of a junction into which a broad road leads.
@example(seed=3093, lanes=True)
def test_nobody_is_run_over_and_all_are_accounted_for(seed: int, lanes: bool) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, lanes, bool(rng.integers(2)))
    marked = [cell for cell in road_cells(plan) if not rng.integers(8)]
    History(plan).do(put_signs(plan, marked, [Sign.CROSSING] * len(marked)))
    trips = trips_in(plan, rng, 20) + on_foot(plan, rng, 20)
    run = run_of(plan, trips, float(rng.integers(1, 20)), step=0.1)
    walkers = run.walkers
    for _ in range(400):
        x, there = walkers.x.copy(), walkers.there.copy()
        run.advance()
        assert run_over(run) == []
        assert run.fleet.overlaps() == []
        counts = run.counts()
        assert counts.wanted == counts.sent + counts.held_back + counts.no_way
        assert counts.sent == counts.arrived + len(run.fleet.under_way()) + int(walkers.there.sum())
        rows = np.flatnonzero(walkers.there[: len(there)] & there)
        moved = walkers.x[rows] - x[rows]
        assert (moved <= FOLK.speed * run.step + 1e-9).all()
    on = sum(int(crossing.on) for crossing in walkers.crossings.values())
    assert on == int((walkers.state[walkers.there] == ON_CROSSING).sum())


@settings(max_examples=examples(25), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_people_keep_off_the_road_but_for_crossings(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 9, True, False)
    run = run_of(plan, on_foot(plan, rng, 15))
    spec, unit = plan.spec, min(plan.spec.cell_w, plan.spec.cell_h)
    for way in run.ways:
        if not isinstance(way, Footway):
            continue
        places = np.linspace(0, way.length, 400)
        for at in places.tolist():
            if any(begin <= at <= end for _, _, begin, end in way.crossings):
                continue
            x, y = (float(np.interp(at, way.at, way.points[:, k])) for k in (0, 1))
            cell = spec.locate(x, y)
            assert cell is not None
            if not plan.road[spec.slot(cell)]:
                continue
            centre = spec.centre(cell)
            # On a road cell one is at its edge: outside the widest band of lanes.
            away = max(
                abs(x - centre.x) - (spec.cell_w / 2 - 0.12 * unit),
                abs(y - centre.y) - (spec.cell_h / 2 - 0.12 * unit),
            )
            assert away >= -1e-9


def lone(first: float, late: float, longest: float = 20.0, people: int = 1) -> TrafficRun:
    """One who walks along the south of the road and across the arm from the south, and carts that come by it."""
    plan = drawn(*CROSSING)
    trips = [
        Trip(Cell(1, 10), Cell(3, 10), first, "folk", 0.0, people),
        Trip(Cell(2, 13), Cell(2, 5), late, "cart", 2.0, 6),
    ]
    return run_of(plan, trips, longest)


def states(run: TrafficRun) -> set[int]:
    return set(run.walkers.state[run.walkers.there].tolist())


def test_people_wait_until_the_vehicle_has_left_and_vehicles_until_nobody_is_left_to_cross() -> (
    None
):
    run = lone(3.0, 0.0)
    way = run.ways[0]
    assert isinstance(way, Footway)
    assert len(way.crossings) == 1
    waited = held = False
    while not run.over and run.steps < 6000:
        run.advance()
        area = run.streets.junctions.areas[0]
        crossing = next(iter(run.walkers.crossings.values()), None)
        if crossing is None:
            continue
        driving = bool(int(run.streets.road.areas.bits[area]) & crossing.bits)
        # Never both at once.
        assert not (driving and crossing.on)
        waited |= bool(crossing.waiting) and driving
        rows = run.fleet.under_way()
        if (run.fleet.cars.why[rows] == FOR_PEOPLE).any():
            held = True
            assert crossing.on or crossing.waiting
    assert run.over
    assert waited
    assert held
    assert run.counts().arrived == 7
    (item,) = figures(run, Watch(run), Plan.snapshot(drawn(*CROSSING)))["crossings"]
    assert item == {"cell": [2, 9], "side": "south", "people": 1, "mean_wait": item["mean_wait"]}
    assert item["mean_wait"] > 0


def test_who_arrives_meanwhile_crosses_too_up_to_a_longest_time() -> None:
    plan = drawn(*CROSSING)
    stream = [Trip(Cell(1, 10), Cell(3, 10), 0.0, "folk", 0.5, 200)]
    cart = Trip(Cell(2, 13), Cell(2, 5), 6.0, "cart", 0.0, 1)
    passed = {}
    for longest in (5.0, 30.0):
        run = run_of(plan, [*stream, cart], longest)
        while run.fleet.sent == 0 or len(run.fleet.under_way()):
            run.advance()
            assert run_over(run) == []
            assert run.seconds < 90
        passed[longest] = run.seconds
    # A stream of people holds a cart up for as long as they may, and no longer.
    assert passed[5.0] + 15 < passed[30.0]


def test_people_take_part_in_the_digest_and_are_turned_back_too() -> None:
    rng = np.random.default_rng(3)
    plan = town(rng, 10, False, False)
    trips = trips_in(plan, rng, 10) + on_foot(plan, rng, 12)
    run = run_of(plan, trips)
    timeline = TrafficTimeline(run)
    digests = [run.digest()]
    for _ in range(12):
        timeline.advance(60)
        digests.append(run.digest())
    for at in (3, 11, 0, 7):
        timeline.advance(timeline.go_to(at * 60))
        assert run.digest() == digests[at]
    twin = timeline.twin()
    twin.advance(720)
    assert twin.digest() == digests[12]
    kernels.use_twins()
    plain = run_of(plan, trips)
    plain.advance(360)
    assert plain.digest() == digests[6]


@settings(max_examples=examples(15), deadline=None)
@given(st.integers(0, 2**32 - 1))
@example(8192)
def test_people_go_on_when_the_roads_change(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, False, False)
    run = run_of(plan, trips_in(plan, rng, 10) + on_foot(plan, rng, 20), step=0.1)
    for _ in range(4):
        run.advance(int(rng.integers(20, 60)))
        before = run
        rows = before.walkers.under_way()
        places = dict(
            zip(before.walkers.number[rows].tolist(), before.walkers.places(rows), strict=True)
        )
        cells = road_cells(plan)
        if rng.integers(2):
            History(plan).do(erase_road(plan, [cells[rng.integers(len(cells))]]))
        else:
            start = cells[rng.integers(len(cells))]
            line = [start.moved(0, k) for k in range(3) if plan.spec.contains(start.moved(0, k))]
            History(plan).do(lay_road(plan, line, 0))
        run = carried_over(before, plan)
        rows = run.walkers.under_way()
        now = dict(zip(run.walkers.number[rows].tolist(), run.walkers.places(rows), strict=True))
        gone = {name for name in run.taken_off[len(before.taken_off) :] if name[0] == "P"}
        assert {f"P{number}" for number in places.keys() - now.keys()} == gone
        for number, place in now.items():
            np.testing.assert_allclose(place, places[number], atol=1e-9)
        for _ in range(40):
            run.advance()
            assert run_over(run) == []
            counts = run.counts()
            there = len(run.fleet.under_way()) + int(run.walkers.there.sum())
            assert counts.sent == counts.arrived + there + counts.taken_off


def test_ways_on_foot_are_found_or_refused_in_words() -> None:
    plan = drawn(*CROSSING)
    ways = Footways(plan, TrafficRun(plan, []).streets.junctions)
    across = ways.find(Cell(1, 8), Cell(1, 10))
    assert isinstance(across, Footway)
    # One walks to the junction and crosses its western arm there: nowhere else may one.
    ((junction, side, begin, end),) = across.crossings
    assert (junction, side) == (0, 3)
    assert end - begin == pytest.approx(3 - 2 * 0.04 * 3)
    assert ways.find(Cell(0, 8), Cell(0, 8)) == "it begins where it ends"
    assert ways.find(7, Cell(0, 8)) == "S7 is not there"
    walled = drawn(*CROSSING)
    walled.terrain[:4] = next(
        code for code, item in enumerate(walled.terrain_table) if not item.passable
    )
    fresh = Plan(
        "W",
        walled.spec,
        walled.terrain_table,
        walled.kinds,
        terrain=walled.terrain,
        road=np.zeros_like(walled.road),
        road_table=walled.road_table,
    )
    shut = Footways(fresh, TrafficRun(fresh, []).streets.junctions)
    assert shut.find(Cell(0, 12), Cell(0, 6)) == "nobody can walk there"


def test_a_road_is_crossed_where_the_user_marks_a_cell() -> None:
    for code, lanes in ((0, 2), (1, 4), (2, 6)):
        plan = drawn(".........", ".........", "#########", ".........", ".........", code=code)
        history = History(plan)
        row, first = plan.spec.first_row + 2, plan.spec.first_col
        ends = Cell(first + 4, row - 1), Cell(first + 4, row + 1)

        def crossed(plan: Plan = plan, ends: tuple[Cell, Cell] = ends) -> int:
            way = Footways(plan, TrafficRun(plan, []).streets.junctions).find(*ends)
            return len(way.crossings) if isinstance(way, Footway) else -1

        # Without a crossing one goes all the way round the end of the road.
        assert crossed() == 0
        history.do(put_signs(plan, [Cell(first + 4, row)], [Sign.CROSSING]))
        assert crossed() == 1, lanes
        trips = [
            Trip(Cell(first, row), Cell(first + 8, row), 0.0, "cart", 2.0, 20),
            Trip(*ends, 0.0, "folk", 3.0, 12),
        ]
        run = run_of(plan, trips)
        while not run.over and run.steps < 9000:
            run.advance()
            assert run_over(run) == []
        assert run.counts().arrived == 32
        ((_, item),) = run.walkers.crossings.items()
        assert item.people == 12
        # It is no junction, and has no rule.
        assert figures(run, Watch(run), plan)["junctions"] == []
        history.undo()
        assert crossed() == 0


def test_people_that_make_no_sense_are_refused() -> None:
    plan = drawn(*CROSSING)
    plan.traffic = TrafficPlan(people=(replace(FOLK, size=0.5),))
    with pytest.raises(Refused, match=r"Folk is 0.5 across; beside a road there is room for 0.15"):
        TrafficRun(plan, [])
    for kind, words in (
        (replace(FOLK, speed=0.0), "speed must be a number above 0"),
        (replace(FOLK, key="cart"), "key 'cart' is used twice"),
        (replace(FOLK, name=" "), "needs a name"),
    ):
        with pytest.raises(BadPlan, match=words):
            TrafficPlan((CART,), people=(kind,))
    with pytest.raises(BadPlan, match="above 0 and at most 3600"):
        TrafficPlan(longest_crossing=0.0)


def test_waiting_people_stand_at_the_kerb() -> None:
    run = lone(3.0, 0.0, people=3)
    seen = set()
    while run.steps < 900:
        run.advance()
        rows = np.flatnonzero(run.walkers.there & (run.walkers.state == WAITING))
        seen |= {tuple(np.round(place, 6)) for place in run.walkers.places(rows).tolist()}
    assert len(seen) == 1
