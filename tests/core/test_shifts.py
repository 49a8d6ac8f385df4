"""Windows over layers, against loops; and many structures at once, against one at a time."""

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from tests.helpers.builders import BARN, HUT, WHEN, draw
from tests.helpers.state import assert_derived_is_current, recorded
from woven_locus.core import edits
from woven_locus.core.editing import History, Keep, Regrid
from woven_locus.core.edits import kinds, many, money
from woven_locus.core.edits.grid import regrid
from woven_locus.core.edits.many import Wish
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.kinds import Catalogue, Clear, Demands, Footprint, Thing, Touch
from woven_locus.core.placing import Feasibility, judge
from woven_locus.core.placing import shifts as shifts_module
from woven_locus.core.placing.shifts import any_over, count_over, padded, reach_of, spread, wide_of
from woven_locus.core.plan import Plan
from woven_locus.core.proof import soundness
from woven_locus.core.strokes.base import PlaceStroke, RowsStroke
from woven_locus.core.strokes.ways import BarrierStroke
from woven_locus.core.value import replace
from woven_locus.document import Document
from woven_locus.files import plan_json

offsets = st.lists(st.tuples(st.integers(-2, 5), st.integers(-3, 4)), min_size=1, max_size=12)


@given(hnp.arrays(np.uint8, (9, 11), elements=st.integers(0, 7)), offsets, st.data())
def test_windows_say_what_loops_say(
    layer: np.ndarray, offs: list[tuple[int, int]], data: st.DataObject
) -> None:
    r0, c0 = data.draw(st.integers(0, 8)), data.draw(st.integers(0, 10))
    box = Box(r0, c0, data.draw(st.integers(r0 + 1, 9)), data.draw(st.integers(c0 + 1, 11)))
    reach = reach_of(offs)
    wide = padded(layer, wide_of(box, reach), np.uint8(32))

    def at(row: int, col: int) -> int:
        return int(layer[row, col]) if 0 <= row < 9 and 0 <= col < 11 else 32

    expected = np.zeros(box.shape, np.uint8)
    counted = np.zeros(box.shape, int)
    for row in range(box.shape[0]):
        for col in range(box.shape[1]):
            seen = [at(box.r0 + row + r, box.c0 + col + c) for c, r in offs]
            expected[row, col] = np.bitwise_or.reduce(seen)
            counted[row, col] = sum(value & 1 for value in seen)
    npt.assert_array_equal(any_over(wide, reach, box.shape, offs), expected)
    odd = (wide & 1).astype(bool)
    npt.assert_array_equal(count_over(odd, reach, box.shape, offs), counted)
    few, shifts_module.FEW = shifts_module.FEW, 0
    try:
        npt.assert_array_equal(count_over(odd, reach, box.shape, offs), counted)
    finally:
        shifts_module.FEW = few


@given(hnp.arrays(bool, (12, 13)), st.integers(1, 5))
def test_spreading_reaches_every_cell_within_a_distance(mask: np.ndarray, cells: int) -> None:
    inner = mask[cells : 12 - cells, cells : 13 - cells]
    expected = np.zeros(inner.shape, bool)
    for row in range(inner.shape[0]):
        for col in range(inner.shape[1]):
            expected[row, col] = mask[row : row + 2 * cells + 1, col : col + 2 * cells + 1].any()
    npt.assert_array_equal(spread(mask, cells), expected)


# --- many at once: the array passes ------------------------------------------------------------


def crowd() -> tuple[Plan, Document]:
    """More structures than are laid down one by one."""
    plan = draw("\n".join(["." * 60] * 20 + ["=" * 60] + ["." * 60] * 20))
    document = Document(plan)
    document.links()
    document.unsound()
    wishes = [Wish("", "hut", Cell(c, r), 0) for r in range(0, 20, 2) for c in range(0, 60, 2)]
    wishes += [Wish("", "barn", Cell(c, 23), 2) for c in range(0, 57, 4)]
    edit, refused = many.place_all(plan, wishes, WHEN)
    assert refused == []
    document.history.do(edit)
    assert len(plan.register) == 315
    return plan, document


def assert_agrees(document: Document) -> None:
    assert_derived_is_current(document.plan)
    fresh = Document(plan_json.parse(recorded(document.plan)))
    assert document.links() == fresh.links()
    assert document.unsound() == fresh.unsound()


def test_hundreds_come_and_go_as_a_few_would() -> None:
    plan, document = crowd()
    assert_agrees(document)
    found = Feasibility(plan, BARN, 0)
    document.history.listen(lambda notice: (found.update(notice), None)[1])
    document.history.do(edits.demolish(plan, plan.register.numbers()))
    assert not plan.occupant.any()
    assert_agrees(document)
    document.history.undo()
    assert_agrees(document)
    npt.assert_array_equal(found.why, Feasibility(plan, BARN, 0).why)
    huts = many.of_kind(plan, ["hut"])
    document.history.do(many.move_by(plan, huts, 1, 0))
    assert plan.register[1].cell == Cell(1, 0)
    assert_agrees(document)


