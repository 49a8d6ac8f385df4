"""Ground in the real window."""

import threading
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.helpers import patience
from tests.helpers.builders import paint
from tests.helpers.state import assert_derived_is_current
from tests.ui.conftest import SHIFT, Driver
from woven_locus.core.editing import Edit
from woven_locus.core.edits.ground import Coat, fill
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.render import LIGHT, GroundOverlay
from woven_locus.core.render.stamps import OVERLAY, Stamps
from woven_locus.document.starter import new_plan
from woven_locus.ui.bench.ground.tool_panel import TOOLS
from woven_locus.ui.bench.ground.view_panel import OF_GROUND
from woven_locus.ui.session.stages import GroundTool, Stage

GROUND = "\n".join(["." * 16] * 12)


def test_painting_terrain_is_one_step_and_can_be_undone(make_window: Callable[..., Driver]) -> None:
    user = make_window(GROUND)
    user.key("F3")
    assert user.session.choices.stage is Stage.GROUND
    page = user.window.bench.ground
    user.push(page.buttons[3])
    page.brush.slider.setFocus()
    QTest.keyClick(page.brush.slider, Qt.Key.Key_Home)
    assert user.session.choices.ground.brush.size == 1
    user.point((1, 1))
    before = user.colour_at((5, 5))
    user.drag((5, 5), (9, 5))
    assert user.plan.terrain[5].tolist() == [0] * 5 + [3] * 5 + [0] * 6
    user.point((1, 1))
    assert user.colour_at((7, 5)) != before
    assert user.window.tray.history.item(1).text().endswith("Painted Stream")  # type: ignore[union-attr]
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
    user.session.choices.set_brush(size=1)
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


# --- tools -----------------------------------------------------------------------------------------


def on_ground(make_window: Callable[..., Driver], text: str = GROUND) -> Driver:
    user = make_window(text)
    user.key("F3")
    user.push(user.window.bench.ground.buttons[2])
    user.session.choices.set_brush(size=1)
    return user


def test_every_tool_has_a_key_and_a_button(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window)
    buttons = user.window.bench.ground.tools.buttons
    for tool, (_icon, key, _words) in TOOLS.items():
        user.key(key)
        assert user.session.choices.ground.tool is tool
        assert buttons[tool].isChecked()
        assert user.window.status.hint.text() == user.desk.tools.current.hint
    for tool, button in buttons.items():
        user.push(button)
        assert user.session.choices.ground.tool is tool
    user.key("F4")
    user.key("L")
    assert user.session.choices.ground.tool is GroundTool.CLEAR


def test_a_line_and_a_rectangle_are_shown_before_they_act(
    make_window: Callable[..., Driver],
) -> None:
    user = on_ground(make_window)
    user.key("L")
    before = user.colour_at((6, 4))
    user.press((2, 4))
    user.to((9, 4))
    assert not user.plan.terrain.any()
    assert user.colour_at((6, 4)) != before
    user.release((9, 4))
    assert user.plan.terrain[4].tolist() == [0] * 2 + [2] * 8 + [0] * 6
    user.key("R")
    user.drag((1, 6), (5, 9), keys=SHIFT)
    assert (user.plan.terrain[6:10, 1:6] == 2).all()
    assert (user.plan.terrain == 2).sum() == 8 + 25
    user.press((10, 6))
    user.to((14, 9))
    user.key("Esc")
    user.release((14, 9))
    assert (user.plan.terrain == 2).sum() == 33
    labels = user.session.document.history.entries
    assert labels == ["Painted a line of Bog", "Painted 5 × 5 cells Bog"]


