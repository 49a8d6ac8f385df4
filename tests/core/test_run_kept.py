"""A run of traffic that is put in order, turned back, and kept in key frames."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_lanes import drawn
from tests.core.test_run import CART, WAIN, town, trips_in
from tests.helpers.depth import examples
from tests.helpers.traffic import checked
from woven_locus.core import timeline as timeline_module
from woven_locus.core.geometry import Cell
from woven_locus.core.traffic.run import Counts, TrafficRun
from woven_locus.core.traffic.timeline import TrafficTimeline
from woven_locus.core.value import replace
from woven_locus.core.vehicles import Trip

pytestmark = pytest.mark.usefixtures("compiled_kernels")


def by_number(run: TrafficRun) -> dict[str, list[object]]:
    """All that a run holds of vehicles, whatever rows they have."""
    fleet, road = run.fleet, run.streets.road
    rows, cars = fleet.under_way(), fleet.cars
    numbers = np.append(np.where(cars.there, fleet.number, 0), 0)
    held: dict[str, list[object]] = {}
    for name in cars._fields[:-1]:
        column = getattr(cars, name)[rows]
        names_rows = name in {"ahead", "behind", "next", "for_"}
        held[name] = (numbers[column] if names_rows else column).tolist()
    for name in ("number", "trip", "born", "least"):
        held[name] = getattr(fleet, name)[rows].tolist()
    for of, names in ((road.pieces, ("last", "left")), (road.areas, ("first", "final"))):
        for name in names:
            held[name] = numbers[getattr(of, name)].tolist()
    return held


@settings(max_examples=examples(25), deadline=None)
@given(st.integers(0, 2**32 - 1), st.integers(1, 300))
def test_rows_are_put_in_order_and_nothing_else_changes(seed: int, steps: int) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, bool(rng.integers(2)), False)
    run = TrafficRun(plan, trips_in(plan, rng, 25), [CART, WAIN], step=0.1)
    run.advance(steps)
    before, looks = by_number(run), run.digest()
    run.fleet.put_in_order(run.streets.road)
    assert by_number(run) == before
    assert run.digest() == looks
    checked(run)
    fleet, count = run.fleet, int(run.fleet.cars.there.sum())
    assert fleet.cars.there[:count].all()
    assert (np.diff(fleet.cars.piece[:count]) >= 0).all()
    ahead = fleet.cars.ahead[:count]
    assert (ahead[ahead >= 0] == np.arange(count)[ahead >= 0] - 1).all()  # the row before
    free = sorted(fleet.free[: fleet.free_count].tolist())
    assert free == list(range(count, fleet.room))
    # The next step is the same from any rows but for who asks first of those who come at once.
    run.advance(50)
    checked(run)


@settings(max_examples=examples(15), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_run_that_is_turned_back_goes_the_same_way_again(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 9, bool(rng.integers(2)), False)
    trips = trips_in(plan, rng, 12)
    run = TrafficRun(plan, trips, [CART, WAIN], step=0.1)
    timeline = TrafficTimeline(run)
    digests = [run.digest()]
    seen = [(run.counts(), run.record.mean_speed, len(run.record.moments()))]
    for _ in range(300):
        timeline.advance()
        digests.append(run.digest())
        seen.append((run.counts(), run.record.mean_speed, len(run.record.moments())))
    for step in rng.integers(-20, 330, 8).tolist():
        timeline.advance(timeline.go_to(step))
        at = min(max(step, 0), 300)
        assert run.steps == at
        assert run.digest() == digests[at]
        assert seen[at] == (run.counts(), run.record.mean_speed, len(run.record.moments()))
        assert timeline.last == 300
    # A trip that comes later does not change what was before.
    timeline.advance(timeline.go_to(300))
    late = trips_in(plan, rng, 1)[0]
    run.add(plan, [replace(late, depart=run.seconds)])
    timeline.advance(100)
    after = run.digest()
    timeline.advance(timeline.go_to(120))
    assert run.digest() == digests[120]
    timeline.advance(timeline.go_to(400))
    assert run.digest() == after


def test_key_frames_are_thinned_out(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(timeline_module, "MOST_FRAMES", 6)
    plan = drawn("##########")
    run = TrafficRun(plan, [Trip(Cell(-1, 5), Cell(7, 5), 0.0, "", 5.0, 90)], [CART], step=0.1)
    timeline = TrafficTimeline(run)
    timeline.advance(2000)
    digest = run.digest()
    assert timeline.go_to(0) == 0
    assert run.counts() == Counts(0, 0, 0, 0, 0, 0, 0)
    left = timeline.go_to(1999)
    assert left > 50  # the frames lie further apart than at first
    timeline.advance(left + 1)
    assert run.digest() == digest
    timeline.begin()
    assert timeline.first == timeline.last == 2000
