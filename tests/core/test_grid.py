import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.helpers.strategies import cells_of, grids, places
from woven_locus.core.errors import BadGrid, OutsideGrid
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import GridSpec, Rule, SnapSettings, low_cell, snap, snap_many
from woven_locus.core.grid.snapping import number, working


@given(st.data(), grids())
def test_cell_to_centre_and_back(data: st.DataObject, spec: GridSpec) -> None:
    cell = data.draw(cells_of(spec, beyond=50))
    assert spec.locate_virtual(*spec.centre(cell)) == cell
    assert spec.locate(*spec.centre(cell)) == (cell if spec.contains(cell) else None)


@given(st.data(), grids())
def test_index_and_slot_go_there_and_back(data: st.DataObject, spec: GridSpec) -> None:
    cell = data.draw(cells_of(spec))
    assert spec.cell_at_index(spec.index(cell)) == cell
    assert spec.cell_of_slot(spec.slot(cell)) == cell
    assert 0 <= spec.index(cell) < spec.cols * spec.rows


@given(st.data(), grids())
def test_a_point_lies_in_the_cell_that_it_is_given(data: st.DataObject, spec: GridSpec) -> None:
    wide, tall = spec.extent
    x = spec.origin_x + data.draw(st.floats(-1, 2)) * wide
    y = spec.origin_y + data.draw(st.floats(-1, 2)) * tall
    cell = spec.locate_virtual(x, y)
    low = spec.corner(cell)
    slack = 1e-9 * max(abs(x), abs(y), wide, tall, 1)
    assert low.x - slack <= x <= low.x + spec.cell_w + slack
    assert low.y - slack <= y <= low.y + spec.cell_h + slack


def test_strict_and_virtual_look_ups_differ_outside() -> None:
    spec = GridSpec(4, 3, 10, 5, -20, -5, first_col=-2, first_row=7)
    assert spec.locate(-20, -5) == Cell(-2, 7)
    assert spec.locate(-20.001, -5) is None
    assert spec.locate_virtual(-20.001, -5) == Cell(-3, 7)
    assert spec.locate(19.999, 9.999) == Cell(1, 9)
    assert spec.locate(20, 0) is None
    assert spec.last == Cell(1, 9)
    assert spec.high == Point(20, 10)


def test_a_centred_grid_keeps_its_middle() -> None:
    for cols, rows in ((1, 1), (4, 7), (9, 2)):
        spec = GridSpec(cols, rows, 3, 2, 100, -50, centred=True)
        assert (spec.origin_x + spec.high.x) / 2 == 100
        assert (spec.origin_y + spec.high.y) / 2 == -50


def test_centres_agree_with_centre() -> None:
    spec = GridSpec(5, 4, 3, 7, -1, 2, first_col=10)
    slots = np.array([[0, 0], [3, 4], [1, 2]])
    expected = [tuple(spec.centre(spec.cell_of_slot(slot))) for slot in slots.tolist()]
    np.testing.assert_allclose(spec.centres(slots), expected)


def test_cells_outside_are_refused_where_a_place_in_an_array_is_needed() -> None:
    spec = GridSpec(4, 3)
    with pytest.raises(OutsideGrid, match=r"4, 0 is outside the grid .columns 0 to 3, rows 0 to 2"):
        spec.index(Cell(4, 0))
    with pytest.raises(OutsideGrid):
        spec.cell_at_index(12)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"cols": 0}, "at least one column"),
        ({"cols": 60_000, "rows": 60_000}, "the most is"),
        ({"cell_w": 0}, "width must be a number above 0"),
        ({"cell_h": math.nan}, "height must be a number above 0"),
        ({"anchor_x": math.inf}, "finite"),
        ({"first_col": 2**31}, "too large"),
        ({"anchor_x": 1e17}, "cannot be told apart"),
    ],
)
def test_a_grid_that_cannot_exist_is_refused(changes: dict[str, float], words: str) -> None:
    with pytest.raises(BadGrid, match=words):
        GridSpec(**{"cols": 4, "rows": 3, **changes})  # type: ignore[arg-type]


PLAIN = GridSpec(10, 10, 24, 16)


@pytest.mark.parametrize(
    ("rule", "p", "expected"),
    [
        (Rule.CORNER, (30, 30), (24, 16)),
        (Rule.CORNER, (-0.5, -0.5), (-24, -16)),  # floored, never towards zero
        (Rule.CENTRE, (30, 30), (36, 24)),
        (Rule.CENTRE, (-1, -1), (-12, -8)),
        (Rule.INTERSECTION, (30, 30), (24, 32)),
        (Rule.INTERSECTION, (12, 8), (24, 16)),  # halves go up
        (Rule.INTERSECTION, (-12, -8), (0, 0)),  # towards +infinity, for negatives too
        (Rule.INTERSECTION, (36, 24), (48, 32)),  # not to the even one
    ],
)
def test_rules(rule: Rule, p: tuple[float, float], expected: tuple[float, float]) -> None:
    assert snap(PLAIN, SnapSettings(rule), *p).at == expected


