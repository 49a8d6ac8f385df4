"""Drawing, laying, snapping ends, pushing, splitting and signing roads."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from tests.helpers.state import assert_derived_is_current, recorded
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.edits.pushing import judge_push, push_edit, run_at
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.ground import TerrainTable
from woven_locus.core.placing import judge_barrier, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.routing.laying import Weights, lay_line
from woven_locus.core.strokes.ends import caught
from woven_locus.core.strokes.ways import (
    BarrierStroke,
    Course,
    Drawing,
    EraseBlockStroke,
    PushStroke,
    RoadStroke,
    SignStroke,
    elbow,
)
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import Sign, class_of, sign_of


def shown(plan: Plan) -> list[str]:
    return ["".join("=" if byte else "." for byte in row) for row in plan.road]


def drawn(plan: Plan, drawing: Drawing, *cells: tuple[int, int], held: bool = False) -> RoadStroke:
    stroke = RoadStroke(plan, History(plan), drawing)
    stroke.start(Cell(*cells[0]))
    for cell in cells[1:]:
        stroke.to(Cell(*cell), held)
    return stroke


@pytest.mark.parametrize(
    ("drawing", "rows"),
    [
        (Drawing(Course.ELBOW), ["====", "...=", "...="]),
        (Drawing(Course.ELBOW, rows_first=True), ["=...", "=...", "===="]),
        (Drawing(Course.STRAIGHT), ["====", "....", "...."]),
        (Drawing(Course.DIAGONAL), ["==..", ".==.", "..=="]),
        (Drawing(Course.FREE), ["=...", "=...", "===="]),
        (Drawing(Course.LAID, weights=Weights(turns=1)), None),
    ],
)
def test_each_course_runs_from_start_to_end(drawing: Drawing, rows: list[str] | None) -> None:
    plan = draw("....\n....\n....")
    stroke = drawn(plan, drawing, (0, 0), (0, 2), (3, 2))
    before = recorded(plan)
    assert stroke.verdict
    assert recorded(plan) == before  # nothing is laid before it is let go
    stroke.finish()
    assert shown(plan) == rows if rows else sum(row.count("=") for row in shown(plan)) == 6
    if drawing.course is Course.LAID:
        assert plan.road[0].all() or plan.road[:, 0].all()  # one turn, since turns cost


@given(st.integers(-9, 9), st.integers(-9, 9), st.booleans())
def test_an_elbow_turns_once_and_is_as_short_as_can_be(col: int, row: int, first: bool) -> None:
    cells = elbow(Cell(0, 0), Cell(col, row), first)
    assert cells[0] == (0, 0)
    assert cells[-1] == (col, row)
    assert len(cells) == len(set(cells)) == abs(col) + abs(row) + 1
    steps = [(b.col - a.col, b.row - a.row) for a, b in pairwise(cells)]
    assert all(abs(c) + abs(r) == 1 for c, r in steps)
    assert sum(a != b for a, b in pairwise(steps)) <= 1


def test_ends_snap_to_road_and_doors_within_reach() -> None:
    plan = draw("......\n......\n......\n=.....\n......\n......")
    barn = put(plan, "barn", 2, 0)  # its door opens to 3, 2
    assert caught(plan, Cell(1, 4), 2) == (Cell(0, 3), "road at 0, 3")
    assert caught(plan, Cell(1, 4), 1) == (Cell(1, 4), "")
    assert caught(plan, Cell(4, 3), 2) == (Cell(3, 2), "the door of S1 Barn")
    assert caught(plan, Cell(4, 3), 0).to == ""
    assert caught(plan, Cell(99, 3), 5) == (Cell(99, 3), "")
    stroke = drawn(plan, Drawing(reach=1), (1, 3), (3, 3))
    assert stroke.first is not None
    assert stroke.last is not None
    assert (stroke.first.to, stroke.last.to) == ("road at 0, 3", f"the door of S{barn} Barn")
    stroke.finish()
    assert shown(plan)[2:4] == ["...=..", "====.."]
    # A straight line stays straight, whatever is near.
    straight = drawn(plan, Drawing(Course.STRAIGHT, reach=2), (5, 5), (1, 5))
    assert straight.cells[-1].row == 5


@pytest.mark.parametrize("course", list(Course))
def test_a_press_alone_lays_the_cell_that_was_pressed(course: Course) -> None:
    plan = draw("===...\n......")
    stroke = drawn(plan, Drawing(course, reach=1), (3, 0))
    stroke.finish()
    assert shown(plan) == ["====..", "......"]


def test_a_line_laid_by_a_star_minds_terrain_turns_road_and_slope() -> None:
    bog = draw("ccccc\n.ccc.\n.....")
    assert all(cell.row == 2 for cell in lay_line(bog, [Cell(0, 2), Cell(4, 2)], Weights()))
    over = lay_line(bog, [Cell(0, 1), Cell(4, 1)], Weights(terrain=0, turns=0.5))
    around = lay_line(bog, [Cell(0, 1), Cell(4, 1)], Weights(terrain=4, turns=0.1))
    assert (len(over), len(around)) == (5, 7)
    lane = draw("=====\n.....\n.....")
    reused = lay_line(lane, [Cell(0, 1), Cell(4, 1)], Weights(turns=0.1, reuse=0.9))
    assert sum(cell.row == 0 for cell in reused) == 5
    assert len(lay_line(lane, [Cell(0, 1), Cell(4, 1)], Weights(reuse=0))) == 5
    hill = draw("....\n....\n....")
    hill.heights = np.zeros((3, 4), np.float32)
    hill.heights[1, 1:3] = 5
    assert len(lay_line(hill, [Cell(0, 1), Cell(3, 1)], Weights(slope=0))) == 4
    assert len(lay_line(hill, [Cell(0, 1), Cell(3, 1)], Weights(slope=1))) == 6
    hill.heights[0, 0] = np.nan
    assert lay_line(hill, [Cell(0, 1), Cell(3, 1)], Weights(slope=1))


@given(st.integers(0, 10_000))
def test_a_laid_line_is_no_dearer_than_any_other(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = draw("\n".join("".join(row) for row in rng.choice(list("...bk="), (5, 5))))
    a, b = (Cell(int(rng.integers(5)), int(rng.integers(5))) for _ in range(2))
    weights = Weights(terrain=1, slope=0, turns=0, reuse=0.5)
    line = lay_line(plan, [a, b], weights)

    def cost(cell: Cell) -> float:
        slot = plan.spec.slot(cell)
        if not judge_road(plan, [cell]):
            return np.inf
        factor = max(1.0, plan.terrain_table[int(plan.terrain[slot])].cost)
        return factor * (0.5 if plan.road[slot] else 1.0)

    best = {a: 0.0} if np.isfinite(cost(a)) else {}
    for _ in range(25):  # Bellman and Ford, the plain way
        for cell, so_far in list(best.items()):
            for c, r in ((0, 1), (1, 0), (0, -1), (-1, 0)):
                to = cell.moved(c, r)
                if plan.spec.contains(to) and so_far + cost(to) < best.get(to, np.inf):
                    best[to] = so_far + cost(to)
    if b not in best:
        assert line == []
    else:
        assert sum(map(cost, line[1:])) == pytest.approx(best[b])
        assert (line[0], line[-1]) == (a, b)


def test_a_laid_line_is_bent_by_via_points_and_says_when_it_is_lost() -> None:
    plan = draw("\n".join(["......."] * 5))
    stroke = drawn(plan, Drawing(Course.LAID, reach=0), (0, 2), (6, 2))
    assert {cell.row for cell in stroke.cells} == {2}
    stroke.bend(0, Cell(3, 0))
    assert Cell(3, 0) in stroke.cells
    stroke.bend(0, Cell(3, 4))
    assert Cell(3, 4) in stroke.cells
    assert Cell(3, 0) not in stroke.cells
    stroke.bend(1, Cell(1, 1))
    assert stroke.vias == [Cell(1, 1), Cell(3, 4)]
    walled = draw("..k..\n..k..")
    lost = drawn(walled, Drawing(Course.LAID, reach=0), (0, 0), (4, 0))
    assert lost.lost
    lost.finish()
    assert not walled.road.any()
    assert lay_line(plan, [Cell(0, 0), Cell(70, 0)], Weights()) == []


def test_a_road_class_is_laid_over_another_and_keeps_signs_of_its_own() -> None:
    from tests.helpers.strategies import ROADS

    plan = draw("=====")
    plan.road_table = ROADS
    history = History(plan)
    history.do(edits.put_signs(plan, [Cell(1, 0), Cell(3, 0)], [Sign.EAST, Sign.CLOSED]))
    history.do(edits.lay_road(plan, [Cell(k, 0) for k in range(3)], 1))
    assert [class_of(int(b)) for b in plan.road[0]] == [1, 1, 1, 0, 0]
    history.do(edits.lay_road(plan, [Cell(k, 0) for k in range(5)], 0))
    assert [sign_of(int(b)) for b in plan.road[0]] == [0, 0, 0, Sign.CLOSED, 0]


def test_a_bridge_crosses_only_what_allows_it() -> None:
    plan = draw(".s.")
    assert not judge_road(plan, [Cell(1, 0)])
    table = [replace(item, bridge=item.key == "stream") for item in plan.terrain_table]
    plan.terrain_table = TerrainTable(table)
    History(plan).do(edits.lay_road(plan, [Cell(k, 0) for k in range(3)]))
    assert plan.road.all()
    assert not judge_barrier(plan, [Cell(1, 0)])
    assert_derived_is_current(plan)


PUSHES = [
    # A bend at one end, a branch at the other; pushed down, the bend's leg is taken in.
    (".=....\n.====.\n.=..=.\n.=..=.\n......", (2, 1), 1, ".=....\n.=....\n.====.\n.=..=.\n......"),
    # Pushed up, it drags its joints along.
    (
        "......\n......\n.====.\n.=..=.\n.=..=.",
        (2, 2),
        -2,
        ".====.\n.=..=.\n.=..=.\n.=..=.\n.=..=.",
    ),
    # Loose ends just move.
    ("....\n===.\n....", (1, 1), 1, "....\n....\n===."),
    # A crossing stays for what runs through it.
    ("..=...\n..=...\n..====\n..=...", (4, 2), -1, "..=...\n..====\n..=...\n..=..."),
    # Upright runs go sideways.
    (".=..\n.=..\n.=..", (1, 1), 2, "...=\n...=\n...="),
]


@pytest.mark.parametrize(("before", "cell", "by", "after"), PUSHES)
def test_a_run_is_pushed_and_drags_its_joints(
    before: str, cell: tuple[int, int], by: int, after: str
) -> None:
    plan = draw(before)
    history = History(plan)
    start = recorded(plan)
    run = run_at(plan, Cell(*cell))
    assert run is not None
    history.do(push_edit(plan, judge_push(plan, run, by)))
    assert shown(plan) == after.split("\n")
    assert_derived_is_current(plan)
    history.undo()
    assert recorded(plan) == start


def test_a_pushed_run_keeps_its_signs_and_its_joints_have_none() -> None:
    plan = draw("=....\n=====\n....=\n.....")
    history = History(plan)
    signed = [Cell(col, 1) for col in range(1, 4)]
    history.do(edits.put_signs(plan, [*signed, Cell(0, 1)], [Sign.EAST] * 4))
    run = run_at(plan, Cell(2, 1))
    assert run is not None
    history.do(push_edit(plan, judge_push(plan, run, 2)))
    assert [sign_of(int(byte)) for byte in plan.road[3]] == [Sign.EAST] * 4 + [Sign.NONE]
    assert not (plan.road[:3, 0] >> 5).any()


def test_a_push_is_refused_whole_where_something_stands() -> None:
    plan = draw("....\n====\n....\n..k.")
    history = History(plan)
    stroke = PushStroke(plan, history)
    stroke.start(Cell(1, 1))
    stroke.to(Cell(1, 3))
    assert stroke.push is not None
    assert not stroke.push
    with pytest.raises(Refused, match="The road cannot go there: Cliff"):
        stroke.finish()
    assert shown(plan)[1] == "===="
    stroke.to(Cell(1, 2))
    stroke.finish()
    assert history.entries == ["Pushed road of 4 cells at 0, 1 by 1 cell"]
    empty = PushStroke(plan, history)
    empty.start(Cell(0, 0))
    empty.to(Cell(0, 2))
    empty.finish()
    assert len(history.entries) == 1
    assert run_at(draw("=."), Cell(0, 0)) is None


@given(st.integers(0, 10_000))
def test_a_push_never_parts_what_was_joined(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = draw("\n".join("".join(row) for row in rng.choice([".", "="], (7, 7), p=[0.6, 0.4])))
    cells = [plan.spec.cell_of_slot(slot) for slot in np.argwhere(plan.road).tolist()]
    if not cells:
        return
    run = run_at(plan, cells[int(rng.integers(len(cells)))])
    if run is None:
        return
    groups = {plan.network.group_at(plan.spec.index(cell)) for cell in run.cells}
    assert len(groups) == 1
    before = {cell for cell in cells if plan.network.group_at(plan.spec.index(cell)) in groups}
    push = judge_push(plan, run, int(rng.integers(-3, 4)))
    if not push:
        return
    history = History(plan)
    history.do(push_edit(plan, push))
    left = [cell for cell in before if plan.road[plan.spec.slot(cell)]]
    moved = [cell for cell, code in push.values.items() if code]
    after = {plan.network.group_at(plan.spec.index(cell)) for cell in (*left, *moved)}
    assert len(after) <= 1
    assert_derived_is_current(plan)


def test_roads_are_signed_along_the_drag_but_for_junctions_and_ends() -> None:
    plan = draw("..=..\n=====\n.....")
    history = History(plan)
    stroke = SignStroke(plan, history, Sign.NORTH)
    stroke.start(Cell(0, 1))
    stroke.to(Cell(4, 1))
    stroke.finish()
    assert [sign_of(int(b)) for b in plan.road[1]] == [0, Sign.EAST, 0, Sign.EAST, 0]
    assert history.entries == ["Made one-way 2 cells of road"]
    shut = SignStroke(plan, history, Sign.CLOSED)
    shut.start(Cell(2, 0))
    shut.finish()
    assert sign_of(int(plan.road[0, 2])) is Sign.CLOSED
    again = SignStroke(plan, history, Sign.NONE)
    again.start(Cell(0, 1))
    again.to(Cell(4, 1))
    again.finish()
    assert not (plan.road[1] >> 5).any()
    assert history.entries[1:] == ["Closed 1 cell of road", "Opened 5 cells of road"]


def test_a_drag_that_crosses_itself_signs_each_cell_as_it_was_last_passed() -> None:
    plan = draw("======")
    stroke = SignStroke(plan, History(plan), Sign.NORTH)
    stroke.start(Cell(1, 0))
    for col in (4, 1, 3):
        stroke.to(Cell(col, 0))
    assert dict(stroke.signs()) == {
        Cell(1, 0): Sign.EAST,
        Cell(2, 0): Sign.EAST,
        Cell(3, 0): Sign.EAST,
        Cell(4, 0): Sign.WEST,
    }
    stroke.to(Cell(3, 0), held=True)
    assert dict(stroke.signs())[Cell(2, 0)] is Sign.EAST


def test_a_rectangle_of_road_and_barrier_is_erased_and_a_road_is_split() -> None:
    plan = draw("=====\n=...=\n=====")
    history = History(plan)
    barrier = BarrierStroke(plan, history, Drawing(Course.STRAIGHT, reach=0))
    barrier.start(Cell(1, 1))
    barrier.to(Cell(3, 1))
    barrier.finish()
    stroke = EraseBlockStroke(plan, history)
    stroke.start(Cell(5, 5))
    stroke.to(Cell(2, 1))
    assert plan.road.sum() == 12
    stroke.finish()
    assert shown(plan) == ["=====", "=....", "==..."]
    assert history.entries[-1] == "Erased 6 cells of road and barrier"
    history.do(edits.split(plan, Cell(2, 0)))
    assert plan.network.group_at(0) != plan.network.group_at(4)
    with pytest.raises(Refused, match="no road or barrier to split at 3, 2"):
        edits.split(plan, Cell(3, 2))
