"""Conflicts are solved, and what differs is taken over, by choosing theirs."""

from contextlib import suppress

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_compare import again, steps, three
from tests.helpers.builders import draw, paint, put
from tests.helpers.depth import examples
from tests.helpers.state import recorded
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.compare import Thing, compare, merge, taken_over
from woven_locus.core.compare.effects import Effects
from woven_locus.core.editing import History, Keep, Regrid
from woven_locus.core.edits.grid import regrid
from woven_locus.core.edits.kinds import change_kind, remove_kind
from woven_locus.core.edits.terrain_classes import add_class, remove_class
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import Sign, road_byte
from woven_locus.files.compare_lines import lines_of


def solved(base: Plan, ours: Plan, theirs: Plan) -> tuple[Plan, list[str]]:
    """With theirs for all that can be chosen, and what is in conflict still."""
    things: dict[Thing, None] = {}
    for _ in range(40):
        merged = merge(base, ours, theirs, things)
        new = [thing for item in merged.conflicts for thing in item.things if thing not in things]
        if not new:
            return merged.plan, [item.what for item in merged.conflicts]
        things |= dict.fromkeys(new)
    raise AssertionError("choosing does not end")


@settings(max_examples=examples(80), deadline=None)
@given(plans(8), st.integers(0, 2**32 - 1), st.integers(0, 2**32 - 1))
def test_choosing_theirs_ends_and_gives_a_plan(base: Plan, one: int, two: int) -> None:
    ours, theirs = steps(base, one), steps(base, two)
    first = merge(base, ours, theirs)
    plan, _left = solved(base, ours, theirs)
    assert recorded(again(plan)) == recorded(plan)
    if not any(item.things for item in first.conflicts):
        assert recorded(plan) == recorded(first.plan)


@pytest.mark.parametrize("wanted", ["field", "whole", "cells", "place", "grid", "kind", "crossed"])
def test_a_conflict_is_solved_by_choosing_theirs(wanted: str) -> None:
    base, ours, theirs = three("....\n====\n....\n....")
    if wanted == "field":
        for side, cost in ((ours, 5), (theirs, 9)):
            hut = replace(side.kinds["hut"], price=cost)
            History(side).do(change_kind(side, "hut", hut))
    elif wanted == "whole":
        ours.name, theirs.name = "Ours", "Theirs"
    elif wanted == "cells":
        for side, code in ((ours, 1), (theirs, 2)):
            History(side).do(paint(side, [Cell(1, 0)], code))
    elif wanted == "place":
        put(ours, "hut", 0, 0)
        History(theirs).do(edits.lay_road(theirs, [Cell(0, 0)]))
    elif wanted == "grid":
        for side, cols in ((ours, 6), (theirs, 8)):
            grid = Regrid(replace(base.spec, cols=cols), Keep.INDEX)
            History(side).do(regrid(side, grid))
            History(side).do(paint(side, [Cell(cols - 2, 0)], 1))
        put(theirs, "hut", 7, 0)
    elif wanted == "kind":
        History(ours).do(remove_kind(ours, "barn"))
        put(theirs, "barn", 0, 2)
    else:
        History(ours).do(edits.raise_barrier(ours, [Cell(0, 0)]))
        History(theirs).do(edits.lay_road(theirs, [Cell(0, 0)]))
    merged = merge(base, ours, theirs)
    assert len(merged.conflicts) == 1
    # Numbers that one side gave out are not given out again.
    for side in (ours, theirs):
        side.register.next_number = merged.plan.register.next_number
    assert recorded(merged.plan) == recorded(ours)
    plan, left = solved(base, ours, theirs)
    assert left == []
    assert recorded(plan) == recorded(theirs)
    # Solved for one and open for the other.
    ours.money, theirs.money = "beads", "shells"
    things = merged.conflicts[0].things
    half = merge(base, ours, theirs, things)
    assert [item.what for item in half.conflicts] == ["money"]
    assert half.plan.money == "beads"


@settings(max_examples=examples(60), deadline=None)
@given(plans(8), st.integers(0, 2**32 - 1), st.integers(0, 2**32 - 1))
def test_what_is_taken_over_is_as_the_other_has_it(base: Plan, one: int, two: int) -> None:
    plan, other = steps(base, one), steps(base, two)
    before = recorded(plan), recorded(other)
    for line in lines_of(compare(other, plan), Effects(), pieces=True):
        if line.thing is None:
            continue
        with suppress(Refused):
            taken = taken_over(plan, other, [line.thing])
            assert recorded(again(taken)) == recorded(taken)
            left = lines_of(compare(other, taken), Effects(), pieces=True)
            assert line.thing not in [each.thing for each in left]
    assert (recorded(plan), recorded(other)) == before


def test_taking_over_brings_what_it_needs_and_refuses_what_does_not_stand() -> None:
    other = draw("....\n====\n....\n....")
    put(other, "barn", 0, 2)
    plan = again(other)
    history = History(plan)
    history.do(edits.demolish(plan, [1]))
    history.do(remove_kind(plan, "barn"))
    taken = taken_over(plan, other, [Thing("structures", 1)])
    assert recorded(taken) == recorded(other)
    put(plan, "hut", 1, 3)
    with pytest.raises(Refused, match="S1 and S2 both cover 1, 3"):
        taken_over(plan, other, [Thing("structures", 1)])
    # Of two pieces of ground one only.
    history.do(paint(plan, [Cell(0, 0), Cell(3, 0)], 2))
    piece = Thing("terrain", (Cell(0, 0), Cell(0, 0)))
    assert taken_over(plan, other, [piece]).terrain[0].tolist() == [0, 0, 0, 2]
    fen = replace(plan.terrain_table[0], key="fen", name="Fen", mark="f")
    history.do(add_class(plan, fen))
    history.do(paint(plan, [Cell(1, 0), Cell(2, 0)], len(plan.terrain_table) - 1))
    with pytest.raises(Refused, match="2 cells of terrain hold fen still"):
        taken_over(plan, other, [Thing("terrain_classes", "fen")])
    # Taken the other way, the class comes with its cells.
    taken = taken_over(other, plan, [Thing("terrain", (Cell(1, 0), Cell(1, 0)))])
    assert taken.terrain_table[int(taken.terrain[0, 1])] == fen
    with pytest.raises(Refused, match="change it in Survey"):
        taken_over(plan, other, [Thing("grid")])


def test_a_sign_that_is_taken_over_brings_its_road() -> None:
    other = draw("....\n====")
    other.road[1, 2] = road_byte(0, Sign.EAST)
    plan = again(other)
    History(plan).do(edits.erase_road(plan, [Cell(2, 1), Cell(3, 1)]))
    at = Cell(2, 1)
    taken = taken_over(plan, other, [Thing("signs", (at, at))])
    assert taken.road[1].tolist() == [1, 1, road_byte(0, Sign.EAST), 0]


def test_cells_of_a_class_that_the_other_took_away_keep_it_on_another_grid_too() -> None:
    base, ours, theirs = three("....\n....")
    for side, cols in ((ours, 6), (theirs, 8)):
        grid = Regrid(replace(base.spec, cols=cols), Keep.INDEX)
        History(side).do(regrid(side, grid))
    History(ours).do(paint(ours, [Cell(1, 0)], 2))
    History(theirs).do(remove_class(theirs, 2))
    merged = merge(base, ours, theirs)
    assert "grid" in [item.part for item in merged.conflicts]
    key = ours.terrain_table[2].key
    assert merged.plan.terrain_table[int(merged.plan.terrain[0, 1])].key == key
