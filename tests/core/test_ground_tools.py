"""The edits of Ground: coats, fills, heights, obstacles, classes, the window, another grid."""

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.builders import draw
from tests.helpers.depth import examples
from tests.helpers.state import assert_derived_is_current, recorded
from tests.helpers.strategies import plans
from woven_locus.core.editing import Edit, History
from woven_locus.core.edits import ground, heights, obstacles, terrain_classes
from woven_locus.core.edits.ground import Coat
from woven_locus.core.edits.heights import Sculpt
from woven_locus.core.errors import BadPlan, OutsideGrid, Refused
from woven_locus.core.geometry import Box, Cell, Slot
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import TerrainClass
from woven_locus.core.lines import Brush
from woven_locus.core.placing import Reason, judge
from woven_locus.core.plan import Plan
from woven_locus.core.strokes.ground import (
    BoxStroke,
    BrushLineStroke,
    ClearStroke,
    ProfileStroke,
    SculptStroke,
)
from woven_locus.core.value import replace

BOG = Coat("terrain", 2)


def done(plan: Plan, edit: Edit) -> History:
    history = History(plan)
    history.do(edit)
    return history


def both_ways(plan: Plan, edit: Edit) -> None:
    """Do, undo and redo leave exactly what they should, derived state too."""
    before = recorded(plan)
    history = done(plan, edit)
    after = recorded(plan)
    assert_derived_is_current(plan)
    if edit.changes:
        history.undo()
        assert recorded(plan) == before
        assert_derived_is_current(plan)
        history.redo()
    assert recorded(plan) == after
    assert_derived_is_current(plan)


# --- coats ---------------------------------------------------------------------------------------


def test_a_fill_takes_the_piece_that_hangs_together_by_edges() -> None:
    plan = draw("..b.\n.b..\n....\nbb..")
    edit = ground.fill(plan, Cell(0, 0), Coat("terrain", 3))
    assert edit.label == "Filled 12 cells with Stream"
    both_ways(plan, edit)
    assert plan.terrain.tolist() == [[3, 3, 2, 3], [3, 2, 3, 3], [3, 3, 3, 3], [2, 2, 3, 3]]
    diagonal = draw(".b\nb.")
    done(diagonal, ground.fill(diagonal, Cell(0, 0), BOG))
    assert diagonal.terrain.tolist() == [[2, 2], [2, 0]]
    with pytest.raises(OutsideGrid):
        ground.fill(plan, Cell(9, 9), BOG)


@given(plans(), st.integers(0, 5), st.integers(0, 10**6))
def test_a_fill_agrees_with_a_walk_from_cell_to_cell(plan: Plan, code: int, at: int) -> None:
    cell = plan.spec.cell_at_index(at % (plan.spec.cols * plan.spec.rows))
    start = plan.spec.slot(cell)
    wanted, todo = {start}, [start]
    while todo:
        row, col = todo.pop()
        for r, c in ((row - 1, col), (row + 1, col), (row, col - 1), (row, col + 1)):
            near = Slot(r, c)
            inside = 0 <= r < plan.spec.rows and 0 <= c < plan.spec.cols
            if inside and near not in wanted and plan.terrain[near] == plan.terrain[start]:
                wanted.add(near)
                todo.append(near)
    expected = plan.terrain.copy()
    for slot in wanted:
        expected[slot] = code
    done(plan, ground.fill(plan, cell, Coat("terrain", code)))
    npt.assert_array_equal(plan.terrain, expected)


def test_replacing_takes_all_of_it_everywhere() -> None:
    plan = draw(".b.b\nrr..")
    edit = ground.replace_all(plan, Cell(1, 0), Coat("terrain", 4))
    assert edit.label == "Replaced Bog by Scree, 2 cells"
    both_ways(plan, edit)
    assert plan.terrain[0].tolist() == [0, 4, 0, 4]
    both_ways(plan, ground.replace_all(plan, Cell(0, 1), Coat("reserved", 0)))
    assert not plan.reserved.any()


