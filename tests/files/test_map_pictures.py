"""The map as a PNG of so many pixels a cell, and as an SVG."""

import io
import math
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from PIL import Image

from tests.helpers.builders import draw, put
from tests.helpers.depth import examples
from tests.helpers.strategies import plans
from woven_locus.cli.main import main
from woven_locus.core.geometry import Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.render import LIGHT, Raster, Scale
from woven_locus.demo import open_demo
from woven_locus.document.starter import new_plan
from woven_locus.files import plan_json
from woven_locus.files.map_frame import HIDEABLE, MapLook, Words, frame_of
from woven_locus.files.map_png import LEAST_TEXT, TooLarge, map_pixels, map_png, scale_of
from woven_locus.files.map_svg import map_svg

SVG = "{http://www.w3.org/2000/svg}"


def test_every_cell_has_its_pixels_and_no_seam_shows() -> None:
    plan = open_demo()
    found = map_pixels(plan, 12)
    assert found.shape == (48 * 12, 64 * 12, 3)
    # Shaded in one piece, not in strips.
    whole = Raster(plan, LIGHT).shade(Box(0, 0, 48, 64), Scale(12, 12))
    for channel, shift in enumerate((16, 8, 0)):
        npt.assert_array_equal(found[..., channel], whole >> shift & 0xFF)
    picture = Image.open(io.BytesIO(map_png(plan, 12)))
    npt.assert_array_equal(np.asarray(picture), found)
    assert (map_pixels(plan, 12, MapLook(dark=True)) != found).any()


def test_cells_that_are_not_square_keep_their_shape() -> None:
    assert map_pixels(draw("...\n...", cell=(24, 16)), 8).shape == (16, 36, 3)


def can_be_drawn(plan: Plan) -> None:
    """Cells ten thousand times as wide as high make a picture that is refused, which has a test of its own."""
    sides = plan.spec.cell_w, plan.spec.cell_h
    assume(max(sides) < 1000 * min(sides))


@settings(max_examples=examples(25), deadline=None)
@given(plans(8))
def test_what_is_hidden_does_not_show(plan: Plan) -> None:
    can_be_drawn(plan)
    before = plan_json.dump(plan)
    bare = map_pixels(plan, 6, look=MapLook(hidden=HIDEABLE))
    # As if there were nothing of it.
    empty = Plan(plan.name, plan.spec, plan.terrain_table, plan.kinds, terrain=plan.terrain.copy())
    npt.assert_array_equal(bare, map_pixels(empty, 6))
    assert plan_json.dump(plan) == before
    ElementTree.fromstring(map_svg(plan))


@pytest.mark.parametrize("pixels", [0, 100_000])
def test_a_picture_that_nobody_could_open_is_refused(pixels: int) -> None:
    with pytest.raises(TooLarge):
        map_pixels(draw("...."), pixels)


def test_an_svg_has_a_group_a_layer_and_names_to_find_things_by() -> None:
    plan = draw("....\n====\n.s..", cell=(24, 24))
    number = put(plan, "hut", 2, 2)
    root = ElementTree.fromstring(map_svg(plan))
    assert (root.get("width"), root.get("viewBox")) == ("96", "0 0 96 72")
    groups = {each.get("id"): each for each in root.findall(f"{SVG}g")}
    assert list(groups) == ["terrain", "reserved", "roads", "barriers", "obstacles", "structures"]
    (hut,) = groups["structures"].findall(f"{SVG}g")
    assert hut.get("id") == f"S{number}"
    assert hut.findtext(f"{SVG}title") == f"S{number} Hut"
    path = hut.find(f"{SVG}path")
    assert path is not None
    assert path.get("d") == "M48 48L72 48L72 72L48 72z"
    road = groups["roads"].findall(f"{SVG}path")[-1].get("d")
    assert road is not None
    assert road.startswith("M12 36L36 36")
    hidden = ElementTree.fromstring(map_svg(plan, MapLook(hidden=("structures", "roads"))))
    assert not {"structures", "roads"} & {each.get("id") for each in hidden.findall(f"{SVG}g")}


def test_an_outline_of_an_l_has_no_edges_within() -> None:
    plan = open_demo()
    inn = next(row for row in plan.register if row.kind == "carriers-inn")
    root = ElementTree.fromstring(map_svg(plan))
    path = root.find(f".//{SVG}g[@id='S{inn.number}']/{SVG}path")
    assert path is not None
    corners = path.get("d", "").count("L") + 1
    assert corners == 12  # a corner at each cell's edge of its round, 5 cells
    assert path.get("d", "").count("M") == 1


