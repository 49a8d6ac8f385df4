"""What is read off a run: cells, stretches, trips made by rules, what would help, baselines."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_lanes import drawn
from tests.core.test_run import CART, CROSSING, WAIN, town, trips_in
from tests.helpers.builders import draw, put
from tests.helpers.depth import examples
from tests.helpers.traffic import assert_keeps_all, recorded_sums
from woven_locus.core.clock import seconds_words
from woven_locus.core.editing import History
from woven_locus.core.edits.traffic import set_trip_rules
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.remedies import ranked, remedies, try_out, worst_junction
from woven_locus.core.traffic.maps import CellMap, Measure
from woven_locus.core.traffic.report import baseline, junction_figures, trip_figures
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.stretch import (
    EVERY,
    Stretch,
    fundamental,
    model_curve,
    watch,
)
from woven_locus.core.traffic.timeline import TrafficTimeline
from woven_locus.core.traffic.trips import all_trips, made_trips
from woven_locus.core.traffic.ways import TripWay
from woven_locus.core.vehicles import Spacing, TrafficPlan, Trip, TripRule

pytestmark = pytest.mark.usefixtures("compiled_kernels")


ROAD = "####################"


def street(count: int = 8, every: float = 6.0) -> TrafficRun:
    plan = drawn("." * 20, "." * 20, ROAD, "." * 20, "." * 20)
    first, row = plan.spec.first_col, plan.spec.first_row + 2
    trip = Trip(Cell(first + 1, row), Cell(first + 18, row), 0.0, "", every, count)
    return TrafficRun(plan, [trip], [CART])


def test_what_is_measured_adds_up() -> None:
    rng = np.random.default_rng(4)
    plan = town(rng, 10, True, False)
    run = TrafficRun(plan, trips_in(plan, rng, 20), [CART, WAIN])
    run.advance(30 * 120)
    cells, record = CellMap(run), run.record
    assert record.seconds == pytest.approx(120.0, abs=0.5)
    # Everybody is somewhere: the density of all cells is the mean number under way.
    moments = run.record.moments()
    assert len(moments) == 240
    # Each look stands for the time since the one before it.
    weights = np.diff([moment.seconds for moment in moments], prepend=0.0)
    mean = float(np.average([moment.under_way for moment in moments], weights=weights))
    assert cells.of(run, Measure.DENSITY).sum() == pytest.approx(mean)
    standing = float(np.average([moment.standing for moment in moments], weights=weights))
    assert cells.of(run, Measure.QUEUE).sum() == pytest.approx(standing)
    assert cells.of(run, Measure.LOST).sum() == pytest.approx(record.lost.sum())
    speed = cells.of(run, Measure.SPEED)
    assert np.nanmax(speed) <= CART.speed + 1e-9
    assert set(cells.slots.tolist()) == set(np.flatnonzero(plan.road).tolist())
    # What all lost on the way is what they took longer, but for those who have not arrived.
    assert sum(run.arrivals.delay) < record.time_spent


def test_a_record_is_kept_where_something_was_and_comes_back_whole() -> None:
    rng = np.random.default_rng(5)
    plan = town(rng, 10, True, False)
    run = TrafficRun(plan, trips_in(plan, rng, 6), [CART, WAIN])
    timeline = TrafficTimeline(run)
    timeline.advance(30 * 40)
    sums = recorded_sums(run.record)
    assert sums["stood"].any()
    assert sums["delay"].any()
    assert_keeps_all(run.record)
    kept = run.record.kept()
    assert set(kept.nodes.tolist()) == set(np.flatnonzero(sums["time"]).tolist())
    # What comes later changes nothing of it, and what goes on from it not the other.
    timeline.advance(30 * 20)
    again = kept.record()
    again.time += 1.0
    for name, column in recorded_sums(kept.record()).items():
        np.testing.assert_array_equal(column, sums[name], name)
    later = recorded_sums(run.record)
    for step in (30 * 12, 30 * 40, 30 * 60):
        timeline.advance(timeline.go_to(step))
        if step == 30 * 40:
            for name, column in recorded_sums(run.record).items():
                np.testing.assert_array_equal(column, sums[name], name)
    for name, column in recorded_sums(run.record).items():
        np.testing.assert_array_equal(column, later[name], name)


def test_flow_is_who_passes() -> None:
    run = street(count=100, every=4.0)
    run.advance(30 * 200)
    cells = CellMap(run)
    flow = dict(zip(cells.slots.tolist(), cells.of(run, Measure.FLOW).tolist(), strict=True))
    middle = run.streets.graph.spec.index(Cell(8, 7))
    # One every four seconds, from when the first came there; the cell is 4 long, its mean side 3.5.
    since = 10 * 4 / CART.speed
    assert flow[middle] == pytest.approx(15 * (200 - since) / 200 * 4 / 3.5, rel=0.03)


def test_a_stretch_shows_who_was_where() -> None:
    run = street()
    timeline = TrafficTimeline(run)
    timeline.advance(30 * 60)
    way = run.ways[0]
    assert isinstance(way, TripWay)
    twin = timeline.twin()
    stretch = Stretch(twin, run.streets.tracks.nodes_along(way.pieces))
    digest = run.digest()
    seen = watch(twin, stretch, timeline.last)
    # The twin has gone the same way, and the run itself has not moved.
    assert twin.digest() == digest == run.digest()
    lines = seen.lines()
    assert [number for number, _, _ in lines] == list(range(1, 9))
    for _, seconds, along in lines:
        assert (np.diff(along) >= -1e-9).all()
        np.testing.assert_allclose(np.diff(seconds), EVERY)
        assert along[-1] <= stretch.length
    # Front by front as in the run: the slope of a line is a speed.
    speeds = np.concatenate([np.diff(along) / EVERY for _, _, along in lines])
    assert speeds.max() <= CART.speed + 1e-9
    assert np.median(speeds) == pytest.approx(CART.speed, rel=0.05)
    density, flow = fundamental(seen)
    assert len(density) == len(flow) > 4
    assert (flow <= density * CART.speed + 1e-9).all()
    assert watch(timeline.twin(), stretch, 600, stopped=lambda: True).seconds.size == 0


def test_the_model_carries_nothing_when_empty_or_full() -> None:
    density, flow = model_curve(CART, 100.0)
    assert density[0] == pytest.approx(1 / (CART.length + CART.gap))
    assert flow[0] == 0.0
    assert (np.diff(density) < 0).all()
    # Far apart everybody drives at its own speed.
    assert flow[-1] / density[-1] == pytest.approx(CART.speed, rel=0.01)
    assert flow.max() > 0.4


TOWN = """
    ...............
    ...............
    ...............
    .============..
    ......=........
    ......=........
    ......=........
    .============..
    ...............
    ...............
    ...............
