"""Ways in the real window: every way of drawing, mending, pushing, signing, explaining, studying."""

import json
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from tests.helpers.builders import draw, put
from tests.helpers.state import assert_derived_is_current
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.proof.finding import Severity
from woven_locus.core.routing import Manner, NoRoute, Route
from woven_locus.core.routing.explain import Heuristic
from woven_locus.core.strokes.ways import Course
from woven_locus.core.ways.roads import Sign, sign_of
from woven_locus.ui.answers import routes as route_keeper
from woven_locus.ui.bench.ways import matrix_sheet
from woven_locus.ui.bench.ways.matrix_sheet import MatrixSheet
from woven_locus.ui.bench.ways.roads_sheet import RoadsSheet
from woven_locus.ui.jobs import asking
from woven_locus.ui.session.stages import Stage, WaysOverlay, WayTool
from woven_locus.ui.sheet.overlays.tints import letters, ramp
from woven_locus.ui.theme import number_font

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
    assert "Drove cannot be removed: 5 cells of road are drove" in sheet.problem.text()
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


def test_near_misses_are_marked_listed_and_mended_with_a_key(make_window: Make) -> None:
    user = ways(make_window, TOWN)
    user.session.pointer.to(None)
    tab = user.window.tray.findings
    user.window.tray.setCurrentWidget(tab)
    user.settle()
    whats = [tab.table.item(row, 0).text() for row in range(tab.table.rowCount())]  # type: ignore[union-attr]
    # The street at row 5 has a gap; two ends above it point to it from two cells away.
    assert whats == ["△ Near miss"] * 3
    marked = user.colour_at((5, 5))
    row = next(k for k in range(3) if tab.table.item(k, 1).text() == "5, 5")  # type: ignore[union-attr]
    QTest.mouseClick(
        tab.table.viewport(),
        Qt.MouseButton.LeftButton,
        pos=tab.table.visualItemRect(tab.table.item(row, 0)).center(),
    )
    user.settle()
    user.push(tab.mend)
    assert shown(user)[5] == ".==========."
    assert user.colour_at((5, 5)) != marked
    assert tab.table.rowCount() == 2
    user.key("Shift+M")
    user.key("Shift+M")
    assert tab.table.rowCount() == 0
    assert tab.empty.isVisible()
    user.key("Shift+M")
    assert user.said == "There is no near miss to mend"
    for _ in range(3):
        user.key("Ctrl+Z")
    user.push(tab.mend_all)
    assert tab.table.rowCount() == 0
    assert user.session.document.history.entries == ["Mended findings"]
    assert_derived_is_current(user.plan)


def test_findings_tell_who_is_cut_off_and_select_them(make_window: Make) -> None:
    user = ways(make_window, GREEN, [(1, 1), (7, 1)])
    tab = user.window.tray.findings
    user.window.tray.setCurrentWidget(tab)
    user.settle()
    assert [each.structure for each in tab.rows] == [1, 2]
    tab.table.selectRow(1)
    assert user.session.selection.front == 2
    assert not tab.mend.isEnabled()


# --- routes -------------------------------------------------------------------------------------


def routed(make_window: Make, text: str = TOWN) -> Driver:
    user = ways(make_window, text, [(2, 0), (9, 4)])
    user.push(user.window.bench.ways.tools[WayTool.ROUTE])
    user.click((2, 0))
    user.click((9, 4))
    return user


def test_a_road_is_proposed_for_a_broken_route_and_laid_with_a_key(make_window: Make) -> None:
    user = routed(make_window)
    pin, table = user.desk.routes.current, user.window.tray.routes
    assert pin is not None
    assert isinstance(pin.answer, NoRoute)
    user.push(table.propose)
    assert user.desk.routes.proposed == ((7, 4),)
    assert "1 cell of road would mend" in user.said
    assert not user.plan.road[4, 7]
    user.key("Esc")
    assert user.desk.routes.proposed == ()
    user.key("U")
    user.key("Shift+U")
    assert user.plan.road[4, 7]
    assert isinstance(pin.answer, Route)
    assert user.session.document.history.entries[-1] == f"Joined {pin.title} by road"
    user.key("U")
    assert user.said == "Choose a route that is broken: what would mend it can then be proposed"
    user.key("Ctrl+Z")
    assert isinstance(pin.answer, NoRoute)


