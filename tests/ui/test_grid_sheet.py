"""The grid of a plan is changed in its sheet, once it was said what would fall outside."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.helpers.state import assert_derived_is_current, recorded
from tests.ui.conftest import Driver
from woven_locus.ui.bench.survey.grid_sheet import GridSheet


def test_changing_the_grid_says_first_what_would_fall_outside(vale: Driver) -> None:
    before = recorded(vale.plan)
    vale.push(vale.window.bench.survey.change_grid)
    sheet = vale.sheet_of(GridSheet)
    assert not sheet.make.isEnabled()
    assert sheet.losses.text() == "Nothing: the grid is as it was."
    vale.type(sheet.cols, "40")
    vale.qtbot.waitUntil(sheet.make.isEnabled)
    said = sheet.losses.text()
    assert "4 structures: S8 Wool store, S9 Spring house, S10 Loom hall, S12 Spring house" in said
    assert "of road" in said
    assert recorded(vale.plan) == before
    vale.push(sheet.make)
    vale.back()
    assert vale.plan.spec.cols == 40
    assert vale.plan.register.numbers() == [1, 2, 3, 4, 5, 6, 7, 11, 13, 14, 15]
    assert vale.window.tray.register.model().rowCount() == 11
    assert "40 × 48" in vale.window.bench.survey.facts.text()
    assert vale.sheet.camera.spec == vale.plan.spec
    assert_derived_is_current(vale.plan)
    vale.key("Ctrl+Z")
    assert recorded(vale.plan) == before
    assert vale.window.tray.register.model().rowCount() == 15
    assert_derived_is_current(vale.plan)
    vale.key("Ctrl+Shift+Z")
    assert vale.plan.spec.cols == 40


def test_content_is_kept_by_index_or_by_place_as_chosen(make_window: Callable[..., Driver]) -> None:
    for by_place, wanted in ((False, [0, 0, 2, 0, 0]), (True, [0, 2, 0, 0, 0])):
        user = make_window(".b...\n.....")
        user.window.files.change_grid()
        sheet = user.sheet_of(GridSheet)
        user.type(sheet.first_col, "-1")
        if by_place:
            user.tick(sheet.by_place)
        user.qtbot.waitUntil(sheet.make.isEnabled)
        assert sheet.losses.text().startswith("Nothing")
        user.push(sheet.make)
        assert user.plan.spec.first_col == -1
        assert user.plan.terrain[0].tolist() == wanted


def test_y_up_turns_the_picture_and_nothing_else(vale: Driver) -> None:
    low = vale.at((20, 40))
    vale.window.files.change_grid()
    sheet = vale.sheet_of(GridSheet)
    vale.tick(sheet.y_up)
    vale.qtbot.waitUntil(sheet.make.isEnabled)
    assert "y up" in sheet.facts.text()
    vale.push(sheet.make)
    vale.back()
    assert vale.at((20, 40)).y() < vale.at((20, 10)).y()
    assert vale.at((20, 40)) != low
    vale.click((20, 17))
    assert vale.session.selection.front == 3
    vale.sheet.setFocus()
    QTest.keyClick(vale.sheet, Qt.Key.Key_Up)
    assert vale.session.pointer.hover is not None
    assert vale.session.pointer.hover.cell == (20, 18)
    road, meadow = vale.colour_at((12, 19)), vale.colour_at((12, 21))
    assert road != meadow
    vale.key("F4")
    vale.session.arm("loom-hall")
    vale.click((30, 20))
    assert vale.plan.register[16].cell == (29, 19)


def test_a_grid_that_cannot_be_is_not_made(vale: Driver) -> None:
    vale.window.files.change_grid()
    sheet = vale.sheet_of(GridSheet)
    vale.type(sheet.cols, "60000")
    vale.type(sheet.rows, "60000")
    assert "the most is" in sheet.problem.text()
    assert not sheet.make.isEnabled()
    vale.key("Esc", sheet.cols)
    assert vale.plan.spec.cols == 64
