"""The judge, against small drawn cases, a brute-force oracle, and the map of the whole plan."""

from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import BARN, ELL, HUT, draw, put
from tests.helpers.strategies import cells_of, plans
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Kind
from woven_locus.core.placing import Reason, feasible_map, judge, judge_road
from woven_locus.core.placing.judge import rule_rows
from woven_locus.core.plan import Plan


def test_each_cell_has_its_own_reasons() -> None:
    plan = draw("""
        ..b
        r=o
    """)
    verdict = judge(plan, BARN, Cell(0, 0))
    assert not verdict
    assert {tuple(c.cell): c.reasons for c in verdict.cells} == {
        (0, 0): (),
        (1, 0): (),
        (2, 0): (Reason.TERRAIN,),
        (0, 1): (Reason.RESERVED,),
        (1, 1): (Reason.ROAD,),
        (2, 1): (Reason.OBSTACLE,),
    }
    assert verdict.reasons == (Reason.TERRAIN, Reason.RESERVED, Reason.OBSTACLE, Reason.ROAD)
    assert [(b.what, b.name, b.id) for b in verdict.blockers] == [
        ("terrain", "Bog", None),
        ("reserved", "reserved ground", None),
        ("road", "road", None),
        ("obstacle", "Stone 1", "O1"),
    ]
    assert verdict.sentence() == (
        "Bog cannot be built on; the ground is reserved; Stone 1 in the way; a road runs there"
    )


def test_good_ground_is_a_yes_without_reasons() -> None:
    verdict = judge(draw("...\n..."), BARN, Cell(0, 0))
    assert verdict
    assert verdict.reasons == ()
    assert verdict.sentence() == ""
    assert all(passed for _reason, passed, _names in rule_rows(verdict))


def test_cells_outside_are_listed_too() -> None:
    verdict = judge(draw("..", first=(5, -3)), HUT, Cell(4, -3))
    assert [(tuple(c.cell), c.reasons) for c in verdict.cells] == [((4, -3), (Reason.OUTSIDE,))]
    assert "outside the grid" in verdict.sentence()


def test_a_structure_blocks_until_it_is_lifted() -> None:
    plan = draw("....\n....")
    number = put(plan, "barn", 0, 0)
    verdict = judge(plan, BARN, Cell(1, 0))
    assert verdict.reasons == (Reason.OCCUPIED,)
    assert verdict.blockers[0] == ("structure", "S1 Barn", "S1")
    assert judge(plan, BARN, Cell(1, 0), lifted=number)
    other = put(plan, "hut", 3, 1)
    assert not judge(plan, BARN, Cell(1, 0), lifted=number)
    assert judge(plan, BARN, Cell(1, 0), lifted=number).blockers[0].id == f"S{other}"


def test_turning_changes_the_cells_asked_about() -> None:
    plan = draw("..s\n..s\n..s")
    assert not judge(plan, BARN, Cell(0, 0), 0)
    assert judge(plan, BARN, Cell(0, 0), 1)


def test_road_may_cross_road_but_nothing_else_that_blocks() -> None:
    verdict = judge_road(draw(".=sor"), [Cell(col, 0) for col in range(-1, 5)])
    assert [c.ok for c in verdict.cells] == [False, True, True, False, False, False]


def oracle(plan: Plan, kind: Kind, low: Cell, turn: int) -> bool:
    """May it stand there? Read off the recorded things alone, cell by cell."""
    cells = [
        (c, r)
        for r, row in enumerate(kind.footprint.to_rows())
        for c in range(len(row))
        if row[c] == "#"
    ]
    for _ in range(turn):
        tall = max(r for _, r in cells) + 1
        cells = [(tall - 1 - r, c) for c, r in cells]
    if plan.spec.y_up:
        # The same picture, with rows counted from below.
        tall = max(r for _, r in cells)
        cells = [(c, tall - r) for c, r in cells]
    window = plan.window
    taken = {cell for row in plan.register for cell in plan.cells_of(row)}
    taken |= {cell for obstacle in plan.obstacles.values() for cell in obstacle.cells}
    for c, r in cells:
        cell = Cell(low.col + c, low.row + r)
        if not plan.spec.contains(cell) or cell in taken:
            return False
        if window is not None and not (
            window.low.col <= cell.col < window.low.col + window.cols
            and window.low.row <= cell.row < window.low.row + window.rows
        ):
            return False
        slot = plan.spec.slot(cell)
        if plan.reserved[slot] or plan.road[slot]:
            return False
        if not plan.terrain_table[int(plan.terrain[slot])].buildable:
            return False
    return True


@given(st.data(), plans())
def test_judge_and_the_map_agree_with_brute_force(data: st.DataObject, plan: Plan) -> None:
    kinds = list(plan.kinds)
    for _ in range(3):
        kind = data.draw(st.sampled_from(kinds))
        at = data.draw(cells_of(plan.spec))
        if judge(plan, kind, at):
            put(plan, kind.key, *at)
    kind, turn = data.draw(st.sampled_from(kinds)), data.draw(st.integers(0, 3))
    where = feasible_map(plan, kind, turn)
    for row in range(plan.spec.rows):
        for col in range(plan.spec.cols):
            low = plan.spec.cell_of_slot((row, col))
            expected = oracle(plan, kind, low, turn)
            assert bool(judge(plan, kind, low, turn)) == expected
            assert where[row, col] == expected


def test_a_kind_larger_than_the_plan_fits_nowhere() -> None:
    assert not feasible_map(draw(".."), ELL).any()