def test_a_step_is_in_world_units_and_each_axis_has_its_own() -> None:
    assert snap(PLAIN, SnapSettings(Rule.CORNER, 5, 7), 23, 23).at == (20, 21)
    assert snap(PLAIN, SnapSettings(Rule.CORNER, None, 7), 47, 23).at == (24, 21)
    with pytest.raises(BadGrid, match="above 0"):
        SnapSettings(Rule.CORNER, -1)


rules = st.sampled_from(Rule)


@given(grids(), rules, places, places)
def test_the_answer_stays_between_its_switch_points(
    spec: GridSpec, rule: Rule, x: float, y: float
) -> None:
    snapped = snap(spec, SnapSettings(rule), x, y)
    assume(snapped.low.x < x < snapped.high.x and snapped.low.y < y < snapped.high.y)
    for share in (0.01, 0.5, 0.99):
        inner = (
            snapped.low.x + share * (snapped.high.x - snapped.low.x),
            snapped.low.y + share * (snapped.high.y - snapped.low.y),
        )
        assert snap(spec, SnapSettings(rule), *inner).at == pytest.approx(snapped.at)
    beyond = snap(spec, SnapSettings(rule), snapped.high.x + spec.cell_w / 100, y)
    assert beyond.at.x > snapped.at.x


@given(grids(), rules, st.lists(st.tuples(places, places), max_size=20))
def test_many_points_snap_as_one_does(
    spec: GridSpec, rule: Rule, points: list[tuple[float, float]]
) -> None:
    settings = SnapSettings(rule)
    array = np.array(points, np.float64).reshape(-1, 2)
    before = array.copy()
    expected = [snap(spec, settings, *point).at for point in points]
    np.testing.assert_array_equal(
        snap_many(spec, settings, array), np.array(expected).reshape(-1, 2)
    )
    np.testing.assert_array_equal(array, before)


def test_many_points_must_be_pairs() -> None:
    with pytest.raises(BadGrid, match="N, 2"):
        snap_many(PLAIN, SnapSettings(), np.zeros(4))


@pytest.mark.parametrize(
    ("size", "p", "expected"),
    [
        ((1, 1), (30, 30), (1, 1)),  # odd: the cell under the pointer is the middle one
        ((3, 3), (30, 30), (0, 0)),
        ((2, 2), (30, 30), (0, 1)),  # even: centred on the nearest intersection
        ((2, 2), (36, 24), (1, 1)),  # half way goes up
        ((2, 1), (-1, -1), (-1, -1)),
    ],
)
def test_a_footprint_is_centred_under_the_pointer(
    size: tuple[int, int], p: tuple[float, float], expected: tuple[int, int]
) -> None:
    assert low_cell(PLAIN, *p, *size) == expected


@given(grids(), places, places, st.integers(1, 9), st.integers(1, 9))
def test_a_held_footprint_is_never_more_than_half_a_cell_off(
    spec: GridSpec, x: float, y: float, cols: int, rows: int
) -> None:
    low = spec.corner(low_cell(spec, x, y, cols, rows))
    slack = 1e-6 * max(abs(x), abs(y), 1)
    assert abs(low.x + cols * spec.cell_w / 2 - x) <= spec.cell_w / 2 + slack
    assert abs(low.y + rows * spec.cell_h / 2 - y) <= spec.cell_h / 2 + slack


def test_the_working_shows_the_real_numbers() -> None:
    spec = GridSpec(10, 10, 24, 16, -12, 4)
    assert working(spec, SnapSettings(Rule.CENTRE), 30, 25) == [
        "x: (30 \u2212 (\u221212)) / 24 = 1.75",
        "   floor(1.75) = 1",
        "   \u221212 + (1 + 1/2) \u00d7 24 = 24",
        "y: (25 \u2212 4) / 16 = 1.3125",
        "   floor(1.3125) = 1",
        "   4 + (1 + 1/2) \u00d7 16 = 28",
    ]
    assert "floor(1.75 + 1/2) = 2" in working(spec, SnapSettings(Rule.INTERSECTION), 30, 25)[1]


@pytest.mark.parametrize(
    ("value", "text"),
    [(3.0, "3"), (-0.00001, "0"), (1.25, "1.25"), (-2.5, "\u22122.5"), (1e15, "1e+15")],
)
def test_numbers_are_written_short(value: float, text: str) -> None:
    assert number(value) == text
