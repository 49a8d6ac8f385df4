"""Junction rules, signals, sheets and figures of traffic in the real window."""

import csv
import math
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from tests.helpers.builders import three_huts
from tests.ui.conftest import Driver
from woven_locus.core.edits.traffic import add_vehicle, change_vehicle, set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import Rule
from woven_locus.core.kernels.traffic_state import AT_RED
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.maps import Measure
from woven_locus.core.vehicles import Trip, VehicleKind
from woven_locus.ui.bench.traffic.signals_sheet import SignalsSheet
from woven_locus.ui.bench.traffic.trips_sheet import TripsSheet
from woven_locus.ui.bench.traffic.vehicles_sheet import VehiclesSheet
from woven_locus.ui.session.stages import VehicleDyes

JUNCTION = (6, 1)


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    found = make_window(three_huts())
    trips = (Trip(1, 2, 0.0, "", 5.0, 30), Trip(3, 1, 0.0, "", 5.0, 30))
    found.session.attempt(set_trips, found.plan, trips)
    found.key("F6")
    return found


def run_of(user: Driver) -> TrafficRun:
    run = user.desk.traffic.run
    assert run is not None
    return run


def go(user: Driver, seconds: float) -> TrafficRun:
    """Let simulated time pass."""
    traffic = user.desk.traffic
    if traffic.run is None:
        traffic.step()
    assert traffic.timeline is not None
    traffic.timeline.advance(round(seconds * 30))
    traffic.moved.emit()
    user.settle()
    return run_of(user)


def test_a_number_that_is_only_looked_at_stays_exact(user: Driver) -> None:
    kind = VehicleKind("k", "Third", "#000000", 20 / 3, 2.0, 9.0, 3.0, 3.0, 1.0, 1.0)
    user.session.attempt(add_vehicle, user.plan, kind)
    user.push(user.window.bench.traffic.trips.kinds)
    sheet = user.sheet_of(VehiclesSheet)
    position = user.session.document.history.position
    for column in range(1, 8):
        box = sheet.table.cellWidget(0, column)
        assert box is not None
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Tab)
    assert user.plan.traffic.vehicles == (kind,)
    assert user.session.document.history.position == position
    user.push(sheet.shut)


def with_signals(user: Driver, seconds: float = 60) -> SignalsSheet:
    go(user, seconds)
    user.click(JUNCTION)
    panel = user.window.bench.traffic.junction
    user.choose(panel.rule, "Signals")
    user.idle()
    user.push(panel.signals)
    return user.sheet_of(SignalsSheet)


def test_a_click_chooses_a_junction_and_its_rule_is_changed_while_traffic_runs(
    user: Driver,
) -> None:
    panel = user.window.bench.traffic.junction
    assert not panel.rule.isVisible()
    user.click((3, 1))
    assert not panel.rule.isVisible()
    user.click(JUNCTION)
    assert panel.title.text() == "Junction at 6, 1"
    assert panel.rule.currentText() == "First come, first served"
    run = go(user, 60)
    assert f"passed        {int(run.streets.road.passed.sum()):7,}" in panel.figures.text()
    user.choose(panel.rule, "The larger road first")
    rule = user.plan.traffic.rule_at(Cell(*JUNCTION))
    assert rule is not None
    assert rule.rule is Rule.LARGER
    assert run_of(user) is run
    assert run.rules.top.max() == 0  # all its roads are alike
    # It is counted anew for the new rule.
    assert "passed              0" in panel.figures.text()
    user.key("Ctrl+Z")
    assert user.plan.traffic.rule_at(Cell(*JUNCTION)) is None
    assert run.rule_of == {}
    user.key("Escape")