def test_the_whole_of_it_by_keyboard(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window)
    user.key("R")
    user.point((3, 3))
    QTest.keyClick(user.sheet, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    for _ in range(3):
        QTest.keyClick(user.sheet, Qt.Key.Key_Right)
    QTest.keyClick(user.sheet, Qt.Key.Key_Down)
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    assert (user.plan.terrain[3:5, 3:7] == 2).all()
    assert (user.plan.terrain == 2).sum() == 8
    user.key("Ctrl+PgUp")
    user.key("Ctrl+PgUp")
    assert user.session.choices.ground.brush.size == 3
    user.key("B")
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    assert (user.plan.terrain == 2).sum() == 13


def test_fill_replace_and_pick(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window, "....\n.bb.\n.b..\n...s")
    page = user.window.bench.ground
    user.push(page.buttons[4])
    user.key("F")
    user.point((0, 0))
    before = user.colour_at((1, 2))
    user.point((1, 1))
    assert user.colour_at((1, 2)) != before, "what the fill would take is shown"
    user.click((1, 1))
    assert (user.plan.terrain == 4).sum() == 3
    assert user.session.document.history.entries == ["Filled 3 cells with Scree"]
    user.key("P")
    user.click((3, 3))
    assert user.session.choices.ground.coat == Coat("terrain", 3)
    assert user.session.choices.ground.tool is GroundTool.BRUSH
    assert page.buttons[3].isChecked()
    user.key("E")
    user.click((1, 1))
    assert (user.plan.terrain == 3).sum() == 4
    user.click((1, 1))
    assert "Nothing would change" in user.said
    user.key("F")
    QTest.mouseClick(user.sheet, Qt.MouseButton.LeftButton, pos=user.at((5, 1)))
    user.settle()
    assert "no ground outside the grid" in user.said


def test_a_large_plan_is_filled_in_a_worker_and_a_late_answer_dropped(
    make_window: Callable[..., Driver],
) -> None:
    user = make_window(new_plan(GridSpec(300, 300, 24, 24)))
    user.key("F3")
    user.push(user.window.bench.ground.buttons[2])
    user.key("F")
    user.click((150, 150))
    user.idle()
    assert (user.plan.terrain == 2).all()
    assert_derived_is_current(user.plan)
    user.key("Ctrl+Z")
    assert not user.plan.terrain.any()
    go_on = threading.Event()

    def late(plan: Plan, _stopped: Callable[[], bool]) -> Edit:
        assert go_on.wait(patience.SECONDS)
        return fill(plan, Cell(150, 150), Coat("terrain", 2))

    user.session.work("Filling late", late)
    user.session.document.history.do(paint(user.plan, [Cell(0, 0)], 3))
    go_on.set()
    user.idle()
    assert (user.plan.terrain == 2).sum() == 0
    assert "dropped, since the plan changed" in user.said


def test_reserved_ground_is_painted_and_freed(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window)
    page = user.window.bench.ground
    user.push(page.buttons[6])
    before = user.colour_at((5, 5))
    user.drag((4, 5), (8, 5))
    assert user.plan.reserved[5].sum() == 5
    user.point((1, 1))
    assert user.colour_at((5, 5)) != before
    assert user.session.document.history.entries == ["Painted reserved ground"]
    user.push(page.buttons[7])
    user.drag((4, 5), (6, 5))
    assert user.plan.reserved[5].sum() == 2


def test_a_round_brush_leaves_the_corners(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window)
    brush = user.window.bench.ground.brush
    user.type(brush.size_box, "5")
    user.tick(brush.round)
    user.click((7, 5))
    assert (user.plan.terrain == 2).sum() == 21
    assert user.plan.terrain[3, 5] == 0


# --- heights ------------------------------------------------------------------------------------------


def test_the_ground_is_raised_levelled_and_smoothed(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window)
    page = user.window.bench.ground
    user.key("G")
    user.type(page.sculpt.amount, "10")
    user.drag((3, 3), (6, 3), (3, 3))
    heights = user.plan.heights
    assert heights is not None
    assert heights[3, 2:8].tolist() == [0, 10, 10, 10, 10, 0]
    assert page.view.shade.isChecked(), "who sculpts sees it"
    user.point((4, 3))
    assert "height    10, slope" in user.window.reading.where.text()
    user.choose(page.sculpt.how, "Level")
    assert not page.sculpt.amount.isEnabled()
    user.drag((6, 3), (9, 3))
    assert heights[3, 7:10].tolist() == [10, 10, 10]
    user.choose(page.sculpt.how, "Smooth")
    user.click((3, 3))
    assert 0 < heights[3, 3] < 10
    user.choose(page.sculpt.how, "Lower")
    user.click((9, 3))
    assert heights[3, 9] == 0
    assert user.session.document.history.entries == [
        "Raised the ground",
        "Levelled the ground",
        "Smoothed the ground",
        "Lowered the ground",
    ]
    for _ in range(4):
        user.key("Ctrl+Z")
    assert user.plan.heights is None


def test_overlays_are_switched_and_have_a_legend_that_reads_without_colour(vale: Driver) -> None:
    vale.key("F3")
    view = vale.window.bench.ground.view
    vale.point((2, 40))
    plain = vale.colour_at((30, 30))
    seen = set()
    for overlay in OF_GROUND[1:]:
        vale.choose(view.overlay, overlay.value)
        assert vale.session.choices.ground.view.overlay is overlay
        words = [text for _code, text in view.legend.rows]
        assert len(words) == len(set(words)) >= 2
        assert vale.colour_at((30, 30)) != plain or overlay is GroundOverlay.BUILDABLE
        seen.add(tuple(words))
    assert len(seen) == 5
    vale.choose(view.overlay, "Slope")
    # No two classes are hatched alike, even in grey.
    greys = set()
    stamps = Stamps(17, 16, LIGHT, vale.plan.terrain_table, vale.plan.kinds, GroundOverlay.SLOPE)
    for code, _words in view.legend.rows:
        pixels = stamps.look_up(np.array([[(code + 1) << OVERLAY]]))
        grey = (pixels >> 16 & 255) * 0.3 + (pixels >> 8 & 255) * 0.6 + (pixels & 255) * 0.1
        greys.add(tuple(np.rint(grey[::4, ::4] / 24).ravel().tolist()))
    assert len(greys) == len(view.legend.rows)
    vale.key("F4")
    assert vale.colour_at((30, 30)) == plain


def test_hill_shade_and_contours_show_the_relief(vale: Driver) -> None:
    vale.key("F3")
    view = vale.window.bench.ground.view
    vale.point((2, 40))
    cells = [(c, r) for c in range(2, 20, 3) for r in (3, 6, 9)]
    plain = [vale.colour_at(cell) for cell in cells]
    vale.tick(view.shade)
    shaded = [vale.colour_at(cell) for cell in cells]
    assert sum(a != b for a, b in zip(plain, shaded, strict=True)) > len(cells) / 2
    vale.tick(view.shade)
    flat = vale.sheet.grab().toImage()
    vale.tick(view.contours)
    vale.settle()
    lined = vale.sheet.grab().toImage()
    changed = sum(
        flat.pixel(x, y) != lined.pixel(x, y) for x in range(100, 700, 7) for y in range(60, 400, 7)
    )
    assert changed > 40


def test_without_heights_what_needs_them_cannot_be_chosen(
    make_window: Callable[..., Driver],
) -> None:
    user = on_ground(make_window)
    view = user.window.bench.ground.view
    assert not view.shade.isEnabled()
    assert "no heights yet" in view.shade.toolTip()
    model = view.overlay.model()
    able = [model.item(k).isEnabled() for k in range(view.overlay.count())]  # type: ignore[union-attr]
    assert able == [True, True, True, True, False, False]
    assert not user.window.actions_.by_name["file.out_heights_asc"].isEnabled()
    user.key("H")
    user.drag((2, 2), (9, 4))
    assert "no heights yet" in user.said


def test_a_profile_is_a_chart_and_goes_out_as_csv(vale: Driver) -> None:
    vale.key("F3")
    vale.key("H")
    charts = vale.window.tray.charts
    vale.drag((10, 5), (30, 9), keys=SHIFT)
    assert vale.session.choices.profile == (Cell(10, 5), Cell(30, 5))
    assert vale.window.tray.currentWidget() is charts
    vale.qtbot.waitUntil(lambda: charts.chart.plot is not None)
    vale.settle()
    assert charts.words.text().startswith("10, 5 to 30, 5, 480 ells long")
    assert charts.distance[-1] == 480
    assert vale.plan.heights is not None
    assert charts.heights[0] == vale.plan.heights[5, 10]
    assert charts.heights[-1] == vale.plan.heights[5, 30]
    assert charts.chart.plot.getPlotItem().listDataItems()
    vale.push(charts.copy)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    rows = clipboard.text().splitlines()
    assert rows[0] == "distance,height"
    assert len(rows) == 1 + len(charts.distance)
    assert vale.session.document.history.saved
