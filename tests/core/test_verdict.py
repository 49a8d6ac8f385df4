"""The answer to "may I?" in words, and where the things are that it names."""

from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from tests.helpers.strategies import plans
from woven_locus.core.derived.rules import Reason
from woven_locus.core.editing import Edit, History, Patch
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Thing
from woven_locus.core.placing import Blocker, CellVerdict, Verdict
from woven_locus.core.placing.things import count_at, mask_of, thing_words
from woven_locus.core.placing.verdict import Remark, cells_text, listed
from woven_locus.core.plan import Plan


@pytest.mark.parametrize(
    ("names", "words"),
    [
        ([], ""),
        (["a"], "a"),
        (["a", "b"], "a and b"),
        (["a", "b", "c"], "a, b and c"),
        (["a", "b", "c", "d", "e"], "a, b, c and 2 more"),
    ],
)
def test_names_are_listed_and_many_are_counted(names: list[str], words: str) -> None:
    assert listed(names) == words


def test_a_count_of_cells_has_its_plural() -> None:
    assert [cells_text(n) for n in (0, 1, 2)] == ["0 cells", "1 cell", "2 cells"]
    assert listed(["a", "b"], "or") == "a or b"


def blocker(name: str, reason: Reason, what: str = "structure") -> Blocker:
    return Blocker(what, name, None, Cell(0, 0), reason)


def test_a_refusal_names_each_thing_once_and_each_reason_in_its_words() -> None:
    verdict = Verdict(
        (CellVerdict(Cell(0, 0), (Reason.OCCUPIED,)), CellVerdict(Cell(1, 0), ())),
        (Reason.OUTSIDE, Reason.OCCUPIED, Reason.SLOPE, Reason.ROAD),
        (
            blocker("S1 Hut", Reason.OCCUPIED),
            blocker("S1 Hut", Reason.OCCUPIED),
            blocker("S2 Hut", Reason.OCCUPIED),
        ),
        (
            Remark(Reason.SLOPE, "2 cells steeper than 9°"),
            Remark(Reason.REACH, "no actor stands anywhere yet", doubt=True),
        ),
    )
    assert not verdict
    assert verdict.sentence() == (
        "part of it lies outside the grid; occupied by S1 Hut and S2 Hut; 2 cells steeper than 9°; "
        "a road runs there"
    )
    assert verdict.words_for(Reason.BARRIER) == ""
    assert verdict.doubts == ("no actor stands anywhere yet",)
    assert [cell.ok for cell in verdict.cells] == [False, True]


def test_a_doubt_alone_refuses_nothing() -> None:
    verdict = Verdict((), (), (), (Remark(Reason.SLOPE, "not known", doubt=True),))
    assert verdict
    assert verdict.sentence() == ""


THINGS = [
    (Thing.TERRAIN, "stream"),
    (Thing.TERRAIN, "no-such-ground"),
    (Thing.KIND, ""),
    (Thing.KIND, "hut"),
    (Thing.ROAD, ""),
    (Thing.BARRIER, ""),
    (Thing.OBSTACLE, ""),
]


@given(plans(9), st.sampled_from(THINGS), st.booleans())
def test_a_mask_of_things_is_a_look_at_each_slot(
    plan: Plan, thing: tuple[Thing, str], lifts: bool
) -> None:
    free = [
        Cell(plan.spec.first_col + int(c), plan.spec.first_row + int(r))
        for r, c in np.argwhere(plan.blocks == 0)[:3]
    ]
    for cell in free[::2]:
        with suppress(Refused):  # there may be no money for it
            put(plan, "hut", cell.col, cell.row)
    lifted = plan.register.numbers()[0] if lifts and len(plan.register) else 0
    box = plan.spec.box
    mask = mask_of(plan, *thing, box, lifted)
    for row in range(-1, box.r1 + 1):
        for col in range(-1, box.c1 + 1):
            there = box.r0 <= row < box.r1 and box.c0 <= col < box.c1
            found = count_at(plan, *thing, [(row, col)], lifted)
            assert found == (bool(there and mask[row, col]))
    everywhere = [(row, col) for row in range(-1, box.r1 + 1) for col in range(-1, box.c1 + 1)]
    assert count_at(plan, *thing, everywhere, lifted) == np.count_nonzero(mask)


def test_what_a_plan_does_not_have_is_named_by_its_key() -> None:
    plan = draw("..")
    assert thing_words(plan, Thing.TERRAIN, "bog") == "Bog"
    assert thing_words(plan, Thing.TERRAIN, "lava") == "lava (not in this plan)"
    assert thing_words(plan, Thing.KIND, "") == "any structure"
    assert thing_words(plan, Thing.KIND, "keep") == "keep (not in this plan)"
    assert thing_words(plan, Thing.ROAD, "") == "a road"


def test_a_patch_that_changes_nothing_is_none_and_nan_is_no_change() -> None:
    plan = draw("...\n...")
    assert Patch.of_cells(plan, "terrain", [Cell(0, 0), Cell(9, 9)], 0) is None
    assert Patch.of_cells(plan, "terrain", [Cell(9, 9)], 3) is None
    plan.heights = np.full((2, 3), np.nan, np.float32)
    same = Patch.of_block(plan, "heights", plan.spec.box, np.full((2, 3), np.nan))
    assert same is None
    values = Patch.of_values(plan, "terrain", {Cell(1, 1): 3, Cell(2, 0): 2, Cell(7, 7): 1})
    assert values is not None
    assert values.box.shape == (2, 2)
    history = History(plan)
    history.do(Edit("Some", (values,)))
    assert plan.terrain.tolist() == [[0, 0, 2], [0, 3, 0]]
    history.undo()
    assert not plan.terrain.any()
