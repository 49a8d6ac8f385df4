"""Plans held against one another, and three of them brought together."""

from contextlib import suppress

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.builders import draw, paint, put
from tests.helpers.depth import examples
from tests.helpers.random_steps import random_step
from tests.helpers.state import recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.accepted import Accepted
from woven_locus.core.compare import compare, merge
from woven_locus.core.editing import History, Keep, Regrid
from woven_locus.core.edits import heights
from woven_locus.core.edits.becoming import becoming
from woven_locus.core.edits.grid import regrid
from woven_locus.core.edits.kinds import change_kind, remove_kind
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.vehicles import TrafficPlan, Trip
from woven_locus.core.ways.roads import Sign, road_byte
from woven_locus.files import plan_json


def again(plan: Plan) -> Plan:
    """As another person has it: read from its file."""
    return plan_json.parse(plan_json.dump(plan))


def steps(plan: Plan, seed: int, count: int = 8) -> Plan:
    """What somebody made of a plan."""
    twin, rng = again(plan), np.random.default_rng(seed)
    history = History(twin)
    for _ in range(count):
        random_step(twin, history, rng)
    return twin


@settings(max_examples=examples(60), deadline=None)
@given(plans(8), st.integers(0, 2**32 - 1))
def test_a_side_that_changed_nothing_changes_nothing(base: Plan, seed: int) -> None:
    side = steps(base, seed)
    for one, two in ((side, base), (base, side), (side, side)):
        merged = merge(base, one, two)
        assert merged.conflicts == ()
        assert recorded(merged.plan) == recorded(side)
    assert bool(compare(base, side)) is (recorded(base) != recorded(side))
    assert not compare(side, again(side))


@settings(max_examples=examples(80), deadline=None)
@given(plans(8), st.integers(0, 2**32 - 1), st.integers(0, 2**32 - 1))
def test_a_merged_plan_is_a_plan_whoever_is_called_ours(base: Plan, one: int, two: int) -> None:
    ours, theirs = steps(base, one), steps(base, two)
    before = [recorded(plan) for plan in (base, ours, theirs)]
    merged, other = merge(base, ours, theirs), merge(base, theirs, ours)
    assert [recorded(plan) for plan in (base, ours, theirs)] == before
    # The reader takes it, and it reads back as it was.
    assert recorded(again(merged.plan)) == recorded(merged.plan)
    assert bool(merged.conflicts) is bool(other.conflicts)
    if not merged.conflicts:
        assert recorded(merged.plan) == recorded(other.plan)
        # Nothing of either side is lost: what is left to bring in changes nothing.
        for side in (ours, theirs):
            twice = merge(base, merged.plan, side)
            if not twice.conflicts and not _gave_anew(base, ours, theirs):
                assert recorded(twice.plan) == recorded(merged.plan)


@pytest.mark.parametrize("levels", [(-0.0, 0.0), (0.0, -0.0), (np.nan, -0.0)])
def test_zeros_of_either_sign_are_two_heights(levels: tuple[float, float]) -> None:
    """A file tells them apart, so that whoever changes one into the other has changed something."""
    base = draw("..")
    old, new = (np.full((1, 2), level, np.float32) for level in levels)
    History(base).do(heights.set_heights(base, old, ""))
    side = again(base)
    History(side).do(heights.set_heights(side, new, ""))
    assert recorded(side) != recorded(base)
    assert compare(base, side)
    for ours, theirs in ((side, base), (base, side)):
        assert recorded(merge(base, ours, theirs).plan) == recorded(side)
    twin = again(base)
    History(twin).do(becoming(twin, side, ""))
    assert recorded(twin) == recorded(side)


def _gave_anew(base: Plan, ours: Plan, theirs: Plan) -> bool:
    mine, other = set(ours.register.numbers()), set(theirs.register.numbers())
    rocks = set(ours.obstacles) & set(theirs.obstacles) - set(base.obstacles)
    return bool((mine & other) - set(base.register.numbers())) or bool(rocks)


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_edits_in_boxes_apart_always_merge(seed: int) -> None:
    rng = np.random.default_rng(seed)
    base = draw("\n".join(["." * 16] * 8))
    sides = []
    for first in (0, 9):
        side = again(base)
        history = History(side)
        for _ in range(12):
            cells = [
                Cell(first + int(c), int(r))
                for c, r in zip(rng.integers(0, 7, 3), rng.integers(0, 8, 3), strict=True)
            ]
            what = int(rng.integers(4))
            if what == 0:
                history.do(paint(side, cells, int(rng.integers(3))))
            elif what == 1 and all(not side.occupant[side.spec.slot(cell)] for cell in cells):
                history.do(edits.lay_road(side, cells[:1]))
            elif what == 2 and side.register.numbers():
                history.do(edits.demolish(side, side.register.numbers()[:1]))
            else:
                with suppress(Refused):
                    history.do(edits.place(side, "hut", cells[0], 0, "2026-01-01"))
        sides.append(side)
    merged = merge(base, *sides)
    assert merged.conflicts == ()
    for first, side in zip((0, 9), sides, strict=True):
        part = np.s_[:, first : first + 7]
        npt.assert_array_equal(merged.plan.terrain[part], side.terrain[part])
        npt.assert_array_equal(merged.plan.road[part], side.road[part])
        npt.assert_array_equal(merged.plan.occupant[part] > 0, side.occupant[part] > 0)
    total = sum(len(side.register) for side in sides)
    assert len(merged.plan.register) == total


