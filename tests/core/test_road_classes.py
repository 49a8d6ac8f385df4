"""Road classes: the byte of a cell, the table, and the edits that change it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw
from tests.helpers.networks import may_step
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import ROADS, plans
from woven_locus.core import edits
from woven_locus.core.derived.cells import ON_ROAD
from woven_locus.core.editing import Edit, History
from woven_locus.core.edits import blocks, road_classes
from woven_locus.core.errors import BadPlan, Refused, Unknown
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.routing import Manner, Over, Route, find_route
from woven_locus.core.ways.roads import (
    PLAIN,
    RoadClass,
    RoadTable,
    Sign,
    class_of,
    resigned,
    road_byte,
    road_words,
    sign_of,
    sign_words,
)
from woven_locus.files import edit_pack, plan_json

PLAIN_CLASS = PLAIN[0]


@given(st.integers(0, 30), st.sampled_from(Sign))
def test_a_byte_holds_a_class_and_a_sign(code: int, sign: Sign) -> None:
    byte = road_byte(code, sign)
    assert 0 < byte < 256
    assert (class_of(byte), sign_of(byte)) == (code, sign)
    assert class_of(0) == -1
    # A quarter turn four times, or a mirror twice, is nothing.
    turned = byte
    for _ in range(4):
        turned = resigned(turned, lambda side: (side + 1) % 4)
    assert turned == byte
    assert resigned(resigned(byte, lambda side: -side % 4), lambda side: -side % 4) == byte


def test_a_one_way_cell_is_left_by_its_own_side_and_never_entered_by_it() -> None:
    exits = PLAIN.exits.tolist()
    plain, east = road_byte(0), road_byte(0, Sign.EAST)
    assert [may_step(east, plain, side, exits) for side in (1, 2, 3, 4)] == [0, 1, 0, 0]
    # Side 4 of the plain cell leads west, against the sign's head; the others come from behind or beside.
    assert [may_step(plain, east, side, exits) for side in (1, 2, 3, 4)] == [1, 1, 1, 0]


def test_the_table_knows_costs_speeds_and_what_is_closed() -> None:
    assert ROADS.costs[road_byte(1)] == 1.75
    assert ROADS.speeds[road_byte(1, Sign.WEST)] == 2.0
    assert np.isinf(ROADS.costs[[0, road_byte(0, Sign.CLOSED), road_byte(2)]]).all()
    assert ROADS.code("path") == 1
    assert ROADS[:1] == (ROADS[0],)
    with pytest.raises(Unknown, match="no road class 'rail'; the plan has road, path"):
        ROADS.code("rail")
    assert road_words(ROADS, road_byte(1, Sign.NORTH)) == "Path, one way north"
    assert road_words(ROADS, road_byte(1, Sign.NORTH), y_up=True) == "Path, one way south"
    assert (sign_words(Sign.CLOSED), sign_words(Sign.NONE)) == ("closed", "")


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"name": " "}, "needs a name"),
        ({"mark": "ww"}, "mark must be one letter"),
        ({"cost": float("nan")}, "cost must be a number above 0"),
        ({"speed": 0.0}, "speed must be a number above 0"),
        ({"lanes": 0}, "lanes must be 1 to 6"),
    ],
)
def test_a_class_that_makes_no_sense_is_refused(changes: dict[str, object], words: str) -> None:
    item = {"key": "road", "name": "Road", "mark": "w", "speed": 1.0, "cost": 1.0, "lanes": 2}
    with pytest.raises(BadPlan, match=words):
        RoadTable([RoadClass(**{**item, "dye": "#112233", **changes})])  # type: ignore[arg-type]
    with pytest.raises(BadPlan, match="1 to 31 road classes, not 0"):
        RoadTable([])
    with pytest.raises(BadPlan, match="key 'road' is used twice"):
        RoadTable([PLAIN_CLASS, PLAIN_CLASS])


def test_a_plan_refuses_road_of_no_class() -> None:
    spec = draw("..").spec
    table = draw("..").terrain_table
    with pytest.raises(BadPlan, match="row 0, column 1 holds no class"):
        Plan("P", spec, table, road=np.array([[0, 2]], np.uint8))


def do(plan: Plan, edit: Edit) -> History:
    history = History(plan)
    before = recorded(plan)
    history.do(edit)
    after = recorded(plan)
    assert_derived_is_current(plan)
    history.undo()
    assert recorded(plan) == before
    assert_derived_is_current(plan)
    history.redo()
    assert recorded(plan) == after
    # The journal brings it back as it was.
    again = edit_pack.unpack(edit_pack.pack(edit))
    twin = plan_json.parse(before)
    History(twin).do(again)
    assert recorded(twin) == after
    return history


def test_classes_are_added_changed_and_removed() -> None:
    plan = draw("=====")
    do(plan, road_classes.add_class(plan, PLAIN_CLASS, "Path"))
    do(plan, edits.lay_road(plan, [Cell(1, 0), Cell(2, 0)], 1))
    assert road_classes.usage(plan) == [3, 2]
    assert plan.movement[0].tolist() == [ON_ROAD, ON_ROAD - 1, ON_ROAD - 1, ON_ROAD, ON_ROAD]
    path = plan.road_table[1]
    dear = RoadClass(path.key, "Toll", path.mark, 9.0, 3.0, 4, "#445566")
    history = do(plan, road_classes.change_class(plan, 1, dear))
    assert history.entries == ["Renamed Path to Toll"]
    for over in Over:
        route = find_route(plan, Cell(0, 0), Cell(4, 0), Manner(over))
        assert isinstance(route, Route)
        assert (route.length, route.cost) == (4, 1 + 4 + 3)
    assert not road_classes.change_class(plan, 1, dear).changes
    with pytest.raises(Refused, match="Toll cannot be removed: 2 cells of road are Toll"):
        road_classes.remove_class(plan, 1)
    do(plan, edits.put_signs(plan, [Cell(1, 0)], [Sign.EAST]))
    do(plan, edits.erase_road(plan, [Cell(0, 0), Cell(3, 0), Cell(4, 0)]))
    do(plan, road_classes.remove_class(plan, 0))
    assert [class_of(int(byte)) for byte in plan.road[0]] == [-1, 0, 0, -1, -1]
    assert sign_of(int(plan.road[0, 1])) is Sign.EAST
    with pytest.raises(Refused, match="at least one road class"):
        road_classes.remove_class(plan, 0)


@given(plans(largest=8), st.booleans())
def test_signs_turn_with_a_block(plan: Plan, mirror: bool) -> None:
    box = plan.spec.box
    if not plan.road.any():
        return
    block = blocks.copied(plan, [], box)
    turned = block.mirrored(plan.kinds) if mirror else block.turned(plan.kinds)
    ways = {(way.col, way.row): way.byte for way in block.roads}
    for way in turned.roads:
        # Where the cell was before.
        col, row = (
            (block.cols - 1 - way.col, way.row) if mirror else (way.row, block.rows - 1 - way.col)
        )
        was, now = sign_of(ways[col, row]), sign_of(way.byte)
        assert class_of(ways[col, row]) == class_of(way.byte)
        if was in (Sign.NONE, Sign.CLOSED, Sign.CROSSING):
            assert now is was
        elif mirror:
            across = {Sign.EAST: Sign.WEST, Sign.WEST: Sign.EAST}
            assert now is across.get(was, was)
        else:
            assert now == was % 4 + 1


def test_joining_the_nearest_piece_takes_the_fewest_cells() -> None:
    plan = draw("==....==\n........\n==......")
    edit = edits.join_nearest(plan, Cell(0, 0))
    history = History(plan)
    history.do(edit)
    assert plan.road.sum() == 7
    assert history.entries == ["Joined the road at 0, 0 with 1 cell"]
    with pytest.raises(Refused, match="No other road can be reached from 3, 1"):
        edits.join_nearest(plan, Cell(3, 1))
    with pytest.raises(Refused, match="from 90, 1"):
        edits.join_nearest(plan, Cell(90, 1))
