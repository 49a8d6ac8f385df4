"""Pixels are probed, not compared with stored pictures."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from woven_locus.core.geometry import Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import PATTERNS
from woven_locus.core.plan import Plan
from woven_locus.core.render import DARK, LIGHT, Palette, Raster, Scale, ink
from woven_locus.core.render.palette import rgb
from woven_locus.core.render.scale import STEPS
from woven_locus.core.ways.roads import Sign, road_byte
from woven_locus.document.starter import starter_terrain


def luminance(colour: np.ndarray) -> float:
    """Relative luminance as WCAG 2 defines it."""
    share = np.asarray(colour) / 255
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    return float(linear @ (0.2126, 0.7152, 0.0722))


def contrast(a: np.ndarray, b: np.ndarray) -> float:
    one, two = sorted((luminance(a), luminance(b)))
    return (two + 0.05) / (one + 0.05)


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
def test_text_has_contrast_enough(palette: Palette) -> None:
    for ground in (palette.paper, palette.panel, palette.raised):
        for text in (palette.ink, palette.muted, palette.madder, palette.indigo):
            assert contrast(rgb(text), rgb(ground)) >= 4.5, (text, ground)


def town() -> Plan:
    plan = draw("""
        ..bsckro
        ........
        .=======
        .=......
    """)
    put(plan, "hut", 0, 1)
    return plan


def pixel(pixels: np.ndarray, row: int, col: int, size: int) -> np.ndarray:
    """Mean colour of a cell."""
    block = pixels[row * size : (row + 1) * size, col * size : (col + 1) * size].ravel()
    return np.array([(block >> shift & 255).mean() for shift in (16, 8, 0)])


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
def test_everything_on_the_ground_looks_different(palette: Palette) -> None:
    plan = town()
    pixels = Raster(plan, palette).shade(plan.spec.box, Scale(16, 16))
    assert pixels.shape == (64, 128)
    cells = [(0, 0), (0, 2), (0, 3), (0, 4), (0, 5), (0, 6), (0, 7), (1, 0), (2, 4)]
    looks = [pixel(pixels, *cell, 16) for cell in cells]
    for k, one in enumerate(looks):
        for two in looks[k + 1 :]:
            assert np.abs(one - two).max() > 4


@given(st.data(), st.sampled_from([1, 3, 8, 16]))
def test_a_block_looks_the_same_alone_and_in_the_whole(data: st.DataObject, size: int) -> None:
    plan = town()
    rows, cols = plan.spec.shape
    r0, c0 = data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, cols - 1))
    box = Box(r0, c0, data.draw(st.integers(r0 + 1, rows)), data.draw(st.integers(c0 + 1, cols)))
    raster = Raster(plan, LIGHT)
    whole = raster.shade(plan.spec.box, Scale(size, size))
    part = whole[box.r0 * size : box.r1 * size, box.c0 * size : box.c1 * size]
    np.testing.assert_array_equal(raster.shade(box, Scale(size, size)), part)


def test_from_afar_a_thin_road_and_a_small_house_still_show() -> None:
    plan = draw("\n".join(["." * 16] * 9 + ["=" * 16] + ["." * 16] * 6))
    put(plan, "hut", 3, 5)
    raster = Raster(plan, LIGHT)
    far = raster.shade(plan.spec.box, Scale(1, 1, skip=8))
    assert far.shape == (2, 2)
    meadow, house, road = far[0, 1], far[0, 0], far[1, 0]
    assert len({int(meadow), int(house), int(road)}) == 3


@pytest.mark.parametrize("name", [p for p in PATTERNS if p != "plain"])
def test_patterns_are_ink_and_paper_and_meet_at_the_seams(name: str) -> None:
    x, y = np.meshgrid(np.arange(64) / 16, np.arange(64) / 16)
    line = ink.pattern(name, x, y, 1 / 16)
    assert 0.01 < line.mean() < 0.6
    np.testing.assert_allclose(
        line, ink.pattern(name, x + ink.PERIOD, y + ink.PERIOD, 1 / 16), atol=1e-9
    )


@pytest.mark.parametrize("mask", [7, 11, 13, 14, 15])
def test_where_roads_join_they_are_knotted(mask: int) -> None:
    cell = ink.Frame.of(64, 64)
    body, line = ink.road(cell, mask)
    assert line[26:38, 26:38].max() > 0.9  # the knot
    # The corners that one can turn are rounded: there is more road than the two bands have.
    straight = np.maximum(ink.road(cell, mask & 5)[0], ink.road(cell, mask & 10)[0])
    more = (body > 0.5) & (straight < 0.5)
    quarters = [more[32:, 32:], more[32:, :32], more[:32, :32], more[:32, 32:]]
    turns = [mask & bits == bits for bits in (6, 12, 9, 3)]
    assert [bool(quarter.any()) for quarter in quarters] == turns


def test_lanes_are_marked_on_large_cells_only() -> None:
    near, far = ink.Frame.of(64, 64), ink.Frame.of(24, 24)
    # On a road of six lanes a column of the centre line has dashes, of two lanes too; from afar neither.
    for lanes in (2, 6):
        centre = ink.road(near, 10, lanes)[1][31:33].max(axis=0)
        assert 0.3 < (centre > 0.5).mean() < 0.7
        assert (ink.road(far, 10, lanes)[1][11:13].max(axis=0) > 0.5).mean() < 0.1
    dividers = [ink.road(near, 10, lanes)[1].sum() for lanes in (2, 4, 6)]
    assert dividers == sorted(dividers)


def test_zoom_steps_are_whole_pixels_and_keep_the_shape_of_cells() -> None:
    for step, size in enumerate(STEPS):
        scale = Scale.at(step, 24, 12)
        assert (scale.pw, scale.ph, scale.skip) == (
            (1, 1, -size) if size < 0 else (2 * size, size, 1)
        )
        tall, wide = scale.tile_cells
        assert tall >= 1
        assert wide % scale.skip == 0


def test_roads_show_their_class_their_sign_and_the_bridge() -> None:
    cell = ink.Frame.of(48, 48)
    widths = [ink.road(cell, 5, lanes)[0].sum() for lanes in (1, 2, 4, 6)]
    assert widths == sorted(widths)
    plain, rails = (ink.road(cell, 5, 2, bridge)[1] for bridge in (False, True))
    assert rails.sum() > plain.sum() * 1.2
    north = ink.road_sign(cell, 1)
    np.testing.assert_allclose(ink.road_sign(cell, 3), north[::-1], atol=1e-9)
    np.testing.assert_allclose(ink.road_sign(cell, 2), np.rot90(north, -1), atol=1e-9)
    assert north[:24].sum() > north[24:].sum() > 0  # the head points up
    assert ink.road_sign(cell, 5).sum() > north.sum()


@pytest.mark.parametrize("y_up", [False, True])
def test_a_one_way_sign_points_the_same_way_on_screen_whichever_way_rows_grow(y_up: bool) -> None:
    spec = GridSpec(1, 3, y_up=y_up)
    # On screen: one way up.
    sign = Sign.SOUTH if y_up else Sign.NORTH
    road = np.full((3, 1), road_byte(0, sign), np.uint8)
    plan = Plan("Up", spec, starter_terrain(), road=road)
    scale = Scale.at(STEPS.index(32), 1, 1)
    shown = Raster(plan, LIGHT).shade(spec.box, scale)
    plain = Raster(Plan("Up", spec, starter_terrain(), road=road & np.uint8(31)), LIGHT)
    changed = (shown != plain.shade(spec.box, scale))[32:64]
    assert changed[:16].sum() > changed[16:].sum() > 0