def test_the_command_line_writes_both(tmp_path: Path, capsys: Any) -> None:
    plan = tmp_path / "a.plan.json"
    plan_json.save(open_demo(), plan)

    def run(*words: str) -> tuple[int, str]:
        code = main(["export", str(plan), "--out", str(tmp_path / "out"), *words])
        return code, capsys.readouterr().err

    assert run("--as", "map-png", "--scale", "3", "--hide", "roads")[0] == 0
    assert Image.open(io.BytesIO((tmp_path / "out").read_bytes())).size == (192, 144)
    assert run("--as", "map-svg", "--theme", "dark")[0] == 0
    ElementTree.fromstring((tmp_path / "out").read_text())
    for words, why in (
        (("--as", "map-png", "--scale", "2.5"), "whole pixels"),
        (("--as", "map-png", "--scale", "0"), "whole pixels"),
        (("--as", "map-svg", "--scale", "2"), "grey pictures"),
        (("--as", "kinds-csv", "--hide", "roads"), "for the map"),
        (("--as", "map-png", "--hide", "clouds"), "clouds"),
    ):
        code, err = run(*words)
        assert (code, why in err) == (2, True), err
        assert len(err.splitlines()) == 1


# --- an area, scales and a legend ---------------------------------------------------------------


@settings(max_examples=examples(30), deadline=None)
@given(plans(8), st.data())
def test_an_area_is_cut_out_of_the_whole(plan: Plan, data: st.DataObject) -> None:
    can_be_drawn(plan)
    rows, cols = plan.spec.shape
    r0, c0 = data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, cols - 1))
    r1, c1 = data.draw(st.integers(r0 + 1, rows)), data.draw(st.integers(c0 + 1, cols))
    scale = scale_of(plan, 6)
    part = map_pixels(plan, 6, MapLook(area=Box(r0, c0, r1, c1)))
    whole = map_pixels(plan, 6)
    npt.assert_array_equal(
        part, whole[r0 * scale.ph : r1 * scale.ph, c0 * scale.pw : c1 * scale.pw]
    )


@settings(max_examples=examples(30), deadline=None)
@given(plans(8))
def test_scales_name_the_cells_beside_which_they_stand(plan: Plan) -> None:
    spec = plan.spec
    frame = frame_of(plan, MapLook(scales=True), spec.cell_w, spec.cell_h)
    indices = [mark for mark in frame.marks if isinstance(mark, Words) and mark.colour == LIGHT.ink]
    across = [mark for mark in indices if mark.anchor == "middle"]
    assert across
    for mark in across:
        col = int(mark.text.replace("\N{MINUS SIGN}", "-")) - spec.first_col
        assert mark.x == pytest.approx(frame.left + (col + 0.5) * spec.cell_w)
    for mark in indices:
        if mark.anchor == "end":
            slot = int(mark.text.replace("\N{MINUS SIGN}", "-")) - spec.first_row
            row = spec.rows - 1 - slot if spec.y_up else slot
            assert mark.y >= frame.top + row * spec.cell_h
    ElementTree.fromstring(map_svg(plan, MapLook(scales=True, legend=True)))


def test_a_framed_picture_holds_the_map_pixel_for_pixel() -> None:
    plan = open_demo()
    look = MapLook(scales=True, legend=True, hidden=("structures",))
    frame = frame_of(plan, look, 12, 12, LEAST_TEXT)
    picture = np.asarray(Image.open(io.BytesIO(map_png(plan, 12, look))))
    left, top = math.ceil(frame.left), math.ceil(frame.top)
    npt.assert_array_equal(
        picture[top : top + 48 * 12, left : left + 64 * 12], map_pixels(plan, 12, look)
    )
    words = {mark.text for mark in frame.marks if isinstance(mark, Words)}
    assert {"Selvedge Vale", "Meadow", "Cart road", "Boulder", "Reserved ground"} <= words
    assert not any("Loom hall" in each for each in words)
    whole = frame_of(plan, MapLook(legend=True), 12, 12, LEAST_TEXT)
    assert "LH Loom hall (3)" in {mark.text for mark in whole.marks if isinstance(mark, Words)}


@pytest.mark.parametrize("area", ["x", "0,0", "0,0:99,1", "S1:1,1", "0,0:1,1:2,2"])
def test_an_area_that_is_none_is_refused_in_a_line(
    area: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plan = tmp_path / "a.plan.json"
    plan_json.save(draw("....\n....", cell=(24, 24)), plan)
    out = tmp_path / "out.png"
    assert main(["export", str(plan), "--as", "map-png", "--area", area, "--out", str(out)]) == 2
    assert "--area" in capsys.readouterr().err
    assert not out.exists()


def test_the_command_line_cuts_an_area_where_y_grows_up(tmp_path: Path) -> None:
    spec = GridSpec(6, 5, 24, 24, y_up=True)
    plan = tmp_path / "up.plan.json"
    plan_json.save(new_plan(spec), plan)
    out = tmp_path / "out.png"
    arguments = ["export", str(plan), "--as", "map-png", "--scale", "4", "--area", "1,0:3,1"]
    assert main([*arguments, "--out", str(out)]) == 0
    with Image.open(out) as picture:
        assert picture.size == (12, 8)
