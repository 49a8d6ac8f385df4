"""Ways in the real window: every way of drawing, mending, pushing, signing, explaining, studying."""

from collections.abc import Callable

from PyQt6.QtWidgets import QLineEdit

from tests.helpers.builders import draw, put
from tests.helpers.state import assert_derived_is_current
from tests.ui.conftest import Driver
from woven_locus.core.routing import NoRoute, Route
from woven_locus.core.strokes.ways import Course
from woven_locus.core.ways.roads import Sign, sign_of
from woven_locus.ui.bench.ways.roads_sheet import RoadsSheet
from woven_locus.ui.session.stages import Stage, WayTool

Make = Callable[..., Driver]

GREEN = "\n".join(["............"] * 8)


def ways(make_window: Make, text: str = GREEN, huts: list[tuple[int, int]] | None = None) -> Driver:
    plan = draw(text, cell=(24, 24))
    for col, row in huts or []:
        put(plan, "hut", col, row)
    user = make_window(plan)
    user.key("F5")
    assert user.session.choices.stage is Stage.WAYS
    return user


def shown(user: Driver) -> list[str]:
    return ["".join("=" if byte else "." for byte in row) for row in user.plan.road]


# --- drawing ------------------------------------------------------------------------------------


def test_an_elbow_turns_the_way_that_is_chosen(make_window: Make) -> None:
    user = ways(make_window)
    line = user.window.bench.ways.line
    assert not line.rows_first.isVisible()
    user.choose(line.course, "Elbow")
    assert line.rows_first.isVisible()
    user.drag((1, 1), (4, 3), (3, 3))
    assert shown(user)[1:4] == [".===........", "...=........", "...=........"]
    user.tick(line.rows_first)
    user.drag((6, 1), (9, 3))
    assert shown(user)[1][6:10] == "=..."
    assert shown(user)[3][6:10] == "===="
    user.choose(line.course, "Diagonal")
    user.drag((1, 5), (3, 7))
    assert [row[1:4] for row in shown(user)[5:8]] == ["=..", "==.", ".=="]
    user.choose(line.course, "Straight")
    user.drag((6, 5), (10, 6))
    assert shown(user)[5][6:11] == "====="
    assert user.session.document.history.entries[-1] == "Laid road of 5 cells"


def test_ends_snap_to_what_is_near_and_show_it(make_window: Make) -> None:
    user = ways(make_window, "............\n============\n" + GREEN, [(5, 5)])
    line = user.window.bench.ways.line
    user.type(line.reach, "2")
    assert user.session.choices.ways.drawing.reach == 2
    user.press((8, 6))
    user.to((8, 4))
    before = user.colour_at((8, 1), 0, round(user.sheet.camera.ppc_x * 0.42))
    user.to((8, 3))
    stroke = user.desk.tools.current.stroke
    assert stroke.last.to == "road at 8, 1"  # type: ignore[union-attr]
    # The ring around the caught end can be seen before the button comes up.
    assert user.colour_at((8, 1), 0, round(user.sheet.camera.ppc_x * 0.42)) != before
    user.release((8, 3))
    assert all(shown(user)[row][8] == "=" for row in range(1, 7))
    user.drag((2, 3), (4, 4), (4, 7))
    assert user.plan.road[6, 5]  # caught by the door side of the hut at 5, 5
    user.type(line.reach, "0")
    user.drag((10, 3), (10, 3))
    assert shown(user)[3][10] == "="


