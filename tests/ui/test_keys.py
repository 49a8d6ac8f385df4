"""Keys: each shown, changed, and none taken from another."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest

from tests.ui.conftest import Driver
from woven_locus.ui.actions.key_sheet import KeySheet
from woven_locus.ui.actions.table import ACTIONS
from woven_locus.ui.session.stages import Stage


def test_the_key_sheet_shows_every_key(vale: Driver) -> None:
    vale.key("F1")
    sheet = vale.window.findChild(KeySheet)
    assert sheet is not None
    assert sheet.isVisible()
    shown = {name: edit.keySequence().toString() for name, edit in sheet.edits.items()}
    assert shown == {action.name: QKeySequence(action.key).toString() for action in ACTIONS}
    sheet.close()


def test_a_key_can_be_changed_but_not_taken_from_another(vale: Driver) -> None:
    vale.key("F1")
    sheet = vale.window.findChild(KeySheet)
    assert sheet is not None
    turn = sheet.edits["edit.turn"]
    turn.setFocus()
    QTest.keyClick(turn, Qt.Key.Key_Y)
    vale.qtbot.waitUntil(lambda: vale.window.actions_.key_of("edit.turn") == "Y")
    move = sheet.edits["edit.move"]
    move.setFocus()
    QTest.keyClick(move, Qt.Key.Key_Y)
    vale.qtbot.waitUntil(lambda: "taken" in sheet.problem.text())
    assert vale.window.actions_.key_of("edit.move") == "M"
    assert move.keySequence().toString() == "M"
    sheet.close()
    vale.window.activateWindow()
    vale.qtbot.waitUntil(vale.window.isActiveWindow)
    vale.session.set_stage(Stage.BUILD)
    vale.session.arm("loom-hall")
    vale.key("Y")
    assert vale.session.hand.turn == 1
    vale.key("T")
    assert vale.session.hand.turn == 1
    vale.key("F1")
    again = next(s for s in vale.window.findChildren(KeySheet) if s.isVisible())
    assert again.edits["edit.turn"].keySequence().toString() == "Y"
    vale.push(again.reset)
    again.close()
    assert vale.window.actions_.key_of("edit.turn") == "T"


def test_keys_are_unique_and_fit_other_layouts() -> None:
    keys = [action.key for action in ACTIONS if action.key]
    assert len(keys) == len(set(keys))
    assert not any(sign in key for key in keys for sign in "[]{}\\|/")
    assert "Ctrl+Y" not in keys


def test_a_plain_letter_stays_a_letter_in_a_text_field(vale: Driver) -> None:
    vale.key("F4")
    vale.session.arm("loom-hall")
    vale.window.tray.register.setFocus()
    QTest.keyClick(vale.window.tray.register, Qt.Key.Key_T)
    assert vale.session.hand.turn == 0
