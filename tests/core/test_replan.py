"""Roads that change under traffic: who can stays where it is, finds another way, and touches nobody."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.test_lanes import drawn
from tests.core.test_run import CART, WAIN, road_cells, town, trips_in
from tests.helpers.depth import examples
from tests.helpers.traffic import assert_keeps_all, checked
from woven_locus.core.editing import History
from woven_locus.core.edits.roads import erase_road, lay_road, put_signs
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.replan import carried_over
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.vehicles import TrafficPlan, Trip
from woven_locus.core.ways.roads import Sign

pytestmark = pytest.mark.usefixtures("compiled_kernels")


def run_of(plan: Plan, trips: list[Trip], step: float = 1 / 30) -> TrafficRun:
    plan.traffic = TrafficPlan((CART, WAIN), tuple(trips))
    return TrafficRun(plan, trips, [CART, WAIN], step=step)


def edit(plan: Plan, rng: np.random.Generator) -> None:
    cells = road_cells(plan)
    some = [cells[at] for at in rng.choice(len(cells), min(2, len(cells)), replace=False)]
    what, history = rng.integers(4), History(plan)
    if what == 0:
        history.do(erase_road(plan, some))
    elif what == 1:
        start = some[0].moved(int(rng.integers(-1, 2)), int(rng.integers(-1, 2)))
        line = [start.moved(k, 0) if rng.integers(2) else start.moved(0, k) for k in range(4)]
        inside = [cell for cell in line if plan.spec.contains(cell)]
        history.do(lay_road(plan, inside, int(rng.integers(3))))
    elif what == 2:
        history.do(put_signs(plan, some, [Sign(int(rng.integers(7)))] * len(some)))
    else:
        history.do(set_trips(plan, plan.traffic.trips[1:]))


@settings(max_examples=examples(30), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans(), st.booleans())
@example(1098681, True, True)
def test_vehicles_stay_where_they_are_and_go_on(seed: int, lanes: bool, signs: bool) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, lanes, signs)
    run = run_of(plan, trips_in(plan, rng, 25), step=0.1)
    for _ in range(6):
        run.advance(int(rng.integers(20, 90)))
        before = run
        rows = before.fleet.under_way()
        places = dict(
            zip(
                before.fleet.number[rows].tolist(),
                zip(
                    before.fleet.poses(rows)[0].tolist(),
                    before.fleet.poses(rows)[1].tolist(),
                    strict=True,
                ),
                strict=True,
            )
        )
        digest = before.digest()
        edit(plan, rng)
        run = carried_over(before, plan)
        assert before.digest() == digest
        rows = run.fleet.under_way()
        numbers = run.fleet.number[rows].tolist()
        gone = {int(name[1:]) for name in run.taken_off[len(before.taken_off) :]}
        assert set(numbers) | gone == set(places)
        front, rear = run.fleet.poses(rows)
        for number, *where in zip(numbers, front.tolist(), rear.tolist(), strict=True):
            np.testing.assert_allclose(where, places[number], atol=0.02 * 3.0)
        checked(run)
        for _ in range(60):
            fleet = run.fleet
            rows = fleet.under_way()
            was = dict(zip(fleet.number[rows].tolist(), fleet.cars.x[rows].tolist(), strict=True))
            run.advance()
            for row in fleet.under_way().tolist():
                if (x := was.get(int(fleet.number[row]))) is not None:
                    made = float(fleet.cars.x[row]) - x
                    assert abs(made - float(fleet.cars.v[row]) * run.step) < 1e-9
            checked(run)


def line_of(plan: Plan, count: int) -> TrafficRun:
    first = plan.spec.first_col
    last = plan.spec.last.col
    row = plan.spec.first_row + 2
    return run_of(plan, [Trip(Cell(first, row), Cell(last, row), 0.0, "", 2.0, count)])


STREET = ("............", ".##########.", "############", "............", "............")


def test_those_whose_cell_is_gone_leave_and_the_others_find_a_way_round() -> None:
    plan = drawn(*STREET)
    run = line_of(plan, 12)
    run.advance(30 * 14)
    # The cell that somebody's front is in is taken away.
    rows = run.fleet.under_way()
    fronts = run.fleet.fronts(rows)
    cells = [plan.spec.locate_virtual(x, y) for x, y in fronts.tolist()]
    gone = next(cell for cell in cells if 3 < cell.col - plan.spec.first_col < 8)
    on_it = {
        int(number)
        for number, cell in zip(run.fleet.number[rows], cells, strict=True)
        if cell == gone
    }
    History(plan).do(erase_road(plan, [gone]))
    after = carried_over(run, plan)
    # Whoever was in the cell next to it, which now is a bend, has lost its lane too.
    assert {f"V{number}" for number in on_it} <= set(after.taken_off)
    assert len(after.taken_off) < len(rows)
    after.advance(30 * 200)
    counts = after.counts()
    assert counts.taken_off == len(after.taken_off)
    assert counts.arrived == 12 - counts.taken_off
    assert counts.under_way == 0
    assert after.over


def test_a_side_street_does_not_disturb_those_who_drive_past() -> None:
    plan = drawn("............", "............", "############", "............", "............")
    run = line_of(plan, 12)
    run.advance(30 * 14)
    first, row = plan.spec.first_col, plan.spec.first_row
    History(plan).do(lay_road(plan, [Cell(first + 5, row + 3), Cell(first + 5, row + 4)], 0))
    after = carried_over(run, plan)
    assert after.taken_off == []
    before, now = run.fleet.under_way(), after.fleet.under_way()
    np.testing.assert_array_equal(run.fleet.number[before], after.fleet.number[now])
    np.testing.assert_allclose(run.fleet.poses(before)[0], after.fleet.poses(now)[0], atol=1e-9)
    # The record of what lies away from it stays.
    assert after.record.time.sum() > 0.5 * run.record.time.sum()
    assert after.record.moments() == run.record.moments()
    assert_keeps_all(after.record)


def test_without_a_way_to_their_goal_they_leave_and_nobody_sets_off() -> None:
    plan = drawn("............", "............", "############", "............", "............")
    run = line_of(plan, 12)
    run.advance(30 * 10)
    under_way = run.counts().under_way
    first, row = plan.spec.first_col, plan.spec.first_row
    History(plan).do(erase_road(plan, [Cell(first + 10, row + 2)]))
    after = carried_over(run, plan)
    counts = after.counts()
    assert counts.taken_off == under_way
    assert counts.under_way == 0
    assert after.over
    after.advance(30 * 30)
    counts = after.counts()
    assert counts.no_way == 12 - run.fleet.sent
    assert counts.held_back == 0
    # The road comes back: who had no way sets off.
    History(plan).do(lay_road(plan, [Cell(first + 10, row + 2)], 0))
    again = carried_over(after, plan)
    again.advance(30 * 200)
    assert again.counts().arrived == 12 - under_way


def test_a_trip_that_is_taken_away_sends_nobody_more() -> None:
    plan = drawn("............", "............", "############", "............", "............")
    run = line_of(plan, 12)
    run.advance(30 * 10)
    sent = run.fleet.sent
    History(plan).do(set_trips(plan, ()))
    after = carried_over(run, plan)
    assert len(after.fleet.under_way()) == len(run.fleet.under_way())
    after.advance(30 * 100)
    assert after.counts().wanted == after.counts().sent == after.counts().arrived == sent
