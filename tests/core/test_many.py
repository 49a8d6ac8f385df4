"""Several structures at once, blocks, and changes of kinds."""

from collections.abc import Callable
from importlib import import_module

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import BARN, ELL, HUT, WHEN, draw, put
from tests.helpers.random_steps import random_step
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.edits import blocks, kinds, many, money
from woven_locus.core.edits.many import Wish
from woven_locus.core.errors import Refused, Unknown
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.kinds import Catalogue, Clear, Demands, Footprint, Thing, Touch
from woven_locus.core.placing import (
    Reason,
    Verdict,
    judge,
    judge_barrier,
    judge_ground,
    judge_kind_cells,
    judge_road,
)
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import Entry, Goal, WavePlan


def test_neighbours_move_together_through_each_other() -> None:
    plan = draw(".....")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 1, 0)
    history = History(plan)
    history.do(many.move_by(plan, [1, 2], 1, 0))
    assert plan.occupant.tolist() == [[0, 1, 2, 0, 0]]
    history.undo()
    assert plan.occupant.tolist() == [[1, 2, 0, 0, 0]]
    put(plan, "hut", 3, 0)
    with pytest.raises(Refused, match="2 structures cannot move there: occupied by S3 Hut"):
        many.move_by(plan, [1, 2], 2, 0)
    assert_derived_is_current(plan)


def test_a_block_is_copied_turned_and_put_down_whole_or_not_at_all() -> None:
    plan = draw("""
        .....=..
        .....=..
        ........
        ......s.
        ........
    """)
    put(plan, "barn", 2, 0)
    history = History(plan)
    block = blocks.copied(plan, [1], Box(0, 2, 2, 6))
    assert (block.cols, block.rows, block.roads) == (4, 2, ((3, 0, 1), (3, 1, 1)))
    turned = block.turned(plan.kinds)
    assert (turned.cols, turned.rows, turned.roads) == (2, 4, ((0, 3, 1), (1, 3, 1)))
    assert turned.turned(plan.kinds).turned(plan.kinds).turned(plan.kinds) == block
    assert block.mirrored(plan.kinds).roads == ((0, 0, 1), (0, 1, 1))
    before = recorded(plan)
    verdict = blocks.judge_block(plan, block, Cell(4, 3))
    assert verdict.reasons == (Reason.TERRAIN,)
    assert recorded(plan) == before
    with pytest.raises(Refused, match="The block cannot lie at 4, 3: Stream cannot be built on"):
        blocks.paste(plan, block, Cell(4, 3), WHEN)
    history.do(blocks.paste(plan, block, Cell(0, 3), WHEN))
    assert plan.register[2].cell == Cell(0, 3)
    assert plan.road[3:, 3].tolist() == [1, 1]
    assert history.entries == ["Put down 1 structure and 2 road cells at 0, 3"]
    history.undo()
    assert recorded(plan) == before


def test_parts_of_a_block_may_lean_on_each_other() -> None:
    needy = replace(
        HUT,
        key="needy",
        demands=Demands(touch=(Touch(Thing.ROAD),), most=2),
        footprint=HUT.footprint,
    )
    plan = draw("=...\n....")
    plan.kinds = Catalogue([needy])
    put(plan, "needy", 1, 0)
    block = blocks.copied(plan, [1], Box(0, 0, 1, 2))
    history = History(plan)
    history.do(blocks.paste(plan, block, Cell(2, 1), WHEN))
    with pytest.raises(Refused, match="2 of at most 2 are there"):
        blocks.paste(plan, block, Cell(0, 1), WHEN)


def test_a_block_costs_the_sum_of_its_prices() -> None:
    plan = draw("....\n....")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 1, 0)
    block = blocks.copied(plan, [1, 2])
    History(plan).do(money.set_funds(plan, 35))
    with pytest.raises(Refused, match="costs 20 coins, 5 more than there is"):
        blocks.paste(plan, block, Cell(0, 1), WHEN)


def test_a_block_of_an_unknown_kind_or_of_nothing() -> None:
    plan = draw("..")
    with pytest.raises(Unknown, match="no kind 'inn'"):
        blocks.paste(plan, blocks.Block(1, 1, (blocks.Part("inn", 0, 0, 0),)), Cell(0, 0), WHEN)
    with pytest.raises(Refused, match="nothing to copy"):
        blocks.copied(plan, [], Box(0, 0, 1, 2))


