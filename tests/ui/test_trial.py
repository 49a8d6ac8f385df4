"""A trial in the real window: run, stopped, gone on, looked at, and a plan opened as one of its runs had it."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, put
from tests.ui.conftest import Driver
from woven_locus.core.lanes import KeepSide
from woven_locus.core.vehicles import TrafficPlan, Trip
from woven_locus.files import plan_json
from woven_locus.ui.inout.trial_charts import _rounded
from woven_locus.ui.inout.trial_sheet import TrialSheet


@pytest.fixture
def path(tmp_path: Path) -> Path:
    town = draw("......\n======\n..=...\n..=...\n......", cell=(24, 24))
    put(town, "hut", 0, 0)
    put(town, "hut", 3, 3)
    town.traffic = TrafficPlan(trips=(Trip(1, 2, 0.0, "", 5.0, 4),))
    plan_json.save(town, tmp_path / "town.plan.json")
    found = tmp_path / "town.toml"
    found.write_text(
        'plan = "town.plan.json"\nrun = "traffic"\nseconds = 10\nnote = ["wanted", "mean_trip", "digest"]\n'
        '[vary]\nkeep = ["right", "left"]\nseed = "0..2"\n'
    )
    return found


def opened(user: Driver, path: Path, qtbot: QtBot) -> TrialSheet:
    user.window.exchange.choose_in = lambda _title, _kinds: str(path)
    user.window.actions_.by_name["file.trial"].trigger()
    sheet = user.sheet_of(TrialSheet)
    qtbot.waitUntil(lambda: sheet.keeper.results is not None or bool(sheet.keeper.problem))
    return sheet


def test_a_trial_is_run_and_a_plan_opened_as_in_one_of_its_runs(
    make_window: Callable[..., Driver], qtbot: QtBot, path: Path
) -> None:
    user = make_window(draw("....\n...."))
    sheet = opened(user, path, qtbot)
    assert sheet.state.text() == "0 of 6 runs"
    assert not sheet.open_plan.isEnabled()
    user.push(sheet.run)
    assert sheet.run.text() == "Stop"
    qtbot.waitUntil(lambda: sheet.state.text() == "6 of 6 runs")
    qtbot.waitUntil(lambda: not sheet.keeper.running)
    assert not sheet.run.isEnabled()
    assert path.with_suffix(".csv").read_text().count("\n") == 7
    assert sheet.table is not None
    assert sheet.table.figures.rows[4][:2] == ("left", 1)
    for chart in (sheet.spread.chart, sheet.lines.chart):
        qtbot.waitUntil(lambda chart=chart: chart.plot is not None)
    assert [sheet.noted.itemText(k) for k in range(sheet.noted.count())] == ["wanted", "mean_trip"]
    sheet.by.setCurrentText("keep")
    user.settle()
    # Two boxes, and a line for each value that lines are told apart by.
    names = [type(item).__name__ for item in sheet.spread.chart.plot.items()]
    assert names.count("BarGraphItem") == 2
    curves = [type(item).__name__ for item in sheet.lines.chart.plot.items()]
    assert curves.count("PlotDataItem") == 2
    # The plan of a run, as something new that no file holds.
    sheet.table.picked.emit(4)
    curves = [type(item).__name__ for item in sheet.lines.chart.plot.items()]
    assert curves.count("PlotDataItem") == 3
    user.push(sheet.open_plan)
    qtbot.waitUntil(lambda: user.plan.keep is KeepSide.LEFT)
    assert user.plan.name.endswith("(keep left, seed 1)")
    assert user.session.document.path is None
    assert not user.session.document.history.saved
    assert (user.desk.traffic.seed, user.desk.waves.seed) == (1, 1)
    user.desk.traffic.begin(go=False)
    qtbot.waitUntil(lambda: user.desk.traffic.run is not None)
    run = user.desk.traffic.run
    assert run is not None
    assert run.seed == 1
    sheet.close()


def test_a_trial_that_is_stopped_goes_on_where_it_was(
    make_window: Callable[..., Driver], qtbot: QtBot, path: Path
) -> None:
    path.write_text(path.read_text().replace("0..2", "0..1999"))
    user = make_window(draw("....\n...."))
    sheet = opened(user, path, qtbot)
    user.push(sheet.run)
    qtbot.waitUntil(lambda: not sheet.state.text().startswith("0 of"))
    user.push(sheet.run)
    qtbot.waitUntil(lambda: not sheet.keeper.running)
    assert sheet.keeper.problem == ""
    known = path.with_suffix(".csv").read_bytes()
    done = known.count(b"\n") - 1
    assert 0 < done < 4000
    # Killed, which is not Stop: what is on disk stays, and is read.
    user.push(sheet.run)
    process = sheet.keeper._process
    assert process is not None
    qtbot.waitUntil(lambda: path.with_suffix(".csv").read_bytes().count(b"\n") - 1 > done)
    process.kill()
    qtbot.waitUntil(lambda: not sheet.keeper.running)
    assert path.with_suffix(".csv").read_bytes().startswith(known)
    assert sheet.run.text() == "Run"
    # Closing the sheet stops what it began.
    user.push(sheet.run)
    process = sheet.keeper._process
    assert process is not None
    qtbot.waitUntil(lambda: process.processId() > 0)
    sheet.close()
    qtbot.waitUntil(lambda: not sheet.keeper.running)


def test_another_program_writes_the_table_and_what_is_wrong_is_said(
    make_window: Callable[..., Driver], qtbot: QtBot, path: Path, tmp_path: Path
) -> None:
    user = make_window(draw("....\n...."))
    sheet = opened(user, path, qtbot)
    table = path.with_suffix(".csv")
    table.write_text("something,else\n")
    qtbot.waitUntil(lambda: "something other" in sheet.problem.text())
    assert not sheet.run.isEnabled()
    table.unlink()
    qtbot.waitUntil(lambda: not sheet.problem.text())
    path.write_text("plan = 3")
    qtbot.waitUntil(lambda: str(path) in sheet.problem.text())
    sheet.close()
    broken = opened(user, tmp_path / "none.toml", qtbot)
    assert "none.toml" in broken.problem.text()
    qtbot.keyClick(broken, Qt.Key.Key_Escape)
    assert not broken.isVisible()


def test_the_ends_of_an_axis_are_written_out() -> None:
    ends = (0.0, 0.25, 1.0 / 3.0, 11.0, 999.6, 1256.4, -40_000.0, 2.5e9)
    said = ["0", "0.25", "0.333", "11", "1,000", "1,256", "-40,000", "2.5e+09"]
    assert [_rounded(end) for end in ends] == said
