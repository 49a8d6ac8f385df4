"""Heights: slope, shade, smoothing, contours, profiles, resampling, made-up ground."""

import math
from itertools import pairwise

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from woven_locus.core.errors import BadPlan, Stopped, WovenError
from woven_locus.core.geometry import Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground.contours import contours, levels_of, nice_interval
from woven_locus.core.ground.generate import Recipe, generate
from woven_locus.core.ground.relief import (
    Fit,
    fitted,
    gradient,
    hill_shade,
    placed,
    profile,
    slope,
    smoothed,
    steeper,
    steeper_among,
    steeper_at,
)
from woven_locus.core.kernels.slopes import steep

NAN = math.nan
heights = hnp.arrays(
    np.float32,
    hnp.array_shapes(min_dims=2, max_dims=2, max_side=9),
    elements=st.one_of(st.floats(-100, 100, width=32), st.just(NAN)),
)


def test_slope_of_a_plane_in_cells_that_are_not_square() -> None:
    rows, cols = np.mgrid[0:6, 0:7]
    plane = (2.0 * cols * 4 + 0.5 * rows * 10).astype(np.float32)
    across, along = gradient(plane, 4, 10)
    npt.assert_allclose(across, 2.0)
    npt.assert_allclose(along, 0.5)
    npt.assert_allclose(slope(plane, 4, 10), math.hypot(2, 0.5), rtol=1e-6)


def test_slope_beside_the_unknown_takes_the_neighbour_that_is_there() -> None:
    row = np.array([[0, 1, NAN, 5, NAN, 7, NAN]], np.float32)
    across, along = gradient(row, 1, 1)
    npt.assert_array_equal(across, [[1, 1, NAN, 0, NAN, 0, NAN]])
    npt.assert_array_equal(along, [[0, 0, NAN, 0, NAN, 0, NAN]])


@given(heights, st.data())
def test_slope_of_a_part_is_the_part_of_the_slope(layer: np.ndarray, data: st.DataObject) -> None:
    rows, cols = layer.shape
    r0, c0 = data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, cols - 1))
    box = Box(r0, c0, data.draw(st.integers(r0 + 1, rows)), data.draw(st.integers(c0 + 1, cols)))
    npt.assert_array_equal(slope(layer, 2, 3, box), slope(layer, 2, 3)[box.slices])
    npt.assert_array_equal(smoothed(layer, box), smoothed(layer, Box(0, 0, rows, cols))[box.slices])
    assert np.array_equal(np.isnan(slope(layer, 2, 3)), np.isnan(layer))


def test_hills_are_lit_from_the_top_left_of_the_screen() -> None:
    rows, cols = np.mgrid[0:9, 0:9]
    hill = -np.hypot(rows - 4, cols - 4).astype(np.float32)
    down, up = hill_shade(hill, 1, 1, y_up=False), hill_shade(hill, 1, 1, y_up=True)
    assert down[2, 2] > 0.9 > 0.5 > down[6, 6]
    npt.assert_allclose(down, up[::-1], atol=1e-6)
    flat = hill_shade(np.full((3, 3), 7, np.float32), 1, 1, False)
    npt.assert_allclose(flat, math.sqrt(0.5), rtol=1e-6)
    assert hill_shade(np.full((2, 2), NAN, np.float32), 1, 1, False).max() < 0.708


def test_smoothing_is_the_mean_of_the_known() -> None:
    layer = np.array([[0, 3, NAN], [6, NAN, 3], [0, 0, 9]], np.float32)
    got = smoothed(layer, Box(0, 0, 3, 3))
    npt.assert_allclose(got, [[3, 3, NAN], [9 / 5, NAN, 15 / 4], [2, 18 / 5, 4]])


def test_a_profile_blends_between_four_centres() -> None:
    layer = np.array([[0, 10], [20, 30]], np.float32)
    points = np.array([[0.5, 0.5], [1, 0.5], [1, 1], [1.5, 1.5], [0, 0], [2.1, 1]])
    npt.assert_allclose(profile(layer, points), [0, 5, 15, 30, 0, NAN])
    layer[1, 1] = NAN
    npt.assert_allclose(profile(layer, points)[:4], [0, 5, NAN, NAN])


# --- contours ------------------------------------------------------------------------------------