def test_a_laid_line_waits_is_bent_and_laid_or_dropped(make_window: Make) -> None:
    user = ways(make_window)
    page = user.window.bench.ways
    user.choose(page.line.course, "Laid by A*")
    assert page.line.weights["turns"].isVisible()
    user.drag((1, 4), (10, 4))
    tool = user.desk.tools.current
    assert tool.waiting  # type: ignore[attr-defined]
    assert not user.plan.road.any()
    assert "Drag the line to bend it" in user.window.status.hint.text()
    user.drag((5, 4), (5, 2))
    assert tool.line.vias == [(5, 2)]  # type: ignore[attr-defined]
    user.drag((5, 2), (5, 1))
    assert tool.line.vias == [(5, 1)]  # type: ignore[attr-defined]
    user.push(page.line.lay)
    assert user.plan.road[1, 5]
    assert user.plan.road[4, 1]
    assert user.plan.road[4, 10]
    assert user.session.document.history.entries == [f"Laid road of {user.plan.road.sum()} cells"]
    user.key("Ctrl+Z")
    user.drag((1, 4), (10, 4))
    user.key("Esc")
    assert not tool.waiting  # type: ignore[attr-defined]
    user.drag((1, 4), (10, 4))
    user.click((3, 7))  # beside the line
    assert shown(user)[4] == ".==========."
    user.key("Ctrl+Z")
    user.drag((1, 4), (10, 4))
    user.key("Ctrl+Return")
    assert user.plan.road.sum() == 10


def test_a_line_that_cannot_be_laid_says_so(make_window: Make) -> None:
    user = ways(make_window, "...k...\n...k...")
    user.choose(user.window.bench.ways.line.course, "Laid by A*")
    user.drag((0, 0), (6, 0))
    why = "no way was found near there; draw around what is in the way"
    assert user.said == f"No road was laid: {why}"
    user.drag((0, 0), (3, 0))
    assert "it cannot start or end there: Cliff cannot be built on" in user.said
    assert not user.plan.road.any()
    user.key("Ctrl+Return")
    assert not user.plan.road.any()


def test_a_drag_off_the_map_loses_nothing(make_window: Make) -> None:
    user = ways(make_window)
    for course in Course:
        user.choose(user.window.bench.ways.line.course, course.value)
        user.drag((9, 2), (30, 2))
        user.key("Esc")
    assert_derived_is_current(user.plan)
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.tick(user.window.bench.ways.erase.block)
    user.drag((11, 0), (40, 40))
    assert not user.plan.road[:, 11].any()


def test_a_barrier_is_drawn_by_the_same_courses(make_window: Make) -> None:
    user = ways(make_window)
    page = user.window.bench.ways
    user.key("Shift+B")
    assert user.session.choices.ways.tool is WayTool.BARRIER
    assert not page.line.kind.isVisible()
    user.choose(page.line.course, "Elbow")
    user.drag((1, 1), (4, 4))
    assert user.plan.barrier.sum() == 7
    assert user.session.document.history.entries == ["Raised a barrier of 7 cells"]


def test_road_classes_are_edited_and_drawn(make_window: Make) -> None:
    user = ways(make_window)
    page = user.window.bench.ways
    user.push(page.line.classes)
    sheet = user.sheet_of(RoadsSheet)
    user.push(sheet.add)
    name = sheet.table.cellWidget(1, 0)
    assert isinstance(name, QLineEdit)
    user.type(name, "Drove")
    user.type(sheet.table.cellWidget(1, 2), "2.5")  # type: ignore[arg-type]
    sheet.choose_dye = lambda _now: "#8A6A93"
    user.push(sheet.table.cellWidget(1, 4))  # type: ignore[arg-type]
    drove = user.plan.road_table[1]
    assert (drove.name, drove.cost, drove.dye) == ("Drove", 2.5, "#8A6A93")
    sheet.table.selectRow(0)
    user.push(sheet.remove)
    assert [item.name for item in user.plan.road_table] == ["Drove"]
    user.key("Ctrl+Z", sheet)
    user.push(sheet.shut)
    user.back()
    if len(user.plan.road_table) == 1:
        user.key("Ctrl+Z")
    user.choose(page.line.kind, "Drove")
    user.drag((1, 1), (5, 1))
    assert (user.plan.road[1, 1:6] == 2).all()
    _red, green, blue = user.colour_at((3, 1))
    assert blue > green  # heather, not the plain road's linen
    user.push(page.line.classes)
    sheet = user.sheet_of(RoadsSheet)
    sheet.table.selectRow(1)
    user.push(sheet.remove)
    assert "Drove cannot be removed: 5 cells of road are Drove" in sheet.problem.text()
    user.push(sheet.shut)
    user.back()
    assert_derived_is_current(user.plan)


