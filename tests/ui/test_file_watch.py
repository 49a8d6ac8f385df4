"""Another program writes the file of the plan that is open in the real window."""

import json
from collections.abc import Callable
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw, paint, put
from tests.helpers.state import assert_derived_is_current, recorded
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.document import Document
from woven_locus.files import plan_json


@pytest.fixture
def path(tmp_path: Path) -> Path:
    plan_json.save(draw("....\n====\n...."), tmp_path / "town.plan.json")
    return tmp_path / "town.plan.json"


@pytest.fixture
def user(make_window: Callable[..., Driver], path: Path, qtbot: QtBot) -> Driver:
    found = make_window(draw(".."))
    found.session.open(Document.open(path))
    # The first look, which finds what was read.
    qtbot.waitUntil(lambda: found.window.file_watch._seen is not None)
    return found


def other(path: Path) -> Plan:
    """What somebody else makes of it."""
    plan = plan_json.load(path)
    put(plan, "hut", 3, 0)
    plan_json.save(plan, path)
    return plan


def asked(user: Driver, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: user.window.ask_bar.isVisible())
    assert "town.plan.json was written by another program" in user.window.ask_bar.label.text()


def test_it_is_reloaded_as_a_step(user: Driver, path: Path, qtbot: QtBot) -> None:
    user.session.attempt(lambda: paint(user.plan, [Cell(0, 0)], 1))
    mine = recorded(user.plan)
    theirs = other(path)
    asked(user, qtbot)
    user.push(user.window.ask_bar.save)
    qtbot.waitUntil(lambda: user.session.document.history.saved)
    assert recorded(user.plan) == recorded(theirs)
    assert_derived_is_current(user.plan)
    assert user.session.document.history.entries[-1] == "Reloaded town.plan.json"
    # What was done before is not lost, and saving writes over what was reloaded.
    user.window.actions_.by_name["edit.undo"].trigger()
    assert recorded(user.plan) == mine
    assert not user.session.document.history.saved
    user.window.actions_.by_name["file.save"].trigger()
    qtbot.waitUntil(lambda: user.session.document.history.saved)
    assert path.read_bytes() == mine
    assert not user.window.ask_bar.isVisible()


def test_mine_is_kept_and_saving_does_not_ask_again(user: Driver, path: Path, qtbot: QtBot) -> None:
    mine = recorded(user.plan)
    other(path)
    asked(user, qtbot)
    user.push(user.window.ask_bar.keep)
    assert recorded(user.plan) == mine
    assert not user.session.document.history.saved
    user.window.actions_.by_name["file.save"].trigger()
    qtbot.waitUntil(lambda: path.read_bytes() == mine)
    assert not user.window.ask_bar.isVisible()
    # The next time it is asked again.
    other(path)
    asked(user, qtbot)


def test_it_is_compared_and_still_to_be_decided(user: Driver, path: Path, qtbot: QtBot) -> None:
    other(path)
    asked(user, qtbot)
    user.push(user.window.ask_bar.discard)
    qtbot.waitUntil(lambda: bool(user.desk.compared.lines))
    assert user.desk.compared.path == path
    asked(user, qtbot)
    user.push(user.window.ask_bar.save)
    qtbot.waitUntil(lambda: len(user.plan.register) == 1)


def test_own_saves_and_other_files_are_no_news(user: Driver, path: Path, qtbot: QtBot) -> None:
    for col in range(3):
        user.session.attempt(lambda col=col: paint(user.plan, [Cell(col, 0)], 1))
        user.window.actions_.by_name["file.save"].trigger()
        qtbot.waitUntil(lambda: user.session.document.history.saved)
    (path.parent / "notes.txt").write_text("something else")
    watch = user.window.file_watch
    watch._look()
    qtbot.waitUntil(lambda: not watch._looking)
    assert not user.window.ask_bar.isVisible()


def test_half_a_file_and_none_lose_nothing(user: Driver, path: Path, qtbot: QtBot) -> None:
    mine = recorded(user.plan)
    whole = path.read_text()
    path.write_text(whole[: len(whole) // 2])
    asked(user, qtbot)
    user.push(user.window.ask_bar.save)
    qtbot.waitUntil(lambda: str(path) in user.said)
    assert recorded(user.plan) == mine
    # The rest of it comes: asked anew.
    path.write_text(json.dumps(json.loads(whole) | {"name": "Renamed"}))
    asked(user, qtbot)
    user.push(user.window.ask_bar.save)
    qtbot.waitUntil(lambda: user.plan.name == "Renamed")
    path.unlink()
    qtbot.waitUntil(lambda: "is gone" in user.said)
    assert not user.session.document.history.saved
    user.window.actions_.by_name["file.save"].trigger()
    qtbot.waitUntil(path.exists)


def test_it_is_asked_after_the_stroke_and_what_it_was_of_counts(
    user: Driver, path: Path, qtbot: QtBot
) -> None:
    history = user.session.document.history
    history.begin("A stroke")
    history.do(edits.lay_road(user.plan, [Cell(0, 0)]))
    other(path)
    asked(user, qtbot)
    user.push(user.window.ask_bar.save)
    assert "end the stroke" in user.said
    history.commit()
    user.window.actions_.by_name["file.revert"].trigger()
    qtbot.waitUntil(lambda: history.saved)
    assert history.entries == ["A stroke", "Reverted to saved"]
    # Another plan is opened while the question stands: it is of the old one.
    other_plan = Document(draw(".."))
    put_there = plan_json.load(path)
    put_there.name = "Again"
    plan_json.save(put_there, path)
    asked(user, qtbot)
    user.session.open(other_plan)
    before = recorded(other_plan.plan)
    user.push(user.window.ask_bar.save)
    assert recorded(other_plan.plan) == before