@given(plans(9), st.integers(0, 2**32 - 1))
def test_a_pasted_block_looks_like_the_copied_one(plan: Plan, seed: int) -> None:
    rng = np.random.default_rng(seed)
    history = History(plan)
    for _ in range(8):
        random_step(plan, history, rng)
    box = plan.spec.box
    numbers = many.within(plan, box)
    if not numbers and not plan.road.any() and not plan.barrier.any():
        return
    block = blocks.copied(plan, numbers, box)
    for _ in range(int(rng.integers(4))):
        block = block.turned(plan.kinds)
    for _ in range(4):
        block = block.turned(plan.kinds)
    again = block.mirrored(plan.kinds).mirrored(plan.kinds)
    assert again == block
    # On an empty plan of the same cells, a block lies as it was drawn.
    bare = Plan(
        "Bare", replace(plan.spec, cols=60, rows=60), plan.terrain_table,
        Catalogue(replace(kind, demands=Demands(), turns=(0, 1, 2, 3), mirror=True) for kind in plan.kinds),
        road_table=plan.road_table,
    )  # fmt: skip
    if not plan.terrain_table[0].buildable:
        return
    History(bare).do(blocks.paste(bare, block, bare.spec.first, WHEN))
    assert blocks.copied(bare, bare.register.numbers(), Box(0, 0, block.rows, block.cols)) == block
    assert_derived_is_current(bare)


def test_rows_fill_a_rectangle_from_the_corner_pressed() -> None:
    spots = many.row_spots(BARN.footprint, Cell(0, 0), Cell(7, 4), 1, 1)
    assert spots == [Cell(0, 0), Cell(4, 0), Cell(0, 3), Cell(4, 3)]
    assert many.row_spots(BARN.footprint, Cell(7, 4), Cell(0, 0), 1, 1)[0] == Cell(5, 3)
    assert many.row_spots(BARN.footprint, Cell(0, 0), Cell(1, 1), 0, 0) == []
    assert len(many.row_spots(HUT.footprint, Cell(0, 0), Cell(999, 999), 0, 0)) <= many.MOST_SPOTS


def test_a_list_of_wishes_is_judged_one_after_another() -> None:
    plan = draw("..s.")
    before = recorded(plan)
    wishes = [
        Wish(f"line {2 + col}", key, Cell(col, 0), 0)
        for key, col in (("hut", 0), ("hut", 0), ("inn", 1), ("hut", 2), ("hut", 3))
    ]
    edit, refused = many.place_all(plan, wishes, WHEN)
    assert recorded(plan) == before
    assert refused == [
        "line 2: Hut cannot stand at 0, 0: occupied by S1 Hut",
        "line 3: no kind 'inn'; the plan has hut, barn, ell",
        "line 4: Hut cannot stand at 2, 0: Stream cannot be built on",
    ]
    History(plan).do(edit)
    assert [row.cell.col for row in plan.register] == [0, 3]
    assert plan.register.next_number == 3


# --- kinds ------------------------------------------------------------------------------------


def test_changing_a_kind_tells_first_what_becomes_of_what_stands() -> None:
    plan = draw("......=\n.......")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 1, 0)
    put(plan, "hut", 5, 0)
    put(plan, "barn", 2, 0)
    before = recorded(plan)
    wide = plan.kinds.with_kind(replace(HUT, footprint=Footprint.block(2, 1)))
    told = kinds.impact(plan, wide)
    assert told.misfits == (
        (2, "it would overlap S1 Hut"),
        (3, "it would lie on a road"),
    )
    assert recorded(plan) == before
    history = History(plan)
    history.do(kinds.change_kind(plan, "hut", wide["hut"]))
    assert plan.register.numbers() == [1, 4]
    assert plan.occupant[0].tolist() == [1, 1, 4, 4, 4, 0, 0]
    assert_derived_is_current(plan)
    history.undo()
    assert recorded(plan) == before
    assert_derived_is_current(plan)
    shy = plan.kinds.with_kind(replace(ELL, demands=Demands(clear=(Clear(Thing.KIND, "hut", 2),))))
    put(plan, "ell", 5, 1) if judge(plan, ELL, Cell(5, 1)) else None
    strict = shy.with_kind(replace(HUT, demands=Demands(touch=(Touch(Thing.ROAD),))))
    told = kinds.impact(plan, strict)
    assert [number for number, _why in told.unsound] == [1, 2]
    assert "has 0" in told.unsound[0][1]


