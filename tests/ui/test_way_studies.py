"""Studies of the road network in the window: what lies over the map, costs, lines that are laid."""

import json
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.ui.test_ways import TOWN, Make, routed, ways
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.proof.finding import Severity
from woven_locus.core.routing import Manner, NoRoute, Route
from woven_locus.ui.answers import routes as route_keeper
from woven_locus.ui.bench.ways import matrix_sheet
from woven_locus.ui.bench.ways.matrix_sheet import MatrixSheet
from woven_locus.ui.jobs import asking
from woven_locus.ui.session.stages import WaysOverlay, WayTool
from woven_locus.ui.sheet.overlays.tints import letters, ramp
from woven_locus.ui.theme import number_font

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