def three(text: str) -> tuple[Plan, Plan, Plan]:
    base = draw(text)
    return base, again(base), again(base)


def test_numbers_that_both_gave_out_are_given_anew_and_followed() -> None:
    base, ours, theirs = three("......\n======\n......\n......")
    put(ours, "hut", 4, 2)
    put(theirs, "hut", 0, 2)
    theirs.traffic = TrafficPlan(trips=(Trip(1, Cell(5, 1)),))
    theirs.accepted = (Accepted("cut-off", "meant", None, 1),)
    for one, two in ((ours, theirs), (theirs, ours)):
        merged = merge(base, one, two)
        assert merged.conflicts == ()
        # The one that comes first by its cell keeps its number.
        assert {row.number: row.cell for row in merged.plan.register} == {1: (0, 2), 2: (4, 2)}
        assert merged.plan.traffic.trips == (Trip(1, Cell(5, 1)),)
        assert merged.plan.accepted[0].structure == 1
    put(theirs, "hut", 2, 2)
    theirs.traffic = TrafficPlan(trips=(Trip(2, 1),))
    put(ours, "hut", 0, 3)
    merged = merge(base, ours, theirs)
    assert merged.conflicts == ()
    at = {row.cell: row.number for row in merged.plan.register}
    assert at == {Cell(0, 2): 1, Cell(4, 2): 3, Cell(2, 2): 2, Cell(0, 3): 4}
    assert merged.plan.traffic.trips == (Trip(2, 1),)
    assert merged.plan.register.next_number == 5


def test_what_both_changed_another_way_is_a_conflict_and_ours_is_kept() -> None:
    base, ours, theirs = three("....\n....")
    for side, cost, code in ((ours, 5, 1), (theirs, 9, 2)):
        hut = replace(side.kinds["hut"], price=cost)
        History(side).do(change_kind(side, "hut", hut))
        History(side).do(paint(side, [Cell(1, 0), Cell(2, 1)], code))
        side.name = f"Side {cost}"
    theirs_hut = replace(theirs.kinds["hut"], pays=3, every=10)
    History(theirs).do(change_kind(theirs, "hut", theirs_hut))
    merged = merge(base, ours, theirs)
    keys = [item.key for item in base.terrain_table]
    assert [(c.part, c.what, c.ours, c.theirs) for c in merged.conflicts] == [
        ("terrain", "2 cells from 1, 0 to 2, 1: both sides changed them", keys[1], keys[2]),
        ("plan", "name", "Side 5", "Side 9"),
        ("kinds", "hut: price", 5, 9),
    ]
    # What only they changed of it is taken.
    hut = merged.plan.kinds["hut"]
    assert (hut.price, hut.pays, hut.every) == (5, 3, 10)
    assert merged.plan.terrain[0, 1] == 1
    assert merged.plan.name == "Side 5"


def test_two_on_one_cell_are_a_conflict_not_a_broken_plan() -> None:
    base, ours, theirs = three("....\n....\n....")
    put(ours, "hut", 1, 1)
    put(theirs, "hut", 1, 1, 0)
    put(theirs, "hut", 3, 2)
    # Alike in all but when they were placed: not the same one.
    theirs.register.put(replace(theirs.register[1], placed="2026-02-02"))
    merged = merge(base, ours, theirs)
    (conflict,) = merged.conflicts
    assert conflict.part == "structures"
    assert "both cover 1, 1" in conflict.what
    assert sorted(row.cell for row in merged.plan.register) == [(1, 1), (3, 2)]


def test_road_under_a_house_and_a_house_on_a_road() -> None:
    base, ours, theirs = three("....\n....\n....")
    put(ours, "hut", 1, 1)
    History(theirs).do(edits.lay_road(theirs, [Cell(c, 1) for c in range(4)]))
    merged = merge(base, ours, theirs)
    assert [c.what for c in merged.conflicts] == ["road at 1, 1 would run under S1"]
    assert merged.plan.road[1].tolist() == [1, 0, 1, 1]
    merged = merge(base, theirs, ours)
    assert [c.what for c in merged.conflicts] == ["S1: road runs at 1, 1"]
    assert len(merged.plan.register) == 0
    assert merged.plan.road[1].all()


