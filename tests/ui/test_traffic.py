"""Traffic in the real window: trips made, run, stopped; a vehicle asked why it stands; the road erased under it."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from tests.helpers.builders import three_huts
from tests.ui.conftest import Driver
from woven_locus.core.edits.roads import erase_road
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.traffic import Counts, TrafficRun
from woven_locus.core.vehicles import Trip
from woven_locus.ui.jobs import asking
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import vehicles


def in_traffic(make_window: Callable[..., Driver]) -> Driver:
    found = make_window(three_huts())
    found.desk.routes.ask(1, 2)
    found.key("F6")
    assert found.session.choices.stage is Stage.TRAFFIC
    return found


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return in_traffic(make_window)


def run_of(user: Driver) -> TrafficRun:
    run = user.desk.traffic.run
    assert run is not None
    return run


def add_trip(user: Driver, count: int = 3, every: float = 4) -> None:
    page = user.window.bench.traffic
    user.type(page.trips.count, str(count))
    user.type(page.trips.every, str(every))
    user.push(page.trips.add)


def test_a_route_becomes_a_trip_and_its_vehicles_arrive(user: Driver) -> None:
    page, traffic = user.window.bench.traffic, user.desk.traffic
    add_trip(user)
    assert user.plan.traffic.trips == (Trip(1, 2, 0.0, "", 4.0, 3),)
    assert page.trips.trips.text() == "1 trip, 3 vehicles."
    assert user.session.document.history.entries[-1].startswith("Added the trip S1 Hut")
    user.push(page.clock.run)
    assert traffic.running
    assert page.clock.run.text() == "Pause"
    user.qtbot.waitUntil(lambda: run_of(user).steps > 3)
    user.push(page.clock.run)
    assert not traffic.running
    steps = run_of(user).steps
    user.push(page.clock.step)
    assert run_of(user).steps == steps + 1
    user.push(page.clock.speeds[32])
    assert traffic.speed == 32
    user.push(page.clock.run)
    user.qtbot.waitUntil(lambda: not traffic.running)
    assert run_of(user).counts() == Counts(3, 3, 3, 0, 0, 0, 0)
    assert user.said == "Every vehicle has arrived: 3"
    assert "arrived             3" in page.clock.figures.text()
    user.push(page.clock.clear)
    assert traffic.run is None
    assert page.clock.figures.text() == "not begun"


def test_without_trips_nothing_runs_and_it_is_said(user: Driver) -> None:
    page = user.window.bench.traffic
    user.push(page.clock.run)
    assert user.desk.traffic.run is None
    assert not page.clock.run.isChecked()
    assert "no trips yet" in user.said
    assert page.trips.trips.text() == "No trips yet."


def test_the_window_runs_as_the_core_does(user: Driver) -> None:
    add_trip(user, 4, 2)
    traffic = user.desk.traffic
    traffic.step()
    traffic.set_speed(8)
    while run_of(user).steps < 400:
        traffic.advance(0.05)
    alone = TrafficRun(user.plan, user.plan.traffic.trips)
    alone.advance(run_of(user).steps)
    assert run_of(user).digest() == alone.digest()


def test_a_click_takes_a_vehicle_and_the_reading_tells_of_it(user: Driver) -> None:
    add_trip(user, 1)
    traffic = user.desk.traffic
    traffic.step()
    run_of(user).advance(150)
    traffic.moved.emit()
    at = run_of(user).fleet.nearest_place(user.plan.spec.centre(Cell(0, 0)))
    cell = user.plan.spec.locate(*at)
    assert cell is not None
    user.click((cell.col, cell.row))
    assert traffic.chosen == 1
    text = user.window.reading.vehicle.text()
    assert user.window.reading.vehicle.isVisible()
    assert "V1 Vehicle" in text
    assert "to        S2 Hut" in text
    assert "drives freely" in text
    # Its way to the goal is drawn, along its lane; the route of the trip is put away.
    user.desk.routes.drop(user.desk.routes.pins[0])
    points = run_of(user).fleet.way_ahead(run_of(user).fleet.row_of(1))
    assert points[0].tolist() != points[-1].tolist()
    assert user.plan.spec.locate(*points[-1].tolist()) == (10, 1)
    with_way = user.colour_at((8, 1), 0, round(0.155 * user.sheet.camera.ppc_y))
    user.click((0, 5))
    assert traffic.chosen == 0
    user.session.pointer.to(None)
    assert with_way != user.colour_at((8, 1), 0, round(0.155 * user.sheet.camera.ppc_y))
    assert not user.window.reading.vehicle.isVisible()


def test_a_vehicle_says_for_whom_it_waits(user: Driver) -> None:
    trips = (Trip(1, 2, 0.0, "", 5.0, 30), Trip(3, 1, 0.0, "", 5.0, 30))
    user.session.attempt(set_trips, user.plan, trips)
    traffic = user.desk.traffic
    traffic.step()
    run, seen = run_of(user), set()
    for _ in range(1500):
        run.advance()
        rows = run.fleet.under_way()
        for number in run.fleet.number[rows].tolist():
            traffic.chosen = number
            traffic.moved.emit()
            line = user.window.reading.vehicle.text().splitlines()[1]
            if line.startswith("waits at 6, 1 for V"):
                seen.add(line.split(", which ")[1].split(",")[0])
        if seen:
            break
    assert seen <= {
        "has leave for a way that crosses",
        "came before",
        "stands where there must be room beyond",
    }
    assert seen


def test_vehicles_are_drawn_where_they_are(user: Driver) -> None:
    add_trip(user, 1)
    traffic = user.desk.traffic
    traffic.step()
    run_of(user).advance(100)
    traffic.moved.emit()
    camera = user.sheet.camera
    at = run_of(user).fleet.nearest_place(user.plan.spec.centre(Cell(0, 0)))
    cell = user.plan.spec.locate(*at)
    assert cell is not None
    middle = camera.middle_of(cell)
    dx, dy = round(camera.x_of(at.x) - middle[0]), round(camera.y_of(at.y) - middle[1])
    assert user.colour_at((cell.col, cell.row), dx, dy) == (0xA5, 0x38, 0x3F)


def test_time_is_turned_back_and_goes_the_same_way_again(user: Driver) -> None:
    add_trip(user, 4, 2)
    clock, traffic = user.window.bench.traffic.clock, user.desk.traffic
    traffic.step()
    assert traffic.timeline is not None
    traffic.timeline.advance(599)
    traffic.moved.emit()
    digest, places = run_of(user).digest(), run_of(user).fleet.cars.x.copy()
    assert (clock.back.minimum(), clock.back.maximum(), clock.back.value()) == (0, 600, 600)
    user.key(Qt.Key.Key_Home, clock.back)
    user.qtbot.waitUntil(lambda: run_of(user).steps == 0)
    assert "time             0.00 s" in clock.figures.text()
    user.key(Qt.Key.Key_PageUp, clock.back)
    user.qtbot.waitUntil(lambda: run_of(user).steps == 60)
    assert not traffic.running
    user.key(Qt.Key.Key_End, clock.back)
    user.qtbot.waitUntil(lambda: run_of(user).steps == 600)
    assert run_of(user).digest() == digest
    assert (run_of(user).fleet.cars.x == places).all()


def test_the_sheet_follows_a_vehicle(user: Driver) -> None:
    add_trip(user, 1)
    traffic, page = user.desk.traffic, user.window.bench.traffic
    traffic.step()
    run_of(user).advance(150)
    traffic.moved.emit()
    assert not page.show_panel.follow.isEnabled()
    cell = user.plan.spec.locate(
        *run_of(user).fleet.nearest_place(user.plan.spec.centre(Cell(0, 0)))
    )
    assert cell is not None
    user.click((cell.col, cell.row))
    assert traffic.chosen == 1
    user.tick(page.show_panel.follow)
    user.sheet.zoom(2)
    for _ in range(3):
        run_of(user).advance(30)
        traffic.moved.emit()
        place = traffic.followed()
        assert place is not None
        camera = user.sheet.camera
        assert abs(camera.x_of(place.x) - camera.width / 2) <= 1.5
    # Whoever pans looks elsewhere.
    start = QPoint(300, 200)
    QTest.mousePress(user.sheet, Qt.MouseButton.MiddleButton, pos=start)
    QTest.mouseMove(user.sheet, start + QPoint(40, 0))
    QTest.mouseRelease(user.sheet, Qt.MouseButton.MiddleButton, pos=start + QPoint(40, 0))
    assert not traffic.follow
    assert not page.show_panel.follow.isChecked()


def test_on_a_large_plan_a_worker_makes_it_ready(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    add_trip(user)
    monkeypatch.setattr(asking, "AT_ONCE", 1)
    traffic = user.desk.traffic
    traffic.set_running(True)
    assert traffic.working
    assert not user.window.bench.traffic.clock.run.isEnabled()
    user.qtbot.waitUntil(lambda: traffic.running)
    assert run_of(user).counts().wanted >= 0
    traffic.clear()
    traffic.begin(go=True)
    # What is made ready is of roads that are gone by then: it is dropped.
    user.session.document.history.do(erase_road(user.plan, [Cell(5, 1)]))
    user.qtbot.waitUntil(lambda: not traffic.working)
    assert traffic.run is None
    assert not traffic.running


def test_very_many_vehicles_are_dots(user: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(vehicles, "MOST_SHAPED", 0)
    add_trip(user, 5)
    traffic = user.desk.traffic
    traffic.step()
    run_of(user).advance(400)
    traffic.moved.emit()
    camera, fleet = user.sheet.camera, run_of(user).fleet
    places = fleet.fronts(fleet.under_way())
    assert len(places) > 2
    for x, y in places.tolist():
        cell = user.plan.spec.locate(x, y)
        assert cell is not None
        middle = camera.middle_of(cell)
        dx, dy = round(camera.x_of(x) - middle[0]), round(camera.y_of(y) - middle[1])
        assert user.colour_at((cell.col, cell.row), dx, dy) == (0xA5, 0x38, 0x3F)


def test_trips_come_in_from_a_table_and_go_out(user: Driver, tmp_path: Path) -> None:
    exchange, actions = user.window.exchange, user.window.actions_.by_name
    source, out = tmp_path / "trips.csv", tmp_path / "out.csv"
    source.write_text("start,end,depart,every,count\nS1,S2,0,5,4\n6:4,S1,2.5,,\n")
    exchange.choose_in = lambda _title, _kinds: str(source)
    actions["traffic.trips_in"].trigger()
    user.idle()
    trips = (Trip(1, 2, 0.0, "", 5.0, 4), Trip(Cell(6, 4), 1, 2.5))
    assert user.plan.traffic.trips == trips
    assert user.said == "2 trips of 5 vehicles from trips.csv"
    exchange.choose_out = lambda _title, _start: str(out)
    actions["file.out_trips_csv"].trigger()
    user.idle()
    assert out.read_text() == ("start,end,depart,kind,every,count\nS1,S2,0,,5,4\n6:4,S1,2.5,,0,1\n")
    source.write_text("start,end,depart\nS1,S77,0\n")
    actions["traffic.trips_in"].trigger()
    user.idle()
    assert "line 2: no structure S77" in user.said
    assert user.plan.traffic.trips == trips


def test_the_keys_run_and_step(user: Driver) -> None:
    add_trip(user)
    user.key("Ctrl+E")
    assert run_of(user).steps == 1
    user.key("Ctrl+R")
    assert user.desk.traffic.running
    user.key("Ctrl+R")
    assert not user.desk.traffic.running
