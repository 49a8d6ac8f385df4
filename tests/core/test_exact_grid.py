"""The lattice is exact at its borders, for any floats."""

import math

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.helpers.strategies import grids
from woven_locus.core.errors import BadGrid
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import (
    BuildWindow,
    GridSpec,
    Holding,
    Rule,
    SnapSettings,
    snap,
    snap_many,
)
from woven_locus.core.grid.axis import Axis
from woven_locus.core.grid.snapping import rule_axis, working

HARD = (
    GridSpec(40, 40, 1e-3, 1e-3, 1e9, -1e9),
    GridSpec(40, 40, 0.1, 0.3, 0.7, -0.7),
    GridSpec(40, 40, 1 / 3, 1e5 / 7, -1e6 / 3, 1e9 / 7, centred=True),
    GridSpec(40, 40, 24, 16, -500, 30, first_col=-20, first_row=7),
)


@pytest.mark.parametrize("spec", HARD)
def test_a_border_belongs_to_its_cell_and_the_float_below_to_the_one_before(spec: GridSpec) -> None:
    for col in range(spec.first_col - 3, spec.last.col + 4):
        for row in range(spec.first_row - 3, spec.last.row + 4):
            x, y = spec.corner(Cell(col, row))
            assert spec.locate_virtual(x, y) == (col, row)
            below = math.nextafter(x, -math.inf), math.nextafter(y, -math.inf)
            assert spec.locate_virtual(*below) == (col - 1, row - 1)
            above = math.nextafter(x, math.inf), math.nextafter(y, math.inf)
            assert spec.locate_virtual(*above) == (col, row)
            assert spec.locate_virtual(*spec.centre(Cell(col, row))) == (col, row)


@given(grids(), st.integers(-100, 100), st.integers(-100, 100))
def test_corners_and_centres_are_located_in_their_cell(spec: GridSpec, col: int, row: int) -> None:
    cell = spec.first.moved(col, row)
    assert spec.locate_virtual(*spec.corner(cell)) == cell
    assert spec.locate_virtual(*spec.centre(cell)) == cell
    inside = spec.contains(cell)
    assert spec.locate(*spec.centre(cell)) == (cell if inside else None)


@given(grids(), st.lists(st.tuples(st.floats(-1e7, 1e7), st.floats(-1e7, 1e7)), max_size=30))
def test_array_answers_are_those_of_single_points(
    spec: GridSpec, points: list[tuple[float, float]]
) -> None:
    corners = [spec.corner(spec.first.moved(k, -k)) for k in range(-3, 6)]
    ulps = [Point(math.nextafter(c.x, -math.inf), math.nextafter(c.y, math.inf)) for c in corners]
    array = np.array([*points, *corners, *ulps], np.float64)
    cells, inside = spec.locate_many(array)
    for k, point in enumerate(array.tolist()):
        assert Cell(*cells[k].tolist()) == spec.locate_virtual(*point)
        assert bool(inside[k]) == (spec.locate(*point) is not None)
    centres = spec.centres((cells - np.array(spec.first))[:, ::-1])
    for k in range(len(array)):
        assert tuple(centres[k]) == spec.centre(Cell(*cells[k].tolist()))


rules = st.builds(
    SnapSettings,
    rule=st.sampled_from(Rule),
    step_x=st.none() | st.floats(0.01, 100),
    step_y=st.none() | st.floats(0.01, 100),
    in_cells=st.booleans(),
    every_x=st.integers(1, 5),
    every_y=st.integers(1, 5),
    offset_x=st.integers(-5, 5),
    offset_y=st.integers(-5, 5),
    hold_x=st.none() | st.floats(-1e6, 1e6),
    holding=st.sampled_from(Holding),
    held=st.tuples(st.integers(1, 9).map(float), st.integers(1, 9).map(float)),
)


@given(grids(), rules, st.floats(-1e6, 1e6), st.floats(-1e6, 1e6))
def test_snapping_twice_is_snapping_once_and_switches_where_it_says(
    spec: GridSpec, settings: SnapSettings, x: float, y: float
) -> None:
    got = snap(spec, settings, x, y)
    many = snap_many(spec, settings, np.array([[x, y], [got.at.x, got.at.y]]))
    assert tuple(many[0]) == got.at
    if settings.rule is not Rule.CORNER or settings.holding is Holding.FOOTPRINT:
        # What a centre or an intersection gives is in the middle of its own stretch.
        npt.assert_allclose(many[1], got.at, rtol=1e-9, atol=1e-6)
    else:
        assert tuple(many[1]) == got.at
    for p, low, high in zip(got.raw, got.low, got.high, strict=True):
        assert low <= p < high
    if math.isfinite(got.low.x):
        assert snap(spec, settings, got.low.x, y).at == got.at
        below = math.nextafter(got.low.x, -math.inf)
        assert snap(spec, settings, below, y).at != got.at


