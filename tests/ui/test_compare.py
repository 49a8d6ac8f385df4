"""Two plans in the real window: what is another is listed, shown, and followed while one edits."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, paint, put
from tests.ui.conftest import Driver
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell
from woven_locus.files import plan_json
from woven_locus.ui.inout.compare_sheet import CompareSheet
from woven_locus.ui.theme import colour


def opened(user: Driver, path: Path, qtbot: QtBot) -> CompareSheet:
    """By the menu."""
    user.window.exchange.choose_in = lambda _title, _kinds: str(path)
    user.window.actions_.by_name["file.compare"].trigger()
    qtbot.waitUntil(lambda: user.desk.compared.lines is not None, timeout=20_000)
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
    before = len(found)
    user.session.attempt(lambda p: paint(p, [Cell(2, 3)], 1), user.plan)
    qtbot.waitUntil(lambda: "3 cells" in texts(sheet)[0], timeout=20_000)
    while user.session.document.history.can_undo:
        user.window.actions_.by_name["edit.undo"].trigger()
    qtbot.waitUntil(lambda: "2 cells" in texts(sheet)[0], timeout=20_000)
    assert len(texts(sheet)) == before
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
    with qtbot.waitSignal(user.session.said, timeout=20_000) as said:
        user.window.actions_.by_name["file.compare"].trigger()
    assert str(path) in said.args[0]
    qtbot.waitUntil(lambda: user.desk.compared.path is None, timeout=20_000)
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
    qtbot.waitUntil(lambda: "- structures S1 hut" in texts(sheet), timeout=20_000)
    plan_json.save(user.plan, path)
    qtbot.waitUntil(lambda: not texts(sheet), timeout=20_000)
    # Written to, and half of it: what was known stays.
    path.write_text(plan_json.dump(other).decode()[:40])
    user.session.attempt(lambda p: paint(p, [Cell(1, 0)], 1), user.plan)
    with qtbot.waitSignal(user.session.said, timeout=20_000) as said:
        pass
    assert str(path) in said.args[0]
    path.write_bytes(plan_json.dump(other))
    qtbot.waitUntil(lambda: "- structures S1 hut" in texts(sheet), timeout=20_000)
    # Gone: as it was.
    path.unlink()
    user.window.actions_.by_name["edit.undo"].trigger()
    qtbot.waitUntil(lambda: not any("terrain" in text for text in texts(sheet)), timeout=20_000)
    assert "- structures S1 hut" in texts(sheet)
    assert user.desk.compared.path == path
    sheet.close()
    assert not user.desk.compared._files.directories()