def test_reserved_ground_bars_building_but_not_walking() -> None:
    plan = draw("....\n....")
    both_ways(plan, ground.paint_box(plan, Box(0, 0, 1, 2), Coat("reserved", 1)))
    verdict = judge(plan, plan.kinds["hut"], Cell(0, 0))
    assert verdict.reasons == (Reason.RESERVED,)
    assert (plan.movement == 1).all()


@settings(max_examples=examples(30))
@given(plans(), st.integers(1, 9), st.booleans(), st.integers(-3, 12), st.integers(-3, 12))
def test_shapes_cover_what_they_paint_and_stop_at_the_edge(
    plan: Plan, size: int, round_: bool, col: int, row: int
) -> None:
    history = History(plan)
    first = plan.spec.first
    for stroke in (
        BrushLineStroke(plan, history, BOG, Brush(size, round_)),
        BoxStroke(plan, history, Coat("reserved", 1)),
    ):
        before = recorded(plan)
        stroke.start(first)
        stroke.to(first.moved(col, row))
        assert recorded(plan) == before
        box, mask = stroke.cover()
        stroke.finish()
        inside = box.clipped(plan.spec.shape)
        part = mask[
            inside.r0 - box.r0 : inside.r1 - box.r0, inside.c0 - box.c0 : inside.c1 - box.c0
        ]
        layer = plan.terrain if stroke.coat.layer == "terrain" else plan.reserved
        assert (layer[inside.slices][part] == stroke.coat.code).all()
    assert_derived_is_current(plan)


def test_a_held_line_keeps_to_an_axis_and_a_held_rectangle_is_square() -> None:
    plan = draw("\n".join(["......"] * 6))
    line = BrushLineStroke(plan, History(plan), BOG, Brush(1))
    line.start(Cell(1, 1))
    line.to(Cell(4, 2), held=True)
    assert line.ends == (Cell(1, 1), Cell(4, 1))
    box = BoxStroke(plan, History(plan), BOG)
    box.start(Cell(5, 5))
    box.to(Cell(3, 4), held=True)
    assert box.box == Box(3, 3, 6, 6)
    box.cancel()
    assert box.box == Box(5, 5, 6, 6)
    profile = ProfileStroke(plan, History(plan))
    profile.start(Cell(0, 0))
    profile.to(Cell(5, 1), held=True)
    profile.finish()
    assert profile.ends == (Cell(0, 0), Cell(5, 0))
    assert not profile.history.entries


# --- heights ---------------------------------------------------------------------------------------


def with_heights(text: str = "....\n....\n....") -> Plan:
    plan = draw(text)
    values = np.arange(plan.terrain.size, dtype=np.float32).reshape(plan.spec.shape)
    values[0, 3] = np.nan
    plan.heights = values
    return plan


def test_sculpting_raises_lowers_levels_and_smooths() -> None:
    plan = with_heights()
    box, mask = Box(-1, 1, 2, 5), np.ones((3, 4), bool)
    both_ways(plan, heights.sculpt(plan, Sculpt.RAISE, box, mask, 2.5))
    npt.assert_array_equal(plan.heights[0], [0, 3.5, 4.5, np.nan])
    both_ways(plan, heights.sculpt(plan, Sculpt.LEVEL, box, mask, 7))
    npt.assert_array_equal(plan.heights[:2], [[0, 7, 7, 7], [4, 7, 7, 7]])
    both_ways(plan, heights.sculpt(plan, Sculpt.SMOOTH, Box(0, 0, 1, 1), mask[:1, :1], 0))
    assert plan.heights[0, 0] == pytest.approx((0 + 7 + 4 + 7) / 4)
    flat = draw("..")
    with pytest.raises(Refused, match="no heights"):
        heights.sculpt(flat, Sculpt.RAISE, box, mask, 1)


