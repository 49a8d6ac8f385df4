import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.builders import WHEN, draw, paint, put
from tests.helpers.depth import examples
from tests.helpers.random_steps import random_step
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.editing import Edit, History, Notice
from woven_locus.core.errors import BadPlan, Refused, Unknown
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.ground import Obstacle
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure


@given(plans(), st.integers(0, 2**32 - 1), st.integers(1, 30))
def test_undo_takes_back_and_redo_brings_again(plan: Plan, seed: int, steps: int) -> None:
    history = History(plan)
    opened = recorded(plan)
    rng = np.random.default_rng(seed)
    for _ in range(steps):
        random_step(plan, history, rng)
    after, position = recorded(plan), history.position
    history.go_to(0)
    assert recorded(plan) == opened
    assert_derived_is_current(plan)
    history.go_to(position)
    assert recorded(plan) == after


@settings(max_examples=examples(60))
@given(plans(largest=16), st.integers(0, 2**32 - 1))
def test_derived_state_equals_a_rebuild_after_any_edits(plan: Plan, seed: int) -> None:
    history = History(plan)
    rng = np.random.default_rng(seed)
    for step in range(60):
        random_step(plan, history, rng)
        if step % 10 == 0:
            _ = plan.network.labels
        covered = {cell: row.number for row in plan.register for cell in plan.cells_of(row)}
        assert len(covered) == sum(len(plan.cells_of(row)) for row in plan.register)
        assert int((plan.occupant > 0).sum()) == len(covered)
    assert_derived_is_current(plan)


def test_numbers_are_not_used_again() -> None:
    plan = draw("....")
    history = History(plan)
    history.do(edits.place(plan, "hut", Cell(0, 0), 0, WHEN))
    history.do(edits.demolish(plan, [1]))
    history.do(edits.place(plan, "hut", Cell(1, 0), 0, WHEN))
    assert plan.register.numbers() == [2]
    history.undo()
    history.undo()
    assert plan.register.numbers() == [1]


def test_labels_say_what_was_done() -> None:
    plan = draw(".....\n.....\n.....")
    history = History(plan)
    history.do(edits.place(plan, "barn", Cell(0, 0), 0, WHEN))
    history.do(edits.move(plan, 1, Cell(1, 0), 0))
    history.do(edits.move(plan, 1, Cell(1, 0), 1))
    history.do(edits.move(plan, 1, Cell(1, 0), 1))  # nothing changes: no step
    history.do(edits.demolish(plan, [1]))
    assert history.entries == [
        "Placed Barn S1 at 0, 0",
        "Moved Barn S1 to 1, 0",
        "Turned Barn S1 to 90° at 1, 0",
        "Demolished Barn S1",
    ]


def test_what_the_judge_refuses_is_no_edit() -> None:
    plan = draw("..s")
    with pytest.raises(
        Refused, match=r"Barn cannot stand at 0, 0: .*outside.*Stream cannot be built"
    ):
        edits.place(plan, "barn", Cell(0, 0), 0, WHEN)
    put(plan, "hut", 0, 0)
    with pytest.raises(Refused, match="S1 Hut cannot move to 2, 0: Stream"):
        edits.move(plan, 1, Cell(2, 0), 0)
    with pytest.raises(Unknown, match="no structure S9"):
        edits.demolish(plan, [9])


def test_a_gesture_is_one_step_and_a_failed_one_leaves_no_trace() -> None:
    plan = draw("....")
    history = History(plan)
    before = recorded(plan)
    with history.gesture("Paint"):
        history.do(paint(plan, [Cell(0, 0)], 2))
        history.do(paint(plan, [Cell(0, 0), Cell(1, 0)], 3))
        assert not history.can_undo
    assert history.entries == ["Paint"]
    history.undo()
    assert recorded(plan) == before

    def fails() -> None:
        with history.gesture("Fails"):
            history.do(paint(plan, [Cell(2, 0)], 2))
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        fails()
    assert recorded(plan) == before
    assert history.entries == ["Paint"]
    with history.gesture("Nothing"):
        pass
    assert history.entries == ["Paint"]


def test_a_new_edit_drops_what_was_undone() -> None:
    plan = draw("....")
    history = History(plan)
    history.do(edits.lay_road(plan, [Cell(0, 0)]))
    history.undo()
    history.do(edits.lay_road(plan, [Cell(1, 0)]))
    assert not history.redo()
    assert plan.road.tolist() == [[0, 1, 0, 0]]


def test_saved_means_as_it_was_saved() -> None:
    plan = draw("....")
    history = History(plan)
    assert history.saved
    history.do(edits.lay_road(plan, [Cell(0, 0)]))
    assert not history.saved
    history.mark_saved()
    history.undo()
    assert not history.saved
    history.redo()
    assert history.saved
    history.undo()
    history.do(edits.lay_road(plan, [Cell(1, 0)]))
    assert not history.saved
    history.undo()
    history.redo()
    assert not history.saved  # the saved state is gone for good


def test_listeners_are_told_which_boxes_changed() -> None:
    plan = draw(".....\n.....\n.....")
    history = History(plan)
    notices: list[Notice] = []
    history.listen(notices.append)
    history.do(edits.place(plan, "barn", Cell(1, 1), 0, WHEN))
    history.do(edits.lay_road(plan, [Cell(4, 0)]))
    history.undo()
    assert notices[0].boxes == (Box(1, 1, 3, 4),)
    assert notices[0].structures == {1}
    assert notices[1].layers == notices[2].layers == {"road"}
    assert notices[2].touches(Box(0, 3, 1, 5))
    assert not notices[2].touches(Box(1, 0, 3, 5))


def test_an_empty_edit_is_no_step() -> None:
    plan = draw("==")
    history = History(plan)
    history.do(edits.lay_road(plan, [Cell(0, 0), Cell(7, 7)]))
    history.do(Edit("", ()))
    assert history.entries == []


@pytest.mark.parametrize(
    ("parts", "words"),
    [
        ({"structures": [Structure(1, "hut", Cell(9, 0), 0, 1, WHEN)]}, "outside the grid"),
        ({"structures": [Structure(1, "inn", Cell(0, 0), 0, 1, WHEN)]}, "no kind 'inn'"),
        ({"structures": [Structure(0, "hut", Cell(0, 0), 0, 1, WHEN)]}, "numbers go from 1"),
        ({"structures": [Structure(1, "hut", Cell(0, 0), 0, 1, WHEN)] * 2}, "S1 is there twice"),
        (
            {"structures": [Structure(n, "hut", Cell(0, 0), 0, 1, WHEN) for n in (1, 2)]},
            "taken by S1 Hut",
        ),
        ({"obstacles": [Obstacle(1, "Oak", "rowan", (Cell(0, 0),))], "road": True}, "by road"),
        ({"terrain": np.full((1, 3), 9, np.uint8)}, "no class of the table"),
        ({"reserved": np.zeros((2, 2), np.uint8)}, "layer is"),
    ],
)
def test_a_plan_whose_parts_contradict_each_other_is_refused(
    parts: dict[str, object], words: str
) -> None:
    like = draw("...")
    if parts.get("road"):
        parts = {**parts, "road": np.ones((1, 3), np.uint8)}
    with pytest.raises(BadPlan, match=words):
        Plan("x", like.spec, like.terrain_table, like.kinds, **parts)  # type: ignore[arg-type]
