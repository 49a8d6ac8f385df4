"""Survey and Ground in the real window."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.ui.conftest import Driver
from woven_locus.core.grid import Rule
from woven_locus.ui.bench.survey.grid_sheet import GridSheet
from woven_locus.ui.stages import Stage


def test_the_window_opens_on_the_whole_vale(vale: Driver) -> None:
    window = vale.window
    assert window.windowTitle().startswith("Selvedge Vale")
    assert vale.sheet.camera.visible() == vale.plan.spec.box
    assert [b.text() for b in window.thread_.buttons.values()] == [
        "Survey",
        "Ground",
        "Build",
        "Ways",
        "Traffic",
    ]
    assert window.tray.register.model().rowCount() == 12
    vale.qtbot.waitUntil(lambda: window.thread_.buttons[Stage.WAYS].count == 2)


def test_the_reading_works_out_where_the_pointer_is(vale: Driver) -> None:
    reading = vale.window.reading
    vale.point((20, 17))
    shown = reading.where.text()
    assert "strict    20, 17  index 1108" in shown
    assert "virtual   20, 17" in shown
    assert "on it     S3 Dye works" in shown
    assert "centre    492, 420" in shown
    assert "floor(20." in reading.working.text()
    assert vale.window.status.cell.text() == "cell 20, 17"
    QTest.mouseMove(vale.sheet, vale.at((-2, 4)))
    vale.settle()
    assert "strict    no cell (outside the grid)" in reading.where.text()
    assert "virtual   \u22122, 4" in reading.where.text()
    assert "Outside the grid" not in reading.verdict.title
    assert reading.verdict.title == "Build on \u22122, 4: no"


def test_the_figures_can_be_copied(vale: Driver) -> None:
    vale.point((20, 17))
    working = vale.window.reading.working
    working.actions()[0].trigger()
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert clipboard.text() == working.text() != ""


def test_switching_the_rule_changes_the_working_at_once(vale: Driver) -> None:
    survey = vale.window.bench.survey
    vale.point((20, 20))
    assert vale.window.reading.working_title.text() == "Working: centre"
    vale.push(survey.rules[Rule.INTERSECTION])
    assert vale.session.snap_settings.rule is Rule.INTERSECTION
    vale.point((20, 20))
    assert "+ 1/2) =" in vale.window.reading.working.text()
    step = survey.rule.step_x
    step.setFocus()
    step.lineEdit().selectAll()  # type: ignore[union-attr]
    QTest.keyClicks(step, "100")
    QTest.keyClick(step, Qt.Key.Key_Return)
    vale.point((20, 20))
    assert vale.session.hover is not None
    assert vale.session.hover.snapped.at == (500, 504)


def test_a_new_plan_gets_the_grid_that_was_asked_for(vale: Driver) -> None:
    vale.push(vale.window.bench.survey.new_plan)
    sheet = vale.window.findChild(GridSheet)
    assert sheet is not None
    for box, keys in ((sheet.cols, "30"), (sheet.rows, "20"), (sheet.first_col, "-5")):
        box.setFocus()
        box.selectAll()
        QTest.keyClicks(box, keys)
    assert "30 × 20 = 600" in sheet.facts.text()
    sheet.cell_h.setFocus()
    sheet.cell_h.selectAll()
    QTest.keyClicks(sheet.cell_h, "0")
    assert "height must be a number above 0" in sheet.problem.text()
    assert not sheet.make.isEnabled()  # type: ignore[union-attr]
    sheet.cell_h.selectAll()
    QTest.keyClicks(sheet.cell_h, "12")
    vale.push(sheet.make)  # type: ignore[arg-type]
    spec = vale.plan.spec
    assert (spec.cols, spec.rows, spec.cell_h, spec.first_col) == (30, 20, 12, -5)
    assert len(vale.plan.register) == 0
    assert "30 × 20" in vale.window.bench.survey.facts.text()


def test_the_arrow_keys_drive_a_cell_cursor(vale: Driver) -> None:
    vale.point((20, 20))
    vale.sheet.setFocus()
    QTest.keyClick(vale.sheet, Qt.Key.Key_Right)
    QTest.keyClick(vale.sheet, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert vale.session.hover is not None
    assert vale.session.hover.cell == (21, 28)
    for _ in range(99):
        QTest.keyClick(vale.sheet, Qt.Key.Key_Left)
    assert vale.session.hover.cell == (0, 28)


GROUND = "\n".join(["." * 16] * 12)


def test_painting_terrain_is_one_step_and_can_be_undone(make_window: Callable[..., Driver]) -> None:
    user = make_window(GROUND)
    user.key("F3")
    assert user.session.stage is Stage.GROUND
    page = user.window.bench.ground
    user.push(page.buttons[3])
    page.brush.slider.setFocus()
    QTest.keyClick(page.brush.slider, Qt.Key.Key_Home)
    assert user.session.ground.brush.size == 1
    user.point((1, 1))
    before = user.colour_at((5, 5))
    user.drag((5, 5), (9, 5))
    assert user.plan.terrain[5].tolist() == [0] * 5 + [3] * 5 + [0] * 6
    user.point((1, 1))
    assert user.colour_at((7, 5)) != before
    assert user.window.tray.history.item(1).text().endswith("Painted stream")  # type: ignore[union-attr]
    user.key("Ctrl+Z")
    assert not user.plan.terrain.any()
    assert user.colour_at((7, 5)) == before
    user.key("Ctrl+Shift+Z")
    assert user.plan.terrain.sum() == 15


def test_esc_drops_the_stroke_in_hand(make_window: Callable[..., Driver]) -> None:
    user = make_window(GROUND)
    user.key("F3")
    user.push(user.window.bench.ground.buttons[2])
    user.press((3, 3))
    user.to((9, 9))
    assert user.plan.terrain.any()
    user.key("Esc")
    user.release((9, 9))
    assert not user.plan.terrain.any()
    assert not user.session.document.history.can_undo


def test_a_drag_off_the_map_paints_up_to_the_edge(make_window: Callable[..., Driver]) -> None:
    user = make_window(GROUND)
    user.key("F3")
    user.push(user.window.bench.ground.buttons[2])
    user.session.set_brush(size=1)
    user.drag((13, 4), (19, 4))
    assert user.plan.terrain[4].tolist() == [0] * 13 + [2] * 3
    user.drag((3, 3), (3, -2), (3, 1))
    assert user.plan.terrain[:4, 3].tolist() == [2] * 4


def test_the_history_tray_goes_back_and_forward(make_window: Callable[..., Driver]) -> None:
    user = make_window(GROUND)
    user.key("F3")
    for code in (1, 2, 3):
        user.push(user.window.bench.ground.buttons[code])
        user.click((code * 4, 5))
    tray = user.window.tray
    tray.setCurrentWidget(tray.history)
    user.settle()
    where = tray.history.visualItemRect(tray.history.item(1)).center()
    QTest.mouseClick(tray.history.viewport(), Qt.MouseButton.LeftButton, pos=where)
    assert user.session.document.history.position == 1
    assert sorted(set(user.plan.terrain.ravel().tolist())) == [0, 1]
    assert "undone" in tray.history.item(3).text()  # type: ignore[union-attr]