def test_a_stroke_changes_each_cell_once_however_often_it_passes() -> None:
    plan = draw(".....")
    history = History(plan)
    stroke = SculptStroke(plan, history, Sculpt.RAISE, 3, Brush(1))
    stroke.start(Cell(0, 0))
    for cell in (Cell(3, 0), Cell(0, 0), Cell(4, 0)):
        stroke.to(cell)
    stroke.finish()
    assert plan.heights is not None
    assert plan.heights.tolist() == [[3, 3, 3, 3, 3]]
    history.undo()
    assert plan.heights is None


def test_levelling_takes_the_height_at_the_press() -> None:
    plan = with_heights()
    stroke = SculptStroke(plan, History(plan), Sculpt.LEVEL, 99, Brush(1))
    stroke.start(Cell(1, 1))
    stroke.to(Cell(3, 1))
    stroke.finish()
    assert plan.heights is not None
    assert plan.heights[1].tolist() == [4, 5, 5, 5]


def test_great_heights_are_raised_like_any_other() -> None:
    plan = draw("..")
    plan.heights = np.array([[2e6, -3e9]], np.float32)
    done(plan, heights.sculpt(plan, Sculpt.RAISE, Box(0, 0, 1, 2), np.ones((1, 2), bool), 4))
    assert plan.heights.tolist() == [[2000004, -3e9]]
    for _ in range(3):
        edit = heights.sculpt(plan, Sculpt.RAISE, Box(0, 0, 1, 1), np.ones((1, 1), bool), 3e38)
        done(plan, edit)
    assert np.isfinite(plan.heights).all()


def test_heights_that_make_no_sense_are_refused() -> None:
    plan = draw("..\n..")
    with pytest.raises(BadPlan, match="layer is"):
        heights.set_heights(plan, np.zeros((3, 3), np.float32), "x")
    bad = np.zeros((2, 2), np.float32)
    bad[1, 0] = np.inf
    with pytest.raises(BadPlan, match="row 1, column 0 is infinite"):
        heights.set_heights(plan, bad, "x")


# --- obstacles --------------------------------------------------------------------------------------


def test_an_obstacle_stands_on_any_ground_but_not_on_what_is_there() -> None:
    plan = draw("k=..\nr...")
    both_ways(
        plan, obstacles.place_obstacle(plan, "Old stone", "boulder", [Cell(0, 0), Cell(0, 1)])
    )
    assert judge(plan, plan.kinds["hut"], Cell(0, 1)).names_for(Reason.OBSTACLE) == "Old stone"
    with pytest.raises(Refused, match="a road runs there"):
        obstacles.place_obstacle(plan, "Tree", "rowan", [Cell(1, 0)])
    with pytest.raises(Refused, match="Old stone in the way"):
        obstacles.place_obstacle(plan, "Tree", "rowan", [Cell(0, 1)])
    with pytest.raises(Refused, match="outside"):
        obstacles.place_obstacle(plan, "Tree", "rowan", [Cell(9, 9)])
    with pytest.raises(Refused, match="needs a name"):
        obstacles.place_obstacle(plan, " ", "rowan", [Cell(3, 0)])
    both_ways(plan, obstacles.clear_obstacles(plan, [1, 99]))
    assert not plan.obstacles


def test_clearing_by_rectangle_takes_those_that_reach_into_it() -> None:
    plan = draw("o..o\n....\n..o.")
    history = History(plan)
    stroke = ClearStroke(plan, history)
    stroke.start(Cell(0, 0))
    stroke.to(Cell(2, 2))
    stroke.finish()
    assert list(plan.obstacles) == [2]
    assert history.entries == ["Cleared 2 obstacles"]
    history.undo()
    assert list(plan.obstacles) == [1, 2, 3]


