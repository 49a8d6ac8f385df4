"""The judge, against small drawn cases. Held against brute force in `test_kind_rules`."""

from tests.helpers.builders import BARN, ELL, HUT, draw, put
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import Reason, feasible_map, judge, judge_road
from woven_locus.core.placing.judge import rule_rows


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
    assert all(row.ok for row in rule_rows(verdict))


def test_cells_outside_are_listed_too() -> None:
    verdict = judge(draw("..", first=(5, -3)), HUT, Cell(4, -3))
    assert [(tuple(c.cell), c.reasons) for c in verdict.cells] == [((4, -3), (Reason.OUTSIDE,))]
    assert "outside the grid" in verdict.sentence()


def test_a_structure_blocks_until_it_is_lifted() -> None:
    plan = draw("....\n....")
    number = put(plan, "barn", 0, 0)
    verdict = judge(plan, BARN, Cell(1, 0))
    assert verdict.reasons == (Reason.OCCUPIED,)
    assert verdict.blockers[0].thing == ("structure", "S1 Barn", "S1")
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


def test_a_kind_larger_than_the_plan_fits_nowhere() -> None:
    assert not feasible_map(draw(".."), ELL).any()
