"""Cases that could be decided one way or another; docs/decisions/0016-cases-decided.md says why."""

import pytest

from tests.helpers.builders import HUT, WHEN, draw, put
from woven_locus.core import edits
from woven_locus.core.books.forecast import what_if
from woven_locus.core.editing import History, Keep, Regrid
from woven_locus.core.edits import money
from woven_locus.core.edits.grid import regrid
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.kinds import Clear, Thing, Touch
from woven_locus.core.placing import Reason, judge
from woven_locus.core.plan import Plan
from woven_locus.core.routing import (
    ON_FOOT,
    Manner,
    NoRoute,
    Over,
    Route,
    find_links,
    find_route,
)
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import Sign, road_byte
from woven_locus.files import plan_json


def signed(text: str, **signs: Sign) -> Plan:
    """signs : by cell, as c1r0."""
    plan = draw(text)
    for place, sign in signs.items():
        col, row = map(int, place[1:].split("r"))
        plan.road[row, col] = road_byte(0, sign)
    return plan_json.parse(plan_json.dump(plan))


def way(plan: Plan, a: tuple[int, int], b: tuple[int, int], manner: Manner) -> list[Cell] | None:
    found = find_route(plan, Cell(*a), Cell(*b), manner)
    return list(found.cells) if isinstance(found, Route) else None


# --- routes --------------------------------------------------------------------------------------------


def test_a_structure_is_where_it_is() -> None:
    plan = draw("====\n....")
    one = put(plan, "hut", 1, 1)
    found = find_route(plan, one, one)
    assert isinstance(found, Route)
    assert (found.cost, found.length, len(found.cells)) == (0, 0, 1)
    assert isinstance(find_route(draw_alone(), 1, 1), NoRoute)  # it has no road to be on


def draw_alone() -> Plan:
    plan = draw("...\n...")
    put(plan, "hut", 1, 1)
    return plan


def test_one_way_signs_hold_on_roads_and_not_for_who_may_walk_beside_them() -> None:
    plan = signed("===", c1r0=Sign.EAST)
    assert way(plan, (0, 0), (2, 0), Manner()) == [Cell(0, 0), Cell(1, 0), Cell(2, 0)]
    assert way(plan, (2, 0), (0, 0), Manner()) is None
    for manner in (ON_FOOT, Manner(Over.PREFERRED)):
        assert way(plan, (2, 0), (0, 0), manner) == [Cell(2, 0), Cell(1, 0), Cell(0, 0)]
    closed = signed("===", c1r0=Sign.CLOSED)
    for manner in (Manner(), ON_FOOT, Manner(Over.PREFERRED)):
        assert way(closed, (0, 0), (2, 0), manner) is None


@pytest.mark.parametrize("where", ["c0r0", "c1r1"])
def test_no_diagonal_leaves_or_enters_a_one_way_cell(where: str) -> None:
    eight = Manner(moves=8)
    assert way(draw("==\n=="), (0, 0), (1, 1), eight) == [Cell(0, 0), Cell(1, 1)]
    found = way(signed("==\n==", **{where: Sign.EAST}), (0, 0), (1, 1), eight)
    assert found is not None
    assert len(found) == 3


def test_a_barrier_stops_who_walks_but_for_its_gates() -> None:
    plan = draw("...\n...\n...")
    history = History(plan)
    history.do(edits.raise_barrier(plan, [Cell(1, 0), Cell(1, 1), Cell(1, 2)]))
    assert way(plan, (0, 1), (2, 1), ON_FOOT) is None
    history.do(edits.erase_block(plan, Cell(1, 1), Cell(1, 1)))
    history.do(edits.lay_road(plan, [Cell(1, 1)]))
    assert way(plan, (0, 1), (2, 1), ON_FOOT) == [Cell(0, 1), Cell(1, 1), Cell(2, 1)]
    # Between two barriers that touch at a corner nobody squeezes through.
    slanted = draw("...\n...")
    History(slanted).do(edits.raise_barrier(slanted, [Cell(1, 0), Cell(0, 1)]))
    assert way(slanted, (0, 0), (1, 1), Manner(Over.GROUND, 8)) is None


# --- placing -------------------------------------------------------------------------------------------


