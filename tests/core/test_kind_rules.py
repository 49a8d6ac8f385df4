"""The rules that kinds bring: small drawn cases, and both forms of each rule against an oracle that reads
the recorded things cell by cell."""

import numpy as np

from tests.helpers.builders import BARN, HUT, draw, put
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.edits import money
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.kinds import Catalogue, Clear, Demands, Kind, Lattice, Stand, Thing, Touch
from woven_locus.core.placing import (
    Reason,
    always_refused,
    feasible_map,
    judge,
)
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace


def asking(kind: Kind = HUT, **demands: object) -> Kind:
    return replace(kind, key="asking", name="Asking", demands=Demands(**demands))  # type: ignore[arg-type]


def with_kinds(plan: Plan, *kinds: Kind) -> Plan:
    plan.kinds = Catalogue([*plan.kinds, *kinds])
    return plan


def says(plan: Plan, kind: Kind, col: int, row: int, turn: int = 0) -> str:
    return judge(plan, kind, Cell(col, row), turn).sentence()


def test_allowed_terrain_takes_the_place_of_what_may_be_built_on() -> None:
    kind = asking(terrain=("stream", "bog"))
    plan = draw("s.b")
    assert judge(plan, kind, Cell(0, 0))
    assert says(plan, kind, 1, 0) == "Meadow cannot be built on"
    assert judge(plan, kind, Cell(2, 0))


def test_standing_on_counts_cells() -> None:
    plan = draw("cc..\n....")
    every = asking(BARN, stand=Stand(("scree",)))
    two = asking(BARN, stand=Stand(("scree", "terrace"), 2))
    assert says(plan, every, 0, 0) == "needs 6 cells on Scree, has 2"
    assert judge(plan, two, Cell(0, 0))
    assert says(plan, two, 1, 0) == "needs 2 cells on Scree or Terrace, has 1"
    marked = [c.cell for c in judge(plan, every, Cell(0, 0)).cells if not c.ok]
    assert marked == [Cell(2, 0), Cell(0, 1), Cell(1, 1), Cell(2, 1)]


def test_touching_counts_cell_sides_and_sides_turn_along() -> None:
    plan = draw("""
        .....
        .....
        sss..
    """)
    below = asking(BARN, touch=(Touch(Thing.TERRAIN, "stream", 3, (2,)),))
    assert judge(plan, below, Cell(0, 0))
    assert says(plan, below, 1, 0) == (
        "needs 3 cell sides on its bottom (unturned) on Stream, has 2"
    )
    # Turned once, its bottom looks left: there is no stream.
    assert "has 0" in says(plan, below, 0, 0, 1)
    mirrored = replace(below, mirror=True)
    assert judge(plan, mirrored, Cell(0, 0), 4)


def test_touching_another_kind_does_not_count_itself() -> None:
    plan = with_kinds(draw("...."), asking(touch=(Touch(Thing.KIND),)))
    kind = plan.kinds["asking"]
    assert says(plan, kind, 1, 0) == "needs 1 cell side on any structure, has 0"
    put(plan, "hut", 0, 0)
    put(plan, "asking", 1, 0)
    assert "has 0" in judge(plan, kind, Cell(2, 0), lifted=2).sentence()


def test_clearance_holds_both_ways_and_names_what_is_near() -> None:
    plan = with_kinds(draw("......\n......"), asking(clear=(Clear(Thing.KIND, "", 1),)))
    put(plan, "hut", 0, 0)
    kind = plan.kinds["asking"]
    verdict = judge(plan, kind, Cell(1, 1))
    assert verdict.reasons == (Reason.CLEARANCE,)
    assert verdict.sentence() == "S1 Hut is nearer than 2 cells"
    assert [(b.name, b.cell) for b in verdict.blockers] == [("S1 Hut", Cell(0, 0))]
    put(plan, "asking", 3, 0)
    assert says(plan, HUT, 4, 1) == "S2 Asking wants 1 cell of clearance"
    assert judge(plan, HUT, Cell(5, 1))
    # It may be moved by a cell: it is not in its own way.
    assert judge(plan, kind, Cell(4, 0), lifted=2)


def test_slope_refuses_steep_ground_and_doubts_the_unknown() -> None:
    plan = draw("....")
    plan.heights = np.array([[0, 0, 1, np.nan]], np.float32)
    kind = asking(slope=20.0)
    assert judge(plan, kind, Cell(0, 0))
    assert says(plan, kind, 1, 0) == "1 cell steeper than 20°"
    verdict = judge(plan, kind, Cell(3, 0))
    assert verdict
    assert verdict.doubts == ("the height of 1 cell is not known",)
    assert [c.doubtful for c in verdict.cells] == [True]


def test_lattice_counts_user_columns() -> None:
    plan = draw("......", first=(-2, 5))
    kind = asking(lattice=Lattice(3, 1, 1, 0))
    assert [bool(judge(plan, kind, Cell(col, 5))) for col in range(-2, 4)] == [
        True,
        False,
        False,
        True,
        False,
        False,
    ]
    assert says(plan, kind, 0, 5) == "stands only on every 3rd column from 1"


def test_reach_is_from_the_actor_to_the_middle() -> None:
    plan = draw("......")
    kind = asking(BARN, reach=2.0)
    assert "no actor stands anywhere yet" in judge(plan, asking(reach=2.0), Cell(0, 0)).doubts[0]
    plan = draw("......\n......")
    plan.actor = Point(1.5, 1.0)
    assert judge(plan, kind, Cell(2, 0))  # exactly 2 away
    assert says(plan, kind, 3, 0) == "3 from the actor, more than 2 units"


def test_access_asks_for_a_road_at_a_door() -> None:
    plan = draw("...\n...\n.=.")
    assert judge(plan, asking(BARN, access=True), Cell(0, 0))
    assert says(plan, asking(HUT, access=True), 1, 0) == "no side is on a road"
    plan = draw("...\n...\n=..")
    assert says(plan, asking(BARN, access=True), 0, 0) == "no door is on a road"


def test_number_funds_and_turn_hold_everywhere() -> None:
    plan = with_kinds(draw("...."), replace(asking(most=1), turns=(0, 2), price=30))
    kind = plan.kinds["asking"]
    assert says(plan, kind, 0, 0, 1) == "stands turned 0° or 180° only, not mirrored"
    put(plan, "asking", 0, 0)
    assert says(plan, kind, 1, 0) == "1 of at most 1 is there"
    assert judge(plan, kind, Cell(1, 0), lifted=1)
    History(plan).do(money.set_funds(plan, 45))
    assert plan.account.balance == 15
    assert says(plan, BARN, 1, 0).endswith("costs 25 coins, 10 more than there is")
    assert always_refused(plan, kind, 0) == (Reason.LIMIT, Reason.FUNDS)
    assert not feasible_map(plan, kind).any()


def test_a_replacement_may_spend_what_its_place_returns() -> None:
    plan = draw("...\n...")
    History(plan).do(money.set_funds(plan, 10))
    put(plan, "hut", 0, 0)
    assert plan.account.balance == 0
    dear = replace(HUT, key="dear", price=5)
    plan = with_kinds(plan, dear)
    assert judge(plan, dear, Cell(0, 0), lifted=1)
    assert not judge(plan, replace(dear, price=6), Cell(0, 0), lifted=1)
    history = History(plan)
    history.do(edits.replace_with(plan, 1, "dear", Cell(0, 0), 0, "now"))
    assert plan.account.balance == 0
    assert plan.register.numbers() == [2]


# --- the oracle -------------------------------------------------------------------------------
