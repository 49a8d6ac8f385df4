import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import WHEN, draw, paint
from tests.helpers.random_steps import random_step
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.edits import heights, kinds, money
from woven_locus.core.errors import FileProblem
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.document import Document
from woven_locus.files import journal as journals
from woven_locus.files.atomic import FileChanged
from woven_locus.files.edit_pack import pack, unpack
from woven_locus.files.left_over import left_over


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return tmp_path / "journals"


def killed(document: Document) -> None:
    """The process that held it is gone."""
    assert document.journal is not None
    assert document.journal.problem == ""
    document.journal.abandon()


@given(plans(), st.integers(0, 2**32 - 1))
def test_replaying_gives_the_plan_as_it_was(
    tmp_path_factory: pytest.TempPathFactory, plan: Plan, seed: int
) -> None:
    folder = tmp_path_factory.mktemp("journals")
    document = Document(plan)
    document.keep_journal(folder)
    rng = np.random.default_rng(seed)
    for _ in range(15):
        random_step(plan, document.history, rng)
    killed(document)
    found = list(left_over(folder))
    assert len(found) <= 1
    for journal in found:
        again = Document.restore(journal)
        assert recorded(again.plan) == recorded(plan)
        assert (
            again.history.entries[: again.history.position]
            == (document.history.entries[: document.history.position])
        )
        assert_derived_is_current(again.plan)
        assert not again.history.saved


def test_an_edit_goes_into_bytes_and_back() -> None:
    plan = draw("....\n....")
    document = Document(plan)
    seen = []
    document.history.watch(lambda _action, edit: seen.append(edit))
    document.history.do(edits.place(plan, "hut", Cell(1, 1), 2, WHEN))
    document.history.do(edits.lay_road(plan, [Cell(0, 0), Cell(3, 0)]))
    for edit in seen:
        again = unpack(pack(edit))
        assert again.label == edit.label
        assert pack(again) == pack(edit)