def test_a_kind_that_is_gone_and_one_of_it() -> None:
    base, ours, theirs = three("....\n....")
    History(ours).do(remove_kind(ours, "barn"))
    put(theirs, "barn", 0, 0)
    merged = merge(base, ours, theirs)
    assert [c.what for c in merged.conflicts] == ["S1: its kind barn is not there"]
    assert "barn" not in merged.plan.kinds
    merged = merge(base, theirs, ours)
    assert [c.part for c in merged.conflicts] == ["kinds"]
    assert merged.plan.register[1].kind == "barn"


def test_class_and_sign_of_a_road_come_together() -> None:
    base, ours, theirs = three("....\n====")
    ours.road[1, 1] = road_byte(0, Sign.EAST)
    History(theirs).do(edits.erase_road(theirs, [Cell(3, 1)]))
    merged = merge(base, ours, theirs)
    assert merged.conflicts == ()
    assert merged.plan.road[1].tolist() == [1, road_byte(0, Sign.EAST), 1, 0]
    # A sign on road that the other took up goes with it.
    theirs.road[1, 1] = 0
    merged = merge(base, ours, theirs)
    assert merged.plan.road[1, 1] == 0


def test_a_grid_that_one_side_grew_takes_the_other_sides_cells() -> None:
    base, ours, theirs = three("....\n....")
    spec = replace(
        base.spec, cols=6, rows=3, first_col=-1, anchor_x=base.spec.anchor_x - base.spec.cell_w
    )
    History(ours).do(regrid(ours, Regrid(spec, Keep.INDEX)))
    History(theirs).do(paint(theirs, [Cell(3, 1)], 2))
    put(theirs, "hut", 0, 0)
    for one, two in ((ours, theirs), (theirs, ours)):
        merged = merge(base, one, two)
        assert merged.conflicts == ()
        assert merged.plan.spec == spec
        assert merged.plan.terrain[1, 4] == 2
        assert merged.plan.register[1].cell == (0, 0)
    found = compare(base, merged.plan)
    assert found.grid == (base.spec, spec)
    assert found.cells is not None
    assert {change.aspect: change.count for change in found.cells}["terrain"] == 18 - 8 + 1
    # Other cells altogether: what lies on them cannot be carried over.
    other = again(base)
    History(other).do(
        regrid(other, Regrid(replace(base.spec, cell_w=base.spec.cell_w * 2), Keep.INDEX))
    )
    merged = merge(base, other, theirs)
    assert [c.part for c in merged.conflicts] == ["grid"]
    assert merged.plan.spec == other.spec
    assert len(merged.plan.register) == 0
    assert compare(base, other).cells is None


def test_what_differs_is_said_in_the_plans_own_terms() -> None:
    base, _ours, side = three("....\n====\n....")
    number = put(base, "hut", 0, 0)
    side = again(base)
    history = History(side)
    history.do(edits.move(side, number, Cell(2, 0), 1))
    history.do(paint(side, [Cell(1, 2), Cell(3, 2)], 1))
    history.do(edits.erase_road(side, [Cell(0, 1)]))
    found = compare(base, side)
    (moved,) = found.of("structures")
    assert (moved.before.cell, moved.after.cell, moved.after.turn) == ((0, 0), (2, 0), 1)
    assert found.cells is not None
    terrain, roads = found.cells
    assert (terrain.aspect, terrain.count, terrain.low, terrain.high) == (
        "terrain",
        2,
        (1, 2),
        (3, 2),
    )
    assert terrain.into == ((side.terrain_table[1].key, 2),)
    assert (roads.aspect, roads.count, roads.into) == ("roads", 1, ((None, 1),))
    assert found.grid is None
    assert not compare(side, again(side))


@pytest.mark.parametrize("order", [1, -1])
def test_trips_and_classes_of_both_sides_are_there(order: int) -> None:
    base, ours, theirs = three("....\n====")
    base.traffic = ours.traffic = theirs.traffic = TrafficPlan(
        trips=(Trip(Cell(0, 1), Cell(3, 1)),)
    )
    ours.traffic = TrafficPlan(trips=(*base.traffic.trips, Trip(Cell(1, 1), Cell(3, 1))))
    theirs.traffic = TrafficPlan(trips=(Trip(Cell(2, 1), Cell(3, 1)),))
    merged = merge(base, *(ours, theirs)[::order])
    assert merged.conflicts == ()
    assert set(merged.plan.traffic.trips) == {Trip(Cell(c, 1), Cell(3, 1)) for c in (1, 2)}
