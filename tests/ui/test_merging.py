"""Two people's plans brought together in the real window."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, paint, put
from tests.helpers.state import assert_derived_is_current, recorded
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.compare import merge
from woven_locus.core.editing import Edit, History, NameChange
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.ui.inout.merge_sheet import MergeSheet


def sides(tmp_path: Path) -> tuple[Plan, Path, Path]:
    """Ours, and the files of theirs and of the base: two conflicts, and something that only they did."""
    base = draw("........\n========\n........\n........")
    paths = tmp_path / "theirs.plan.json", tmp_path / "base.plan.json"
    plan_json.save(base, paths[1])
    ours, theirs = (plan_json.load(paths[1]) for _ in range(2))
    for side, code in ((ours, 1), (theirs, 2)):
        History(side).do(paint(side, [Cell(0, 0)], code))
        History(side).do(Edit("Renamed", (NameChange(side.name, f"Side {code}"),)))
    put(theirs, "hut", 7, 0)
    plan_json.save(theirs, paths[0])
    return ours, *paths


def opened(user: Driver, theirs: Path, base: Path, qtbot: QtBot) -> MergeSheet:
    """By the menu, with the base chosen in the sheet."""
    answers = [str(theirs), str(base)]
    user.window.exchange.choose_in = lambda _title, _kinds: answers.pop(0)
    user.window.actions_.by_name["file.merge"].trigger()
    sheet = user.sheet_of(MergeSheet)
    assert not sheet.make.isEnabled()
    assert "both began with" in sheet.problem.text()
    sheet._other_base()
    known(sheet, qtbot)
    return sheet


def known(sheet: MergeSheet, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: sheet.make.isEnabled())


def rows(sheet: MergeSheet) -> list[tuple[str, ...]]:
    found = []
    for row in range(sheet.table.rowCount()):
        items = [sheet.table.item(row, column) for column in range(4)]
        found.append(tuple(item.text() for item in items if item is not None))
    return found


def test_two_sides_are_merged_as_one_step(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    ours, theirs, base = sides(tmp_path)
    user = make_window(ours)
    before = recorded(user.plan)
    sheet = opened(user, theirs, base, qtbot)
    keys = [item.key for item in ours.terrain_table]
    assert [row[1:] for row in rows(sheet)] == [
        (keys[1], keys[2], "ours"),
        ("Side 1", "Side 2", "ours"),
    ]
    assert sheet.state.text() == ("2 conflicts, for which ours is kept; 1 finding comes with it")
    texts = [sheet.list.item(k).text() for k in range(sheet.list.count())]  # type: ignore[union-attr]
    assert "+ structures S1 hut" in texts
    # Theirs for the ground, and for the name and back.
    sheet.table.selectRow(0)
    qtbot.mouseClick(sheet.theirs_button, Qt.MouseButton.LeftButton)
    known(sheet, qtbot)
    assert [row[3] for row in rows(sheet)] == ["theirs", "ours"]
    sheet.table.selectRow(1)
    qtbot.mouseClick(sheet.theirs_button, Qt.MouseButton.LeftButton)
    known(sheet, qtbot)
    assert sheet.state.text().startswith("No conflict")
    sheet.table.selectRow(1)
    qtbot.mouseClick(sheet.ours_button, Qt.MouseButton.LeftButton)
    known(sheet, qtbot)
    assert recorded(user.plan) == before
    qtbot.mouseClick(sheet.make, Qt.MouseButton.LeftButton)
    wanted = merge(plan_json.load(base), ours, plan_json.load(theirs)).plan
    assert user.plan.terrain[0, 0] == 2
    assert user.plan.name == "Side 1"
    assert user.plan.register[1].cell == (7, 0)
    assert user.plan.register.next_number == wanted.register.next_number
    assert_derived_is_current(user.plan)
    assert user.session.document.history.entries == ["Merged theirs.plan.json"]
    assert "ours was kept in 1 conflict" in user.said
    user.window.actions_.by_name["edit.undo"].trigger()
    assert recorded(user.plan) == before


def test_a_merge_is_of_the_plan_that_was_asked_about(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    ours, theirs, base = sides(tmp_path)
    user = make_window(ours)
    sheet = opened(user, theirs, base, qtbot)
    user.session.attempt(lambda: edits.lay_road(user.plan, [Cell(3, 3)]))
    before = recorded(user.plan)
    qtbot.mouseClick(sheet.make, Qt.MouseButton.LeftButton)
    assert "changed meanwhile" in user.said
    assert recorded(user.plan) == before


def test_a_file_that_is_no_plan_and_a_sheet_that_is_left(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    ours, theirs, base = sides(tmp_path)
    user = make_window(ours)
    before = recorded(user.plan)
    sheet = opened(user, theirs, base, qtbot)
    broken = tmp_path / "broken.plan.json"
    broken.write_text("{")
    sheet.keeper.take(theirs=broken)
    qtbot.waitUntil(lambda: str(broken) in sheet.problem.text())
    assert not sheet.make.isEnabled()
    assert rows(sheet) == []
    sheet.keeper.take(theirs=theirs)
    known(sheet, qtbot)
    # Stopped and left: nothing was done.
    sheet.keeper.ask()
    user.session.jobs.stop_all()
    sheet.reject()
    user.idle()
    assert recorded(user.plan) == before
    assert user.session.document.history.entries == []
    # Nobody chose a plan; and not in the middle of a stroke.
    user.window.exchange.choose_in = lambda _title, _kinds: ""
    user.window.actions_.by_name["file.merge"].trigger()
    with user.session.document.history.gesture("A stroke"):
        user.window.actions_.by_name["file.merge"].trigger()
        assert "end the stroke" in user.said


def test_theirs_written_anew_under_the_sheet_is_what_is_merged(
    make_window: Callable[..., Driver], tmp_path: Path, qtbot: QtBot
) -> None:
    ours, theirs, base = sides(tmp_path)
    user = make_window(ours)
    sheet = opened(user, theirs, base, qtbot)
    other = plan_json.load(theirs)
    put(other, "hut", 5, 0)
    plan_json.save(other, theirs)
    # Nothing old can be merged from the moment on in which it is noticed.
    qtbot.waitUntil(lambda: not sheet.make.isEnabled())
    known(sheet, qtbot)
    user.push(sheet.make)
    user.back()
    assert {row.cell for row in user.plan.register} == {Cell(7, 0), Cell(5, 0)}
    # Half a file is no plan, and says so; a whole one mends it.
    sheet = opened(user, theirs, base, qtbot)
    whole = theirs.read_bytes()
    theirs.write_bytes(whole[: len(whole) // 2])
    qtbot.waitUntil(lambda: theirs.name in sheet.problem.text())
    assert not sheet.make.isEnabled()
    theirs.write_bytes(whole)
    known(sheet, qtbot)
    # One that is gone is merged as it was read.
    with qtbot.waitSignal(sheet.keeper._files.written):
        theirs.unlink()
    assert sheet.make.isEnabled()
    sheet.reject()