def test_signals_are_worked_out_shown_and_changed(user: Driver) -> None:
    sheet = with_signals(user)
    rule = sheet.rule
    assert rule is not None
    turns = {turn for phase in rule.phases for turn in phase.turns}
    # Doors of the three roads: from the east, the south and the west.
    assert turns == {(1, 2), (1, 3), (2, 1), (2, 3), (3, 1), (3, 2)}
    assert "of what can pass arrives" in sheet.words.text()
    assert "predicted delay" in sheet.words.text()
    user.type(sheet.greens[0], "7")
    changed = sheet.rule
    assert changed is not None
    assert changed.phases[0].green == 7.0
    user.type(sheet.cycle, "90")
    assert sheet.rule is not None
    assert sheet.rule.cycle == pytest.approx(90.0)
    assert sheet.rule.phases[0].green < sheet.rule.phases[-1].green * 90
    user.type(sheet.offset, "4")
    assert sheet.rule is not None
    assert sheet.rule.offset == 4.0
    user.tick(sheet.checks[(3, 1), 0])
    assert ((3, 1) in sheet.rule.phases[0].turns) != ((3, 1) in rule.phases[0].turns)
    user.type(sheet.cycle, "1")
    assert "The ambers alone take" in sheet.problem.text()
    assert sheet.rule is not None
    assert sheet.rule.cycle == pytest.approx(90.0)
    # All of it is undone step by step, and the sheet closes when there are no signals any more.
    while user.plan.traffic.junctions:
        user.session.document.history.undo()
    user.qtbot.waitUntil(lambda: not sheet.isVisible())


def test_a_turn_that_never_gets_green_is_named(user: Driver) -> None:
    sheet = with_signals(user)
    for at in range(len(sheet.greens)):
        if sheet.checks[(2, 3), at].isChecked():
            user.tick(sheet.checks[(2, 3), at])
    assert sheet.words.text().startswith("Never green: south to west.")
    user.push(sheet.add)
    assert sheet.rule is not None
    assert sheet.rule.phases[-1].turns == ()
    phases = len(sheet.rule.phases)
    user.push(sheet.remove)
    assert len(sheet.rule.phases) == phases - 1
    user.push(sheet.shut)
    user.back()
    # Who wants to go there waits, and says for what.
    run = go(user, 30)
    rows = run.fleet.under_way()
    red = rows[run.fleet.cars.why[rows] == AT_RED]
    assert len(red)
    user.desk.traffic.chosen = int(run.fleet.number[red[0]])
    user.desk.traffic.moved.emit()
    assert "waits at 6, 1 for green" in user.window.reading.vehicle.text()


def test_signals_are_drawn_at_the_lines_of_the_lanes(user: Driver) -> None:
    sheet = with_signals(user)
    user.push(sheet.shut)
    user.back()
    user.session.pointer.to(None)
    user.desk.traffic.choose_junction(None)
    rule = user.plan.traffic.rule_at(Cell(*JUNCTION))
    assert rule is not None
    # From the west one comes in on the lower half of the road, just within the cell.
    camera = user.sheet.camera
    dx, dy = -round(camera.ppc_x * 0.45), round(camera.ppc_y * 0.155)
    seen = set()
    for _ in range(round(rule.cycle / 2) + 2):
        seen.add(user.colour_at(JUNCTION, dx, dy))
        go(user, 2)
    # A bar across the lane while it is closed, open in the middle while it is not.
    assert len(seen) >= 2


def test_trips_are_written_in_a_sheet(user: Driver) -> None:
    user.push(user.window.bench.traffic.trips.all)
    sheet = user.sheet_of(TripsSheet)
    model = sheet.model
    assert model.rowCount() == 2
    assert model.data(model.index(0, 0)) == "S1 Hut"

    def write(row: int, column: int, text: str) -> bool:
        return model.setData(model.index(row, column), text)

    assert write(0, 1, "S3")
    assert write(0, 3, "12.5")
    assert write(0, 5, "7")
    assert user.plan.traffic.trips[0] == Trip(1, 3, 12.5, "", 5.0, 7)
    for column, text, words in (
        (0, "S99", "no structure S99"),
        (0, "99:0", "outside the grid"),
        (1, "east", "neither a structure like S12 nor a cell"),
        (2, "ox", "no kind of vehicle or people 'ox'"),
        (3, "-1", "depart must be 0 seconds or more"),
        (4, "often", "One every must be a number of seconds, not 'often'"),
        (5, "1.5", "Vehicles must be a whole number"),
        (5, "1000000000", "10,000,000 vehicles"),
    ):
        assert not write(1, column, text)
        assert words in sheet.problem.text()
    assert user.plan.traffic.trips[1] == Trip(3, 1, 0.0, "", 5.0, 30)
    sheet.table.selectRow(1)
    user.push(sheet.add)
    assert user.plan.traffic.trips[2] == user.plan.traffic.trips[1]
    sheet.table.selectRow(0)
    user.push(sheet.remove)
    assert len(user.plan.traffic.trips) == 2
    assert user.session.document.history.entries[-1] == "Removed trip 1"


