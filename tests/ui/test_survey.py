"""Survey in the real window."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.ui.conftest import Driver
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import BuildWindow, Rule, SnapSettings
from woven_locus.core.grid.art import Art
from woven_locus.core.grid.probe import Actor
from woven_locus.core.value import replace
from woven_locus.document import Document
from woven_locus.files import plan_json
from woven_locus.ui.inout.new_plan_sheet import NewPlanSheet
from woven_locus.ui.session.stages import Stage


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
        "Waves",
        "Proof",
    ]
    assert window.tray.register.model().rowCount() == 15
    vale.qtbot.waitUntil(lambda: window.thread_.buttons[Stage.WAYS].count == 5)


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
    assert "strict    no cell, outside the grid" in reading.where.text()
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
    assert vale.session.choices.snap.rule is Rule.INTERSECTION
    vale.point((20, 20))
    assert "+ 1/2) =" in vale.window.reading.working.text()
    step = survey.rule.step_x
    step.setFocus()
    step.lineEdit().selectAll()  # type: ignore[union-attr]
    QTest.keyClicks(step, "100")
    QTest.keyClick(step, Qt.Key.Key_Return)
    vale.point((20, 20))
    assert vale.session.pointer.hover is not None
    assert vale.session.pointer.hover.snapped.at == (500, 504)


def test_a_new_plan_gets_the_grid_that_was_asked_for(vale: Driver) -> None:
    vale.push(vale.window.bench.survey.new_plan)
    sheet = vale.window.findChild(NewPlanSheet)
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
    assert vale.session.pointer.hover is not None
    assert vale.session.pointer.hover.cell == (21, 28)
    for _ in range(99):
        QTest.keyClick(vale.sheet, Qt.Key.Key_Left)
    assert vale.session.pointer.hover.cell == (0, 28)


# --- the rule in force --------------------------------------------------------------------------


def test_steps_lattice_and_what_is_held_change_the_answer(vale: Driver) -> None:
    rule = vale.window.bench.survey.rule
    vale.type(rule.step_x, "2")
    vale.choose(rule.step_unit, "in cells")
    assert vale.session.choices.snap.steps(vale.plan.spec) == (48, 24)
    vale.type(rule.step_x, "0")
    vale.push(rule.lattice.title)
    vale.type(rule.every_x, "3")
    vale.type(rule.offset_x, "1")
    vale.point((20, 20))
    assert vale.session.pointer.hover is not None
    assert vale.session.pointer.hover.snapped.at == ((1 + 18 + 0.5) * 24, 492)
    assert "/ 72 =" in vale.window.reading.working.text()
    vale.type(rule.every_x, "1")
    vale.choose(rule.holding, "An object, in units")
    vale.type(rule.held_w, "10")
    vale.type(rule.held_h, "6")
    vale.point((20, 20))
    assert "origin    487, 489" in vale.window.reading.where.text()
    assert "\N{MINUS SIGN} 10 / 2 = 487" in vale.window.reading.working.text()


def test_an_axis_is_held_by_key_and_let_go_again(vale: Driver) -> None:
    vale.point((20, 20))
    vale.key("K")
    assert vale.session.choices.snap.hold_y == 492
    vale.point((30, 5))
    assert vale.session.pointer.hover is not None
    assert vale.session.pointer.hover.snapped.at == (732, 492)
    assert "y: held at 492" in vale.window.reading.working.text()
    assert vale.window.bench.survey.rule.hold_y.isChecked()
    vale.key("K")
    assert vale.session.choices.snap.hold_y is None


def test_the_lattice_is_marked_on_the_sheet(vale: Driver) -> None:
    vale.point((50, 40))

    def looks(cell: tuple[int, int]) -> list[tuple[int, int, int]]:
        return [vale.colour_at(cell, dx, 2) for dx in (-1, 0, 1)]

    on, off = looks((10, 25)), looks((12, 25))
    vale.session.set_snap(replace(vale.session.choices.snap, every_x=5, every_y=5))
    assert looks((10, 25)) != on
    assert looks((12, 25)) == off


# --- the window ---------------------------------------------------------------------------------


def test_a_window_is_switched_on_moved_and_undone(vale: Driver) -> None:
    panel = vale.window.bench.survey.window_panel
    vale.push(vale.window.bench.survey.sections["Window"].title)
    vale.tick(panel.on)
    assert vale.plan.window == BuildWindow(Cell(16, 12), 32, 24)
    vale.type(panel.cols, "9")
    vale.type(panel.rows, "7")
    vale.point((30, 20))
    vale.key("W")
    assert vale.plan.window == BuildWindow(Cell(26, 17), 9, 7)
    assert panel.where.text() == "From 26, 17 to 34, 23"
    vale.point((5, 20))
    where = vale.window.reading.where.text()
    assert "strict    no cell, outside the window" in where
    assert "virtual   5, 20" in where
    assert vale.window.reading.verdict.title == "Build on 5, 20: no"
    assert "outside" in vale.window.reading.verdict.words().lower()
    vale.key("Ctrl+Z")
    vale.key("Ctrl+Z")
    vale.key("Ctrl+Z")
    assert vale.plan.window is not None
    vale.key("Ctrl+Z")
    assert vale.plan.window is None
    assert not panel.on.isChecked()
    vale.key("Ctrl+Shift+Z")
    assert panel.on.isChecked()


def test_the_window_follows_the_actor_or_an_agent(vale: Driver) -> None:
    panel = vale.window.bench.survey.window_panel
    vale.push(vale.window.bench.survey.sections["Window"].title)
    vale.tick(panel.on)
    vale.push(panel.to_agent)
    assert "no actor and no vehicle" in vale.said
    vale.desk.traffic.step()
    # The pointer is nowhere: the vehicle nearest to the origin is meant.
    at = vale.desk.traffic.run.fleet.nearest_place(Point(0.0, 0.0))
    vale.key("Shift+W")
    assert vale.plan.window is not None
    middle = vale.plan.spec.locate(*at)
    low = vale.plan.window.low
    assert low.col == middle.col - 16
    assert abs(low.row - (middle.row - 12)) <= 1
    vale.session.set_actor(Actor(Point(1000, 700)))
    vale.key("Shift+W")
    assert vale.plan.window.low == (42 - 16, 29 - 12)


def test_outside_the_window_the_map_is_dimmed(vale: Driver) -> None:
    at = (10, 40)
    vale.point((30, 30))
    before = vale.colour_at(at, 2, 2)
    vale.push(vale.window.bench.survey.sections["Window"].title)
    vale.tick(vale.window.bench.survey.window_panel.on)
    vale.point((30, 30))
    assert vale.colour_at(at, 2, 2) != before


# --- the probe and the art check -------------------------------------------------------------------


def test_an_actor_is_placed_faced_and_walked_with_the_keys(vale: Driver) -> None:
    probe = vale.window.bench.survey.probe
    vale.key("A")
    assert probe.tool.isChecked()
    vale.press((20, 20))
    vale.to((20, 24))
    vale.release((20, 24))
    actor = vale.session.choices.survey.actor
    assert actor is not None
    spec = vale.plan.spec
    assert spec.locate(*actor.at) == (20, 20)
    assert (actor.facing, actor.distance) == (90, 24)
    assert vale.window.bench.survey.sections["Probe ahead"].title.isChecked()
    assert probe.says.isVisible()
    vale.key("Right")
    vale.key("Right")
    assert spec.locate(*vale.session.choices.survey.actor.at) == (22, 20)
    assert vale.session.choices.survey.actor.facing == 0
    assert "lowest column 23" in probe.says.text()
    vale.type(probe.offset, "24")
    vale.type(probe.cols, "3")
    assert "lowest column 23" in probe.says.text()
    vale.key("Shift+Right")
    assert vale.session.choices.survey.actor.facing == 15
    vale.key("Esc")  # puts the tool down; the actor stays where it is
    assert not probe.tool.isChecked()
    assert vale.plan.actor is not None
    vale.key("F4")
    vale.key("F2")
    vale.key("A")
    assert vale.plan.actor is not None
    vale.key("Del")
    assert vale.plan.actor is None
    vale.key("Right")
    assert vale.session.choices.survey.actor is None
    vale.key("Ctrl+Z")
    assert vale.plan.actor is not None
    vale.push(probe.away)
    assert vale.plan.actor is None


def test_the_verdict_is_of_the_cells_that_the_actor_addresses(vale: Driver) -> None:
    vale.key("A")
    vale.click((20, 15))
    vale.key("Down")
    assert vale.desk.tools.current.marks() is not None
    assert [v.cell for v in vale.desk.tools.current.marks().cells] == [(20, 17)]  # type: ignore[union-attr]
    assert not vale.desk.tools.current.marks()


def test_art_is_checked_in_words_and_at_true_scale(vale: Driver) -> None:
    art = vale.window.bench.survey.art
    vale.push(vale.window.bench.survey.sections["Art check"].title)
    vale.type(art.width_px, "20")
    vale.type(art.height_px, "30")
    assert "across: 20 px = 20 of 24 ells: gap of 4 (4 px)" in art.says.text()
    assert "24 px would tile exactly" in art.says.text()
    assert "overlap of 6" in art.says.text()
    vale.point((40, 40))
    before = vale.colour_at((41, 41), -3, -2)
    vale.tick(art.on)
    vale.point((40, 40))
    assert vale.colour_at((41, 41), -3, -2) != before
    assert vale.session.choices.survey.art == Art(20, 30, 1.0)


# --- the grid sheet -----------------------------------------------------------------------------------


# --- the snap study --------------------------------------------------------------------------------------


def test_the_rule_belongs_to_the_plan_and_what_is_held_does_not(
    vale: Driver, tmp_path: Path
) -> None:
    rule, history = vale.window.bench.survey.rule, vale.session.document.history
    assert vale.plan.snap == SnapSettings()
    vale.push(rule.rules[Rule.CORNER])
    vale.type(rule.step_x, "12")
    vale.push(rule.rules[Rule.INTERSECTION])
    vale.tick(rule.hold_x)
    assert vale.plan.snap == SnapSettings(Rule.INTERSECTION, 12.0)
    # Tried out one after the other they are one step.
    assert history.entries == ["Set snapping to intersection"]
    path = tmp_path / "again.plan.json"
    plan_json.save(vale.plan, path)
    assert plan_json.load(path).snap == vale.plan.snap
    vale.key("Ctrl+Z")
    assert rule.rules[Rule.CENTRE].isChecked()
    assert rule.step_x.value() == 0
    # What was held is held still.
    assert rule.hold_x.isChecked()
    assert vale.session.choices.snap.hold_x is not None
    vale.key("Ctrl+Shift+Z")
    assert vale.session.choices.snap.rule is Rule.INTERSECTION
    # Another plan snaps in its own way.
    vale.session.open(Document(plan_json.load(path)))
    assert rule.rules[Rule.INTERSECTION].isChecked()
    assert rule.step_x.value() == 12
