"""Build in full in the real window: where it could go, why not, many at once, kinds drawn, funds."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.helpers.builders import WHEN, draw, put
from tests.ui.conftest import LEFT, SHIFT, Driver
from woven_locus.core import edits
from woven_locus.core.edits import blocks
from woven_locus.core.edits.money import set_funds
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import Reason, Verdict
from woven_locus.core.plan import Plan
from woven_locus.ui.session import hand
from woven_locus.ui.session.stages import Filling, Stage, WhereShown

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


def in_build(make_window: Callable[..., Driver]) -> Driver:
    user = make_window(FIELD)
    user.push(user.window.thread_.buttons[Stage.BUILD])
    return user


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return in_build(make_window)


def arm(user: Driver, key: str) -> None:
    user.push(user.window.bench.build.buttons[key])


def cells(user: Driver) -> list[tuple[int, int]]:
    return [tuple(row.cell) for row in user.plan.register]


# --- placing ----------------------------------------------------------------------------------


def test_a_kind_is_pulled_off_the_shelf_and_let_go(user: Driver) -> None:
    button = user.window.bench.build.buttons["hut"]
    start = QPoint(60, 20)

    def pull_to(cell: tuple[int, int]) -> QPoint:
        at = button.mapFromGlobal(user.sheet.mapToGlobal(user.at(cell)))
        QTest.mousePress(button, LEFT, pos=start)
        for part in (0.5, 1.0):
            way = start + (at - start) * part
            place = QPointF(way)
            move = QMouseEvent(
                QEvent.Type.MouseMove,
                place,
                button.mapToGlobal(place),
                Qt.MouseButton.NoButton,
                LEFT,
                Qt.KeyboardModifier.NoModifier,
            )
            QApplication.sendEvent(button, move)
        user.settle()
        return at

    at = pull_to((8, 5))
    assert user.session.hand.ghost is not None
    assert user.session.hand.ghost.cell == Cell(8, 5)
    QTest.mouseRelease(button, LEFT, pos=at)
    assert cells(user) == [(8, 5)]
    user.key("Esc")
    # On bad ground nothing is placed, and it says why.
    at = pull_to((9, 3))
    QTest.mouseRelease(button, LEFT, pos=at)
    assert len(user.plan.register) == 1
    assert "Stone 1 in the way" in user.said
    assert user.session.hand.kind is None
    pull_to((8, 9))
    QTest.mouseRelease(button, LEFT, pos=start)
    assert user.session.hand.kind is None
    assert user.said == "Let go off the map: nothing was placed"


def test_a_drag_with_shift_keeps_to_a_line(user: Driver) -> None:
    arm(user, "hut")
    user.drag((2, 5), (4, 6), (6, 4), keys=SHIFT)
    assert cells(user) == [(2, 5), (3, 5), (4, 5), (5, 5), (6, 5)]


def test_a_rectangle_is_filled_with_rows_after_it_was_shown(user: Driver) -> None:
    arm(user, "barn")
    user.key("D")
    assert user.session.choices.build.filling is Filling.ROWS
    page = user.window.bench.build.hand
    user.type(page.gap_cols, "1")
    user.press((8, 1))
    user.to((15, 5))
    assert len(user.plan.register) == 0
    hint = user.window.status.hint.text()
    assert "place 3 of 4 for 75 coins" in hint
    user.release((15, 5))
    assert cells(user) == [(7, 1), (11, 1), (11, 3)]
    assert "Placed 3 Barn; 1 left out: Stone 1 in the way" in user.said
    user.key("Ctrl+Z")
    assert cells(user) == []


def test_it_goes_back_after_placing_if_the_user_likes(user: Driver) -> None:
    stay = user.window.bench.build.hand.stay
    user.tick(stay)
    arm(user, "hut")
    user.click((3, 5))
    assert len(user.plan.register) == 1
    assert user.session.hand.kind is None
    user.tick(stay)
    arm(user, "hut")
    user.click((3, 6))
    assert user.session.hand.kind == "hut"


def test_mirroring_only_where_the_kind_allows_it(vale: Driver) -> None:
    vale.key("F4")
    arm(vale, "carriers-inn")
    vale.point((30, 8))
    before = {cell.cell for cell in vale.session.hand.ghost.verdict.cells}  # type: ignore[union-attr]
    vale.key("V")
    assert {cell.cell for cell in vale.session.hand.ghost.verdict.cells} != before  # type: ignore[union-attr]
    assert vale.session.hand.turn == 4
    vale.click((30, 8))
    number = vale.plan.register.numbers()[-1]
    if vale.plan.register[number].kind == "carriers-inn":
        assert vale.plan.register[number].turn == 4
    vale.key("Esc")
    arm(vale, "loom-hall")
    vale.key("V")
    assert vale.session.hand.turn == 0
    assert "is not mirrored" in vale.said
    arm(vale, "drying-frames")
    for expected in (1, 0, 1):
        vale.key("T")
        assert vale.session.hand.turn == expected
    arm(vale, "market-cross")
    vale.key("T")
    assert vale.said == "Market cross is not turned"


# --- why not ----------------------------------------------------------------------------------


def test_a_refused_ghost_names_the_nearest_spot_and_n_goes_there(user: Driver) -> None:
    arm(user, "barn")
    user.point((5, 2))
    reading = user.window.reading
    assert reading.advice.text() == "Nearest spot: 4, 0 (N goes there)"
    user.key("N")
    assert user.session.hand.ghost is not None
    assert user.session.hand.ghost.cell == Cell(4, 0)
    assert user.session.hand.ghost.verdict
    user.key("Return")
    assert cells(user) == [(4, 0)]


def test_clicking_a_name_goes_to_what_is_in_the_way(user: Driver) -> None:
    put(user.plan, "barn", 11, 4)
    arm(user, "hut")
    user.point((12, 5))
    view = user.window.reading.verdict
    # The pointer goes over to the Reading: the ghost and its verdict stay to be read.
    user.session.pointer.to(None)
    user.settle()
    assert view.title == "Hut at 12, 5: no"
    QTest.mouseClick(view, LEFT, pos=view.place_of(Reason.OCCUPIED).toPoint())
    assert user.session.selection.front == 1
    assert "S1 Barn is at 12, 5" in user.said
    user.key("Esc")
    arm(user, "hut")
    user.point((9, 3))
    user.key("C")
    assert user.said == "Stone 1 is at 9, 3"


def test_doubtful_ground_is_allowed_but_marked(vale: Driver) -> None:
    assert vale.plan.heights is not None
    vale.plan.heights[8, 30] = float("nan")
    vale.key("F4")
    arm(vale, "drying-frames")
    vale.point((30, 8))
    ghost = vale.session.hand.ghost
    assert ghost is not None
    assert ghost.verdict
    assert "doubtful: No steeper than 12°" in vale.window.reading.verdict.words()
    assert vale.window.reading.advice.text().startswith("Allowed, but the height of 1 cell")


# --- where could it go --------------------------------------------------------------------------


def test_the_map_of_spots_follows_every_edit(user: Driver) -> None:
    arm(user, "barn")
    plain = user.colour_at((1, 1))
    user.key("Q")
    panel = user.window.bench.build.where
    found = user.desk.where.map
    assert found is not None
    assert user.colour_at((1, 1)) != plain
    assert f"{found.free} spots as it is turned" in panel.counts.text()
    assert "Roads rule out" in panel.reasons.text()
    free = found.free
    user.click((1, 1))
    assert user.desk.where.map is found
    assert found.free < free
    assert f"{found.free} spots as it is turned" in panel.counts.text()
    user.key("T")
    assert user.desk.where.map is not found
    user.key("Q")
    assert user.session.choices.build.where is WhereShown.ANY
    assert "turned another way" not in panel.legend.accessibleName()
    user.key("Q")
    assert user.desk.where.map is None
    assert user.colour_at((12, 1)) != user.colour_at((1, 1))


def test_what_holds_everywhere_is_said_so(user: Driver) -> None:
    user.session.document.history.do(set_funds(user.plan, 20))
    arm(user, "barn")
    user.session.choices.set_build(where=WhereShown.TURN)
    user.settle()
    assert user.window.bench.build.where.counts.text() == "Nowhere: funds rule out every spot."
    user.click((2, 5))
    assert "costs 25 coins, 5 more than there is" in user.said


def test_on_a_large_plan_it_is_worked_out_aside(make_window: Callable[..., Driver]) -> None:
    user = make_window(draw("\n".join(["." * 300] * 300), cell=(4, 4)))
    user.key("F4")
    arm(user, "barn")
    user.session.choices.set_build(where=WhereShown.ANY)
    user.qtbot.waitUntil(lambda: user.desk.where.map is not None)
    found = user.desk.where.map
    assert found is not None
    assert (found.free, found.free_any) == (298 * 299, 2 * 298 * 299 - 298 * 298)
    user.point((150, 150))
    user.key("N")
    assert user.said == "It may stand here"


# --- many at once -------------------------------------------------------------------------------


def town(user: Driver) -> None:
    history = user.session.document.history
    for kind, col, row in (("hut", 1, 5), ("hut", 3, 5), ("hut", 5, 5), ("barn", 10, 4)):
        history.do(edits.place(user.plan, kind, Cell(col, row), 0, WHEN))
    user.settle()


def test_a_rectangle_selects_and_del_demolishes_all_of_it(user: Driver) -> None:
    town(user)
    user.drag((0, 4), (6, 6))
    assert user.session.selection.numbers == (1, 2, 3)
    assert user.said == "Selected 3 structures"
    assert "3 structures" in user.window.reading.selection.text()
    user.click((11, 5))
    assert user.session.selection.numbers == (4,)
    user.press((1, 5), SHIFT)
    user.release((1, 5), SHIFT)
    assert set(user.session.selection.numbers) == {1, 4}
    user.key("Del")
    assert user.plan.register.numbers() == [2, 3]
    assert user.session.document.history.entries[-1] == "Demolished 2 structures"
    user.key("Ctrl+Z")
    assert user.plan.register.numbers() == [1, 2, 3, 4]


def test_arrow_keys_nudge_and_a_drag_moves_the_group(user: Driver) -> None:
    town(user)
    user.drag((0, 4), (6, 6))
    user.key("Ctrl+Right")
    assert cells(user)[:3] == [(2, 5), (4, 5), (6, 5)]
    user.key("Ctrl+Down")
    user.key("Ctrl+Down")
    assert cells(user)[:3] == [(2, 6), (4, 6), (6, 6)]
    assert "cannot move there: a road runs there" in user.said
    user.drag((2, 6), (3, 5), (2, 1))
    assert cells(user)[:3] == [(2, 1), (4, 1), (6, 1)]
    user.drag((2, 1), (2, 2), (2, 3))  # the middle one would stand in the stream
    assert cells(user)[:3] == [(2, 1), (4, 1), (6, 1)]
    assert "Stream cannot be built on" in user.said


def test_a_block_is_copied_turned_and_pasted_whole(user: Driver) -> None:
    town(user)
    user.drag((0, 5), (6, 7))
    user.key("Ctrl+C")
    assert user.said == "Copied 3 structures and 7 road cells; Ctrl+V takes it in hand"
    user.key("Ctrl+V")
    user.point((12, 1))
    ghost = user.session.hand.block_ghost
    assert ghost is not None
    assert user.window.reading.verdict.title == "Block at 9, 0: yes"
    user.key("T")
    user.point((13, 3))
    user.click((9, 3))
    assert len(user.plan.register) == 4
    assert "The block cannot lie at" in user.said
    user.click((14, 3))
    assert len(user.plan.register) == 7
    assert user.plan.road[0:7, 13].tolist() == [1] * 7
    assert user.session.document.history.entries[-1].startswith("Put down 3 structures and 7 road")
    user.key("Esc")
    assert user.session.hand.block is None
    user.key("Ctrl+Z")
    assert len(user.plan.register) == 4


def test_a_block_in_hand_is_judged_again_with_its_cell_and_with_the_plan(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    town(user)
    user.drag((0, 5), (6, 7))
    user.key("Ctrl+C")
    user.key("Ctrl+V")
    user.point((12, 1))
    asked: list[Cell] = []

    def judged(plan: Plan, block: blocks.Block, low: Cell) -> Verdict:
        asked.append(low)
        return blocks.judge_block(plan, block, low)

    monkeypatch.setattr(hand, "judge_block", judged)
    for off in (1, 3, 5):
        QTest.mouseMove(user.sheet, user.at((12, 1)) + QPoint(off, off))
        user.settle()
    assert asked == []
    user.point((11, 1))
    assert asked == [Cell(8, 0)]
    ghost = user.session.hand.block_ghost
    assert ghost is not None
    assert ghost.verdict
    # Somebody else builds there meanwhile, and takes it back.
    user.session.attempt(edits.place, user.plan, "hut", ghost.verdict.cells[0].cell, 0, WHEN)
    ghost = user.session.hand.block_ghost
    assert ghost is not None
    assert not ghost.verdict
    user.key("Ctrl+Z")
    ghost = user.session.hand.block_ghost
    assert ghost is not None
    assert ghost.verdict


def test_a_kind_takes_the_place_of_what_stands_there(user: Driver) -> None:
    town(user)
    arm(user, "hut")
    user.point((11, 5))
    user.key("Shift+R")
    assert user.plan.register.numbers() == [1, 2, 3, 5]
    assert user.plan.register[5].cell == Cell(11, 5)
    assert user.session.document.history.entries[-1] == "Replaced S4 Barn by Hut S5"


def test_everything_can_be_selected(user: Driver) -> None:
    town(user)
    user.key("Ctrl+A")
    assert user.session.selection.numbers == (1, 2, 3, 4)


# --- kinds ----------------------------------------------------------------------------------------
