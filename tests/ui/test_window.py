"""The window itself: looking around, files, themes, sizes, names."""

import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, QSettings, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QWidget,
)

from tests.helpers.state import recorded
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.document.starter import new_plan
from woven_locus.files import plan_json
from woven_locus.ui.report_sheet import ReportSheet
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import scales
from woven_locus.ui.start import _catch_bugs
from woven_locus.ui.tour import STEPS


def wheel(user: Driver, cell: tuple[int, int], notches: int) -> None:
    at = QPointF(user.at(cell))
    event = QWheelEvent(
        at,
        user.sheet.mapToGlobal(at),
        QPoint(),
        QPoint(0, 120 * notches),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(user.sheet, event)
    user.settle()


def test_the_wheel_zooms_at_the_pointer(vale: Driver) -> None:
    user = vale
    user.point((20, 20))
    before, place = user.sheet.camera.scale.pw, user.at((20, 20))
    wheel(user, (20, 20), 4)
    assert user.sheet.camera.scale.pw > before
    assert (user.at((20, 20)) - place).manhattanLength() <= user.sheet.camera.scale.pw
    user.key("Home")
    assert user.sheet.camera.scale.pw == before


def test_middle_drag_and_space_drag_pan_and_edit_nothing(vale: Driver) -> None:
    start = vale.at((20, 20))
    QTest.mousePress(vale.sheet, Qt.MouseButton.MiddleButton, pos=start)
    vale.to((25, 22))
    QTest.mouseRelease(vale.sheet, Qt.MouseButton.MiddleButton, pos=start)
    assert vale.at((20, 20)) != start
    vale.key("F3")
    before, left = recorded(vale.plan), vale.sheet.camera.left
    vale.sheet.setFocus()
    QTest.keyPress(vale.sheet, Qt.Key.Key_Space)
    vale.press((20, 20))
    vale.to((30, 20))
    vale.release((30, 20))
    QTest.keyRelease(vale.sheet, Qt.Key.Key_Space)
    assert vale.sheet.camera.left < left
    assert recorded(vale.plan) == before


def test_zoom_to_the_selection_and_one_to_one(vale: Driver) -> None:
    vale.click((13, 17))
    vale.key("Ctrl+Home")
    assert vale.sheet.camera.scale.pw == 32
    vale.key("End")
    assert vale.sheet.camera.scale.pw == 24


def test_folding_the_panels_leaves_more_room_for_the_sheet(vale: Driver) -> None:
    wide, tall = vale.sheet.width(), vale.sheet.height()
    for key in ("F9", "F10", "F11"):
        vale.key(key)
    assert vale.sheet.width() > wide + 300
    assert vale.sheet.height() > tall + 100
    vale.key("F9")
    assert vale.window.bench.isVisible()


def test_changing_the_stage_leaves_plan_and_view_alone(vale: Driver) -> None:
    view = (vale.sheet.camera.left, vale.sheet.camera.top, vale.sheet.camera.step)
    before = recorded(vale.plan)
    for stage in Stage:
        vale.push(vale.window.thread_.buttons[stage])
        assert vale.session.choices.stage is stage
    assert (vale.sheet.camera.left, vale.sheet.camera.top, vale.sheet.camera.step) == view
    assert recorded(vale.plan) == before


# --- files -----------------------------------------------------------------------------------


def test_save_reopen_and_go_on(vale: Driver, tmp_path: Path) -> None:
    path = tmp_path / "mine"
    vale.window.files.choose_save = lambda: str(path)
    vale.session.attempt(edits.lay_road, vale.plan, [Cell(16, 28)])
    assert vale.window.isWindowModified()
    vale.key("Ctrl+S")
    saved = tmp_path / "mine.plan.json"
    assert saved.exists()
    assert not vale.window.isWindowModified()
    assert vale.said == f"Saved {saved}"
    before = recorded(vale.plan)
    vale.window.files.choose_open = lambda: str(saved)
    old = vale.session.document
    vale.key("Ctrl+O")
    vale.qtbot.waitUntil(lambda: vale.session.document is not old)
    assert recorded(vale.plan) == before
    assert "mine.plan.json" in vale.window.windowTitle()
    vale.click((10, 17))
    assert vale.session.selection.front == 1


def test_a_broken_file_leaves_the_open_plan_alone(vale: Driver, tmp_path: Path) -> None:
    bad = tmp_path / "bad.plan.json"
    bad.write_text('{"format": "woven-locus/plan", "version": 1, "name": 7}')
    vale.session.attempt(edits.lay_road, vale.plan, [Cell(16, 28)])
    before, document = recorded(vale.plan), vale.session.document
    vale.window.files.choose_open = lambda: str(bad)
    vale.key("Ctrl+O")
    vale.qtbot.waitUntil(lambda: "bad.plan.json" in vale.said)
    assert "name: Expected `str`, got `int`" in vale.said
    assert vale.said.endswith("The open plan is as it was.")
    assert vale.session.document is document
    assert recorded(vale.plan) == before
    assert vale.session.document.history.can_undo


def test_saving_where_nothing_can_be_written_loses_nothing(vale: Driver, tmp_path: Path) -> None:
    vale.window.files.choose_save = lambda: str(tmp_path / "no" / "such" / "x.plan.json")
    vale.session.attempt(edits.lay_road, vale.plan, [Cell(16, 28)])
    vale.key("Ctrl+S")
    assert "cannot be written" in vale.said
    assert vale.window.isWindowModified()
    assert vale.session.document.path is None


def test_half_a_stroke_is_not_saved(vale: Driver, tmp_path: Path) -> None:
    vale.window.files.choose_save = lambda: str(tmp_path / "half.plan.json")
    vale.key("F3")
    vale.press((20, 30))
    vale.to((24, 30))
    vale.key("Ctrl+S")
    assert "end the stroke" in vale.said
    assert not (tmp_path / "half.plan.json").exists()
    vale.release((24, 30))
    vale.key("Ctrl+S")
    assert (tmp_path / "half.plan.json").exists()


def test_closing_with_unsaved_changes_asks_in_the_window(vale: Driver, tmp_path: Path) -> None:
    window = vale.window
    vale.session.attempt(edits.lay_road, vale.plan, [Cell(16, 28)])
    window.close()
    assert window.isVisible()
    assert window.ask_bar.isVisible()
    assert "changes that are not saved" in window.ask_bar.label.text()
    vale.push(window.ask_bar.keep)
    assert window.isVisible()
    assert not window.ask_bar.isVisible()
    window.close()
    vale.key("Esc")
    assert window.isVisible()
    window.files.choose_save = lambda: str(tmp_path / "kept.plan.json")
    window.close()
    vale.push(window.ask_bar.save)
    assert not window.isVisible()
    assert plan_json.load(tmp_path / "kept.plan.json").road[28, 16] == 1


def test_discarding_opens_the_other_plan(vale: Driver) -> None:
    vale.session.attempt(edits.lay_road, vale.plan, [Cell(16, 28)])
    old = vale.session.document
    vale.window.files.open_demo()
    assert vale.session.document is old
    vale.push(vale.window.ask_bar.discard)
    assert vale.session.document is not old
    assert vale.plan.road[28, 16] == 0


def test_a_large_plan_is_saved_and_routed_off_the_interface(
    make_window: Callable[..., Driver], tmp_path: Path, compiled_kernels: None
) -> None:
    plan = new_plan(GridSpec(400, 300), "Large")
    plan.road[150, 10:390] = 1
    user = make_window(
        type(plan)("Large", plan.spec, plan.terrain_table, plan.kinds, road=plan.road)
    )
    for col in (10, 389):
        user.session.attempt(
            edits.place, user.plan, "spring-house", Cell(col, 149), 0, "2031-01-01T00:00:00Z"
        )
    pin = user.desk.routes.ask(1, 2)
    assert pin is not None
    user.qtbot.waitUntil(lambda: bool(pin.answer))
    assert pin.answer.length == 379  # type: ignore[union-attr]
    user.window.files.choose_save = lambda: str(tmp_path / "large.plan.json")
    user.key("Ctrl+S")
    user.qtbot.waitUntil(lambda: not user.window.isWindowModified())
    assert recorded(plan_json.load(tmp_path / "large.plan.json")) == recorded(user.plan)


# --- look ------------------------------------------------------------------------------------


def test_both_themes_are_drawn_and_differ(vale: Driver) -> None:
    light = vale.colour_at((40, 40))
    vale.window.theme.choose("dark")
    vale.settle()
    dark = vale.colour_at((40, 40))
    assert sum(dark) < sum(light) - 150
    assert vale.window.palette().window().color().lightness() < 80
    vale.window.theme.choose("light")


def test_every_control_has_a_name(vale: Driver) -> None:
    for stage in Stage:
        vale.session.set_stage(stage)
        vale.settle()
        for widget in vale.window.findChildren(QWidget):
            control = isinstance(widget, QAbstractButton | QComboBox | QAbstractSpinBox | QLineEdit)
            if not control or not widget.isVisible() or widget.parent().__class__ in (QComboBox,):
                continue
            if widget.objectName().startswith("qt_"):
                continue  # the text field inside a box that is named itself
            named = widget.accessibleName() or (
                widget.text() if isinstance(widget, QAbstractButton) else ""
            )
            assert named, (stage, widget)


def test_what_is_put_away_with_the_focus_in_it_gives_that_back(vale: Driver) -> None:
    """Else keys that belong to the map would do nothing until it was clicked."""
    window = vale.window
    window.activateWindow()
    vale.qtbot.waitUntil(window.isActiveWindow)
    window.sheet.setFocus()
    window.tour.begin()
    vale.settle()
    vale.push(window.tour.on)
    vale.push(window.tour.end)
    assert window.sheet.hasFocus()
    window.messages.say("Something", "note", "Do it", lambda: None)
    window.messages.offer.setFocus()
    vale.push(window.messages.offer)
    assert window.sheet.hasFocus()
    answers: list[str] = []
    for part in (window.sheet, window.tray.currentWidget()):
        part.setFocus()
        before = QApplication.focusWidget()
        window.ask_bar.ask("May I?", answers.append)
        assert window.ask_bar.save.hasFocus()
        vale.push(window.ask_bar.keep)
        assert QApplication.focusWidget() is before
    assert answers == ["keep", "keep"]


def test_the_tour_goes_through_the_stages_and_is_offered_once(vale: Driver) -> None:
    tour = vale.window.tour
    QSettings().remove("toured")
    tour.offer()
    assert tour.isVisible()
    assert (tour.title.text(), tour.back.isEnabled()) == ("Where am I?", False)
    before = recorded(vale.plan)
    seen = []
    for _ in STEPS:
        seen.append(vale.session.choices.stage)
        assert tour.words.height() >= tour.words.heightForWidth(tour.words.width())
        vale.push(tour.on)
    # Five steps; a plan of a valley has no waves, and what is wrong with it comes last.
    assert seen == [stage for stage in Stage if stage not in (Stage.WAVES, Stage.PROOF)]
    assert not tour.isVisible()
    assert recorded(vale.plan) == before
    tour.offer()
    assert not tour.isVisible()
    vale.window.actions_.by_name["help.tour"].trigger()
    assert tour.isVisible()
    vale.push(tour.end)
    assert not tour.isVisible()


# --- the engine and bugs ---------------------------------------------------------------------


def test_a_bug_is_said_in_the_window_and_logged(
    vale: Driver, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    monkeypatch.setattr(sys, "excepthook", sys.__excepthook__)
    _catch_bugs(vale.window)
    try:
        raise RuntimeError("a thread came loose")
    except RuntimeError as error:
        sys.excepthook(RuntimeError, error, error.__traceback__)
    assert "a thread came loose" in vale.said
    assert "The plan is still open" in vale.said
    assert "Traceback" in caplog.text
    # What was written down can be looked at and passed on.
    vale.push(vale.window.messages.offer)
    sheet = vale.sheet_of(ReportSheet)
    assert "test_window.py" in sheet.text.toPlainText()
    assert "a thread came loose" not in sheet.text.toPlainText()
    vale.push(sheet.copy)
    assert QApplication.clipboard().text() == sheet.text.toPlainText()  # type: ignore[union-attr]
    sheet.reject()
    assert not vale.said


def test_the_sheet_is_copied_as_a_picture(vale: Driver) -> None:
    vale.window.actions_.by_name["file.copy_picture"].trigger()
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert clipboard.pixmap().size() == vale.sheet.grab().size()


def test_a_hint_without_room_ends_in_an_ellipsis(vale: Driver) -> None:
    vale.session.set_stage(Stage.WAVES)
    vale.window.resize(900, 600)
    vale.settle()
    hint = vale.window.status.hint
    drawn = QLabel.text(hint)
    assert drawn.endswith("…")
    assert hint.text().startswith(drawn[:-1])
    assert hint.toolTip() == hint.text()


def test_a_message_gives_way_to_what_is_worked_on(vale: Driver) -> None:
    bar, session = vale.window.messages, vale.session
    session.say("Something to read", "no")
    foot = bar.y()
    assert foot > vale.sheet.height() // 2
    # Over the pointer's cell, and once only: whoever wants to close it reaches it then.
    under = vale.sheet.camera.cell_at(
        bar.geometry().center().x() - vale.sheet._left,
        bar.geometry().center().y() - vale.sheet._top,
    )
    vale.point(under)
    assert bar.y() < vale.sheet.height() // 2
    head = vale.sheet.camera.cell_at(
        bar.geometry().center().x() - vale.sheet._left,
        bar.geometry().center().y() - vale.sheet._top,
    )
    vale.point(head)
    assert bar.y() < vale.sheet.height() // 2
    # With something in hand it always goes.
    session.set_stage(Stage.BUILD)
    session.arm("loom-hall")
    for cell, above in ((under, True), (head, False), (under, True)):
        session.pointer.to(session.plan.spec.centre(cell))
        assert (bar.y() < vale.sheet.height() // 2) is above
        place = scales.worked_on(vale.desk, vale.sheet.camera)
        assert place is not None
        assert not place.intersects(bar.geometry())
    # A new one does not come up there either.
    session.pointer.to(session.plan.spec.centre(under))
    session.say("Something else", "note")
    place = scales.worked_on(vale.desk, vale.sheet.camera)
    assert place is not None
    assert not place.intersects(bar.geometry())