def test_a_footprint_of_hundreds_changes_as_one() -> None:
    plan, document = crowd()
    before = recorded(plan)
    document.history.do(
        kinds.change_kind(plan, "hut", replace(HUT, footprint=Footprint.block(2, 2)))
    )
    assert len(plan.register) == 315
    assert int((plan.occupant > 0).sum()) == 300 * 4 + 15 * 6
    assert_agrees(document)
    document.history.undo()
    assert recorded(plan) == before
    assert_agrees(document)


def test_what_stands_is_judged_a_little_at_a_time(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(soundness, "_ASKED_AT_A_TIME", 50)
    plan, document = crowd()
    asking = replace(HUT, demands=Demands(touch=(Touch(Thing.ROAD),)))
    document.history.do(kinds.change_kind(plan, "hut", asking))
    known, done = document.known_unsound(0.0)
    assert not done
    for _ in range(100):
        more, done = document.known_unsound(0.0)
        assert known <= more
        known = more
        if done:
            break
    assert done
    assert known == document.unsound() == frozenset(many.of_kind(plan, ["hut"]))


# --- strokes ------------------------------------------------------------------------------------


def test_rows_stop_when_the_funds_are_spent_or_there_may_be_no_more() -> None:
    plan = draw("\n".join(["." * 9] * 4))
    history = History(plan)
    history.do(money.set_funds(plan, 35))
    stroke = RowsStroke(plan, history, "hut", 0, WHEN, (1, 1))
    stroke.start(Cell(0, 0))
    stroke.to(Cell(8, 3))
    assert (len(stroke.spots), stroke.price) == (10, 100)
    stroke.finish()
    assert (stroke.placed, plan.account.balance) == (3, 5)
    assert stroke.refusals[0].endswith("the funds are spent")
    history.do(money.set_funds(plan, None))
    plan.kinds = Catalogue([replace(HUT, demands=Demands(most=5))])
    stroke = RowsStroke(plan, history, "hut", 0, WHEN)
    stroke.start(Cell(8, 3))
    stroke.to(Cell(4, 3))
    stroke.finish()
    assert plan.register.count("hut") == 5
    assert [row.cell for row in plan.register][3:] == [Cell(8, 3), Cell(7, 3)]


@pytest.mark.parametrize("demands", [Demands(clear=(Clear(Thing.KIND, "", 1),)), Demands()])
def test_rows_of_what_minds_its_neighbours_are_judged_in_turn(demands: Demands) -> None:
    plan = draw("\n".join(["." * 7] * 3))
    plan.kinds = Catalogue([replace(HUT, demands=demands)])
    history = History(plan)
    stroke = RowsStroke(plan, history, "hut", 0, WHEN)
    stroke.start(Cell(0, 0))
    stroke.to(Cell(6, 2), held=True)
    assert len(stroke.spots) == 7
    stroke.finish()
    shy = bool(demands.clear)
    assert stroke.placed == (4 if shy else 7)
    assert len(stroke.refusals) == (3 if shy else 0)
    assert all(judge(plan, plan.kinds["hut"], row.cell, 0, row.number) for row in plan.register)


def test_a_dropped_stroke_leaves_nothing() -> None:
    plan = draw("....\n....")
    before = recorded(plan)
    history = History(plan)
    for stroke in (
        RowsStroke(plan, history, "hut", 0, WHEN),
        BarrierStroke(plan, history),
        PlaceStroke(plan, history, "hut", 0, WHEN),
    ):
        stroke.start(Cell(0, 0))
        stroke.to(Cell(3, 1), held=True)
        stroke.cancel()
        assert recorded(plan) == before
        assert not history.in_gesture
    assert history.entries == []


def test_barriers_move_with_the_grid_and_yield_to_structures() -> None:
    plan = draw("....\n....\n....")
    history = History(plan)
    history.do(edits.raise_barrier(plan, [Cell(c, 1) for c in range(4)]))
    assert history.entries == ["Raised a barrier"]
    question = Regrid(replace(plan.spec, cols=3, first_col=1), Keep.INDEX)
    lost = question.work_out(plan)[1]
    assert lost.cells["barrier"] == 1
    history.do(regrid(plan, question))
    assert plan.barrier.tolist() == [[0, 0, 0], [1, 1, 1], [0, 0, 0]]
    assert_derived_is_current(plan)
    assert not judge(plan, HUT, Cell(1, 1))
    history.undo()
    assert plan.barrier[1].tolist() == [1, 1, 1, 1]