def test_where_nothing_can_join_that_is_said(make_window: Make) -> None:
    user = routed(
        make_window,
        "............\n.===........\nkkkkkkkkkkkk\n............\n............\n========....",
    )
    user.key("U")
    assert "No road can mend" in user.said


def test_a_search_is_explained_step_by_step(make_window: Make) -> None:
    user = routed(make_window, TOWN)
    user.key("U")
    user.key("Shift+U")
    tab, study = user.window.tray.search, user.desk.search
    before = user.colour_at((4, 1), 4, 4)
    user.key("I")
    assert user.window.tray.currentWidget() is tab
    assert study.explained is not None
    steps = study.explained.steps
    assert user.colour_at((4, 1), 4, 4) != before
    user.point((2, 1))
    assert "closed" in tab.reading.text()
    assert f"step    {steps} of {steps}" in tab.reading.text()
    figures = dict(line.split("   ", 1) for line in tab.reading.text().split("\n") if "   " in line)
    g, h = (float(n) for n in figures["g + h"].split("+"))
    assert float(figures["f"]) == g + h
    tab.slider.setFocus()
    QTest.keyClick(tab.slider, Qt.Key.Key_Home)
    assert study.step == 0
    user.point((2, 1))
    assert "not seen" in tab.reading.text()
    QTest.keyClick(tab.slider, Qt.Key.Key_Right)
    assert study.step == 1
    assert "closed" in tab.reading.text()
    user.push(tab.play)
    user.qtbot.waitUntil(lambda: study.step == steps)
    user.qtbot.waitUntil(lambda: tab.play.text() == "Play")
    user.choose(tab.by, "Coloured by cost")
    assert study.by_cost
    user.push(tab.all)
    assert tab.table.rowCount() == len(Heuristic)
    costs = {tab.table.item(row, 1).text() for row in range(4)}  # type: ignore[union-attr]
    assert len(costs) == 1
    explored = [int(tab.table.item(row, 2).text()) for row in range(4)]  # type: ignore[union-attr]
    assert explored[0] >= explored[1]
    tab.table.selectRow(0)
    assert study.explained.heuristic is Heuristic.ZERO
    user.key("Esc")
    assert study.explained is None
    user.key("I")
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.click((4, 1))
    assert study.explained is None  # an explanation of an older plan is put away


def test_a_wide_agent_takes_another_way(make_window: Make) -> None:
    user = ways(make_window, GREEN, [(0, 0), (11, 7)])
    page = user.window.bench.ways
    user.push(page.tools[WayTool.ROUTE])
    user.choose(page.route.over, "Ground, roads preferred")
    user.type(page.route.agent_size, "3")
    user.click((0, 0))
    user.click((11, 7))
    answer = user.desk.routes.current.answer  # type: ignore[union-attr]
    assert isinstance(answer, Route)
    assert user.window.tray.routes.table.item(0, 2).text() == "4 × 3"  # type: ignore[union-attr]


# --- studies ------------------------------------------------------------------------------------


def test_what_lies_over_the_map_follows_the_plan(make_window: Make) -> None:
    user = ways(make_window, TOWN, [(2, 0), (9, 0), (9, 4)])
    study, panel = user.desk.study, user.window.bench.ways.study
    user.session.pointer.to(None)
    plain = user.colour_at((4, 1))
    user.choose(panel.shown, "What is joined")
    first = user.colour_at((3, 1), 0, 4)
    assert first != plain
    assert user.colour_at((3, 5), 0, 4) != first  # another piece, another dye
    user.choose(panel.shown, "Load of trips")
    user.colour_at((3, 1))
    assert not number_font(8).bold()  # a font that others share is not changed
    assert study.load is not None
    assert study.load.trips == 2
    assert "2 trips, at most 2 over one cell; 4 find no way." in panel.words.text()
    user.session.attempt(edits.lay_road, user.plan, [Cell(7, 4)])
    assert study.load.trips == 6  # worked out anew with the edit
    user.choose(panel.trips, "Between those selected")
    assert study.load is None
    assert "Select the structures" in panel.words.text()
    user.session.selection.select_all([1, 2])
    assert study.load.trips == 2
    user.choose(panel.trips, "Those of the routes asked for")
    assert "Ask for routes" in panel.words.text()
    user.desk.routes.ask(1, 3)
    study.refresh()
    assert study.load.trips == 1
    user.session.select(0)
    user.choose(panel.shown, "Weak points")
    assert study.weak
    assert any(3 in weak.structures for weak in study.weak)
    tab = user.window.tray.findings
    user.window.tray.setCurrentWidget(tab)
    user.desk.proof.show_severity(Severity.NOTE, True)
    user.qtbot.waitUntil(lambda: any("would be cut off" in each.message for each in tab.rows))
    user.choose(panel.shown, "Travel time")
    assert panel.words.text() == "Select the structure to start from."
    user.session.select(1)
    assert study.times is not None
    assert study.times[1, 2] == 0
    assert "Seconds from S1 Hut" in panel.words.text()
    near = user.colour_at((2, 1), 4, 6)
    user.type(panel.band, "2")
    assert user.colour_at((8, 1), 4, 6) != near
    user.key("S")
    assert user.session.choices.ways.shown is WaysOverlay.LOAD