def test_vehicles_are_made_and_changed_in_a_sheet(user: Driver) -> None:
    go(user, 5)
    user.push(user.window.bench.traffic.trips.kinds)
    sheet = user.sheet_of(VehiclesSheet)
    assert sheet.table.rowCount() == 0
    user.push(sheet.add)
    (kind,) = user.plan.traffic.vehicles
    assert (kind.key, kind.length) == ("vehicle-1", 7.2)
    # Another kind drives from now on: who is on the road is of none that there is.
    assert user.desk.traffic.run is None
    assert "the kinds of vehicle or people changed" in user.said
    box = sheet.table.cellWidget(0, 3)
    assert box is not None
    user.type(box, "60")
    assert user.plan.traffic.vehicles[0].speed == 60.0
    name = sheet.table.cellWidget(0, 0)
    assert isinstance(name, QLineEdit)
    user.type(name, "Cart")
    assert user.plan.traffic.vehicles[0].name == "Cart"
    user.push(sheet.remove)
    assert user.plan.traffic.vehicles == ()
    wide = VehicleKind("w", "Wide", "#000000", 5.0, 20.0, 9.0, 3.0, 3.0, 1.0, 1.0)
    user.push(sheet.add)
    assert sheet.problem.text() == ""
    user.session.attempt(change_vehicle, user.plan, "vehicle-1", wide)
    user.push(sheet.shut)
    user.back()
    user.push(user.window.bench.traffic.clock.step)
    assert "Wide is 20 wide; a lane of Road has room for" in user.said


def test_figures_of_a_run_stand_in_the_tray_and_are_saved(user: Driver, tmp_path: Path) -> None:
    tab = user.window.tray.traffic
    assert user.window.tray.currentWidget() is tab
    assert tab.empty.isVisible()
    run = go(user, 90)
    assert not tab.empty.isVisible()
    tab.refresh()
    figures = tab.trips.figures
    assert figures.rows[0][0] == "S1 Hut → S2 Hut"
    assert sum(int(row[3]) for row in figures.rows) == run.arrived  # type: ignore[arg-type]
    tab.show_view("Junctions")
    (row,) = tab.junctions.figures.rows
    assert row[:2] == ("6, 1", "first come")
    tab.junctions.picked.emit(tab.junctions.figures.keys[0])
    assert user.desk.traffic.junction == Cell(*JUNCTION)
    exchange = user.window.exchange
    for name, head in (
        ("Trips", "start,end,kind,wanted,sent,arrived"),
        ("Trip times", "trip,at,took,delay"),
        ("Junctions", "col,row,rule,passed"),
        ("Over time", "seconds,under_way,held_back"),
    ):
        path = tmp_path / f"{name}.csv"
        exchange.choose_out = lambda _title, _start, path=path: str(path)
        tab.show_view(name)
        user.push(tab.out)
        user.idle()
        assert path.read_text().startswith(head)
    with (tmp_path / "Trip times.csv").open() as file:
        assert len(list(csv.DictReader(file))) == run.arrived
    tab.show_view("Time and space")
    user.push(tab.out)
    assert "Look at a stretch first" in user.said