def test_what_was_written_ahead_is_restored_and_cleared_away(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan = draw("....\n....")
    before = recorded(plan)
    document = Document(plan)
    document.keep_journal(folder)
    assert document.journal is not None
    made = heights.set_heights(plan, np.ones(plan.spec.shape, np.float32), "Heights")
    monkeypatch.setattr(journals, "LARGE", 1)
    document.prepare(made)
    monkeypatch.undo()
    document.history.do(made)
    document.history.do(paint(plan, [Cell(1, 1)], 2))
    assert len(list(folder.glob("*.pack"))) == 2  # the plan that no file holds, and the edit
    after = recorded(plan)
    killed(document)
    (journal,) = left_over(folder)
    again = Document.restore(journal)
    assert recorded(again.plan) == after
    again.history.go_to(0)
    assert recorded(again.plan) == before
    journal.throw_away()
    assert list(folder.iterdir()) == []


def test_an_edit_prepared_but_never_done_leaves_no_trace(folder: Path) -> None:
    plan = draw("....")
    document = Document(plan)
    document.keep_journal(folder)
    document.prepare(heights.set_heights(plan, heights.flat(plan), "Flat"))
    document.history.do(paint(plan, [Cell(1, 0)], 2))
    killed(document)
    (journal,) = left_over(folder)
    again = Document.restore(journal)
    assert recorded(again.plan) == recorded(plan)
    assert again.plan.heights is None


def test_a_killed_process_loses_nothing(folder: Path, tmp_path: Path) -> None:
    file = tmp_path / "town.plan.json"
    Document(draw("....\n....\n....")).save(file)
    code = f"""
import os, signal
from pathlib import Path
from woven_locus.core.geometry import Cell, Point
from woven_locus.core import edits
from woven_locus.core.edits import ground
from woven_locus.core.lines import Brush
from woven_locus.document import Document
document = Document.open(Path({str(file)!r}))
document.keep_journal(Path({str(folder)!r}))
for col in range(4):
    document.history.do(edits.lay_road(document.plan, [Cell(col, 1)]))
document.history.undo()
document.history.begin("a stroke that nobody finished")
document.history.do(ground.paint_brush(document.plan, [Cell(0, 0)], Brush(1), ground.Coat("terrain", 2)))
os.kill(os.getpid(), signal.SIGKILL)
"""
    done = subprocess.run([sys.executable, "-c", code], check=False)
    assert done.returncode == -signal.SIGKILL
    (journal,) = left_over(folder)
    assert (journal.name, journal.steps) == ("Test plan", 6)
    again = Document.restore(journal)
    assert again.path == file
    assert again.plan.road[1].tolist() == [1, 1, 1, 0]
    # What was shown of the stroke is there, as a step of its own.
    assert again.plan.terrain[0].tolist() == [2, 0, 0, 0]
    assert again.history.entries[-1].startswith("Painted")
    again.history.undo()
    assert not again.plan.terrain.any()
    journal.throw_away()
    assert list(folder.iterdir()) == []


def test_a_journal_in_use_is_not_left_over(folder: Path) -> None:
    document = Document(draw("..."))
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    assert list(left_over(folder)) == []
    document.close()
    assert list(folder.iterdir()) == []


def test_a_stroke_that_was_being_drawn_is_one_step(folder: Path) -> None:
    document = Document(draw("....."))
    document.keep_journal(folder)
    history = document.history
    for label in ("Laid two", "Laid two more"):
        history.begin(label)
        for _ in range(2):
            col = int(document.plan.road.sum())
            history.do(edits.lay_road(document.plan, [Cell(col, 0)]))
        if label == "Laid two":
            history.commit()
    killed(document)
    (journal,) = left_over(folder)
    assert journal.steps == 2
    again = Document.restore(journal)
    assert again.plan.road.tolist() == [[1, 1, 1, 1, 0]]
    assert again.history.entries == ["Laid two", "Laid road"]


def test_saving_begins_the_journal_anew(folder: Path, tmp_path: Path) -> None:
    document = Document(draw("..."))
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    path = document.save(tmp_path / "a.plan.json")
    document.history.do(edits.lay_road(document.plan, [Cell(2, 0)]))
    killed(document)
    (journal,) = left_over(folder)
    assert journal.steps == 1
    again = Document.restore(journal)
    assert (again.path, again.plan.road.tolist()) == (path, [[1, 0, 1]])


def test_steps_done_while_a_worker_saves_are_not_lost(folder: Path, tmp_path: Path) -> None:
    path = tmp_path / "a.plan.json"
    document = Document(draw("..."))
    document.save(path)
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    saving = document.begin_save(path)
    saving.write()
    # Meanwhile as many steps as there were, but another one.
    document.history.undo()
    document.history.do(edits.lay_road(document.plan, [Cell(1, 0)]))
    assert not document.saved(saving)
    assert not document.history.saved
    document.history.undo()
    assert not document.history.saved  # as it was opened, which the file no longer holds
    document.history.redo()
    document.history.do(edits.lay_road(document.plan, [Cell(2, 0)]))
    killed(document)
    (journal,) = left_over(folder)
    again = Document.restore(journal)
    assert (again.path, again.plan.road.tolist()) == (path, [[0, 1, 1]])
    assert Document.open(path).plan.road.tolist() == [[1, 0, 0]]


@pytest.mark.parametrize("what", ["clock", "funds", "actor", "price", "kind"])
def test_every_edit_counts_as_one_while_a_worker_saves(what: str, tmp_path: Path) -> None:
    path = tmp_path / "a.plan.json"
    document = Document(draw("..."))
    plan, history = document.plan, document.history
    history.do(money.set_funds(plan, 100, 50))
    document.save(path)
    saving = document.begin_save(path)
    saving.write()
    before = document.revision
    hut = plan.kinds["hut"]
    history.do(
        {
            "clock": lambda: money.advance(plan, 5),
            "funds": lambda: money.set_funds(plan, 200, 50),
            "actor": lambda: money.place_actor(plan, Point(1, 1)),
            "price": lambda: kinds.change_kind(plan, "hut", replace(hut, price=99)),
            "kind": lambda: kinds.copy_kind(plan, "hut"),
        }[what]()
    )
    assert document.revision > before
    assert not document.saved(saving)
    assert not history.saved
    document.save()
    assert recorded(Document.open(path).plan) == recorded(plan)


def test_nothing_to_restore_is_cleared_away(folder: Path) -> None:
    document = Document(draw("..."))
    document.keep_journal(folder)
    killed(document)
    assert list(left_over(folder)) == []
    assert not list(folder.glob("*.journal"))


def test_what_was_restored_survives_a_second_crash(folder: Path) -> None:
    document = Document(draw("..."))
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    killed(document)
    (journal,) = left_over(folder)
    again = Document.restore(journal)
    again.keep_journal(folder)
    journal.throw_away()
    killed(again)
    (second,) = left_over(folder)
    assert second.steps == 0
    assert Document.restore(second).plan.road.tolist() == [[1, 0, 0]]


def test_steps_come_out_as_a_plan_of_its_own_when_the_file_changed(
    folder: Path, tmp_path: Path
) -> None:
    path = tmp_path / "a.plan.json"
    Document(draw("...")).save(path)
    document = Document.open(path)
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    killed(document)
    Document(draw("sss")).save(path)
    (journal,) = left_over(folder)
    again = Document.restore(journal)
    assert again.plan.road.tolist() == [[1, 0, 0]]
    # What the other program wrote is not written over unasked.
    with pytest.raises(FileChanged, match="another program"):
        again.save()
    assert Document.open(path).plan.terrain.any()
    again.save(over=True)
    assert Document.open(path).plan.road.tolist() == [[1, 0, 0]]


def test_the_journal_holds_what_was_read_not_what_the_file_holds_by_then(
    folder: Path, tmp_path: Path
) -> None:
    path = tmp_path / "a.plan.json"
    Document(draw("...")).save(path)
    document = Document.open(path)
    Document(draw("sss")).save(path)  # between reading and the first frame
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    killed(document)
    (journal,) = left_over(folder)
    again = Document.restore(journal)
    assert (again.plan.road.tolist(), again.plan.terrain.any()) == ([[1, 0, 0]], False)


def test_a_broken_journal_is_refused_in_words(folder: Path) -> None:
    document = Document(draw("..."))
    document.keep_journal(folder)
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    killed(document)
    (journal,) = left_over(folder)
    with sqlite3.connect(journal.path) as database:
        database.execute("update steps set edit = x'00ff'")
    database.close()
    with pytest.raises(FileProblem, match="this journal cannot be read"):
        Document.restore(journal)
    (folder / "junk.journal").write_bytes(b"no database at all")
    assert [j.path for j in left_over(folder)] == [journal.path]


def test_where_no_journal_can_be_kept_editing_goes_on(tmp_path: Path) -> None:
    shut = tmp_path / "file"
    shut.write_text("not a folder")
    document = Document(draw("..."))
    document.keep_journal(shut)
    assert document.journal is not None
    assert "save your work to a file" in document.journal.problem
    document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
    assert document.plan.road.tolist() == [[1, 0, 0]]
    document.close()


def test_a_folder_that_is_not_there_holds_nothing(tmp_path: Path) -> None:
    assert list(left_over(tmp_path / "none")) == []


@given(plans(6), st.integers(0, 2**32 - 1))
def test_going_back_behind_the_last_save_is_not_lost(
    tmp_path_factory: pytest.TempPathFactory, plan: Plan, seed: int
) -> None:
    folder = tmp_path_factory.mktemp("journals")
    document = Document(plan)
    document.keep_journal(folder)
    rng = np.random.default_rng(seed)
    for _ in range(20):
        what = rng.integers(8)
        if what == 0:
            document.save(folder / "kept.plan.json")
        elif what <= 2:
            document.history.undo()
        elif what == 3:
            document.history.redo()
        else:
            random_step(plan, document.history, rng)
    killed(document)
    for journal in left_over(folder):
        assert recorded(Document.restore(journal).plan) == recorded(plan)


def test_zeros_of_either_sign_come_back_as_they_were(folder: Path) -> None:
    plan = draw("..")
    document = Document(plan)
    document.keep_journal(folder)
    levels = np.array([[0.0, -0.0]], np.float32)
    document.history.do(heights.set_heights(plan, levels, "Flat"))
    killed(document)
    (journal,) = left_over(folder)
    assert recorded(Document.restore(journal).plan) == recorded(plan)


def test_an_undo_behind_the_save_comes_back_after_a_crash(folder: Path, tmp_path: Path) -> None:
    document = Document(draw("...."))
    document.keep_journal(folder)
    document.history.do(edits.place(document.plan, "hut", Cell(1, 0), 0, WHEN))
    document.save(tmp_path / "kept.plan.json")
    document.history.undo()
    killed(document)
    (journal,) = left_over(folder)
    assert len(Document.restore(journal).plan.register) == 0
