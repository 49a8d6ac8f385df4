"""An empty stage says what to do first, with the keys in force, and no longer once something is there."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, paint, put
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.routing import Route, end_name
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.document.starter import new_plan
from woven_locus.files import catalogue
from woven_locus.ui.beginning import BEGINNINGS
from woven_locus.ui.bench.build.kind_sheet import KindSheet
from woven_locus.ui.inout.new_plan_sheet import NewPlanSheet
from woven_locus.ui.parts.floating import Floating
from woven_locus.ui.session.stages import Stage


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return make_window(new_plan(GridSpec(20, 12, 24, 24)))


def test_every_stage_says_what_comes_first(user: Driver) -> None:
    card, actions = user.window.beginning, user.window.actions_
    assert not card.isVisible()
    for stage, beginning in BEGINNINGS.items():
        user.session.set_stage(stage)
        assert card.isVisible()
        assert card.title.text() == beginning.title
        assert "{" not in card.words.text()
    user.session.set_stage(Stage.WAYS)
    assert "Shift+D draws one" in card.words.text()
    actions.set_key("ways.road", "Ctrl+7")
    card.look()
    assert "Ctrl+7 draws one" in card.words.text()
    user.session.set_stage(Stage.PROOF)
    assert not card.isVisible()


def test_what_is_answered_lies_over_what_is_only_read(user: Driver) -> None:
    window = user.window
    window.resize(window.minimumSize())
    window.tour.begin()
    user.session.set_stage(Stage.WAVES)
    user.settle()
    assert window.beginning.isVisible()
    assert window.beginning.geometry().intersects(window.tour.geometry())
    user.session.say("Something")
    # The last of them is the topmost.
    cards = [card for card in window.sheet.children() if isinstance(card, Floating)]
    assert cards == [window.beginning, window.tour, window.messages]
    user.session.set_stage(Stage.GROUND)
    user.session.set_stage(Stage.WAVES)
    cards = [card for card in window.sheet.children() if isinstance(card, Floating)]
    assert cards == [window.beginning, window.tour, window.messages]


def test_it_goes_once_something_is_there_and_comes_back_with_undo(
    user: Driver, qtbot: QtBot
) -> None:
    card = user.window.beginning
    user.session.set_stage(Stage.BUILD)
    user.session.arm(next(iter(user.plan.kinds)).key)
    assert not card.isVisible()
    user.session.disarm()
    assert card.isVisible()
    # The pointer goes through it: what it covers can be clicked.
    place = card.geometry().center()
    assert user.window.childAt(user.sheet.mapTo(user.window, place)) is user.sheet
    kind = next(kind.key for kind in user.plan.kinds if kind.key == "loom-hall")
    user.session.attempt(edits.place, user.plan, kind, Cell(8, 4), 0, "2026-01-01")
    qtbot.waitUntil(lambda: not card.isVisible())
    user.window.actions_.by_name["edit.undo"].trigger()
    qtbot.waitUntil(card.isVisible)
    user.session.set_stage(Stage.GROUND)
    user.session.attempt(paint, user.plan, [Cell(1, 1)], 1)
    qtbot.waitUntil(lambda: not card.isVisible())
    town = draw("....\n====")
    put(town, "hut", 0, 0)
    user.session.set_stage(Stage.WAYS)
    assert card.isVisible()
    user.session.open(Document(town))
    assert not card.isVisible()


# --- a new plan ---------------------------------------------------------------------------------


def _asked(user: Driver, purpose: int) -> NewPlanSheet:
    user.back()
    user.key("Ctrl+N")
    sheet = user.sheet_of(NewPlanSheet)
    button = sheet.group.button(purpose)
    assert button is not None
    user.tick(button)
    return sheet


def test_from_nothing_to_a_route_of_ones_own_kind_in_ten_actions(user: Driver) -> None:
    """As the tutorial tells it: a line that is no wait is an action, or a name that is typed."""
    user.back()
    user.key("Ctrl+N")
    user.key(Qt.Key.Key_Return, user.sheet_of(NewPlanSheet).name)
    user.push(user.window.bench.build.new)
    sheet = user.sheet_of(KindSheet)
    QTest.keyClicks(sheet.name, "Candle shop")
    user.key(Qt.Key.Key_Return, sheet.name)
    user.back()
    user.click((10, 10))
    user.click((30, 12))
    user.key("F5")
    user.drag((11, 11), (31, 13))
    user.key("Shift+F")
    user.drag((10, 10), (30, 12))
    assert [end_name(user.plan, number) for number in (1, 2)] == [
        "S1 Candle shop",
        "S2 Candle shop",
    ]
    route = user.desk.routes.current
    assert route is not None
    assert isinstance(route.answer, Route)
    assert (route.start, route.goal) == (1, 2)


def test_a_plan_is_what_it_was_asked_to_be(user: Driver) -> None:
    user.push(_asked(user, 2).make)
    assert user.session.choices.stage is Stage.SURVEY
    assert not len(user.plan.kinds)
    assert [item.key for item in user.plan.terrain_table] == ["ground"]
    user.push(_asked(user, 1).make)
    assert user.session.choices.stage is Stage.WAVES
    assert any(kind.tower for kind in user.plan.kinds)
    assert user.plan.waves.attackers
    assert not user.plan.waves.entries
    sheet = _asked(user, 1)
    user.type(sheet.cols, "90")
    user.tick(sheet.group.button(0))  # type: ignore[arg-type]
    # What was typed stays with another purpose.
    assert sheet.cols.value() == 90
    user.push(sheet.make)
    assert user.session.choices.stage is Stage.BUILD
    assert user.plan.spec.cols == 90
    assert "loom-hall" in user.plan.kinds


def test_kinds_come_out_of_a_file_and_a_broken_one_leaves_the_open_plan(
    user: Driver, tmp_path: Path
) -> None:
    kinds = tmp_path / "kinds.json"
    catalogue.save(open_demo("thornmoth").kinds, "tallies", kinds)
    user.window.files.choose_source = lambda _title: str(kinds)
    sheet = _asked(user, 0)
    user.choose(sheet.kinds, "From a file…")
    assert sheet.kinds.currentText() == "kinds.json"
    user.push(sheet.make)
    user.idle()
    assert "hurdle" in user.plan.kinds
    before = user.plan
    kinds.write_text("{")
    sheet = _asked(user, 0)
    user.choose(sheet.kinds, "From a file…")
    user.push(sheet.make)
    user.idle()
    assert "kinds.json" in user.said
    assert "The open plan is as it was" in user.said
    assert user.plan is before


def test_a_file_that_is_not_chosen_after_all_is_no_source(user: Driver) -> None:
    user.window.files.choose_source = lambda _title: ""
    sheet = _asked(user, 2)
    user.key(Qt.Key.Key_End, sheet.kinds)
    assert sheet.kinds.currentText() == "None"
    asked = sheet.asked
    assert asked is not None
    assert asked.kinds == "none"
    sheet.reject()