# --- pieces -------------------------------------------------------------------------------------

TOWN = """
    ............
    .=========..
    .=.....=....
    .=.....=....
    ............
    .====.=====.
    ............
"""


def test_a_run_is_pushed_with_the_mouse_and_refused_where_it_cannot_go(make_window: Make) -> None:
    user = ways(make_window, TOWN, [(4, 4)])
    user.key("Shift+P")
    user.press((4, 1))
    user.to((4, 3))
    marks = user.desk.tools.current.marks()
    assert marks is not None
    assert marks
    user.release((4, 3))
    assert shown(user)[3][1:8] == "======="
    assert shown(user)[2][1] == "."  # the bend's leg was taken in
    user.key("Ctrl+Z")
    before = shown(user)
    user.drag((4, 1), (4, 4))  # the hut is in the way
    assert user.said.startswith("The road cannot go there: ")
    assert shown(user) == before
    user.click((0, 0))
    assert user.said == "Nothing to push there: take hold of a straight piece of road"


def test_roads_are_split_and_joined_at_the_pointer(make_window: Make) -> None:
    user = ways(make_window, TOWN)
    user.point((4, 1))
    user.key("Shift+X")
    assert shown(user)[1] == ".===.=====.."
    user.point((2, 5))
    user.key("Shift+J")
    assert user.session.document.history.entries[-1] == "Joined the road at 2, 5 with 1 cell"
    assert user.plan.network.group_at(5 * 12 + 2) == user.plan.network.group_at(12 + 1)
    user.point((0, 0))
    user.key("Shift+X")
    assert user.said == "There is no road or barrier to split at 0, 0"
    user.key("Shift+J")
    assert user.said == "No other road can be reached from 0, 0"


def test_roads_are_made_one_way_and_closed(make_window: Make) -> None:
    user = ways(make_window, TOWN, [(3, 0), (8, 0)])
    page = user.window.bench.ways
    user.push(page.tools[WayTool.ROUTE])
    user.click((3, 0))
    user.click((8, 0))
    pin = user.desk.routes.current
    assert pin is not None
    user.push(page.tools[WayTool.SIGN])
    user.drag((6, 1), (3, 1))
    assert sign_of(int(user.plan.road[1, 5])) is Sign.WEST
    assert isinstance(pin.answer, NoRoute)
    assert "only against a one-way sign" in user.said
    user.choose(page.sign.sign, "Open both ways")
    user.drag((3, 1), (6, 1))
    assert isinstance(pin.answer, Route)
    user.choose(page.sign.sign, "Closed")
    user.click((5, 1))
    assert isinstance(pin.answer, NoRoute)
    assert "Cut off: S1, S2" in page.links.text()
    user.click((0, 0))
    assert user.said == "No sign stands there: drag along two cells of road or more"
    user.point((5, 1))
    assert "closed" in user.window.reading.where.text()


def test_a_rectangle_of_road_is_erased(make_window: Make) -> None:
    user = ways(make_window, TOWN)
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.tick(user.window.bench.ways.erase.block)
    user.press((0, 0))
    user.to((5, 3))
    assert user.plan.road[1, 1]
    user.release((5, 3))
    assert shown(user)[1] == "......====.."
    assert user.session.document.history.entries[-1].startswith("Erased 7 cells of road")


# --- findings -----------------------------------------------------------------------------------


# --- routes -------------------------------------------------------------------------------------


def routed(make_window: Make, text: str = TOWN) -> Driver:
    user = ways(make_window, text, [(2, 0), (9, 4)])
    user.push(user.window.bench.ways.tools[WayTool.ROUTE])
    user.click((2, 0))
    user.click((9, 4))
    return user
