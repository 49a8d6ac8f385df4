"""One plan made into another by an edit."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_compare import again, steps
from tests.helpers.builders import draw, paint, put
from tests.helpers.depth import examples
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.editing import Edit, History, MoneyChange, NameChange
from woven_locus.core.edits.becoming import becoming
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.files.edit_pack import pack, unpack


@settings(max_examples=examples(80), deadline=None)
@given(plans(8), st.integers(0, 2**32 - 1))
def test_a_plan_becomes_what_somebody_made_of_it(base: Plan, seed: int) -> None:
    plan, target = again(base), steps(base, seed)
    _there_and_back(plan, target)
    _there_and_back(again(target), base)


@settings(max_examples=examples(40), deadline=None)
@given(plans(8), plans(8))
def test_a_plan_becomes_one_that_it_has_nothing_to_do_with(one: Plan, two: Plan) -> None:
    _there_and_back(one, two)


def _there_and_back(plan: Plan, target: Plan) -> None:
    old, new = recorded(plan), recorded(target)
    twin, history = again(plan), History(plan)
    edit = becoming(plan, target, "Took over another plan")
    assert bool(edit.changes) is (old != new)
    data = pack(edit)
    history.do(edit)
    assert recorded(plan) == new == recorded(target)
    assert_derived_is_current(plan)
    # From the journal, on a plan that never saw the target.
    History(twin).do(unpack(data))
    assert recorded(twin) == new
    history.go_to(0)
    assert recorded(plan) == old
    assert_derived_is_current(plan)
    history.go_to(len(history.entries))
    assert recorded(plan) == new
    # Later edits of the plan are none of the target.
    history.do(paint(plan, [plan.spec.first], int(plan.terrain[0, 0] == 0)))
    assert recorded(target) == new


def test_numbers_that_come_back_lower_no_count() -> None:
    plan = draw("......")
    for col in range(3):
        put(plan, "hut", col, 0)
    target = again(plan)
    history = History(plan)
    history.do(edits.demolish(plan, [2]))
    put(plan, "hut", 5, 0)
    history.do(becoming(plan, target, "Took over"))
    assert plan.register.next_number == target.register.next_number == 4
    history.undo()
    assert plan.register.next_number == 5
    assert list(plan.register.numbers()) == [1, 3, 4]


def test_names_of_plan_and_money_go_through_the_journal() -> None:
    edit = Edit("Renamed", (NameChange("A", "B"), MoneyChange("tallies", "pence")))
    assert unpack(pack(edit)) == edit
    plan = draw("..")
    History(plan).do(Edit("Renamed", (MoneyChange(plan.money, "pence"),)))
    assert plan.money == "pence"


def test_far_cells_dirty_nothing_between_them() -> None:
    plan = Plan("wide", GridSpec(600, 600), draw("..").terrain_table)
    target = again(plan)
    for cell in (Cell(0, 0), Cell(599, 599)):
        History(target).do(paint(target, [cell], 1))
    history = History(plan)
    heard = []
    history.listen(heard.append)
    history.do(becoming(plan, target, "Took over"))
    assert heard[0].cells == 2
    assert np.array_equal(plan.terrain, target.terrain)
