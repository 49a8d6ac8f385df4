"""Ways in the real window: draw, join, route, break, mend."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.helpers.builders import draw, put
from tests.ui.conftest import SHIFT, Driver
from woven_locus.core.geometry import Cell
from woven_locus.core.routing import Manner, NoRoute, Over, Route
from woven_locus.ui.session.stages import Stage, WayTool

LANES = """
    ............
    .===.=====..
    ............
    ............
    .....ss.....
    ............
"""


def ways(make_window: Callable[..., Driver], text: str = LANES) -> Driver:
    plan = draw(text, cell=(24, 24))
    put(plan, "hut", 1, 0)
    put(plan, "hut", 9, 0)
    user = make_window(plan)
    user.key("F5")
    assert user.session.choices.stage is Stage.WAYS
    return user


def test_a_stroke_is_shown_and_judged_before_it_is_laid(make_window: Callable[..., Driver]) -> None:
    user = ways(make_window)
    user.press((4, 4))
    user.to((7, 4))
    marks = user.desk.tools.current.marks()
    assert marks is not None
    assert [(tuple(c.cell), c.ok) for c in marks.cells] == [
        ((4, 4), True),
        ((5, 4), False),
        ((6, 4), False),
        ((7, 4), True),
    ]
    assert not user.plan.road[4].any()
    user.release((7, 4))
    assert user.plan.road[4].tolist() == [0] * 4 + [1, 0, 0, 1] + [0] * 4
    assert user.said == "Road left out on 2 cells: Stream cannot be built on"


def test_shift_keeps_the_road_straight(make_window: Callable[..., Driver]) -> None:
    user = ways(make_window)
    user.drag((0, 3), (5, 3), (8, 2), keys=SHIFT)
    assert user.plan.road[3].tolist() == [1] * 9 + [0] * 3
    assert not user.plan.road[2].any()
    user.key("Ctrl+Z")
    user.drag((0, 2), (0, 5))
    assert user.plan.road[:, 0].tolist() == [0, 0, 1, 1, 1, 1]


def test_esc_drops_a_road_stroke(make_window: Callable[..., Driver]) -> None:
    user = ways(make_window)
    user.press((0, 3))
    user.to((6, 3))
    user.key("Esc")
    user.release((6, 3))
    assert not user.plan.road[3].any()


def test_what_is_joined_is_shown_at_once(make_window: Callable[..., Driver]) -> None:
    user = ways(make_window)
    page = user.window.bench.ways
    assert "Cut off: S1, S2" in page.links.text()
    table = user.window.tray.register.model()
    assert table.index(0, 8).data() == "cut off"
    user.click((4, 1))
    assert page.links.text() == "2 of 2 structures, in 1 group."
    assert table.index(0, 8).data() == "joined"
    user.push(page.tools[WayTool.ERASE])
    user.drag((4, 1), (5, 1))
    assert user.plan.road[1].tolist() == [0, 1, 1, 1, 0, 0, 1, 1, 1, 1, 0, 0]
    assert "Cut off" in page.links.text()
    user.push(page.show_cut_off)
    assert user.session.selection.front == 1


def test_a_route_is_found_breaks_and_is_mended(make_window: Callable[..., Driver]) -> None:
    user = ways(make_window)
    page = user.window.bench.ways
    user.push(page.tools[WayTool.ROUTE])
    user.click((1, 0))
    assert "From S1 Hut" in user.window.status.hint.text()
    user.click((9, 0))
    pin = user.desk.routes.current
    assert pin is not None
    assert isinstance(pin.answer, NoRoute)
    assert "come nearest at 3, 1 and 5, 1" in user.said
    table = user.window.tray.routes.table
    assert user.window.tray.currentWidget() is user.window.tray.routes
    assert "does not meet" in table.item(0, 7).text()  # type: ignore[union-attr]

    user.push(page.tools[WayTool.ROAD])
    before = user.colour_at((2, 1), 2, 0)
    user.click((4, 1))
    assert isinstance(pin.answer, Route)
    assert user.said == "The route S1 Hut \u2192 S2 Hut is whole again"
    assert [table.item(0, c).text() for c in (3, 4, 5)] == ["192", "192", "9"]  # type: ignore[union-attr]
    assert user.colour_at((2, 1), 2, 0) != before  # it is drawn on the map

    user.push(page.tools[WayTool.ERASE])
    user.click((7, 1))
    assert user.said.startswith("The route S1 Hut \u2192 S2 Hut broke:")
    assert user.window.thread_.buttons[Stage.WAYS].isVisible()
    user.key("Ctrl+Z")
    assert isinstance(pin.answer, Route)
    user.key("F4")
    user.click((9, 0))
    user.key("Del")
    assert isinstance(pin.answer, NoRoute)
    assert "S2 is no longer there" in user.said


def test_a_route_ends_at_structures_and_at_cells_of_road(
    make_window: Callable[..., Driver],
) -> None:
    user = ways(make_window)
    user.push(user.window.bench.ways.tools[WayTool.ROUTE])
    user.click((6, 3))
    assert user.said == "A route cannot end there: cell 6, 3 is not road"
    user.click((1, 0))
    assert user.desk.tools.current.start == 1  # type: ignore[attr-defined]
    user.key("Esc")
    assert user.desk.tools.current.start is None  # type: ignore[attr-defined]
    assert user.desk.routes.pins == []
    # From a cell of road to a structure, and on as a trip.
    user.click((3, 1))
    assert user.desk.tools.current.start == Cell(3, 1)  # type: ignore[attr-defined]
    assert "From cell 3, 1" in user.desk.tools.current.hint
    user.click((1, 0))
    pin = user.desk.routes.current
    assert pin is not None
    assert (pin.start, pin.goal) == (Cell(3, 1), 1)
    assert isinstance(pin.answer, Route)
    assert pin.answer.cells[0] == (3, 1)
    # An edit of the road under its end is told as one elsewhere is.
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.click((3, 1))
    assert isinstance(pin.answer, NoRoute)
    user.key("Ctrl+Z")
    assert isinstance(pin.answer, Route)


def test_a_route_over_the_ground_ends_at_any_cell_that_one_can_enter(
    make_window: Callable[..., Driver],
) -> None:
    user = ways(make_window)
    user.desk.routes.travel(Over.GROUND, 4, 1)
    user.push(user.window.bench.ways.tools[WayTool.ROUTE])
    for cell in ((6, 3), (0, 2)):
        user.click(cell)
    pin = user.desk.routes.current
    assert pin is not None
    assert (pin.start, pin.goal) == (Cell(6, 3), Cell(0, 2))
    assert isinstance(pin.answer, Route)


def test_a_route_over_the_ground_with_diagonals(make_window: Callable[..., Driver]) -> None:
    user = ways(make_window)
    page = user.window.bench.ways
    for box, key in ((page.route.over, Qt.Key.Key_Down), (page.route.moves, Qt.Key.Key_Down)):
        box.setFocus()
        QTest.keyClick(box, key)
    assert user.desk.routes.manner == Manner(Over.GROUND, 8)
    user.push(page.tools[WayTool.ROUTE])
    user.click((1, 0))
    user.click((9, 0))
    answer = user.desk.routes.current.answer  # type: ignore[union-attr]
    assert isinstance(answer, Route)
    user.push(user.window.tray.routes.drop)
    assert user.desk.routes.pins == []
    assert user.window.tray.routes.empty.isVisible()