def test_beyond_the_edge_is_nothing_to_keep_clear_of_and_nothing_to_touch() -> None:
    plan = draw("....\n....")
    clear = replace(HUT, demands=replace(HUT.demands, clear=(Clear(Thing.TERRAIN, "stream", 2),)))
    assert judge(plan, clear, Cell(0, 0))
    touch = replace(HUT, demands=replace(HUT.demands, touch=(Touch(Thing.TERRAIN, "meadow", 3),)))
    assert judge(plan, touch, Cell(1, 0))  # three sides face meadow, one faces nothing
    assert list(judge(plan, touch, Cell(0, 0)).reasons) == [Reason.SUPPORT]


def test_what_is_steep_is_so_outside_the_window_too() -> None:
    plan = draw("...\n...")
    import numpy as np

    plan.heights = np.array([[0, 0, 50], [0, 0, 50]], np.float32)
    plan.window = BuildWindow(Cell(0, 0), 1, 2)
    plan = plan_json.parse(plan_json.dump(plan))
    steep = replace(HUT, demands=replace(HUT.demands, slope=10.0))
    verdict = judge(plan, steep, Cell(2, 0))
    assert list(verdict.reasons) == [Reason.OUTSIDE, Reason.SLOPE]
    assert list(verdict.cells[0].reasons) == [Reason.OUTSIDE, Reason.SLOPE]
    outside = judge(plan, steep, Cell(3, 0))
    assert list(outside.cells[0].reasons) == [Reason.OUTSIDE]


def test_what_costs_nothing_can_be_had_in_debt() -> None:
    plan = draw("....")
    history = History(plan)
    free = replace(HUT, key="free", price=0)
    dear = replace(HUT, key="dear", price=5)
    drain = replace(HUT, key="drain", price=0, pays=-20, every=1)
    plan.kinds = plan.kinds.with_kind(free).with_kind(dear).with_kind(drain)
    history.do(money.set_funds(plan, 0, 50))
    history.do(edits.place(plan, "drain", Cell(3, 0), 0, WHEN))
    history.do(money.advance(plan, 1))
    assert plan.account.balance == -20
    assert judge(plan, free, Cell(0, 0))
    assert list(judge(plan, dear, Cell(0, 0)).reasons) == [Reason.FUNDS]
    told = what_if(plan.account, plan.kinds, 1, ["free", "dear"])
    assert [(each.kind, each.at) for each in told] == [("free", 1), ("dear", None)]


# --- another grid ------------------------------------------------------------------------------------------


def test_what_another_grid_drops_counts_as_demolished() -> None:
    plan = draw("......")
    history = History(plan)
    history.do(money.set_funds(plan, 100, 50))
    history.do(edits.place(plan, "hut", Cell(5, 0), 0, WHEN))
    assert plan.account.balance == 90
    history.do(regrid(plan, Regrid(GridSpec(3, 1), Keep.INDEX)))
    assert len(plan.register) == 0
    assert plan.account.balance == 95
    history.undo()
    assert plan.account.balance == 90


def test_a_coarser_grid_keeps_road_that_no_new_cell_samples() -> None:
    plan = draw("#.#.#.#.".replace("#", "="))
    coarse = Regrid(GridSpec(4, 1, 2.0, 1.0), Keep.PLACE)
    made, lost = coarse.work_out(plan)
    assert (made.road != 0).tolist() == [[True] * 4]
    assert lost.cells["road"] == 0
    assert not lost


def test_what_was_joined_stays_joined_on_a_coarser_grid() -> None:
    plan = draw("=.......\n====....\n...=....\n...=====\n........\n........")
    put(plan, "hut", 1, 0)
    put(plan, "hut", 7, 4)
    assert len(find_links(plan).groups) == 1
    made, lost = Regrid(GridSpec(4, 3, 2.0, 2.0), Keep.PLACE).work_out(plan)
    assert lost.structures == ()
    # The huts take their cells; the road around them that is left is one piece, and what is lost is told.
    at = [tuple(cell) for cell in (made.road != 0).nonzero()[0:1]]
    assert at
    gone = sum(
        not made.road[row // 2, col // 2] for row, col in zip(*plan.road.nonzero(), strict=True)
    )
    assert lost.cells["road"] == gone


def test_painted_ground_that_finds_no_place_is_told() -> None:
    plan = draw("s.s.s.s.")  # the new cells sample the meadow between
    made, lost = Regrid(GridSpec(4, 1, 2.0, 1.0), Keep.PLACE).work_out(plan)
    assert lost.cells["terrain"] == 4 - int((made.terrain != 0).sum())
    assert Box(0, 0, *made.spec.shape) == made.spec.box
