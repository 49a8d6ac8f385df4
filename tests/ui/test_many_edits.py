"""Many edits in a row, as a game makes them: told once, shown whole."""

import random
from collections.abc import Callable
from contextlib import nullcontext

import pytest

from tests.helpers.builders import draw, paint
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.editing import Keep, Notice, Regrid
from woven_locus.core.edits.grid import regrid
from woven_locus.core.geometry import Cell
from woven_locus.core.value import replace


def test_edits_in_a_row_are_told_once_and_whole(
    make_window: Callable[..., Driver], monkeypatch: pytest.MonkeyPatch
) -> None:
    user = make_window(draw("\n".join(["." * 8] * 6)))
    session = user.session
    told: list[Notice] = []
    session.changed.connect(told.append)
    session.attempt(edits.place, user.plan, "hut", Cell(0, 0), 0, "2026-01-01T00:00:00Z")
    session.selection.select(1)
    before = user.colour_at(Cell(5, 4))
    told.clear()
    with session.bunch.held():
        session.attempt(edits.demolish, user.plan, [1])
        session.attempt(paint, user.plan, [Cell(1, 1)], 1)
        session.attempt(paint, user.plan, [Cell(5, 4)], 1)
        assert not told
    (notice,) = told
    assert notice.layers == {"structures", "terrain"}
    assert notice.structures == {1}
    assert len(notice.boxes) == 3
    assert not session.selection.numbers
    user.settle()
    assert user.colour_at(Cell(5, 4)) != before
    # Another grid voids the blocks of the old one.
    told.clear()
    with session.bunch.held():
        session.attempt(paint, user.plan, [Cell(7, 5)], 2)
        spec = replace(user.plan.spec, cols=4, rows=3)
        session.attempt(regrid, user.plan, Regrid(spec, Keep.INDEX))
        session.attempt(paint, user.plan, [Cell(0, 2)], 2)
    (notice,) = told
    assert notice.reformed
    assert all(box.r1 <= 3 and box.c1 <= 4 for box in notice.boxes)
    user.settle()
    assert user.colour_at(Cell(0, 2)) != before
    # What goes wrong there is told, and no edit is held back after it.
    bugs: list[Exception] = []
    session.tell_bugs(bugs.append)
    with monkeypatch.context() as wrong:
        wrong.setattr(session.selection, "fit", None)
        with session.bunch.held():
            session.attempt(paint, user.plan, [Cell(2, 2)], 2)
    assert [type(bug) for bug in bugs] == [TypeError]
    told.clear()
    session.attempt(paint, user.plan, [Cell(3, 2)], 2)
    assert len(told) == 1


@pytest.mark.parametrize("seed", range(3))
def test_the_list_of_the_history_is_the_history(
    make_window: Callable[..., Driver], seed: int
) -> None:
    """Only rows that changed are written: against all of them, after steps forth and back."""
    user, chance = make_window(draw("\n".join(["." * 8] * 6))), random.Random(seed)
    history, shown = user.session.document.history, user.window.tray.history
    for turn in range(60):
        with user.session.bunch.held() if turn % 3 == 0 else nullcontext():
            for _ in range(chance.randint(1, 4)):
                what = chance.random()
                if what < 0.5:
                    cell = Cell(chance.randrange(8), chance.randrange(6))
                    user.session.attempt(paint, user.plan, [cell], chance.randrange(4))
                elif what < 0.8:
                    history.undo()
                else:
                    history.go_to(chance.randint(0, len(history.entries)))
        labels = ["Plan as it was opened", *history.entries]
        items = [shown.item(at) for at in range(shown.count())]
        assert [item.text() for item in items if item is not None] == [
            f"{at:>4}  {label}{'' if at <= history.position else '  (undone)'}"
            for at, label in enumerate(labels)
        ]
        inks = {item.foreground().color().name() for item in items[: history.position + 1] if item}
        assert len(inks) == 1
        pale = {item.foreground().color().name() for item in items[history.position + 1 :] if item}
        assert len(pale) <= 1
        assert not inks & pale
        assert shown.currentRow() == history.position
