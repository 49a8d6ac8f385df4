"""The journal of an open plan, and questions that are answered beside it: nothing is lost, nothing old is shown."""

import os
import threading
from pathlib import Path

import pytest

from tests.helpers import patience
from tests.helpers.builders import WHEN, draw, paint
from tests.ui.conftest import Driver
from tests.ui.test_safety import Make
from woven_locus.core import edits
from woven_locus.core.edits import money
from woven_locus.core.geometry import Cell
from woven_locus.core.routing import ON_FOOT, Manner, NoRoute, Route
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.files import atomic
from woven_locus.files import journal as journals
from woven_locus.files.left_over import left_over
from woven_locus.ui.session.session import Session

# --- the journal ---------------------------------------------------------------------------------------


def after_a_kill(make_window: Make, folder: Path) -> Driver:
    """A window that asks what to do with the journal of a demo whose process was killed."""
    lost = Document(open_demo())
    lost.keep_journal(folder)
    lost.history.do(edits.lay_road(lost.plan, [Cell(16, 28)]))
    assert lost.journal is not None
    lost.journal.abandon()
    user = make_window("....")
    user.window.recovery.start()
    return user


def test_restoring_asks_about_the_open_plan_first(make_window: Make, folder: Path) -> None:
    user = after_a_kill(make_window, folder)
    user.session.attempt(edits.lay_road, user.plan, [Cell(0, 0)])
    bar = user.window.ask_bar
    user.push(bar.save)  # Restore it
    user.idle()
    assert "changes that are not saved" in bar.label.text()
    user.push(bar.keep)
    assert user.plan.road[0].tolist() == [1, 0, 0, 0]
    # Neither is lost: the left-over journal is there, and so is this plan's.
    assert [journal.name for journal in left_over(folder)] == ["Selvedge Vale"]
    assert user.session.document.journal is not None
    assert user.session.document.journal.problem == ""


@pytest.mark.usefixtures("large")
def test_a_kill_right_after_restoring_loses_nothing(make_window: Make, folder: Path) -> None:
    user = after_a_kill(make_window, folder)
    user.push(user.window.ask_bar.save)
    user.qtbot.waitUntil(lambda: user.plan.name == "Selvedge Vale")
    # At the very moment in which it is shown its journal counts.
    journal = user.session.document.journal
    assert journal is not None
    assert journal.path is not None
    journal.abandon()
    (again,) = left_over(folder)
    assert Document.restore(again).plan.road[28, 16] == 1


def test_a_full_disk_is_said_and_the_journal_begins_anew_when_there_is_room(
    make_window: Make, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    user = make_window("........")
    user.window.recovery.start()
    user.session.attempt(edits.lay_road, user.plan, [Cell(0, 0)])
    real = journals.Book.record
    real_write = atomic._write_all

    def full(*_args: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(journals.Book, "record", full)
    monkeypatch.setattr(atomic, "_write_all", full)
    user.session.attempt(edits.lay_road, user.plan, [Cell(1, 0)])
    assert "recovery journal cannot be written" in user.said
    assert "No space left" in user.said
    user.session.attempt(edits.lay_road, user.plan, [Cell(2, 0)])
    monkeypatch.setattr(journals.Book, "record", real)
    monkeypatch.setattr(atomic, "_write_all", real_write)
    user.qtbot.waitUntil(lambda: "kept again" in user.said)
    user.session.attempt(edits.lay_road, user.plan, [Cell(3, 0)])
    document = user.session.document
    assert document.journal is not None
    document.journal.abandon()
    (journal,) = left_over(folder)
    assert Document.restore(journal).plan.road[0].tolist() == [1, 1, 1, 1, 0, 0, 0, 0]


def test_a_stroke_that_is_shown_is_in_the_journal(make_window: Make, folder: Path) -> None:
    user = make_window("........\n........")
    user.window.recovery.start()
    user.key("F3")
    user.session.choices.set_brush(code=2, size=1)
    user.press((1, 0))
    user.to((5, 0))
    shown = user.plan.terrain.copy()
    assert user.session.document.history.in_gesture
    document = user.session.document
    assert document.journal is not None
    document.journal.abandon()
    (journal,) = left_over(folder)
    assert Document.restore(journal).plan.terrain.tolist() == shown.tolist()
    user.key("Esc")


# --- questions beside the document ------------------------------------------------------------------------


def work_that_waits(session: Session, go: threading.Event) -> None:
    """An edit that is being made elsewhere, and comes once it may go on."""
    reached = threading.Event()

    def make(plan, _control):  # type: ignore[no-untyped-def]
        reached.set()
        assert go.wait(patience.SECONDS)
        return paint(plan, [Cell(0, 0)], 1)

    session.work("Made ground", make)
    assert reached.wait(patience.SECONDS)


@pytest.mark.usefixtures("large")
def test_an_answer_for_a_plan_that_has_moved_on_is_dropped(make_window: Make) -> None:
    user = make_window("....\n....")
    session = user.session
    session.attempt(money.set_funds, user.plan, 100, 50)
    go = threading.Event()
    work_that_waits(session, go)
    session.attempt(money.advance, user.plan, 5)  # no cell changes, but the plan does
    clock = user.plan.funds.clock  # type: ignore[union-attr]
    go.set()
    user.idle()
    assert "dropped" in user.said
    assert user.plan.terrain[0, 0] == 0
    assert user.plan.funds.clock == clock  # type: ignore[union-attr]


@pytest.mark.usefixtures("large")
def test_a_running_clock_waits_for_an_answer_instead_of_making_it_void(make_window: Make) -> None:
    user = make_window("....\n....")
    session, tab = user.session, user.window.tray.funds
    session.attempt(money.set_funds, user.plan, 100, 50)
    tab.clock.speed = 600
    tab.clock.set_running(True)
    go = threading.Event()
    work_that_waits(session, go)
    clock = user.plan.funds.clock  # type: ignore[union-attr]
    user.qtbot.waitUntil(lambda: tab.clock.owed > 100)
    assert user.plan.funds.clock == clock  # type: ignore[union-attr]
    go.set()
    user.qtbot.waitUntil(lambda: user.plan.terrain[0, 0] == 1)
    user.qtbot.waitUntil(lambda: user.plan.funds.clock > clock + 100)  # type: ignore[union-attr]
    tab.clock.set_running(False)


def test_a_walker_does_not_go_on_through_a_new_wall_while_funds_are_kept(make_window: Make) -> None:
    plan = draw("...\n...\n...")
    user = make_window(plan)
    session = user.session
    session.attempt(money.set_funds, plan, 1000, 50)
    user.desk.routes.manner = ON_FOOT
    pin = user.desk.routes.ask(Cell(0, 1), Cell(2, 1))
    assert pin is not None
    assert isinstance(pin.answer, Route)
    assert pin.answer.length == 2
    session.attempt(edits.place, plan, "hut", Cell(1, 1), 0, WHEN)
    assert isinstance(pin.answer, Route)
    assert Cell(1, 1) not in pin.answer.cells
    session.attempt(edits.demolish, plan, [1])
    assert pin.answer.length == 2
    user.desk.routes.manner = Manner()
    far = user.desk.routes.ask(Cell(0, 1), Cell(2, 1))
    assert far is not None
    assert isinstance(far.answer, NoRoute)


def test_a_pipe_is_no_plan(vale: Driver, tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.plan.json"
    os.mkfifo(pipe)
    vale.window.files.open_path(pipe)
    vale.idle()
    assert "is a pipe; expected a file" in vale.said
    assert vale.plan.name == "Selvedge Vale"
