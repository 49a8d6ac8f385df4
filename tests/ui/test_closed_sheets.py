"""A sheet that is closed no longer follows the plan: edits after it reach nothing that is gone."""

from collections.abc import Callable

import pytest
from PyQt6 import sip
from PyQt6.QtWidgets import QDialog, QPushButton

from tests.helpers.builders import three_huts
from tests.ui.conftest import Driver
from woven_locus.core.edits.traffic import add_vehicle, set_rule, set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import JunctionRule, Phase, Rule
from woven_locus.core.vehicles import Trip, VehicleKind
from woven_locus.ui.bench.ground.classes_sheet import ClassesSheet
from woven_locus.ui.bench.traffic.people_sheet import PeopleSheet
from woven_locus.ui.bench.traffic.rules_sheet import RulesSheet
from woven_locus.ui.bench.traffic.signals_sheet import SignalsSheet
from woven_locus.ui.bench.traffic.trips_sheet import TripsSheet
from woven_locus.ui.bench.traffic.vehicles_sheet import VehiclesSheet
from woven_locus.ui.bench.ways.roads_sheet import RoadsSheet
from woven_locus.ui.jobs import asking

JUNCTION = Cell(6, 1)


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    found = make_window(three_huts())
    session = found.session
    session.attempt(set_trips, session.plan, (Trip(1, 2, 0.0, "", 4.0, 3),), "A trip")
    signals = JunctionRule(JUNCTION, Rule.SIGNALS, (Phase((), 10.0, 2.0),))
    session.attempt(set_rule, session.plan, JUNCTION, signals)
    found.key("F6")
    return found


def signals_of(user: Driver) -> QPushButton:
    user.click((JUNCTION.col, JUNCTION.row))
    user.idle()
    return user.window.bench.traffic.junction.signals


@pytest.mark.parametrize(
    ("kind", "opens"),
    [
        (VehiclesSheet, lambda user: user.window.bench.traffic.trips.kinds),
        (PeopleSheet, lambda user: user.window.bench.traffic.trips.people),
        (RulesSheet, lambda user: user.window.bench.traffic.trips.rules),
        (TripsSheet, lambda user: user.window.bench.traffic.trips.all),
        (SignalsSheet, signals_of),
        (RoadsSheet, lambda user: user.window.bench.ways.line.classes),
        (ClassesSheet, lambda user: user.window.bench.ground.classes),
    ],
)
def test_edits_after_a_sheet_was_closed(
    user: Driver, kind: type[QDialog], opens: Callable[[Driver], QPushButton]
) -> None:
    opens(user).click()
    sheet = user.sheet_of(kind)
    sheet.accept()
    user.qtbot.waitUntil(lambda: sip.isdeleted(sheet))
    user.back()
    trips = user.plan.traffic.trips
    user.key("Ctrl+Z")
    user.key("Ctrl+Z")
    assert user.plan.traffic.trips == ()
    user.key("Ctrl+Shift+Z")
    assert user.plan.traffic.trips == trips


def test_what_is_refused_in_a_worker_is_over(user: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    wide = VehicleKind("w", "Wide", "#000000", 5.0, 20.0, 9.0, 3.0, 3.0, 1.0, 1.0)
    user.session.attempt(add_vehicle, user.plan, wide)
    monkeypatch.setattr(asking, "AT_ONCE", 1)
    traffic, clock = user.desk.traffic, user.window.bench.traffic.clock
    user.push(clock.run)
    user.qtbot.waitUntil(lambda: not traffic.working)
    assert traffic.run is None
    assert "Wide is 20 wide; a lane of Road has room for" in user.said
    assert clock.run.isEnabled()
    assert not clock.run.isChecked()
