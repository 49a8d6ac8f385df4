"""Two plans in the real window: what is another is listed, shown, and followed while one edits."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, paint, put
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell
from woven_locus.files import plan_json
from woven_locus.ui.inout.compare_sheet import CompareSheet
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import colour


def opened(user: Driver, path: Path, qtbot: QtBot) -> CompareSheet:
    """By the menu."""
    user.window.exchange.choose_in = lambda _title, _kinds: str(path)
    user.window.actions_.by_name["file.compare"].trigger()
    qtbot.waitUntil(lambda: user.desk.compared.lines is not None)
    (sheet,) = [
        w for w in QApplication.topLevelWidgets() if isinstance(w, CompareSheet) and w.isVisible()
    ]
    return sheet


def texts(sheet: CompareSheet) -> list[str]:
    items = (sheet.list.item(row) for row in range(sheet.list.count()))
    return [item.text() for item in items if item is not None]


def test_what_is_another_is_listed_and_followed(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    old = draw("........\n========\n........\n........")
    put(old, "hut", 0, 0)
    path = tmp_path / "before.plan.json"
    plan_json.save(old, path)
    plan = plan_json.load(path)
    History(plan).do(paint(plan, [Cell(5, 2), Cell(6, 3)], 1))
    put(plan, "hut", 7, 0)
    user = make_window(plan)
    sheet = opened(user, path, qtbot)
    found = texts(sheet)
    assert found[0].startswith("~ terrain: 2 cells from 5, 2 to 6, 3")
    assert "+ structures S2 hut" in found
    assert sheet.head.text().startswith("Since before.plan.json: ")
    # Choosing one goes there; with keys, too.
    sheet.list.setCurrentRow(found.index("+ structures S2 hut"))
    assert user.session.selection.front == 2
    # The sheet stitches round it.
    user.settle()
    picture = user.sheet.grab().toImage()
    heather = colour(user.window.theme.palette.heather).name()
    places = ((px, py) for px in range(picture.width()) for py in range(picture.height()))
    assert any(picture.pixelColor(*place).name() == heather for place in places)
    # An edit is followed, and so is taking it back.
    user.session.attempt(lambda p: paint(p, [Cell(2, 3)], 1), user.plan)
    qtbot.waitUntil(lambda: texts(sheet)[1].startswith("~ terrain: 1 cell at 2, 3"))
    while user.session.document.history.can_undo:
        user.window.actions_.by_name["edit.undo"].trigger()
    qtbot.waitUntil(lambda: texts(sheet) == found)
    sheet.words.setText("structures s2")
    assert texts(sheet) == ["+ structures S2 hut"]
    QTest.keyClick(sheet, Qt.Key.Key_Escape)
    assert user.desk.compared.path is None
    assert user.desk.compared.lines is None


def test_the_same_plan_and_one_that_cannot_be_read(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    user = make_window(draw("....\n===="))
    path = tmp_path / "same.plan.json"
    plan_json.save(user.plan, path)
    sheet = opened(user, path, qtbot)
    assert sheet.head.text() == "The same as same.plan.json."
    sheet.close()
    path.write_text("{")
    user.window.exchange.choose_in = lambda _title, _kinds: str(path)
    with qtbot.waitSignal(user.session.said) as said:
        user.window.actions_.by_name["file.compare"].trigger()
    assert str(path) in said.args[0]
    qtbot.waitUntil(lambda: user.desk.compared.path is None)
    # Nobody chose one.
    user.window.exchange.choose_in = lambda _title, _kinds: ""
    user.window.actions_.by_name["file.compare"].trigger()
    assert user.desk.compared.path is None


def test_another_program_writes_the_other_plan(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    user = make_window(draw("....\n===="))
    path = tmp_path / "other.plan.json"
    plan_json.save(user.plan, path)
    sheet = opened(user, path, qtbot)
    other = plan_json.load(path)
    put(other, "hut", 0, 0)
    # Put in its place, twice: once is not the end of it.
    plan_json.save(other, path)
    qtbot.waitUntil(lambda: "- structures S1 hut" in texts(sheet))
    plan_json.save(user.plan, path)
    qtbot.waitUntil(lambda: not texts(sheet))
    # Written to, and half of it: what was known stays.
    path.write_text(plan_json.dump(other).decode()[:40])
    user.session.attempt(lambda p: paint(p, [Cell(1, 0)], 1), user.plan)
    with qtbot.waitSignal(user.session.said) as said:
        pass
    assert str(path) in said.args[0]
    path.write_bytes(plan_json.dump(other))
    qtbot.waitUntil(lambda: "- structures S1 hut" in texts(sheet))
    # Gone: as it was.
    path.unlink()
    user.window.actions_.by_name["edit.undo"].trigger()
    qtbot.waitUntil(lambda: not any("terrain" in text for text in texts(sheet)))
    assert "- structures S1 hut" in texts(sheet)
    assert user.desk.compared.path == path
    sheet.close()
    assert user.desk.compared._files.held == []


def test_a_single_difference_is_taken_over_as_one_step(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    old = draw("........\n========\n........\n........")
    put(old, "hut", 0, 0)
    path = tmp_path / "before.plan.json"
    plan_json.save(old, path)
    plan = plan_json.load(path)
    History(plan).do(edits.demolish(plan, [1]))
    History(plan).do(paint(plan, [Cell(0, 2), Cell(7, 3)], 1))
    user = make_window(plan)
    sheet = opened(user, path, qtbot)

    def choose(words: str) -> None:
        (at,) = [k for k, text in enumerate(texts(sheet)) if words in text]
        sheet.list.setCurrentRow(at)

    choose("structures S1 hut")
    qtbot.mouseClick(sheet.take, Qt.MouseButton.LeftButton)
    assert user.plan.register[1].cell == (0, 0)
    assert user.session.document.history.entries == [
        "Took over from before.plan.json: structures S1 hut"
    ]
    qtbot.waitUntil(lambda: not any("structures S1" in text for text in texts(sheet)))
    # Only one of the two pieces of ground.
    choose("1 cell at 7, 3")
    qtbot.mouseClick(sheet.take, Qt.MouseButton.LeftButton)
    assert (user.plan.terrain[3, 7], user.plan.terrain[2, 0]) == (0, 1)
    user.window.actions_.by_name["edit.undo"].trigger()
    assert user.plan.terrain[3, 7] == 1
    user.window.actions_.by_name["edit.undo"].trigger()
    assert len(user.plan.register) == 0
    # What does not stand is said, and nothing is done.
    put(user.plan, "hut", 1, 0)
    user.session.attempt(lambda: edits.demolish(user.plan, [1]))
    user.session.attempt(lambda: edits.lay_road(user.plan, [Cell(0, 0)]))
    qtbot.waitUntil(lambda: any("roads: 1 cell at 0, 0" in text for text in texts(sheet)))
    revision = user.session.document.revision
    choose("structures S1 hut")
    qtbot.mouseClick(sheet.take, Qt.MouseButton.LeftButton)
    assert "road runs at 0, 0" in user.said or "would run under S1" in user.said
    assert user.session.document.revision == revision
    # What only follows is not taken over.
    sheet.list.setCurrentRow(len(texts(sheet)) - 1)
    assert "finding" in texts(sheet)[-1]
    assert not sheet.take.isEnabled()


def test_the_other_plan_is_shown_and_back_with_a_key(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    old = draw("....\n....")
    path = tmp_path / "before.plan.json"
    plan_json.save(old, path)
    plan = plan_json.load(path)
    History(plan).do(paint(plan, [Cell(c, 0) for c in range(4)], 2))
    user = make_window(plan)
    with qtbot.waitSignal(user.session.said) as said:
        user.window.actions_.by_name["file.turn"].trigger()
    assert "Compare with" in said.args[0]
    opened(user, path, qtbot)
    user.settle()

    def shown() -> str:
        user.settle()
        place = user.sheet.place_of(Cell(1, 0)).toPoint()
        # Away from the stitches and the grid.
        return user.sheet.grab().toImage().pixelColor(place.x() + 9, place.y() + 9).name()

    ours = shown()
    user.window.activateWindow()
    QTest.keyClick(user.sheet, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    assert user.desk.compared.turned
    theirs = shown()
    assert theirs != ours
    # A press goes back, and does nothing else.
    user.session.set_stage(Stage.GROUND)
    before = user.session.document.revision
    user.click(Cell(1, 1))
    assert not user.desk.compared.turned
    assert user.session.document.revision == before
    # An edit shows what was edited.
    user.desk.compared.turn(True)
    user.session.attempt(lambda: paint(user.plan, [Cell(3, 1)], 1))
    assert not user.desk.compared.turned