def test_a_contour_crosses_where_the_height_is_reached() -> None:
    ramp = np.tile(np.arange(5, dtype=np.float32), (3, 1))
    lines = contours(ramp, [1.5])[0]
    npt.assert_allclose(lines[:, [0, 2]], 2)
    assert sorted(sorted(row[1::2]) for row in lines.tolist()) == [[0.5, 1.5], [1.5, 2.5]]
    assert len(contours(ramp, [9])[0]) == 0
    assert len(contours(ramp[:1], [1.5])[0]) == 0


@given(
    hnp.arrays(np.float64, (4, 5), elements=st.integers(-4, 4).map(float)),
    st.sampled_from([-2.5, -0.5, 0.5, 1.25]),
)
def test_contours_are_closed_but_at_the_edge(layer: np.ndarray, level: float) -> None:
    """Every end inside meets exactly one other: lines neither break off nor branch."""
    lines = contours(layer, [level])[0]
    ends: dict[tuple[float, float], int] = {}
    for x0, y0, x1, y1 in np.round(lines, 9).tolist():
        for end in ((x0, y0), (x1, y1)):
            ends[end] = ends.get(end, 0) + 1
    for (x, y), count in ends.items():
        at_edge = x in (0.5, 4.5) or y in (0.5, 3.5)
        assert count == (1 if at_edge else 2)
        got = profile(layer.astype(np.float32), np.array([[x, y]]))[0]
        assert got == pytest.approx(level, abs=1e-4)


def test_the_unknown_has_no_contour() -> None:
    layer = np.array([[0, 2, 0], [0, NAN, 0], [0, 2, 0]], np.float32)
    assert len(contours(layer, [1])[0]) == 0


def test_levels_and_intervals() -> None:
    assert levels_of(0, 30, 10).tolist() == [10, 20, 30]
    assert levels_of(-5, 4, 5).tolist() == [0]
    assert [nice_interval(span) for span in (0, 9, 100, 109, 3000)] == [1, 1, 10, 20, 500]


# --- a raster of another size ----------------------------------------------------------------------


def test_anchoring_cuts_off_and_leaves_the_rest() -> None:
    raster = np.arange(6, dtype=np.uint8).reshape(2, 3)
    under = np.full((3, 2), 9, np.uint8)
    npt.assert_array_equal(fitted(raster, under, Fit.LOW), [[0, 1], [3, 4], [9, 9]])
    npt.assert_array_equal(fitted(raster, under, Fit.HIGH), [[9, 9], [1, 2], [4, 5]])
    assert placed((2, 3), (3, 2), Fit.MIDDLE) == (Box(0, 0, 2, 2), Box(0, 1, 2, 3))


def test_stretching_blends_heights_and_picks_codes() -> None:
    ramp = np.array([[0, 10]], np.float32)
    npt.assert_allclose(fitted(ramp, np.zeros((1, 4)), Fit.STRETCH), [[0, 2.5, 7.5, 10]])
    codes = np.array([[1, 2]], np.uint8)
    npt.assert_array_equal(fitted(codes, np.zeros((2, 4)), Fit.STRETCH), [[1, 1, 2, 2]] * 2)
    with pytest.raises(BadPlan, match="rows and columns"):
        fitted(np.empty((0, 3)), codes, Fit.STRETCH)


@given(heights, st.sampled_from(Fit))
def test_the_same_size_is_left_alone(layer: np.ndarray, fit: Fit) -> None:
    npt.assert_array_equal(fitted(layer, np.zeros_like(layer), fit), layer)


# --- made-up ground ---------------------------------------------------------------------------------


def recipe(**changes: object) -> Recipe:
    return Recipe(
        **{
            "seed": 3,
            "relief": 200.0,
            "feature": 16,
            "roughness": 0.5,
            "low": 2,
            "middle": 0,
            "high": 4,
            "steep": 5,
            "river": 3,
            **changes,
        }  # type: ignore[arg-type]
    )


