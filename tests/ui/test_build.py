"""Build in the real window: arm, hover, place, drag, turn, select, move, demolish."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.plan import Plan
from woven_locus.ui.jobs import asking
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.tools import building

FIELD = """
    ................
    ................
    ....ss..........
    ....ss...o......
    ................
    ................
    ................
    ================
    ................
    ................
"""


def build(make_window: Callable[..., Driver]) -> Driver:
    user = make_window(FIELD)
    user.push(user.window.thread_.buttons[Stage.BUILD])
    return user


def arm(user: Driver, key: str) -> None:
    user.push(user.window.bench.build.buttons[key])
    assert user.session.hand.kind == key


def is_madder(colour: tuple[int, int, int]) -> bool:
    red, green, blue = colour
    return red > 130 and red > green + 60 and red > blue + 60


def is_indigo(colour: tuple[int, int, int]) -> bool:
    red, _green, blue = colour
    return blue > 90 and blue > red + 40


def test_bad_ground_is_marked_cell_by_cell_and_named(make_window: Callable[..., Driver]) -> None:
    user = build(make_window)
    arm(user, "barn")
    user.point((3, 2))  # covers 2-4 x 2-3 or so: the ghost says which
    ghost = user.session.hand.ghost
    assert ghost is not None
    assert ghost.cell == (2, 2)
    assert not ghost.verdict
    verdict = user.window.reading.verdict
    assert verdict.title == "Barn at 2, 2: no"
    assert "no: Terrain may be built on: Stream" in verdict.words()
    assert "yes: No obstacle" in verdict.words()
    # The cross-stitch in the middle of a blocked cell, the dot in the middle of a free one.
    assert is_madder(user.colour_at((4, 2)))
    assert is_indigo(user.colour_at((2, 2)))
    # They differ in lightness too, not in hue alone.
    assert abs(sum(user.colour_at((4, 2), 9, 0)) - sum(user.colour_at((2, 2), 9, 0))) > 30


def test_a_very_large_ghost_is_judged_and_drawn_too(make_window: Callable[..., Driver]) -> None:
    plan = draw("\n".join(["." * 40] * 40), cell=(24, 24))
    hall = Kind("hall", "Hall", "HA", "#2F4B7C", 1, Footprint.block(31, 31))
    plan = Plan("Large", plan.spec, plan.terrain_table, Catalogue([hall]))
    user = make_window(plan)
    user.key("F4")
    before = user.colour_at((20, 20))
    arm(user, "hall")
    user.point((20, 20))
    assert user.colour_at((20, 20)) != before
    user.click((20, 20))
    assert plan.register[1].cell == (5, 5)
    user.point((22, 20))
    assert user.window.reading.verdict.title == "Hall at 7, 5: no"


def test_a_click_on_bad_ground_places_nothing_and_says_why(
    make_window: Callable[..., Driver],
) -> None:
    user = build(make_window)
    arm(user, "hut")
    user.click((9, 3))
    assert len(user.plan.register) == 0
    assert user.said == (
        "Hut cannot stand at 9, 3: Stone 1 in the way. The nearest spot is 9, 2: N goes there"
    )
    assert user.window.messages.level == "no"


def test_a_click_places_and_the_register_gets_its_row(make_window: Callable[..., Driver]) -> None:
    user = build(make_window)
    arm(user, "barn")
    user.click((10, 5))
    row = user.plan.register[1]
    assert (row.kind, row.cell, row.turn, row.price) == ("barn", (9, 5), 0, 25)
    table = user.window.tray.register.model()
    assert [table.index(0, c).data() for c in (0, 1, 2, 4, 5, 6)] == [
        "S1",
        "Barn",
        "9, 5",
        "6",
        "252, 144",
        "25",
    ]
    assert user.window.bench.build.buttons["barn"].placed == 1
    # It blocks from then on, and the kind is still in hand.
    user.point((11, 6))
    assert user.window.reading.verdict.title == "Barn at 10, 6: no"
    assert "Not occupied: S1 Barn" in user.window.reading.verdict.words()
    user.click((11, 5))
    assert len(user.plan.register) == 1


def test_dragging_places_many_without_piling(make_window: Callable[..., Driver]) -> None:
    user = build(make_window)
    arm(user, "hut")
    user.drag((2, 9), (8, 9), (4, 9), (8, 9))
    assert [tuple(row.cell) for row in user.plan.register] == [(c, 9) for c in range(2, 9)]
    user.key("Ctrl+Z")
    assert len(user.plan.register) == 0


def test_t_turns_and_esc_puts_the_kind_back(make_window: Callable[..., Driver]) -> None:
    user = build(make_window)
    arm(user, "barn")
    user.point((12, 4))
    user.key("T")
    assert user.session.hand.turn == 1
    user.click((12, 4))
    assert user.plan.register[1].turn == 1
    user.key("Esc")
    assert user.session.hand.kind is None
    assert not user.window.bench.build.buttons["barn"].isChecked()
    user.click((3, 5))
    assert len(user.plan.register) == 1


def test_right_click_and_a_second_push_put_the_kind_back_too(
    make_window: Callable[..., Driver],
) -> None:
    user = build(make_window)
    arm(user, "hut")
    user.click((2, 2), Qt.MouseButton.RightButton)
    assert user.session.hand.kind is None
    arm(user, "hut")
    user.push(user.window.bench.build.buttons["hut"])
    assert user.session.hand.kind is None


def placed(make_window: Callable[..., Driver]) -> Driver:
    user = build(make_window)
    arm(user, "barn")
    user.click((10, 5))
    user.click((2, 5))
    user.key("Esc")
    return user


def test_map_and_register_select_each_other(make_window: Callable[..., Driver]) -> None:
    user = placed(make_window)
    table = user.window.tray.register
    user.click((9, 5))
    assert user.session.selection.front == 1
    assert table.selectionModel().selectedRows()[0].row() == 0  # type: ignore[union-attr]
    assert "S1 Barn" in user.window.reading.selection.text()
    row = table.visualRect(table.model().index(1, 1)).center()
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=row)
    assert user.session.selection.front == 2
    user.click((14, 1))
    assert user.session.selection.front == 0
    assert not table.selectionModel().hasSelection()  # type: ignore[union-attr]


def test_a_structure_is_moved_by_dragging_it(make_window: Callable[..., Driver]) -> None:
    user = placed(make_window)
    user.drag((10, 5), (11, 5), (12, 2))
    row = user.plan.register[1]
    assert row.number == 1
    assert row.cell != (9, 5)
    assert user.session.hand.kind is None
    assert user.session.document.history.entries[-1].startswith("Moved Barn S1 to")
    where = row.cell
    user.drag((where.col + 1, where.row), (5, 3))  # onto the stream
    assert user.plan.register[1].cell == where
    assert "cannot move" in user.said


def test_move_turn_and_demolish_from_the_reading(make_window: Callable[..., Driver]) -> None:
    user = placed(make_window)
    user.click((10, 5))
    reading = user.window.reading
    user.push(reading.turn_button)
    assert user.said == "S1 Barn cannot move to 9, 5: a road runs there"
    user.drag((10, 5), (11, 5), (12, 4))
    user.click((12, 4))
    user.push(reading.turn_button)
    assert user.plan.register[1].turn == 1
    user.push(reading.move_button)
    assert user.session.hand.lifted == 1
    user.click((14, 4))
    assert user.session.hand.lifted == 0
    moved = user.plan.register[1]
    assert moved.cell.col in (13, 14)
    user.click((moved.cell.col, moved.cell.row))
    user.push(reading.demolish_button)
    assert user.plan.register.numbers() == [2]
    assert user.plan.occupant_at(moved.cell) == 0
    user.key("Ctrl+Z")
    assert user.plan.register.numbers() == [1, 2]
    table = user.window.tray.register.model()
    assert [table.index(r, 0).data() for r in range(table.rowCount())] == ["S1", "S2"]


def test_del_demolishes_the_selection(make_window: Callable[..., Driver]) -> None:
    user = placed(make_window)
    user.click((10, 5))
    user.key("Del")
    assert user.plan.register.numbers() == [2]
    assert user.session.selection.front == 0
    assert user.session.document.history.entries[-1] == "Demolished Barn S1"


def test_very_many_are_demolished_in_the_background(
    make_window: Callable[..., Driver], monkeypatch: pytest.MonkeyPatch
) -> None:
    user = placed(make_window)
    monkeypatch.setattr(building, "_MANY", 1)
    monkeypatch.setattr(asking, "AT_ONCE", 0)
    register, history = user.plan.register, user.session.document.history
    user.session.selection.select_all([1, 2])
    user.window.desk.building.demolish()
    # The plan moves on before the answer comes in: the question was about another one.
    user.session.attempt(edits.move, user.plan, 2, Cell(1, 1), 0)
    user.idle()
    assert register.numbers() == [1, 2]
    user.session.selection.select_all([1, 2])
    user.key("Del")
    user.qtbot.waitUntil(lambda: not len(register))
    assert history.entries[-1] == "Demolished 2 structures"
    user.key("Ctrl+Z")
    assert register.numbers() == [1, 2]


def test_terrain_painted_under_a_structure_is_counted_as_open(
    make_window: Callable[..., Driver],
) -> None:
    user = placed(make_window)
    user.key("F3")
    user.push(user.window.bench.ground.buttons[2])
    user.click((10, 5))
    button = user.window.thread_.buttons[Stage.BUILD]
    user.qtbot.waitUntil(lambda: button.count == 1)
    assert button.accessibleName() == "Stage Build: 1 finding"
    user.key("Ctrl+Z")
    user.qtbot.waitUntil(lambda: button.count == 0)


def test_after_taking_a_kind_the_keys_belong_to_the_sheet(
    make_window: Callable[..., Driver],
) -> None:
    user = build(make_window)
    user.window.bench.build.buttons["barn"].setFocus()
    arm(user, "barn")
    assert user.sheet.hasFocus()
    user.point((12, 4))
    QTest.keyClick(user.window.focusWidget(), Qt.Key.Key_T)
    assert user.session.hand.turn == 1


def test_changing_the_stage_in_the_middle_of_a_stroke_drops_it(
    make_window: Callable[..., Driver],
) -> None:
    user = build(make_window)
    arm(user, "hut")
    user.press((2, 9))
    user.to((5, 9))
    assert len(user.plan.register) == 4
    user.key("F5")
    assert len(user.plan.register) == 0
    user.release((5, 9))
    user.click((10, 1))  # another gesture may begin
    assert user.plan.road[1, 10] == 1
    assert user.session.document.history.entries == ["Laid road of 1 cell"]


def test_the_whole_job_by_keyboard(make_window: Callable[..., Driver]) -> None:
    user = make_window(FIELD)
    user.key("F4")
    shelf = user.window.bench.build.buttons["hut"]
    shelf.setFocus()
    QTest.keyClick(shelf, Qt.Key.Key_Space)
    assert user.session.hand.kind == "hut"
    user.sheet.setFocus()
    user.session.pointer.to(None)
    QTest.keyClick(user.sheet, Qt.Key.Key_Right)
    start = user.session.pointer.hover.cell  # type: ignore[union-attr]
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    assert user.plan.register[1].cell == start
    # Shift+Enter holds down: the arrow keys then drag.
    QTest.keyClick(user.sheet, Qt.Key.Key_Right)
    QTest.keyClick(user.sheet, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(user.sheet, Qt.Key.Key_Right)
    QTest.keyClick(user.sheet, Qt.Key.Key_Right)
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    assert [row.cell.col - start.col for row in user.plan.register] == [0, 1, 2, 3]
    assert user.session.document.history.entries[-1] == "Placed 3 Hut"
    user.key("Esc")
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    assert user.session.selection.front == 4
    user.key("M")
    QTest.keyClick(user.sheet, Qt.Key.Key_Down)
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    assert user.plan.register[4].cell.row == start.row + 1