@pytest.mark.parametrize("rule", Rule)
@pytest.mark.parametrize("spec", HARD)
def test_every_nth_place_of_a_lattice_is_a_place_of_the_rule(spec: GridSpec, rule: Rule) -> None:
    plain = rule_axis(rule, spec.origin_x, spec.cell_w)
    sparse = rule_axis(rule, spec.origin_x, spec.cell_w, every=3, offset=1)
    for k in range(-6, 7):
        npt.assert_allclose(sparse.value(k), plain.value(3 * k + 1), rtol=1e-15, atol=1e-9)
    # Nearest among them, or the last at or below for the corner rule.
    for p in np.linspace(spec.origin_x - 9 * spec.cell_w, spec.origin_x + 9 * spec.cell_w, 97):
        places = np.array([sparse.value(k) for k in range(-9, 9)])
        got = sparse.value(sparse.index(float(p)))
        if rule is Rule.CORNER:
            assert got == places[places <= p].max()
        else:
            assert abs(got - p) <= np.abs(places - p).min() + 1e-9 * spec.cell_w


def test_a_step_in_cells_is_as_many_cells() -> None:
    spec = GridSpec(40, 40, 24, 16)
    settings = SnapSettings(Rule.CORNER, 2, 3, in_cells=True)
    assert settings.steps(spec) == (48, 48)
    assert snap(spec, settings, 100, 100).at == (96, 96)


def test_a_held_footprint_lands_on_a_centre_or_an_intersection() -> None:
    spec = GridSpec(40, 40, 10, 10)
    settings = SnapSettings(Rule.CORNER, holding=Holding.FOOTPRINT, held=(3, 2))
    got = snap(spec, settings, 57, 57)
    assert got.at == (55, 60)
    assert got.origin == (40, 50)


def test_an_object_with_a_corner_origin_has_half_its_size_taken_off() -> None:
    spec = GridSpec(40, 40, 10, 10)
    settings = SnapSettings(Rule.CENTRE, holding=Holding.OBJECT, held=(8, 6))
    got = snap(spec, settings, 57, 57)
    assert (got.at, got.origin) == ((55, 55), (51, 52))
    assert working(spec, settings, 57, 57)[-2:] == [
        "x: 55 \N{MINUS SIGN} 8 / 2 = 51",
        "y: 55 \N{MINUS SIGN} 6 / 2 = 52",
    ]


def test_a_held_axis_stays_whatever_the_pointer_does() -> None:
    spec = GridSpec(40, 40, 10, 10)
    settings = SnapSettings(Rule.CENTRE, hold_y=25)
    assert [snap(spec, settings, x, x).at for x in (3, 999)] == [(5, 25), (995, 25)]
    assert working(spec, settings, 3, 3)[-1] == "y: held at 25"


@pytest.mark.parametrize("bad", [math.nan, math.inf, -math.inf, 1e300])
def test_a_place_that_cannot_be_counted_is_refused_in_words(bad: float) -> None:
    spec = GridSpec(4, 4)
    with pytest.raises(BadGrid, match=r"finite number|too far"):
        spec.locate_virtual(bad, 0)
    with pytest.raises(BadGrid, match=r"points\[1\]: .*(finite number|too far)"):
        spec.locate_many(np.array([[0, 0], [0, bad]]))
    with pytest.raises(BadGrid, match=r"points\[0\]"):
        snap_many(spec, SnapSettings(), np.array([[bad, 0.0]]))


@given(st.floats(-1e3, 1e3), st.floats(0.001, 100), st.floats(-1e5, 1e5))
def test_an_index_is_the_last_border_at_or_below(origin: float, step: float, p: float) -> None:
    axis = Axis(origin, step, 0.5, 0.25)
    k = axis.index(p)
    assume(axis.border(k) < axis.border(k + 1))
    assert axis.border(k) <= p < axis.border(k + 1)
    assert axis.indices(np.array([p])).tolist() == [k]


def test_a_window_moves_in_whole_cells() -> None:
    spec = GridSpec(64, 48, 24, 24, first_col=-10)
    window = BuildWindow(Cell(0, 0), 5, 4)
    for x in np.linspace(-500, 3000, 41).tolist():
        moved = window.centred_on(spec, x, 600)
        assert (moved.cols, moved.rows) == (5, 4)
        # An odd count has the pointer's cell in the middle, an even one the nearest line.
        assert moved.low.moved(2, 0).col == spec.locate_virtual(x, 600).col
    assert moved.low.row == 23
    assert window.contains(Cell(4, 3))
    assert not window.contains(Cell(5, 0))
    with pytest.raises(BadGrid, match="at least one"):
        BuildWindow(Cell(0, 0), 0, 3)


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        ({"every_x": 0}, "lattice"),
        ({"hold_x": math.nan}, "finite"),
        ({"held": (0, 1)}, "above 0"),
        ({"holding": Holding.FOOTPRINT, "held": (1.5, 1)}, "whole cells"),
        ({"step_x": -1}, "step"),
    ],
)
def test_settings_that_make_no_sense_are_refused(settings: dict, words: str) -> None:
    with pytest.raises(BadGrid, match=words):
        SnapSettings(**settings)