def test_kinds_come_go_and_double() -> None:
    plan = draw("..")
    put(plan, "hut", 0, 0)
    history = History(plan)
    with pytest.raises(Refused, match="Hut cannot be removed: 1 of it is placed"):
        kinds.remove_kind(plan, "hut")
    history.do(kinds.copy_kind(plan, "hut"))
    assert (plan.kinds["hut-2"].name, plan.kinds["hut-2"].price) == ("Hut 2", 10)
    history.do(kinds.remove_kind(plan, "barn"))
    assert plan.kinds.keys() == ("hut", "ell", "hut-2")
    with pytest.raises(Refused, match="already"):
        kinds.add_kind(plan, HUT)
    with pytest.raises(Refused, match="keeps its key"):
        kinds.change_kind(plan, "hut", BARN)
    dear = replace(HUT, price=99)
    assert kinds.merged(plan, [dear, BARN], True)["hut"].price == 99
    assert kinds.merged(plan, [dear, HUT], False).keys() == ("hut", "ell", "hut-2", "hut-3")
    history.do(kinds.bring_in(plan, [dear], over=True))
    assert history.entries[-1] == "Brought in 1 kind"
    assert plan.register[1].price == 10  # what was paid stays paid


def test_replacing_takes_a_new_number() -> None:
    plan = draw("...\n...")
    put(plan, "hut", 0, 0)
    history = History(plan)
    history.do(edits.replace_with(plan, 1, "barn", Cell(0, 0), 0, WHEN))
    assert plan.register.numbers() == [2]
    assert history.entries == ["Replaced S1 Hut by Barn S2"]
    history.undo()
    assert (plan.register.numbers(), plan.register.next_number) == ([1], 2)
    with pytest.raises(Refused, match="is a Hut already"):
        edits.replace_with(plan, 1, "hut", Cell(0, 0), 0, WHEN)


# The package names its function alike.
JUDGE = import_module("woven_locus.core.placing.judge")


def judged(plan: Plan, ask: Callable[[], Verdict], from_on: int) -> Verdict | str:
    """With array passes from so many cells or structures on."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(JUDGE, "MANY", from_on)
        patch.setattr(many, "FEW", from_on)
        before = recorded(plan)
        try:
            return ask()
        except Refused as err:
            return str(err)
        finally:
            assert recorded(plan) == before


@given(plans(), st.integers(0, 2**32 - 1))
def test_many_are_judged_as_they_are_one_by_one(plan: Plan, seed: int) -> None:
    rng, history = np.random.default_rng(seed), History(plan)
    for _ in range(20):
        random_step(plan, history, rng, calm=True)
    spec = plan.spec
    low = np.array(spec.first) - 2
    cells = [
        Cell(*place)
        for place in rng.integers(low, low + (*spec.shape[::-1],) + 4, (40, 2)).tolist()
    ]
    numbers = plan.register.numbers()
    some = [plan.register[number] for number in numbers if rng.random() < 0.7]
    after = many.moved(some, *rng.integers(-2, 3, 2).tolist())
    new = plan.register.next_number
    fresh = [replace(row, number=new + at) for at, row in enumerate(after)]
    kind = list(plan.kinds)[rng.integers(len(plan.kinds))]
    asked: list[Callable[[], Verdict]] = [
        lambda: judge_kind_cells(plan, kind, cells),
        lambda: judge_road(plan, cells),
        lambda: judge_barrier(plan, cells),
        lambda: judge_ground(plan, cells),
        lambda: many.judge_all(plan, after, gone=some),
        lambda: many.judge_all(plan, fresh),
    ]
    whole = Box(0, 0, *spec.shape)
    if numbers:
        block = blocks.copied(plan, numbers, whole)
        at = spec.first.moved(*rng.integers(-1, 2, 2).tolist())
        asked.append(lambda: blocks.judge_block(plan, block, at))
    for ask in asked:
        assert judged(plan, ask, 0) == judged(plan, ask, 10**9)


def test_walls_that_would_seal_are_refused_in_words_beside_what_else_is_wrong() -> None:
    plan = draw("......\n......\n......")
    plan.waves = WavePlan(
        (Entry("E1", "Hollow", (Cell(0, 1),)),), (Goal("G1", "Store", (Cell(5, 1),)),)
    )
    wall = blocks.Block(1, 4, (), (), tuple((0, row) for row in range(4)))
    before = recorded(plan)
    with pytest.raises(Refused, match=r"part of it lies outside the grid; .*Hollow"):
        blocks.paste(plan, wall, Cell(2, 0), WHEN)
    low = blocks.Block(1, 3, (), (), wall.barriers[:3])
    with pytest.raises(Refused, match=r"cannot lie at 2, 0: .*Hollow"):
        blocks.paste(plan, low, Cell(2, 0), WHEN)
    assert recorded(plan) == before
