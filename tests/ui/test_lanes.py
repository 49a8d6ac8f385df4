"""The lanes in the real window: the side of the road, the way of a route, the nodes of the cell under the pointer."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import QPointF

from tests.helpers.builders import draw, put
from tests.ui.conftest import Driver
from woven_locus.core.edits.roads import erase_road
from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import KeepSide
from woven_locus.core.routing import LaneWay, NoRoute
from woven_locus.ui.jobs import asking
from woven_locus.ui.session.stages import Stage, WayTool

TOWN = """
    ............
    .==========.
    ......=.....
    ......=.....
"""


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    plan = draw(TOWN, cell=(24, 24))
    put(plan, "hut", 1, 0)
    put(plan, "hut", 10, 0)
    found = make_window(plan)
    found.key("F6")
    assert found.session.choices.stage is Stage.TRAFFIC
    return found


def test_the_side_of_the_road_is_chosen_and_undone(user: Driver) -> None:
    user.desk.routes.ask(1, 2)
    way = user.desk.lanes.way
    assert isinstance(way, LaneWay)
    # Eastward traffic lies below the centre line of row 1, which is at y = 36, when it keeps right.
    assert (way.points[:, 1] > 36).all()
    page = user.window.bench.traffic
    # Nine cells of 24, and a little more where the last lane begins to turn about.
    assert "By its lanes 218.3 units, 54.6 s" in page.trips.why.text()
    user.tick(page.sides[KeepSide.LEFT])
    assert user.plan.keep is KeepSide.LEFT
    assert user.session.document.history.entries[-1] == "Let traffic keep left"
    way = user.desk.lanes.way
    assert isinstance(way, LaneWay)
    assert (way.points[:, 1] < 36).all()
    user.key("Ctrl+Z")
    assert user.plan.keep is KeepSide.RIGHT
    assert page.sides[KeepSide.RIGHT].isChecked()
    way = user.desk.lanes.way
    assert isinstance(way, LaneWay)
    assert (way.points[:, 1] > 36).all()


def test_the_reading_says_which_lane_is_under_the_pointer_and_where_it_leads(user: Driver) -> None:
    user.point((3, 1.2))
    text = user.window.reading.where.text()
    graph = user.plan.lanes.graph
    node = user.desk.lanes.nearest(*_at(user))
    assert node is not None
    assert f"node {user.desk.lanes.number_of(node)}, 0°, lane 1" in text
    (ahead,) = graph.follows(node)
    assert f"leads to  {user.desk.lanes.number_of(ahead)}" in text
    assert graph.cell(ahead) == (4, 1)
    user.point((3, 0.8))
    assert "180°, lane 1" in user.window.reading.where.text()
    user.point((3, 3))
    assert "lane      none" in user.window.reading.where.text()


def _at(user: Driver):  # type: ignore[no-untyped-def]
    hover = user.session.pointer.hover
    assert hover is not None
    return hover.cell, hover.point


def test_an_edit_under_a_route_gives_it_another_way_or_none(user: Driver) -> None:
    user.desk.routes.ask(1, 2)
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.click((5, 1))
    user.key("F6")
    assert isinstance(user.desk.lanes.way, NoRoute)
    user.key("Ctrl+Z")
    assert isinstance(user.desk.lanes.way, LaneWay)


def test_the_lanes_of_the_cell_are_drawn(user: Driver) -> None:
    user.point((4, 3))
    before = user.sheet.grab().toImage()
    user.point((6.1, 2))
    after = user.sheet.grab().toImage()
    graph, camera = user.plan.lanes.graph, user.sheet.camera
    nodes = graph.nodes_at(user.plan.spec.index(Cell(6, 2)))
    assert len(nodes) == 2
    aside = user.at((6, 2)) - QPointF(*camera.middle_of(Cell(6, 2))).toPoint()
    for x, y in graph.places(nodes).tolist():
        at = round(camera.x_of(x)) + aside.x(), round(camera.y_of(y)) + aside.y()
        assert before.pixelColor(*at) != after.pixelColor(*at)


def test_on_a_large_plan_a_worker_lays_the_lanes_out(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(asking, "AT_ONCE", 1)
    user.plan.lanes._drop()
    user.key("F5")
    user.desk.routes.ask(1, 2)
    assert not user.plan.lanes.made
    user.key("F6")
    user.qtbot.waitUntil(lambda: user.desk.lanes.way is not None)
    assert isinstance(user.desk.lanes.way, LaneWay)
    assert user.plan.lanes.made  # taken over from the worker
    number = user.desk.lanes.nearest(*_hovered(user, (3, 1)))
    assert number is not None


def _hovered(user: Driver, cell: tuple[int, int]):  # type: ignore[no-untyped-def]
    user.point(cell)
    return _at(user)


def test_lanes_that_an_edit_made_void_are_asked_for_again(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(asking, "AT_ONCE", 1)
    user.plan.lanes._drop()
    user.desk.routes.ask(1, 2)
    # The answer is under way; the road goes from under it.
    user.session.document.history.do(erase_road(user.plan, [Cell(5, 1)]))
    user.qtbot.waitUntil(lambda: user.desk.lanes.way is not None and not user.desk.lanes.working)
    assert isinstance(user.desk.lanes.way, NoRoute)
