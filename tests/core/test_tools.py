from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import WHEN, draw
from tests.helpers.state import recorded
from woven_locus.core.editing import History
from woven_locus.core.edits.ground import Coat
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.lines import Brush, held_to_axis, staircase, swept
from woven_locus.core.strokes.base import PlaceStroke
from woven_locus.core.strokes.ground import PaintStroke
from woven_locus.core.strokes.ways import EraseRoadStroke, RoadStroke

cells = st.builds(Cell, st.integers(-40, 40), st.integers(-40, 40))


@given(cells, cells)
def test_a_staircase_joins_edge_to_edge_by_the_shortest_way(a: Cell, b: Cell) -> None:
    run = staircase(a, b)
    assert (run[0], run[-1]) == (a, b)
    assert len(run) == 1 + abs(a.col - b.col) + abs(a.row - b.row)
    for one, two in pairwise(run):
        assert abs(one.col - two.col) + abs(one.row - two.row) == 1


@given(cells, cells)
def test_a_staircase_stays_within_a_cell_of_the_line(a: Cell, b: Cell) -> None:
    cols, rows = b.col - a.col, b.row - a.row
    length = (cols**2 + rows**2) ** 0.5
    for cell in staircase(a, b):
        off = abs((cell.col - a.col) * rows - (cell.row - a.row) * cols)
        assert length == 0 or off / length <= 1


@given(cells, cells)
def test_held_to_an_axis_keeps_the_longer_side(a: Cell, b: Cell) -> None:
    end = held_to_axis(a, b)
    assert end.col == a.col or end.row == a.row
    assert abs(end.col - a.col) + abs(end.row - a.row) == max(
        abs(b.col - a.col), abs(b.row - a.row)
    )


@given(cells, st.integers(1, 64), st.booleans())
def test_a_brush_lies_around_its_cell(middle: Cell, size: int, round_: bool) -> None:
    brush = Brush(size, round_)
    box, mask = swept([Slot(middle.row, middle.col)], brush)
    assert box.shape == mask.shape == (size, size)
    assert mask[middle.row - box.r0, middle.col - box.c0]
    assert (mask == mask[::-1]).all()
    assert (mask == mask.T).all()
    assert mask.all() or round_
    assert mask.sum() >= 0.7 * size * size


def test_a_paint_stroke_fills_the_way_between_two_moves() -> None:
    plan = draw("......\n......")
    history = History(plan)
    stroke = PaintStroke(plan, history, Coat("terrain", plan.terrain_table.code("bog")), Brush(1))
    stroke.start(Cell(0, 0))
    stroke.to(Cell(4, 0))
    stroke.finish()
    assert plan.terrain[0].tolist() == [2, 2, 2, 2, 2, 0]
    assert history.entries == ["Painted Bog"]


def test_a_cancelled_stroke_leaves_no_trace() -> None:
    plan = draw("======")
    before = recorded(plan)
    history = History(plan)
    stroke = EraseRoadStroke(plan, history)
    stroke.start(Cell(0, 0))
    stroke.to(Cell(3, 0))
    assert plan.road.sum() == 2
    stroke.cancel()
    assert recorded(plan) == before
    assert history.entries == []


def test_road_is_proposed_and_judged_before_it_is_laid() -> None:
    plan = draw("...s.")
    history = History(plan)
    stroke = RoadStroke(plan, history)
    stroke.start(Cell(0, 0))
    stroke.to(Cell(4, 0))
    assert [c.ok for c in stroke.verdict.cells] == [True, True, True, False, True]
    assert plan.road.sum() == 0
    stroke.finish()
    assert plan.road.tolist() == [[1, 1, 1, 0, 1]]
    assert (stroke.refused, history.entries) == (1, ["Laid road of 4 cells"])


def test_a_held_road_stroke_is_straight_and_can_be_let_loose_again() -> None:
    plan = draw("....\n....\n....")
    stroke = RoadStroke(plan, History(plan))
    stroke.start(Cell(0, 0))
    stroke.to(Cell(3, 1), held=True)
    assert stroke.cells == [Cell(0, 0), Cell(1, 0), Cell(2, 0), Cell(3, 0)]
    stroke.to(Cell(1, 2), held=True)
    assert stroke.cells == [Cell(0, 0), Cell(0, 1), Cell(0, 2)]
    stroke.to(Cell(1, 0))
    assert stroke.cells == [Cell(0, 0), Cell(1, 0)]


def test_dragging_a_kind_places_each_next_free_spot_once() -> None:
    plan = draw("..........\n..........")
    history = History(plan)
    stroke = PlaceStroke(plan, history, "barn", 0, WHEN)
    stroke.start(Cell(0, 0))
    for col in range(8):
        stroke.to(Cell(col, 0))
    stroke.finish()
    assert [tuple(row.cell) for row in plan.register] == [(0, 0), (3, 0), (6, 0)]
    assert history.entries == ["Placed 3 Barn"]
    history.undo()
    assert len(plan.register) == 0


def test_a_press_on_bad_ground_says_why_and_places_nothing() -> None:
    plan = draw("sss\n...")
    history = History(plan)
    stroke = PlaceStroke(plan, history, "barn", 0, WHEN)
    stroke.start(Cell(0, 0))
    stroke.finish()
    assert stroke.first_refusal == "Barn cannot stand at 0, 0: Stream cannot be built on"
    assert history.entries == []
