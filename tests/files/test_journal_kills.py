"""Killed between any two calls to the system: what was shown is never lost."""

import itertools
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pytest

from tests.helpers.builders import WHEN, draw, paint
from tests.helpers.kills import Log, killed_at
from tests.helpers.state import recorded
from woven_locus.core import edits
from woven_locus.core.editing import Keep, Regrid
from woven_locus.core.edits import money
from woven_locus.core.edits.grid import regrid
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.strokes.base import PlaceStroke
from woven_locus.document import Document
from woven_locus.files.atomic import digest
from woven_locus.files.left_over import left_over

State = str


def shown(document: Document) -> State:
    return digest(recorded(document.plan))


def begin(folder: Path) -> Document:
    document = Document.open(folder / "town.plan.json")
    document.keep_journal(folder / "journals")
    return document


def steps(document: Document, log: Callable[[State], None]) -> None:
    """Edits of many sorts, a save in the middle, and an undo behind it; each is logged once it is shown."""
    plan, history = document.plan, document.history

    def tell() -> None:
        log(shown(document))

    history.do(edits.lay_road(plan, [Cell(0, 1), Cell(1, 1)]))
    tell()
    history.do(money.set_funds(plan, 500, 50))
    tell()
    history.do(money.advance(plan, 3))
    tell()
    history.do(money.advance(plan, 4))
    tell()
    stroke = PlaceStroke(plan, history, "hut", 0, WHEN)
    stroke.start(Cell(0, 0))
    tell()
    for col in (1, 2):
        stroke.to(Cell(col, 0))
        tell()
    stroke.finish()
    tell()
    document.save()
    tell()
    history.undo()  # back behind the save
    tell()
    history.redo()
    tell()
    history.do(money.place_actor(plan, Point(1.5, 0.5)))
    tell()
    stroke = PlaceStroke(plan, history, "hut", 0, WHEN)
    stroke.start(Cell(4, 2))
    tell()
    stroke.cancel()
    tell()
    history.do(regrid(plan, Regrid(plan.spec.__class__(8, 4), Keep.INDEX)))
    tell()
    document.save()
    tell()
    history.undo()  # another grid, undone behind the save
    tell()
    history.do(paint(plan, [Cell(3, 2)], 2))
    tell()


def closing(document: Document, log: Callable[[State], None]) -> None:
    document.history.do(edits.lay_road(document.plan, [Cell(0, 1), Cell(1, 1)]))
    log(shown(document))
    document.save()
    log(shown(document))
    document.close()


def town(folder: Path) -> None:
    Document(draw(".....\n.....\n.....")).save(folder / "town.plan.json")


def found(folder: Path) -> State:
    """What the next start gets: what was left over, or else the file."""
    journals = list(left_over(folder / "journals"))
    assert len(journals) <= 1
    if journals:
        return shown(Document.restore(journals[0]))
    return shown(Document.open(folder / "town.plan.json"))


def killed_everywhere(
    tmp_path: Path, set_up: Callable[[Path], None], run: Callable[[Path, Log], None]
) -> Iterator[tuple[int, Path, list[State], bool]]:
    """Do it again and again, each time in a folder that was set up anew and in a process that is killed one
    call to the system later, until it comes to its end: (the call, the folder, what was told, whether it was
    killed)."""
    for count in itertools.count(1):
        folder = tmp_path / f"at{count}"
        folder.mkdir()
        set_up(folder)
        killed = killed_at(count, partial(run, folder), folder / "log")
        yield count, folder, (folder / "log").read_text().split(), killed
        if not killed:
            return


@pytest.mark.parametrize("scenario", [steps, closing])
def test_a_kill_between_any_two_calls_loses_nothing_that_was_shown(
    scenario: Callable[[Document, Callable[[State], None]], None], tmp_path: Path
) -> None:
    whole = tmp_path / "whole"
    whole.mkdir()
    town(whole)
    states = [shown(Document.open(whole / "town.plan.json"))]
    document = begin(whole)
    scenario(document, states.append)
    document.close()
    assert len(states) > 2

    def run(folder: Path, log: Log) -> None:
        scenario(begin(folder), log)

    count = 0
    for count, folder, told, killed in killed_everywhere(tmp_path, town, run):
        assert told == states[1 : len(told) + 1]
        # The last state that was shown, or the one that was just about to be.
        assert found(folder) in states[len(told) : len(told) + 2], f"killed at call {count}"
        assert not list(folder.glob(".*.part")) or killed
    assert count > 40


def test_a_kill_while_restoring_loses_nothing(tmp_path: Path) -> None:
    states: list[State] = []

    def set_up(folder: Path) -> None:
        town(folder)
        before = begin(folder)
        before.history.do(edits.lay_road(before.plan, [Cell(0, 1), Cell(1, 1)]))
        assert before.journal is not None
        before.journal.abandon()
        twin = before.plan.twin()
        edits.lay_road(twin, [Cell(2, 1)]).apply(twin)
        states[:] = [shown(before), digest(recorded(twin))]

    def run(folder: Path, log: Log) -> None:
        (journal,) = left_over(folder / "journals")
        document = Document.restore(journal)
        document.keep_journal(folder / "journals")
        log(shown(document))
        document.history.do(edits.lay_road(document.plan, [Cell(2, 1)]))
        log(shown(document))

    count = 0
    for count, folder, told, _killed in killed_everywhere(tmp_path, set_up, run):
        assert told == states[: len(told)]
        assert found(folder) in states[max(0, len(told) - 1) : len(told) + 1], f"at call {count}"
    assert count > 20


def test_what_a_killed_writer_left_beside_the_plan_is_cleared_away(tmp_path: Path) -> None:
    town(tmp_path)
    path = tmp_path / "town.plan.json"
    left = 0
    for count in range(1, 40):

        def run(_log: Log) -> None:
            document = Document.open(path)
            document.history.do(edits.lay_road(document.plan, [Cell(0, 0)]))
            document.save()

        if not killed_at(count, run, tmp_path / "log"):
            break
        parts = list(tmp_path.glob(".*.part"))
        left += bool(parts)
        assert len(parts) <= 1
        Document.open(path).save()
        assert not list(tmp_path.glob(".*.part"))
    assert left
