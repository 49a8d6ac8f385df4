"""Find anything: type words, choose, Enter; in the real window."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tests.ui.conftest import Driver
from woven_locus.ui.actions.finder import Finder, Found
from woven_locus.ui.session.stages import Stage


def opened(user: Driver) -> Finder:
    """By its key."""
    user.window.activateWindow()
    QTest.keyClick(user.sheet, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    return user.sheet_of(Finder)


def found(finder: Finder) -> list[Found]:
    items = (finder.list.topLevelItem(k) for k in range(finder.list.topLevelItemCount()))
    return [item.data(0, Qt.ItemDataRole.UserRole) for item in items if item is not None]


def type_and_enter(finder: Finder, words: str) -> None:
    QTest.keyClicks(finder.words, words)
    QTest.keyClick(finder.words, Qt.Key.Key_Return)


def test_actions_are_found_by_their_words_and_done(vale: Driver) -> None:
    finder = opened(vale)
    assert len(found(finder)) > 40
    QTest.keyClicks(finder.words, "to the whole")
    QTest.keyClick(finder.words, Qt.Key.Key_Escape)
    assert vale.session.choices.stage is Stage.SURVEY
    type_and_enter(opened(vale), "stage ways")
    assert vale.session.choices.stage is Stage.WAYS
    # What cannot be done now is shown, and does nothing.
    finder = opened(vale)
    QTest.keyClicks(finder.words, "undo")
    assert [item.words for item in found(finder)][:1] == ["Undo"]
    assert found(finder)[0].run is None
    QTest.keyClick(finder.words, Qt.Key.Key_Return)
    assert finder.isVisible()
    finder.reject()


def test_kinds_structures_and_cells_are_gone_to(vale: Driver, qtbot: QtBot) -> None:
    type_and_enter(opened(vale), "loom hall off")
    finder = vale.sheet_of(Finder)
    # Of the shelf's words only the kind's own count.
    finder.words.clear()
    type_and_enter(finder, "kind loom")
    assert vale.session.choices.stage is Stage.BUILD
    assert vale.session.hand.kind is not None
    vale.session.disarm()
    number = vale.plan.register.numbers()[3]
    type_and_enter(opened(vale), f"s{number}")
    assert vale.session.selection.front == number
    finder = opened(vale)
    QTest.keyClicks(finder.words, "wool store")
    sorts = [item.sort for item in found(finder)]
    assert "Structure" in sorts
    assert "Kind" in sorts
    at = next(k for k, item in enumerate(found(finder)) if item.sort == "Structure")
    for _ in range(at):
        QTest.keyClick(finder.words, Qt.Key.Key_Down)
    name = found(finder)[at].words
    QTest.keyClick(finder.words, Qt.Key.Key_Return)
    assert name.startswith(f"S{vale.session.selection.front} ")
    type_and_enter(opened(vale), "40, 21")
    hover = vale.session.pointer.hover
    assert hover is not None
    assert hover.cell == (40, 21)
    finder = opened(vale)
    QTest.keyClicks(finder.words, "400, 21")
    assert found(finder)[0].more == "outside the grid"
    assert found(finder)[0].run is None
    finder.reject()


def test_findings_are_found_once_they_are_known(vale: Driver, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: bool(vale.desk.proof.proof.findings))
    wanted = next(item for item in vale.desk.proof.proof.findings if item.cell is not None)
    finder = opened(vale)
    finder.words.setText(f"finding {wanted.code}")
    listed = [item for item in found(finder) if item.sort == "Finding"]
    assert listed
    assert listed[0].run is not None
    QTest.keyClick(finder.words, Qt.Key.Key_Return)
    hover = vale.session.pointer.hover
    assert hover is not None
    assert hover.cell in [item.cell for item in vale.desk.proof.proof.findings]


def test_a_click_takes_what_is_clicked(vale: Driver, qtbot: QtBot) -> None:
    finder = opened(vale)
    finder.words.setText("stage traffic")
    item = finder.list.topLevelItem(0)
    assert item is not None
    place = finder.list.visualItemRect(item).center()
    qtbot.mouseClick(finder.list.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert vale.session.choices.stage is Stage.TRAFFIC