def test_the_same_seed_makes_the_same_ground() -> None:
    spec = GridSpec(70, 50, 24, 12)
    terrain, levels = generate(spec, recipe())
    again = generate(spec, recipe())
    npt.assert_array_equal(terrain, again[0])
    npt.assert_array_equal(levels, again[1])
    assert (generate(spec, recipe(seed=4))[1] != levels).any()
    assert terrain.shape == levels.shape == spec.shape
    assert float(levels.max()) == pytest.approx(200)
    assert set(np.unique(terrain)) <= {0, 2, 3, 4, 5}


def test_classes_follow_height_and_slope() -> None:
    spec = GridSpec(90, 90, 24, 24)
    terrain, levels = generate(spec, recipe(river=None, steep_from=0.5))
    steep = slope(levels, 24, 24) >= 0.5
    npt.assert_array_equal(terrain == 5, steep)
    assert levels[terrain == 2].max() <= levels[(terrain == 0)].min()
    assert levels[terrain == 0].max() <= levels[terrain == 4].min()
    assert 0.1 < (terrain == 2).mean() < 0.3


def test_the_river_runs_through_and_only_falls() -> None:
    spec = GridSpec(80, 60)
    terrain, levels = generate(spec, recipe(river_width=2))
    wet = terrain == 3
    assert wet.any(axis=0).all()
    beds = [float(levels[wet[:, col], col].min()) for col in range(80)]
    assert all(b <= a for a, b in pairwise(beds))
    rows = [np.flatnonzero(wet[:, col]) for col in range(80)]
    for here, there in pairwise(rows):
        assert set(here) & set(there), "the river must hang together by edges"


@pytest.mark.parametrize("side", [1, 2, 3])
def test_very_small_ground_can_be_made(side: int) -> None:
    terrain, levels = generate(GridSpec(side, side), recipe())
    assert terrain.shape == (side, side)
    assert not np.isnan(levels).any()


def test_a_recipe_that_makes_no_sense_is_refused_and_stop_stops() -> None:
    for wrong in ({"feature": 1}, {"roughness": 2.0}, {"low_share": 0.9}):
        with pytest.raises(WovenError):
            recipe(**wrong)
    with pytest.raises(Stopped):
        generate(GridSpec(40, 40), recipe(), lambda: True)


@given(hnp.arrays(np.float32, (5, 6), elements=st.floats(-9, 9, width=32) | st.just(float("nan"))))
def test_four_ways_to_say_steep_agree(heights: np.ndarray) -> None:
    box = Box(0, 0, 5, 6)
    around = np.full((7, 8), np.nan)
    around[1:-1, 1:-1] = heights
    by_kernel = np.zeros((5, 6), bool)
    steep(around, 2.0, 3.0, 0.25, by_kernel)
    by_arrays = steeper(heights, 2.0, 3.0, 0.5, box)
    one_by_one = [
        [bool(steeper_at(around.tolist(), r + 1, c + 1, 2.0, 3.0, 0.5)) for c in range(6)]
        for r in range(5)
    ]
    assert by_kernel.tolist() == by_arrays.tolist() == one_by_one
    rows, cols = np.indices((5, 6))
    assert steeper_among(heights, 2.0, 3.0, 0.5, rows, cols).tolist() == one_by_one


def test_the_compiled_slope_is_the_plain_one(compiled_kernels: None) -> None:
    rng = np.random.default_rng(4)
    heights = rng.normal(0, 3, (60, 70)).astype(np.float32)
    heights[rng.random(heights.shape) < 0.1] = np.nan
    around = np.full((62, 72), np.nan)
    around[1:-1, 1:-1] = heights
    plain = np.zeros(heights.shape, bool)
    steep(around, 1.7, 2.3, 1.1 * 1.1, plain)
    ours = steeper(heights, 1.7, 2.3, 1.1, Box(0, 0, 60, 70))
    npt.assert_array_equal(ours, plain)
    assert 0 < plain.sum() < plain.size


def test_steep_is_the_same_to_the_last_bit() -> None:
    heights = np.random.default_rng(5).normal(0, 3, (9, 9)).astype(np.float32)
    rows, cols = np.indices((9, 9))
    across, along = np.gradient(heights.astype(np.float64), 1.7)
    for rise in np.hypot(across, along).ravel().tolist():
        by_arrays = steeper(heights, 1.7, 1.7, rise, Box(0, 0, 9, 9))
        npt.assert_array_equal(steeper_among(heights, 1.7, 1.7, rise, rows, cols), by_arrays)
