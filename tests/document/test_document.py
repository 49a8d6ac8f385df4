from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import WHEN, draw, paint, put
from tests.helpers.random_steps import random_step
from tests.helpers.state import recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.editing import Notice
from woven_locus.core.editing.trial import tried
from woven_locus.core.errors import FileProblem
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.placing import Reason, judge
from woven_locus.core.plan import Plan
from woven_locus.core.routing import ON_FOOT, NoRoute, Route, find_links, find_route
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.document.starter import new_plan
from woven_locus.files.journal import Renewal

ROAD = """
    .......
    =======
    .......
"""


def town() -> Document:
    plan = draw(ROAD)
    put(plan, "hut", 0, 0)
    put(plan, "hut", 6, 2)
    return Document(plan)


def test_the_file_is_written_before_the_journal_takes_room_on_the_disk(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    document, path = town(), tmp_path / "town.plan.json"
    document.keep_journal(tmp_path / "journals")
    held: list[bool] = []
    put = Renewal.put_base

    def put_base(renewal: Renewal, data: bytes) -> None:
        held.append(path.exists() and path.read_bytes() == data)
        put(renewal, data)

    monkeypatch.setattr(Renewal, "put_base", put_base)
    document.save(path)
    assert held == [True]
    document.close()


def test_save_and_open_again(tmp_path: Path) -> None:
    document = town()
    document.history.do(edits.erase_road(document.plan, [Cell(3, 1)]))
    assert not document.history.saved
    path = document.save(tmp_path / "town.plan.json")
    assert document.history.saved
    again = Document.open(path)
    assert recorded(again.plan) == recorded(document.plan)
    assert again.path == path
    document.history.undo()
    document.save()
    assert recorded(Document.open(path).plan) != recorded(again.plan)


def test_a_document_without_a_path_must_be_told_where(tmp_path: Path) -> None:
    with pytest.raises(ValueError, match="needs a path"):
        town().save()
    with pytest.raises(FileProblem):
        Document.open(tmp_path / "nothing.plan.json")


def test_a_new_plan_is_empty_ground_with_the_shelf_of_the_demo() -> None:
    plan = new_plan(GridSpec(8, 6, first_col=-3), "Fresh")
    assert (plan.name, len(plan.register), int(plan.terrain.max())) == ("Fresh", 0, 0)
    assert [kind.key for kind in plan.kinds] == [kind.key for kind in open_demo().kinds]


def test_a_pinned_route_follows_breaks_and_is_mended() -> None:
    document = town()
    plan, history, book = document.plan, document.history, document.routes
    pin = book.pin(1, 2)
    assert book.update() == [pin]
    assert isinstance(pin.answer, Route)
    assert (pin.answer.length, pin.note) == (6, "")
    history.do(paint(plan, [Cell(5, 0)], 2))
    assert not pin.stale  # terrain is nothing to a route over roads
    history.do(edits.erase_road(plan, [Cell(3, 1)]))
    assert book.update() == [pin]
    assert isinstance(pin.answer, NoRoute)
    assert (pin.note, pin.answer.gap) == ("broke", (Cell(2, 1), Cell(4, 1)))
    history.do(edits.lay_road(plan, [Cell(2, 2), Cell(3, 2), Cell(4, 2)]))
    book.update()
    assert pin.note == "mended"
    history.do(edits.lay_road(plan, [Cell(3, 1)]))
    book.update()
    assert pin.note == "2 shorter"
    history.do(edits.demolish(plan, [2]))
    book.update()
    assert isinstance(pin.answer, NoRoute)
    assert pin.answer.why == "S2 is no longer there"
    history.undo()
    book.update()
    assert pin.note == "mended"
    book.unpin(pin)
    assert book.pins == []


def test_a_route_over_the_ground_minds_terrain_and_structures() -> None:
    document = Document(draw("...\n...\n..."))
    book = document.routes
    pin = book.pin(Cell(0, 1), Cell(2, 1), ON_FOOT)
    book.update()
    document.history.do(paint(document.plan, [Cell(1, 1)], 5))
    book.update()
    assert pin.note == "2 longer"
    document.history.do(edits.place(document.plan, "hut", Cell(1, 0), 0, WHEN))
    assert pin.stale
    book.update()
    # It went round above, where the hut stands now: below it is as long.
    assert pin.note == "goes another way"
    assert isinstance(pin.answer, Route)
    assert Cell(1, 2) in pin.answer.cells


def test_listeners_hear_of_a_change_when_all_is_current() -> None:
    document = town()
    seen: list[tuple[frozenset[str], bool, int]] = []

    def listen(notice: Notice) -> None:
        seen.append((notice.layers, document.is_linked(1), document.revision))

    document.listen(listen)
    began = document.revision
    document.history.do(edits.erase_road(document.plan, [Cell(3, 1)]))
    document.history.undo()
    road = frozenset({"road"})
    assert seen == [(road, False, began + 1), (road, True, began + 2)]


def test_an_error_of_one_listener_does_not_silence_the_others() -> None:
    document = town()
    heard: list[str] = []

    def broken(_notice: Notice) -> None:
        raise ZeroDivisionError("a bug")

    document.listen(broken)
    document.listen(lambda notice: heard.append(notice.label))
    with pytest.raises(ZeroDivisionError):
        document.history.do(edits.erase_road(document.plan, [Cell(3, 1)]))
    assert heard == ["Erased road"]
    told: list[Exception] = []
    document.history.on_error = told.append
    document.history.undo()
    assert (len(heard), len(told)) == (2, 1)


def test_a_listener_that_edits_is_caught() -> None:
    document = town()

    def meddles(_notice: Notice) -> None:
        document.history.do(edits.lay_road(document.plan, [Cell(0, 2)]))

    document.listen(meddles)
    with pytest.raises(AssertionError, match="a listener edits"):
        document.history.do(edits.erase_road(document.plan, [Cell(3, 1)]))
    assert document.history.entries == ["Erased road"]
    with pytest.raises(AssertionError, match="a listener edits"):
        document.history.undo()


def test_an_edit_on_trial_is_no_change() -> None:
    document = town()
    before = document.revision
    with tried(document.plan, edits.erase_road(document.plan, [Cell(3, 1)])):
        assert document.plan.road[1, 3] == 0
    assert (document.revision, document.plan.road[1, 3]) == (before, 1)


@given(plans(), st.integers(0, 2**32 - 1))
def test_what_the_document_keeps_equals_what_is_worked_out_afresh(plan: Plan, seed: int) -> None:
    document = Document(plan)
    rng = np.random.default_rng(seed)
    document.links()
    document.unsound()
    for _ in range(25):
        random_step(plan, document.history, rng)
        if rng.integers(3) == 0:
            assert document.links() == find_links(plan)
    assert document.links() == find_links(plan)
    cut_off = set(document.links().cut_off)
    for number in plan.register.numbers():
        assert document.is_linked(number) == (number not in cut_off)
    # The window moves and what stands stays: being outside it is no fault.
    refused = {
        row.number
        for row in plan.register
        for verdict in [judge(plan, plan.kinds[row.kind], row.cell, row.turn, lifted=row.number)]
        if set(verdict.reasons) - {Reason.OUTSIDE}
    }
    assert document.unsound() == refused


def test_the_shipped_plan_is_a_dozen_structures_with_something_cut_off() -> None:
    document = Document(open_demo())
    plan = document.plan
    assert (plan.spec.cols, plan.spec.rows, plan.spec.cell_w, plan.spec.cell_h) == (64, 48, 24, 24)
    assert (len(plan.register), len(plan.kinds)) == (15, 9)
    assert document.links().cut_off == (11, 12, 13, 15)
    assert document.unsound() == frozenset()
    assert find_route(plan, 1, 10)
    assert not find_route(plan, 1, 11)
    # One cell of road mends it.
    document.history.do(edits.lay_road(plan, [Cell(16, 28)]))
    assert find_route(plan, 1, 11)
    assert open_demo().register is not plan.register


def test_a_snapshot_does_not_follow_the_plan() -> None:
    document = town()
    twin = document.plan.snapshot()
    before = recorded(twin)
    document.history.do(edits.erase_road(document.plan, [Cell(3, 1)]))
    document.history.do(edits.demolish(document.plan, [1]))
    assert recorded(twin) == before
