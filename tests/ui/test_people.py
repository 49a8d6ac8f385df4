"""People on foot and rules that make trips, in the real window."""

from collections.abc import Callable

import pytest
from PyQt6.QtWidgets import QComboBox

from tests.helpers.builders import three_huts
from tests.ui.conftest import Driver
from woven_locus.core.edits.traffic import add_person, set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.vehicles import PersonKind, Spacing, Trip, TripRule
from woven_locus.core.ways.roads import Sign, sign_of
from woven_locus.ui.bench.traffic.people_sheet import PeopleSheet
from woven_locus.ui.bench.traffic.rules_sheet import RulesSheet
from woven_locus.ui.session.stages import WayTool

FOLK = PersonKind("folk", "Folk", "#2F4B7C", 1.0, 12.0)


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    found = make_window(three_huts())
    found.session.attempt(add_person, found.plan, FOLK)
    found.key("F6")
    return found


def test_people_are_made_in_a_sheet_and_walk(user: Driver) -> None:
    panel = user.window.bench.traffic.trips
    user.push(panel.people)
    sheet = user.sheet_of(PeopleSheet)
    assert sheet.table.rowCount() == 1
    user.push(sheet.add)
    assert [kind.key for kind in user.plan.traffic.people] == ["folk", "people-1"]
    assert len({kind.dye for kind in user.plan.traffic.people}) == 2
    box = sheet.table.cellWidget(1, 2)
    assert box is not None
    user.type(box, "20")
    assert user.plan.traffic.people[1].speed == 20.0
    user.type(sheet.longest, "7.5")
    assert user.plan.traffic.longest_crossing == 7.5
    user.push(sheet.remove)
    assert user.plan.traffic.people == (FOLK,)
    user.push(sheet.shut)
    user.back()
    # A trip on foot, made from a route as others are.
    user.desk.routes.ask(1, 3)
    user.choose(panel.who, "Folk, on foot")
    user.push(panel.add)
    assert user.plan.traffic.trips == (Trip(1, 3, 0.0, "folk", 5.0, 1),)
    traffic = user.desk.traffic
    traffic.step()
    assert traffic.timeline is not None
    traffic.timeline.advance(120)
    traffic.moved.emit()
    run = traffic.run
    assert run is not None
    assert len(run.walkers.under_way()) == 1
    x, y = run.walkers.places(run.walkers.under_way())[0].tolist()
    cell = user.plan.spec.locate(x, y)
    assert cell is not None
    user.sheet.zoom(3)
    camera = user.sheet.camera
    camera.centre_on(cell)
    middle = camera.middle_of(cell)
    dx, dy = round(camera.x_of(x) - middle[0]), round(camera.y_of(y) - middle[1])
    user.session.pointer.to(None)
    assert user.colour_at((cell.col, cell.row), dx, dy) == (0x2F, 0x4B, 0x7C)
    traffic.timeline.advance(3000)
    assert run.counts().arrived == 1
    # A kind that a trip names stays.
    user.push(panel.people)
    sheet = user.sheet_of(PeopleSheet)
    user.push(sheet.remove)
    assert sheet.problem.text() == "Folk cannot be removed: 1 trip names it"
    user.push(sheet.shut)


def test_a_crossing_is_put_up_in_ways_and_people_take_it_at_once(user: Driver) -> None:
    trips = (Trip(Cell(3, 0), Cell(3, 2), 0.0, "folk", 1.0, 200),)
    user.session.attempt(set_trips, user.plan, trips)
    traffic = user.desk.traffic
    traffic.step()
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.SIGN])
    tool = user.session.choices.ways
    user.session.choices.set_ways(sign=Sign.CROSSING)
    assert tool is not user.session.choices.ways
    user.click((3, 1))
    assert sign_of(int(user.plan.road[1, 3])) is Sign.CROSSING
    assert user.session.document.history.entries[-1] == "Let people cross at 1 cell of road"
    run = traffic.run
    assert run is not None
    run.advance(300)
    ((_, crossing),) = run.walkers.crossings.items()
    assert run.streets.junctions.cell(crossing.junction) == Cell(3, 1)
    assert crossing.people > 3
    user.key("Ctrl+Z")
    assert sign_of(int(user.plan.road[1, 3])) is Sign.NONE


def test_rules_that_make_trips_are_written_in_a_sheet(user: Driver) -> None:
    user.push(user.window.bench.traffic.trips.rules)
    sheet = user.sheet_of(RulesSheet)
    user.push(sheet.add)
    keys = user.plan.kinds.keys()
    assert user.plan.traffic.rules == (TripRule(keys[0], keys[-1]),)

    def pick(column: int, words: str) -> None:
        box = sheet.table.cellWidget(0, column)
        assert isinstance(box, QComboBox)
        user.choose(box, words)

    pick(0, "Hut")
    pick(2, "Hut")
    pick(1, "Folk")
    pick(6, "by chance")
    count = sheet.table.cellWidget(0, 5)
    assert count is not None
    user.type(count, "4")
    (rule,) = user.plan.traffic.rules
    assert rule == TripRule("hut", "hut", "folk", 0.0, 60.0, 4, Spacing.CHANCE)
    assert sheet.made.text() == "They make 12 departures from 3 structures."
    user.push(sheet.shut)
    user.back()
    assert "1 rule makes more" in user.window.bench.traffic.trips.trips.text()
    traffic = user.desk.traffic
    traffic.step()
    run = traffic.run
    assert run is not None
    assert len(run.trips) == 12
    # Another hut sends people too.
    user.key("F4")
    position = len(run.trips)
    put_number = user.plan.register.next_number
    user.session.arm("hut")
    user.click((3, 2))
    assert put_number in user.plan.register
    assert traffic.run is not None
    assert len(traffic.run.trips) == position + 4