def test_on_a_large_plan_studies_wait_to_be_asked_again(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(asking, "AT_ONCE", 0)
    user = ways(make_window, TOWN, [(2, 0), (9, 0)])
    study, panel = user.desk.study, user.window.bench.ways.study
    user.choose(panel.shown, "Load of trips")
    user.idle()
    assert study.load is not None
    assert not panel.again.isVisible()
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.click((5, 1))
    assert study.stale
    assert panel.words.text() == "The plan has changed since."
    user.push(panel.again)
    user.idle()
    assert study.load.trips == 0
    # A result for an older plan is dropped.
    study.refresh()
    user.click((8, 1))
    user.idle()
    assert study.stale
    user.window.tray.setCurrentWidget(user.window.tray.findings)
    user.idle()
    assert user.session.document.misses.ready


def test_costs_between_structures_are_shown_and_taken_out(
    make_window: Make, tmp_path: Path
) -> None:
    user = ways(make_window, TOWN, [(2, 0), (9, 0), (9, 4)])
    user.push(user.window.bench.ways.matrix)
    sheet = user.sheet_of(MatrixSheet)
    user.idle()
    assert sheet.model.matrix is not None
    found = [[sheet.model.index(r, c).data() for c in range(3)] for r in range(3)]
    assert found == [["0", "168", "–"], ["168", "0", "–"], ["–", "–", "0"]]
    out = tmp_path / "costs.csv"
    sheet.choose_out = lambda _title, _start: str(out)
    user.push(sheet.out)
    assert out.read_text().startswith("from,S1,S2,S3\nS1,0,168,\n")
    sheet.choose_out = lambda _title, _start: str(tmp_path / "no" / "where.csv")
    user.push(sheet.out)
    assert "where.csv" in sheet.words.text()
    index = sheet.table.visualRect(sheet.model.index(0, 1)).center()
    QTest.mouseClick(sheet.table.viewport(), Qt.MouseButton.LeftButton, pos=index)
    assert user.desk.routes.current is not None
    sheet.close()
    user.back()
    np.testing.assert_allclose(sheet.numbers, (1, 2, 3))


def test_the_routes_that_were_asked_for_go_out(make_window: Make, tmp_path: Path) -> None:
    user = routed(make_window)
    user.key("U")
    user.key("Shift+U")
    exchange = user.window.exchange
    out = tmp_path / "routes"
    exchange.choose_out = lambda _title, _start: str(out)
    user.window.actions_.by_name["file.out_routes_csv"].trigger()
    user.idle()
    lines = out.with_suffix(".csv").read_text().splitlines()
    assert lines[0] == "route,from,to,step,col,row,x,y,cost"
    assert {line.split(",")[0] for line in lines[1:]} == {"1"}
    user.desk.routes.ask(2, 1)
    user.window.actions_.by_name["file.out_routes_lines"].trigger()
    user.idle()
    assert len(json.loads(out.with_suffix(".geojson").read_text())["features"]) == 2
    exchange.choose_out = lambda _title, _start: str(tmp_path / "roads.csv")
    user.window.actions_.by_name["file.out_roads_csv"].trigger()
    user.idle()
    assert (tmp_path / "roads.csv").read_text().count("\n") == user.plan.road.astype(bool).sum() + 1
    exchange.choose_out = lambda _title, _start: str(tmp_path / "nowhere" / "j.graphml")
    user.window.actions_.by_name["file.out_junctions_graphml"].trigger()
    user.idle()
    assert "j.graphml" in user.said
    assert "The plan is as it was" in user.said


def test_before_the_engine_is_ready_that_is_said(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("woven_locus.core.ways.network.TWIN_LIMIT", 3)
    monkeypatch.setattr("woven_locus.core.kernels.compiled_ready", lambda: False)
    user = ways(make_window, TOWN, [(2, 0), (9, 0)])
    panel = user.window.bench.ways.study
    user.choose(panel.shown, "Weak points")
    assert "is not ready yet" in panel.words.text()
    user.choose(panel.shown, "What is joined")
    assert user.colour_at((3, 1), 0, 4) != user.colour_at((3, 5), 0, 4)
    user.push(user.window.bench.ways.matrix)
    sheet = user.sheet_of(MatrixSheet)
    assert "is not ready yet" in sheet.words.text()
    sheet.close()
    user.back()
    assert "2 of 2 structures" in user.window.bench.ways.links.text()
    pin = user.desk.routes.ask(1, 2)
    user.idle()
    assert isinstance(pin.answer, Route)  # type: ignore[union-attr]


def test_a_matrix_is_stopped_and_an_outdated_one_dropped(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    user = ways(make_window, TOWN, [(2, 0), (9, 0)])
    real = matrix_sheet.route_matrix

    def slow(_plan: object, _numbers: object, stopped: Callable[[], bool], _share: object) -> None:
        while not stopped():
            time.sleep(0.005)

    monkeypatch.setattr(matrix_sheet, "route_matrix", slow)
    user.push(user.window.bench.ways.matrix)
    sheet = user.sheet_of(MatrixSheet)
    assert sheet.stop.isVisible()
    sheet.stop.click()
    user.idle()
    monkeypatch.setattr(matrix_sheet, "route_matrix", real)
    # Stopped before its answer came in: none is shown, and none can be taken out.
    assert sheet.model.matrix is None
    assert sheet.words.text() == "Stopped."
    assert not sheet.stop.isVisible()
    assert not sheet.out.isEnabled()
    sheet.close()
    user.back()
    user.push(user.window.bench.ways.matrix)
    sheet = user.sheet_of(MatrixSheet)
    user.session.attempt(edits.erase_road, user.plan, [Cell(5, 1)])
    user.idle()
    if sheet.model.matrix is None:
        assert "Dropped, since the plan changed" in sheet.words.text()
    sheet.close()
    user.back()


def test_what_is_stopped_says_so_and_can_be_asked_again(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(asking, "AT_ONCE", 0)
    monkeypatch.setattr(route_keeper, "AT_ONCE", 0)
    user = ways(make_window, TOWN, [(2, 0), (9, 0)])
    study, panel = user.desk.study, user.window.bench.ways.study
    user.idle()
    study.show(WaysOverlay.LOAD)
    for job in user.session.jobs.running:
        job.stop()
    user.idle()
    assert not study.working
    assert study.stale
    user.push(panel.again)
    user.idle()
    assert study.load is not None
    user.desk.routes.manner = Manner(moves=8)
    pin = user.desk.routes.ask(1, 2)
    assert pin is not None
    user.session.jobs.stop_all()
    user.idle()
    assert isinstance(pin.answer, NoRoute)
    assert "the search was stopped" in pin.answer.why
    user.push(user.window.bench.ways.tools[WayTool.ROAD])
    user.click((0, 6))
    user.idle()
    assert isinstance(pin.answer, Route)


@pytest.mark.parametrize(("group", "text"), [(1, "A"), (26, "Z"), (27, "AA"), (53, "BA"), (0, "")])
def test_groups_are_lettered(group: int, text: str) -> None:
    assert letters(group) == text


def test_the_ramp_grows_darker_or_lighter_all_the_way() -> None:
    for dark in (False, True):
        light = [0.2126 * r + 0.7152 * g + 0.0722 * b for r, g, b in ramp(dark)]
        assert light == sorted(light, reverse=not dark)
