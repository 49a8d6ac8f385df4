"""What a killed window left behind is offered by the next one."""

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.files.left_over import left_over
from woven_locus.ui.inout import recovery


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setattr(recovery, "folder", lambda: tmp_path / "journals")
    return tmp_path / "journals"


def crash(folder: Path) -> None:
    document = Document(open_demo())
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(16, 28)]))
    assert document.journal is not None
    document.journal.abandon()


def test_it_is_offered_and_restored(make_window: Callable[..., Driver], folder: Path) -> None:
    crash(folder)
    user = make_window("....")
    user.window.recovery.start()
    bar = user.window.ask_bar
    assert bar.isVisible()
    assert bar.label.text() == (
        "“Selvedge Vale” was not closed in good order; 1 step can be restored."
    )
    assert [b.text() for b in (bar.save, bar.discard, bar.keep)] == list(recovery.LABELS)
    user.push(bar.save)
    user.qtbot.waitUntil(lambda: user.plan.name == "Selvedge Vale")
    assert user.plan.road[28, 16] == 1
    assert user.window.isWindowModified()
    assert "Restored" in user.said
    # It is journalled anew, and the old journal is gone.
    assert len(list(folder.glob("*.journal"))) == 1
    assert list(left_over(folder)) == []


def test_later_keeps_it_and_throwing_away_does_not(
    make_window: Callable[..., Driver], folder: Path
) -> None:
    crash(folder)
    user = make_window("....")
    user.window.recovery.start()
    user.push(user.window.ask_bar.keep)
    assert len(list(left_over(folder))) == 1
    again = make_window("....")
    again.window.recovery.start()
    again.push(again.window.ask_bar.discard)
    assert list(left_over(folder)) == []
    assert again.plan.name == "Test plan"


def test_closing_in_good_order_leaves_nothing(
    make_window: Callable[..., Driver], folder: Path
) -> None:
    user = make_window()
    user.window.recovery.start()
    user.session.attempt(edits.lay_road, user.plan, [Cell(16, 28)])
    assert len(list(folder.glob("*.journal"))) == 1
    user.window.close()
    user.push(user.window.ask_bar.discard)
    assert not user.window.isVisible()
    assert list(folder.iterdir()) == []


def test_a_journal_that_cannot_be_kept_is_said_once(
    make_window: Callable[..., Driver], folder: Path
) -> None:
    folder.write_text("not a folder")
    user = make_window()
    user.window.recovery.start()
    assert user.said.startswith("The recovery journal cannot be written")
    user.window.messages.hide()
    user.session.attempt(edits.lay_road, user.plan, [Cell(16, 28)])
    assert user.said == ""
