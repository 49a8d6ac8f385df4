"""An empty stage says what to do first, with the keys in force, and no longer once something is there."""

from collections.abc import Callable

import pytest
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, paint, put
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.document import Document
from woven_locus.document.starter import new_plan
from woven_locus.ui.beginning import BEGINNINGS
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