def test_a_stretch_is_looked_at_in_a_worker(user: Driver, tmp_path: Path) -> None:
    tab = user.window.tray.traffic
    run = go(user, 90)
    digest = run.digest()
    tab.show_view("Time and space")
    user.push(tab.space.again)
    assert "Click a vehicle, or choose a route" in user.said
    user.desk.traffic.chosen = int(run.fleet.number[run.fleet.under_way()[0]])
    user.push(tab.space.again)
    assert user.desk.stretch.working
    user.idle()
    seen = user.desk.stretch.seen
    assert seen is not None
    assert len(seen.lines()) > 10
    assert run.digest() == digest
    user.qtbot.waitUntil(lambda: tab.space.chart.plot is not None)
    assert "drives along the way of V" in tab.space.words.text()
    assert len(tab.space.chart.plot.listDataItems()) == 2
    tab.show_view("Flow and density")
    user.qtbot.waitUntil(lambda: tab.flow.chart.plot is not None)
    assert "what the model carries (Vehicle)" in tab.flow.words.text()
    path = tmp_path / "out.csv"
    user.window.exchange.choose_out = lambda _title, _start: str(path)
    user.push(tab.out)
    user.idle()
    assert path.read_text().startswith("density,flow\n")
    # Another run, and it is of none that there is.
    user.push(user.window.bench.traffic.clock.clear)
    assert user.desk.stretch.seen is None


def test_a_baseline_is_kept_and_later_figures_are_compared(user: Driver) -> None:
    tab, clock = user.window.tray.traffic, user.window.bench.traffic.clock
    go(user, 60)
    user.push(tab.keep)
    assert tab.compared.text() == "baseline of 60 s: +0 s spent, +0 arrived"
    user.push(clock.clear)
    sheet = with_signals(user, 59.9)
    user.push(sheet.shut)
    user.back()
    user.push(clock.clear)
    go(user, 60)
    tab.refresh()
    assert "s spent" in tab.compared.text()
    assert tab.compared.text() != "baseline of 60 s: +0 s spent, +0 arrived"
    tab.show_view("Junctions")
    assert isinstance(tab.junctions.figures.rows[0][-1], float)


def test_what_would_help_is_tried_and_done(user: Driver) -> None:
    tab, keeper = user.window.tray.traffic, user.desk.remedies
    tab.show_view("What helps?")
    assert not tab.remedies.ask.isEnabled()
    go(user, 60)
    user.push(tab.remedies.ask)
    assert keeper.working
    user.qtbot.waitUntil(lambda: not keeper.working)
    assert keeper.found is not None
    assert keeper.cell == Cell(*JUNCTION)
    words = {item.remedy.words for item in keeper.found}
    assert words == {"signals", "road at 5, 2 too", "road at 7, 2 too"}
    best = keeper.found[0]
    table = tab.remedies.table
    assert not tab.remedies.do.isEnabled()
    table.selectRow(table.figures.keys.index(best))
    before = user.session.document.revision
    user.push(tab.remedies.do)
    assert user.session.document.revision > before
    # What was found was of the plan as it was.
    assert keeper.found is None


def test_measures_lie_over_the_map_and_vehicles_change_colour(user: Driver) -> None:
    page = user.window.bench.traffic
    run = go(user, 60)
    user.desk.traffic.choose_junction(None)
    user.session.pointer.to(None)
    plain = user.colour_at((3, 1), 0, -6)
    for measure in Measure:
        user.choose(page.show_panel.shown, measure.value)
        layer = user.desk.measures.layer
        assert layer is not None
        assert user.desk.measures.most == pytest.approx(float(layer[~np.isnan(layer)].max()))
        if measure in (Measure.FLOW, Measure.SPEED, Measure.DENSITY):
            assert user.colour_at((3, 1), 0, -6) != plain
        assert page.show_panel.ramp.isVisible()
    user.choose(page.show_panel.shown, "Nothing")
    assert user.desk.measures.layer is None
    assert user.colour_at((3, 1), 0, -6) == plain
    at = run.fleet.nearest_place(user.plan.spec.centre(Cell(6, 3)))
    cell = user.plan.spec.locate(*at)
    assert cell is not None
    camera = user.sheet.camera
    middle = camera.middle_of(cell)
    where = (round(camera.x_of(at.x) - middle[0]), round(camera.y_of(at.y) - middle[1]))
    colours = set()
    for dyes in VehicleDyes:
        user.choose(page.show_panel.dyes, dyes.value)
        colours.add(user.colour_at((cell.col, cell.row), *where))
    assert len(colours) == 3


def test_a_delay_without_end_is_said_in_words(user: Driver) -> None:
    sheet = with_signals(user)
    user.type(sheet.greens[0], "300")
    assert "More arrives than can pass" in sheet.words.text()
    assert not math.isinf(sheet.cycle.value())
