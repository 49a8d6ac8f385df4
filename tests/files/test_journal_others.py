"""The recovery journal where another program writes the plan's file, and the process is killed after it was asked about."""

from pathlib import Path

import pytest

from tests.files.test_journal import killed
from tests.helpers.builders import draw, paint, put
from tests.helpers.state import recorded
from woven_locus.core.edits.becoming import becoming
from woven_locus.core.geometry import Cell
from woven_locus.document import Document
from woven_locus.files import plan_json
from woven_locus.files.atomic import digest
from woven_locus.files.left_over import left_over


@pytest.fixture
def document(tmp_path: Path) -> Document:
    path = tmp_path / "town.plan.json"
    plan_json.save(draw("....\n....\n...."), path)
    found = Document.open(path)
    found.keep_journal(tmp_path / "journals")
    found.history.do(paint(found.plan, [Cell(0, 0)], 1))
    other = plan_json.load(path)
    put(other, "hut", 2, 2)
    plan_json.save(other, path)
    return found


def mark_of(document: Document) -> str:
    assert document.path is not None
    return digest(document.path.read_bytes())


def restored(tmp_path: Path) -> Document | None:
    found = list(left_over(tmp_path / "journals"))
    return Document.restore(found[0]) if found else None


def test_what_was_reloaded_needs_no_rescue_and_what_follows_does(
    document: Document, tmp_path: Path
) -> None:
    assert document.path is not None
    theirs = plan_json.load(document.path)
    document.history.do(becoming(document.plan, theirs, "Reloaded"))
    document.is_in_file(mark_of(document))
    assert document.history.saved
    document.history.do(paint(document.plan, [Cell(1, 1)], 2))
    killed(document)
    again = restored(tmp_path)
    assert again is not None
    assert again.path == document.path
    assert recorded(again.plan) == recorded(document.plan)
    # Saving it is no writing over somebody else's work.
    again.save()
    assert document.path.read_bytes() == recorded(document.plan)


def test_going_back_behind_a_reload_is_not_lost(document: Document, tmp_path: Path) -> None:
    assert document.path is not None
    mine = recorded(document.plan)
    document.history.do(becoming(document.plan, plan_json.load(document.path), "Reloaded"))
    document.is_in_file(mark_of(document))
    document.history.undo()
    assert not document.history.saved
    killed(document)
    again = restored(tmp_path)
    assert again is not None
    assert recorded(again.plan) == mine


def test_a_plan_that_stays_apart_comes_back_for_its_file(
    document: Document, tmp_path: Path
) -> None:
    document.stays_apart(mark_of(document))
    assert not document.history.saved
    killed(document)
    again = restored(tmp_path)
    assert again is not None
    assert (again.path, again.digest) == (document.path, mark_of(document))
    assert recorded(again.plan) == recorded(document.plan)


def test_a_file_that_is_gone_leaves_the_plan_unsaved(document: Document, tmp_path: Path) -> None:
    assert document.path is not None
    document.path.unlink()
    document.stays_apart(None)
    killed(document)
    again = restored(tmp_path)
    assert again is not None
    assert recorded(again.plan) == recorded(document.plan)
    document.save()
    assert document.path.read_bytes() == recorded(document.plan)