"""


def test_rules_make_trips_to_the_nearest() -> None:
    plan = draw(TOWN)
    put(plan, "hut", 1, 2)
    put(plan, "hut", 11, 2)
    put(plan, "barn", 8, 9)
    near = put(plan, "barn", 3, 1)
    rules = (TripRule("hut", "barn", "", 5.0, 20.0, 4), TripRule("barn", "gone"))
    History(plan).do(set_trip_rules(plan, rules))
    assert made_trips(plan) == (
        Trip(1, near, 5.0, "", 20.0, 4),
        Trip(2, near, 5.0, "", 20.0, 4),
    )
    table = (Trip(2, 1, 1.0),)
    plan.traffic = TrafficPlan(trips=table, rules=rules)
    assert all_trips(plan) == (*made_trips(plan), *table)


@settings(max_examples=examples(20), deadline=None)
@given(st.integers(0, 2**63 - 1))
def test_departures_by_chance_are_those_of_the_seed(seed: int) -> None:
    plan = draw(TOWN)
    put(plan, "hut", 1, 2)
    put(plan, "hut", 3, 2)
    put(plan, "barn", 11, 1)
    rule = TripRule("hut", "barn", "", 10.0, 4.0, 400, Spacing.CHANCE)
    plan.traffic = TrafficPlan(rules=(rule,))
    trips = made_trips(plan, seed)
    assert trips == made_trips(plan, seed)
    assert trips != made_trips(plan, seed ^ 1)
    assert len(trips) == 800
    times = np.array([trip.depart for trip in trips if trip.start == 1])
    gaps = np.diff(times, prepend=10.0)
    assert (gaps >= 0).all()
    # The mean of 400 exponential gaps, within five of its standard deviations.
    assert gaps.mean() == pytest.approx(4.0, abs=5 * 4.0 / 20)
    others = np.array([trip.depart for trip in trips if trip.start == 2])
    assert not np.allclose(times, others)


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        (TripRule("hut", "barn", every=0.0), "every must be above 0 seconds"),
        (TripRule("hut", "barn", depart=-1.0), "depart must be 0 seconds or more"),
        (TripRule("hut", "barn", count=0), "count must be 1 to 10,000"),
        (TripRule("hut", "barn", kind="ox"), "no kind of vehicle or people 'ox'"),
    ],
)
def test_rules_that_make_no_sense_are_refused(rule: TripRule, words: str) -> None:
    with pytest.raises(BadPlan, match=words):
        TrafficPlan(rules=(rule,))


def test_figures_of_trips_and_a_baseline() -> None:
    run = street()
    run.advance(30 * 30)
    (item,) = trip_figures(run)
    took = np.array(run.arrivals.took)
    assert (item.wanted, item.sent, item.arrived) == (5, 5, len(took))
    assert item.mean == pytest.approx(took.mean())
    assert item.p95 == pytest.approx(np.percentile(took, 95))
    assert item.delay == pytest.approx(np.mean(run.arrivals.delay))
    kept = baseline(run)
    assert kept.trips[run.trips[0]] == item
    assert kept.seconds == pytest.approx(30.0)
    assert kept.time_spent == run.record.time_spent > 0


def test_what_would_help_is_tried_on_copies_and_ranked() -> None:
    plan = drawn(*CROSSING)
    trips = (
        Trip(Cell(-2, 9), Cell(6, 9), 0.0, "", 2.0, 60),
        Trip(Cell(2, 13), Cell(2, 5), 0.0, "", 2.0, 60),
        Trip(Cell(6, 9), Cell(2, 13), 0.0, "", 3.0, 40),
    )
    plan.traffic = TrafficPlan((CART,), trips)
    run = TrafficRun(plan, trips, [CART])
    assert worst_junction(run) is None
    run.advance(30 * 60)
    cell = worst_junction(run)
    assert cell == Cell(2, 9)
    assert max(junction_figures(run), key=lambda item: item.delay).cell == cell
    some = remedies(run, plan, cell)
    words = [remedy.words for remedy in some]
    # All roads are alike, so that none is larger; the four corners join two arms each.
    assert words[0] == "signals"
    assert words[1:] == [f"road at {c}, {r} too" for c, r in ((1, 8), (3, 8), (3, 10), (1, 10))]
    before, revision = plan.road.copy(), plan.revision
    shares: list[float] = []

    def tried(remedy):  # type: ignore[no-untyped-def]
        return try_out(plan.twin(), remedy, run.steps, run.step, 0, shares.append, lambda: False)

    asis = tried(None)
    assert isinstance(asis, TrafficRun)
    assert asis.digest() == run.digest()
    found = ranked(asis, [(remedy, tried(remedy)) for remedy in some])
    assert [item.saved for item in found] == sorted((i.saved for i in found), reverse=True)
    for item in found:
        assert item.time == pytest.approx(asis.record.time_spent - item.saved)
    np.testing.assert_array_equal(plan.road, before)
    assert plan.revision == revision
    assert shares[-1] == 1.0
    # What was promised is what comes of it.
    History(plan).do(found[0].remedy.make(plan))
    after = TrafficRun(plan, trips, [CART])
    after.advance(run.steps)
    assert after.record.time_spent == pytest.approx(found[0].time)


def test_seconds_in_words() -> None:
    assert [seconds_words(s) for s in (0, 59.99, 187, 3727.5)] == [
        "0:00",
        "0:59",
        "3:07",
        "1:02:07",
    ]
