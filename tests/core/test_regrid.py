"""Another grid under a plan, and what falls outside."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_ground_tools import both_ways, done
from tests.helpers.builders import draw, put
from tests.helpers.depth import examples
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import grids, plans
from woven_locus.core.editing import History, Keep, Regrid
from woven_locus.core.edits.grid import regrid, set_window
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.placing import Reason, feasible_map, judge
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace


@given(plans(), st.data())
def test_outside_the_window_nothing_may_be_built(plan: Plan, data: st.DataObject) -> None:
    spec, history, at_first = plan.spec, History(plan), plan.window
    for _ in range(3):
        low = spec.first.moved(data.draw(st.integers(-3, 12)), data.draw(st.integers(-3, 12)))
        size = data.draw(st.tuples(st.integers(1, 9), st.integers(1, 9)))
        window = data.draw(st.sampled_from([BuildWindow(low, *size), None]))
        history.do(set_window(plan, window))
        assert_derived_is_current(plan)
        for row in range(spec.rows):
            for col in range(spec.cols):
                cell = spec.cell_of_slot((row, col))
                inside = window is None or window.contains(cell)
                reasons = judge(plan, plan.kinds["hut"], cell).reasons
                assert (Reason.OUTSIDE in reasons) is not inside
                assert plan.may_address(cell) is inside
    history.go_to(0)
    assert plan.window == at_first
    assert_derived_is_current(plan)


def test_the_window_is_named_in_the_refusal() -> None:
    plan = draw("....\n....")
    done(plan, set_window(plan, BuildWindow(Cell(0, 0), 2, 2)))
    verdict = judge(plan, plan.kinds["hut"], Cell(3, 0))
    assert verdict.sentence() == "part of it lies outside the buildable window"
    assert judge(plan, plan.kinds["hut"], Cell(9, 9)).sentence().endswith("outside the grid")
    assert feasible_map(plan, plan.kinds["hut"]).tolist() == [[1, 1, 0, 0]] * 2


@settings(deadline=None, max_examples=examples(60))
@given(plans(), grids(14), st.sampled_from(Keep), st.booleans())
def test_another_grid_is_one_step_and_says_what_it_loses(
    plan: Plan, spec: GridSpec, keep: Keep, y_up: bool
) -> None:
    for kind in ("hut", "ell"):
        cells = [
            plan.spec.cell_of_slot(s) for s in np.argwhere(feasible_map(plan, plan.kinds[kind]))
        ]
        if cells:
            put(plan, kind, *cells[len(cells) // 2])
    if keep is Keep.PLACE:
        # Near enough for the two grids to overlap.
        spec = replace(
            spec,
            anchor_x=plan.spec.anchor_x,
            anchor_y=plan.spec.anchor_y,
            centred=False,
            cell_w=plan.spec.cell_w * 0.7,
            cell_h=plan.spec.cell_h,
        )
    question = Regrid(replace(spec, y_up=y_up), keep)
    before, had = recorded(plan), (set(plan.register.numbers()), set(plan.obstacles))
    made, lost = question.work_out(plan)
    assert recorded(plan) == before
    both_ways(plan, regrid(plan, question))
    assert recorded(plan) == recorded(made)
    gone = {number for number, _ in lost.structures}, {number for number, _ in lost.obstacles}
    assert set(plan.register.numbers()) == had[0] - gone[0]
    assert set(plan.obstacles) == had[1] - gone[1]


def test_by_index_content_keeps_its_address_and_by_place_its_point() -> None:
    plan = draw(".b..\n..s.\no..=", cell=(2, 2))
    put(plan, "hut", 1, 1)
    wide = replace(plan.spec, first_col=-1, cols=6)
    by_index = Regrid(wide, Keep.INDEX).work_out(plan)[0]
    assert by_index.terrain[0].tolist() == [0, 0, 2, 0, 0, 0]
    assert by_index.register[1].cell == (1, 1)
    by_place = Regrid(wide, Keep.PLACE).work_out(plan)[0]
    assert by_place.terrain[0].tolist() == [0, 2, 0, 0, 0, 0]
    assert by_place.register[1].cell == (0, 1)
    assert by_place.obstacles[1].cells == ((-1, 2),)


def test_what_falls_outside_is_told_exactly() -> None:
    plan = draw(".b.s\nr..=\no...")
    plan.heights = np.ones(plan.spec.shape, np.float32)
    put(plan, "hut", 3, 2)
    made, lost = Regrid(replace(plan.spec, cols=2, rows=2), Keep.INDEX).work_out(plan)
    assert lost.structures == ((1, "S1 Hut"),)
    assert lost.obstacles == ((1, "Stone 1"),)
    assert [lost.cells[k] for k in ("terrain", "reserved", "road", "heights")] == [1, 0, 1, 8]
    assert made.register.next_number == 2
    same = Regrid(replace(plan.spec, cols=9, rows=9), Keep.INDEX).work_out(plan)[1]
    assert not same
    coarse = Regrid(replace(plan.spec, cols=2, rows=2, cell_w=2, cell_h=2), Keep.PLACE)
    assert coarse.work_out(plan)[1].structures == ()


def test_where_two_come_to_one_cell_the_first_keeps_it() -> None:
    plan = draw("....")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 1, 0)
    _made, lost = Regrid(GridSpec(2, 1, 2, 1), Keep.PLACE).work_out(plan)
    assert lost.structures == ((2, "S2 Hut (its cells are taken)"),)


def test_a_footprint_looks_the_same_where_rows_grow_upwards() -> None:
    plan = draw("....\n....\n....\n....")
    up = Regrid(replace(plan.spec, y_up=True), Keep.INDEX).work_out(plan)[0]
    kind = plan.kinds["ell"]
    for turn in range(4):
        down_rows = plan.footprint(kind, turn).to_rows()
        up_rows = up.footprint(kind, turn).to_rows()
        assert up_rows == down_rows[::-1]
    doors = up.footprint(up.kinds["barn"], 0).doors
    assert [(d.row, d.side) for d in doors] == [(0, 0)]
