"""The snap study, the probe ahead of an actor, and the art check."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from woven_locus.core.errors import BadGrid
from woven_locus.core.geometry import Point
from woven_locus.core.grid import GridSpec, Holding, Rule, SnapSettings
from woven_locus.core.grid import art as art_check
from woven_locus.core.grid.art import Art, check
from woven_locus.core.grid.probe import Actor
from woven_locus.core.grid.snap_study import Study, differs, standard_places, study, worked

SPEC = GridSpec(8, 8, 10, 10, -5, 0)


def the(settings: SnapSettings | None = None, axis: str = "x", spec: GridSpec = SPEC) -> Study:
    return study(spec, settings or SnapSettings(), axis)


def test_each_rule_jumps_where_it_should() -> None:
    assert the().jumps("corner", -20, 20) == [-15, -5, 5, 15]
    assert the().jumps("centre", -20, 20) == [-15, -5, 5, 15]
    assert the().jumps("intersection", -20, 20) == [-10, 0, 10]


def test_truncation_is_known_by_the_two_cells_that_fall_into_one() -> None:
    assert the().jumps("truncated", -20, 20) == [-15, 5, 15]
    stretches, single = the().disagreements("truncated", "corner", -25, 25)
    assert stretches == [(-25, -5)]
    assert single == []


def test_half_to_even_differs_at_every_second_half_only() -> None:
    stretches, single = the().disagreements("half-even", "intersection", -36, 36)
    assert stretches == []
    assert single == [-20, 0, 20]
    _stretches, away = the().disagreements("half-away", "intersection", -36, 36)
    assert away == [-30, -20, -10]


def test_a_forgotten_origin_shifts_everything() -> None:
    stretches, _single = the().disagreements("no-origin", "corner", -10, 10)
    assert stretches == [(-10, 10)]
    aligned = the(spec=GridSpec(4, 4, 10, 10, -20, 0))
    assert aligned.disagreements("no-origin", "corner", -30, 30) == ([], [])


def test_the_rule_in_force_is_a_curve_of_its_own_where_it_is_none_of_the_three() -> None:
    keys = [curve.key for curve in the().curves]
    assert "force" not in keys
    held = the(SnapSettings(hold_x=3))
    assert held.curve("force").snap(np.array([0.0, 99.0])).tolist() == [3, 3]
    footprint = the(SnapSettings(Rule.CORNER, holding=Holding.FOOTPRINT, held=(2, 1)))
    assert footprint.curve("force").snap(np.array([4.0])).tolist() == [5]


@given(
    st.floats(-100, 100),
    st.floats(0.5, 20),
    st.integers(1, 4),
    st.integers(-3, 3),
    st.sampled_from(["corner", "centre", "intersection", "truncated", "half-away", "not-scaled"]),
)
def test_between_two_jumps_a_curve_is_level(
    origin: float, cell: float, every: int, offset: int, key: str
) -> None:
    spec = GridSpec(8, 8, cell, cell, origin, 0)
    of = study(spec, SnapSettings(every_x=every, offset_x=offset), "x")
    low, high = origin - 3.3 * cell, origin + 4.7 * cell
    pieces = of.segments(key, low, high)
    assert (pieces[0][0], pieces[-1][1]) == (low, high)
    curve = of.curve(key)
    for a, b, value in pieces:
        if b - a > 1e-6 * cell:
            inside = np.linspace(a, b, 7)[1:-1]
            np.testing.assert_allclose(curve.snap(inside), value, rtol=1e-9, atol=1e-9)


def test_too_many_steps_are_refused() -> None:
    with pytest.raises(BadGrid, match="too many"):
        the().segments("corner", -1e6, 1e6)


def test_the_worked_cases_show_which_wrong_variant_fails_where() -> None:
    of = the()
    cases = {case.why: case for case in worked(of, standard_places(of))}
    assert differs(of, cases["a quarter below"]) == ["truncated", "no-origin", "not-scaled"]
    assert "half-even" in differs(of, cases["half, beside even 0"])
    assert "half-even" not in differs(of, cases["half, beside odd 1"])
    below = cases["float below a border"]
    assert below.raw == math.nextafter(5, -math.inf)
    assert below.values[0] == -5
    assert cases["a border"].values[0] == 5


# --- the probe ---------------------------------------------------------------------------------


def test_the_probe_addresses_the_cell_ahead() -> None:
    actor = Actor(Point(12, 34), 0, 10, 4)
    assert actor.target == (26, 34)
    assert actor.low(SPEC) == (3, 3)
    assert Actor(Point(12, 34), 90, 10).target == (12, 44)
    assert Actor(Point(12, 34), -90, 10).target == (12, 24)
    assert Actor(Point(0, 0), 45, math.sqrt(2)).target == pytest.approx((1, 1))


def test_what_it_holds_is_centred_on_the_place() -> None:
    actor = Actor(Point(20, 20), cols=2, rows=3)
    cells = actor.cells(SPEC)
    assert len(cells) == 6
    assert cells[0] == (2, 1)
    assert cells[-1] == (3, 3)


def test_walking_is_in_whole_cells_and_faces_that_way() -> None:
    actor = Actor(Point(20, 20), 0, 10).walked(SPEC, 0, -1)
    assert (actor.at, actor.facing) == ((20, 10), 270)
    assert actor.target == (20, 0)
    assert actor.turned(120).facing == 30
    assert actor.facing_to(Point(30, 10)).facing == 0
    assert any("270" not in line and "20" in line for line in actor.working(SPEC))


def test_an_actor_that_makes_no_sense_is_refused() -> None:
    with pytest.raises(BadGrid, match="finite"):
        Actor(Point(math.nan, 0))
    with pytest.raises(BadGrid, match="1 to 64"):
        Actor(Point(0, 0), cols=65)


# --- the art check -------------------------------------------------------------------------------


def test_art_that_fits_tiles_exactly() -> None:
    across, down = check(SPEC, Art(20, 40, 2, 1, 2))
    assert across.fits
    assert down.fits
    assert "tiles exactly" in art_check.words(SPEC, Art(20, 40, 2, 1, 2))[0]


def test_gaps_and_overlaps_are_told_with_the_size_that_would_fit() -> None:
    across, down = check(SPEC, Art(18, 23, 2))
    assert (across.over, across.over_px, across.exact) == (-1, -2, 20)
    assert (down.over, down.over_px, down.exact) == (1.5, 3, 20)
    lines = art_check.words(SPEC, Art(18, 23, 2))
    assert "gap of 1 (2 px)" in lines[0]
    assert "20 px would tile exactly" in lines[1]
    assert "overlap of 1.5 (3 px)" in lines[2]


def test_where_no_whole_size_fits_a_scale_is_named() -> None:
    spec = GridSpec(4, 4, 1 / 3, 1, 0, 0)
    across, down = check(spec, Art(3, 10, 10))
    assert across.exact is None
    assert across.per_unit == pytest.approx(9)
    assert down.fits


@given(st.integers(1, 200), st.integers(1, 6), st.floats(0.1, 50), st.integers(1, 64))
def test_the_size_that_is_named_does_fit(pixels: int, cols: int, cell: float, scale: int) -> None:
    spec = GridSpec(4, 4, cell, cell)
    fit = check(spec, Art(pixels, pixels, scale, cols, cols))[0]
    if fit.exact is not None:
        assert check(spec, Art(fit.exact, fit.exact, scale, cols, cols))[0].fits
    else:
        assert fit.per_unit is not None
        again = check(spec, Art(pixels, pixels, fit.per_unit, cols, cols))[0]
        assert again.exact is not None


@pytest.mark.parametrize("wrong", [{"width": 0}, {"per_unit": 0.0}, {"cols": 0}])
def test_art_that_makes_no_sense_is_refused(wrong: dict) -> None:
    with pytest.raises(BadGrid):
        Art(**{"width": 8, "height": 8, "per_unit": 1.0, **wrong})
