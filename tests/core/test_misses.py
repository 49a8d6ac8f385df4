import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from tests.helpers.random_steps import random_step
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.edits.mending import mend
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.placing import judge
from woven_locus.core.plan import Plan
from woven_locus.core.proof import misses
from woven_locus.core.proof.misses import Miss, near_misses
from woven_locus.document import Document


def found(text: str) -> list[tuple[str, Cell, Cell, tuple[Cell, ...]]]:
    return [(m.kind.value, m.at, m.to, m.mend) for m in near_misses(draw(text))]


def test_a_gap_of_one_cell_is_told_once_and_two_cells_are_no_miss() -> None:
    assert found("==.==") == [("gap", Cell(1, 0), Cell(3, 0), (Cell(2, 0),))]
    assert found("==..==") == []
    assert found("=====") == []


def test_an_end_beside_the_road_it_was_to_join() -> None:
    text = """
        ..=..
        ..=..
        .....
        =====
    """
    assert found(text) == [("gap", Cell(2, 1), Cell(2, 3), (Cell(2, 2),))]
    # Parallel roads are meant to be apart, as long as neither ends there.
    assert found("=====\n.....\n=====") == [
        ("gap", Cell(0, 0), Cell(0, 2), (Cell(0, 1),)),
        ("gap", Cell(4, 0), Cell(4, 2), (Cell(4, 1),)),
    ]
    assert found("======\n=....=\n======") == []


def test_a_house_between_is_no_gap() -> None:
    plan = draw("==.==")
    put(plan, "hut", 2, 0)
    assert near_misses(plan) == []


def test_corners_that_only_touch() -> None:
    ((kind, at, to, mends),) = found("==...\n..===")
    assert (kind, at, to) == ("corner", Cell(1, 0), Cell(2, 1))
    assert mends == (Cell(2, 0),)
    assert found("==...\n.====") == []


def test_a_door_one_cell_from_the_road() -> None:
    plan = draw("....\n....\n....\n====")
    barn = put(plan, "barn", 0, 0)  # its door opens south, to 1, 2
    (miss,) = near_misses(plan)
    assert (miss.kind, miss.structure, miss.mend) == (Miss.DOOR, barn, (Cell(1, 2),))
    assert "S1 Barn: road is one cell from its door at 1, 2" in miss.words(plan)
    history = History(plan)
    history.do(mend(plan, miss))
    assert history.entries == ["Mended a near miss at 1, 2"]
    assert near_misses(plan) == []
    history.undo()
    assert near_misses(plan, Box(2, 0, 3, 4)) == [miss]
    assert near_misses(plan, Box(3, 3, 4, 4)) == []


def test_barriers_have_near_misses_too() -> None:
    plan = draw(".....\n.....")
    history = History(plan)
    history.do(edits.raise_barrier(plan, [Cell(0, 0), Cell(1, 0), Cell(3, 0), Cell(4, 1)]))
    kinds = [(m.kind, m.what, m.at) for m in near_misses(plan)]
    assert kinds == [(Miss.CORNER, "barrier", Cell(3, 0)), (Miss.GAP, "barrier", Cell(1, 0))]
    for miss in near_misses(plan):
        history.do(mend(plan, miss))
    assert near_misses(plan) == []
    assert plan.barrier.sum() == 6


def test_a_miss_that_the_rules_do_not_let_mend_says_so() -> None:
    plan = draw("==k==")
    (miss,) = near_misses(plan)
    with pytest.raises(Exception, match="Cliff"):
        mend(plan, miss)


@given(plans(largest=9), st.integers(0, 2**32 - 1))
def test_the_misses_that_are_kept_are_those_of_a_fresh_look(plan: Plan, seed: int) -> None:
    document = Document(plan)
    rng = np.random.default_rng(seed)
    assert document.misses.found == near_misses(plan)
    for _ in range(6):
        random_step(plan, document.history, rng, calm=True)
        assert document.misses.found == near_misses(plan)


@given(st.integers(0, 2**32 - 1), st.floats(0.2, 0.5))
def test_strips_of_a_map_have_what_the_whole_has(seed: int, share: float) -> None:
    rng = np.random.default_rng(seed)
    text = ["".join(".="[int(one)] for one in row) for row in rng.random((40, 6)) < share]
    plan = draw("\n".join(text))
    plan.barrier[(rng.random(plan.spec.shape) < share) & (plan.road == 0)] = 1
    whole = misses.candidates(plan)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(misses, "_CELLS_A_STRIP", 1)
        assert misses.candidates(plan) == whole
    assert whole


@given(st.integers(0, 2**32 - 1), st.floats(0.02, 0.3))
def test_doors_of_many_structures_miss_what_those_of_each_do(seed: int, share: float) -> None:
    rng = np.random.default_rng(seed)
    text = ["".join(".="[int(one)] for one in row) for row in rng.random((16, 20)) < share]
    plan = draw("\n".join(text))
    for _ in range(30):
        kind, turn = plan.kinds[("hut", "barn")[rng.integers(2)]], int(rng.integers(4))
        cell = Cell(*rng.integers(0, (20, 16)).tolist())
        if judge(plan, kind, cell, turn):
            put(plan, kind.key, *cell, turn)
    one_by_one = misses.candidates(plan)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(misses, "_MANY_DOORS", 0)
        assert misses.candidates(plan) == one_by_one
