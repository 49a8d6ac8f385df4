"""Traffic that runs while the plan, its trips and its roads change."""

import threading
from collections.abc import Callable
from typing import Any

import pytest

from tests.helpers import patience
from tests.helpers.builders import WHEN, put
from tests.ui.conftest import Driver
from tests.ui.test_traffic import add_trip, in_traffic, run_of
from woven_locus.core.edits import place
from woven_locus.core.edits.roads import lay_road
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import KeepSide
from woven_locus.core.traffic.way_search import Found, WaySearch
from woven_locus.core.vehicles import Trip
from woven_locus.ui.jobs import asking
from woven_locus.ui.session.stages import WayTool


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return in_traffic(make_window)


def test_a_road_erased_under_traffic_takes_off_those_who_have_no_way_and_says_who(
    user: Driver,
) -> None:
    add_trip(user)
    clock = user.window.bench.traffic.clock
    user.push(clock.run)
    user.qtbot.waitUntil(lambda: run_of(user).fleet.sent > 0)
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.click((8, 1))
    traffic = user.desk.traffic
    assert user.said == "V1 was taken off the road: its lane or way is gone"
    counts = run_of(user).counts()
    assert (counts.under_way, counts.taken_off, counts.sent) == (0, 1, 1)
    user.key("F6")
    assert "taken off           1" in clock.figures.text()
    # Nobody is to come, so that it stops by itself.
    user.qtbot.waitUntil(lambda: not traffic.running)
    # What was before cannot be gone back to: that was another plan.
    assert traffic.timeline is not None
    assert traffic.timeline.first > 0
    assert "what was before was another plan" in clock.since.text()
    user.key("Ctrl+Z")
    assert run_of(user).counts().no_way == 0
    run_of(user).advance(3000)
    assert run_of(user).counts().arrived == 2


def test_a_road_drawn_under_traffic_is_followed_once_the_stroke_has_ended(user: Driver) -> None:
    add_trip(user)
    traffic = user.desk.traffic
    traffic.step()
    run_of(user).advance(90)
    before = run_of(user)
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.ROAD])
    user.press((2, 1))
    user.to((2, 3))
    assert run_of(user) is before
    user.release((2, 3))
    assert run_of(user) is not before
    assert run_of(user).seconds == before.seconds
    assert run_of(user).counts()._replace(taken_off=0) == before.counts()
    assert traffic.timeline is not None
    assert traffic.timeline.run is run_of(user)


def test_an_edit_that_comes_while_traffic_is_led_on_in_a_worker(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    add_trip(user)
    traffic = user.desk.traffic
    traffic.step()
    run_of(user).advance(90)
    before = run_of(user)
    monkeypatch.setattr(asking, "AT_ONCE", 1)
    history = user.session.document.history
    history.do(lay_road(user.plan, [Cell(2, 2)], 0))
    assert traffic.working
    assert run_of(user) is before
    # Nothing is done meanwhile, and what comes next makes it ask again.
    traffic.step()
    assert before.steps == 91
    history.do(lay_road(user.plan, [Cell(2, 3)], 0))
    history.do(place(user.plan, "hut", Cell(0, 5), 0, WHEN))
    user.qtbot.waitUntil(lambda: not traffic.working)
    assert run_of(user) is not before
    assert run_of(user).counts() == before.counts()
    graph = user.plan.lanes.graph
    assert len(run_of(user).streets.tracks.nodes) == len(graph.nodes())


def test_the_other_side_of_the_road_ends_the_run(user: Driver) -> None:
    add_trip(user)
    page = user.window.bench.traffic
    user.push(page.clock.step)
    user.tick(page.sides[KeepSide.LEFT])
    assert user.desk.traffic.run is None
    assert "1 vehicle: all lanes have moved" in user.said


def test_a_trip_added_while_others_run_joins_them(user: Driver) -> None:
    add_trip(user, 2)
    traffic = user.desk.traffic
    traffic.step()
    run = run_of(user)
    run.advance(90)
    digest = run.digest()
    add_trip(user, 1)
    assert traffic.run is run
    assert run.digest() == digest
    assert user.plan.traffic.trips[1].depart == pytest.approx(3.0)
    run.advance(2000)
    assert run.counts().arrived == 3
    user.key("Ctrl+Z")  # a trip fewer sends nobody more
    assert run_of(user) is not run
    assert run_of(user).counts().arrived == 3


def test_a_structure_that_goes_takes_its_trips_away_from_the_run(user: Driver) -> None:
    add_trip(user)
    user.desk.traffic.step()
    run_of(user).advance(30)
    user.session.select(2)
    user.desk.building.demolish()
    assert user.said == "V1 was taken off the road: its lane or way is gone"
    assert run_of(user).ways == ["S2 is not there"]
    user.desk.traffic.clear()
    user.desk.traffic.step()
    assert "1 trip has no way: S2 is not there" in user.said


def test_an_edit_elsewhere_leaves_traffic_alone(user: Driver) -> None:
    add_trip(user)
    traffic = user.desk.traffic
    traffic.step()
    run = run_of(user)
    put(user.plan, "hut", 0, 5)
    assert traffic.run is run
    user.session.select(3)
    user.desk.building.demolish()
    assert traffic.run is run


def test_another_plan_forgets_the_run(user: Driver, make_window: Callable[..., Driver]) -> None:
    add_trip(user)
    user.push(user.window.bench.traffic.clock.run)
    user.session.replaced.emit()
    assert user.desk.traffic.run is None
    assert not user.desk.traffic.running


def many_trips(user: Driver, count: int) -> None:
    trips = tuple(Trip(1, 2, float(at)) for at in range(count))
    user.session.document.history.do(set_trips(user.plan, trips, "Many trips"))


def held_back(monkeypatch: pytest.MonkeyPatch) -> tuple[threading.Event, threading.Event]:
    """Searches for ways wait unless they are on this thread; they say that they began, and go on when they are told to."""
    began, go_on = threading.Event(), threading.Event()
    real = WaySearch.search

    def slowly(self: WaySearch, *args: Any) -> Found:
        if threading.current_thread() is not threading.main_thread():
            began.set()
            assert go_on.wait(patience.SECONDS)
        return real(self, *args)

    monkeypatch.setattr(WaySearch, "search", slowly)
    return began, go_on


def test_making_traffic_ready_can_be_stopped_and_begun_again(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, traffic = user.window.bench.traffic, user.desk.traffic
    many_trips(user, 300)
    with monkeypatch.context() as patch:
        began, go_on = held_back(patch)
        user.push(page.clock.run)
        user.qtbot.waitUntil(began.is_set)
        user.push(user.window.status.stop)
        go_on.set()
        user.idle()
    assert traffic.run is None
    assert not traffic.working
    user.push(page.clock.run)
    user.qtbot.waitUntil(lambda: traffic.run is not None and traffic.run.steps > 3)


def test_many_trips_that_come_while_it_runs_do_not_hold_up_the_window(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, traffic = user.window.bench.traffic, user.desk.traffic
    add_trip(user)
    user.push(page.clock.run)
    user.qtbot.waitUntil(lambda: traffic.run is not None and traffic.run.steps > 3)
    with monkeypatch.context() as patch:
        began, go_on = held_back(patch)
        many_trips(user, 300)
        user.qtbot.waitUntil(began.is_set)
        steps = run_of(user).steps
        user.key("Ctrl+Z")  # what was asked is no news any more
        go_on.set()
        user.idle()
    assert len(run_of(user).trips) == 1
    assert run_of(user).steps >= steps
    user.key("Ctrl+Shift+Z")
    user.idle()
    assert len(run_of(user).trips) >= 300