@settings(max_examples=examples(40))
@given(plans(), st.integers(0, 99), st.floats(0.05, 1), st.integers(1, 3), st.integers(1, 2))
def test_scattered_obstacles_keep_to_their_ground_and_apart(
    plan: Plan, seed: int, density: float, cols: int, rows: int
) -> None:
    def ask() -> Edit:
        return obstacles.scatter(plan, "Thorn", "rowan", [0, 3], density, seed, (cols, rows))

    edit = ask()
    assert edit == ask()
    free = np.isin(plan.terrain, (0, 3)) & (plan.occupant == 0) & (plan.road == 0)
    free &= plan.reserved == 0
    taken: set[Cell] = set()
    for item in edit.changes[0].come if edit.changes else ():  # type: ignore[union-attr]
        cells = item.cells
        assert len(cells) == cols * rows
        assert not taken & set(cells)
        taken |= set(cells)
        assert all(free[plan.spec.slot(cell)] for cell in cells)
    both_ways(plan, edit)


def test_a_scatter_is_dense_as_asked_and_never_too_many() -> None:
    plan = draw("\n".join(["." * 60] * 60))
    edit = obstacles.scatter(plan, "Stone", "boulder", [0], 0.25, 1)
    assert 780 < len(edit.changes[0].come) < 1020  # type: ignore[union-attr]
    with pytest.raises(Refused, match="share above 0"):
        obstacles.scatter(plan, "Stone", "boulder", [0], 0, 1)
    large = Plan("x", GridSpec(400, 400), plan.terrain_table)
    with pytest.raises(Refused, match="about 80,000 obstacles; the most at once is 20,000"):
        obstacles.scatter(large, "Stone", "boulder", [0], 0.5, 1)


# --- classes -----------------------------------------------------------------------------------------


def test_a_class_can_be_added_changed_and_removed() -> None:
    plan = draw(".b.\n.k.")
    key = terrain_classes.fresh_key(plan.terrain_table, "Meadow")
    mark = terrain_classes.fresh_mark(plan.terrain_table, "Meadow")
    assert (key, mark) == ("meadow-2", "e")
    sand = TerrainClass(key, "Sand", mark, True, True, 1.5, "#DDCC99", "stipple")
    both_ways(plan, terrain_classes.add_class(plan, sand))
    assert plan.terrain_table[6] == sand
    dry = replace(plan.terrain_table[2], name="Dry bog", buildable=True, cost=1.0)
    edit = terrain_classes.change_class(plan, 2, dry)
    assert edit.label == "Renamed Bog to Dry bog"
    both_ways(plan, edit)
    assert judge(plan, plan.kinds["hut"], Cell(1, 0))
    both_ways(plan, terrain_classes.remove_class(plan, 6))
    with pytest.raises(Refused, match="1 cells are Dry bog; merge it"):
        terrain_classes.remove_class(plan, 2)
    assert not terrain_classes.change_class(plan, 2, dry).changes


def test_removing_and_merging_keep_every_other_cell_its_class() -> None:
    plan = draw(".bs\nckb")
    both_ways(plan, terrain_classes.merge_class(plan, 2, 5))
    names = [[plan.terrain_table[c].name for c in row] for row in plan.terrain.tolist()]
    assert names == [["Meadow", "Cliff", "Stream"], ["Scree", "Cliff", "Cliff"]]
    with pytest.raises(Refused, match="into itself"):
        terrain_classes.merge_class(plan, 1, 1)
    both_ways(plan, terrain_classes.remove_class(plan, 1))
    again = [[plan.terrain_table[c].name for c in row] for row in plan.terrain.tolist()]
    assert again == names


@given(plans(), st.data())
def test_merging_is_what_it_says_on_any_plan(plan: Plan, data: st.DataObject) -> None:
    count = len(plan.terrain_table)
    code = data.draw(st.integers(0, count - 1))
    into = data.draw(st.integers(0, count - 1).filter(lambda k: k != code))
    table = list(plan.terrain_table)
    wanted = [table[into if c == code else c].key for c in plan.terrain.ravel().tolist()]
    both_ways(plan, terrain_classes.merge_class(plan, code, into))
    assert [plan.terrain_table[c].key for c in plan.terrain.ravel().tolist()] == wanted
    assert (
        terrain_classes.usage(plan)
        == np.bincount(plan.terrain.ravel(), minlength=count - 1).tolist()
    )


# --- the window ---------------------------------------------------------------------------------------


# --- another grid -------------------------------------------------------------------------------------
