"""ASCII grids, PNG pictures and rows of heights: round trips, and files that others broke."""

import io
import struct
import warnings
import zlib
from pathlib import Path

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from PIL import Image

from tests.helpers.builders import draw
from tests.helpers.strategies import grids, levels
from woven_locus.core.editing import History
from woven_locus.core.errors import BadPlan, FileProblem
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground.relief import Fit
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.files import ascii_grid, formats, height_rows, pictures, rasters

NAN = float("nan")


def layers(spec: GridSpec) -> st.SearchStrategy[np.ndarray]:
    return hnp.arrays(np.float32, spec.shape, elements=levels)


# --- rows of heights in a plan -----------------------------------------------------------------------


@given(
    hnp.arrays(np.float32, hnp.array_shapes(min_dims=2, max_dims=2, max_side=9), elements=levels)
)
def test_rows_of_heights_come_back_bit_for_bit(heights: np.ndarray) -> None:
    rows = height_rows.encode_beside(heights)()
    again = height_rows.decode_beside(rows, heights.shape, "heights")()
    npt.assert_array_equal(again, heights)
    assert height_rows.encode_beside(again)() == rows


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("%%%", "cannot be unpacked"),
        ("AAAA", "cannot be unpacked"),
        (height_rows.encode_beside(np.zeros((1, 3), np.float32))()[0], "does not hold 2 heights"),
        (
            height_rows.encode_beside(np.zeros((1, 10**6), np.float32))()[0],
            "does not hold 2 heights",
        ),
        (height_rows.encode_beside(np.zeros((1, 2), np.float32))()[0][:-8], "heights|unpacked"),
    ],
)
def test_a_broken_row_of_heights_is_named(row: str, words: str) -> None:
    good = height_rows.encode_beside(np.zeros((1, 2), np.float32))()[0]
    with pytest.raises(BadPlan, match=rf"heights\[1\]: .*({words})"):
        height_rows.decode_beside([good, row], (2, 2), "heights")()
    with pytest.raises(BadPlan, match="has 1 rows, the grid has 2"):
        height_rows.decode_beside([good], (2, 2), "heights")()


# --- ASCII grids --------------------------------------------------------------------------------------


@given(st.data())
def test_an_ascii_grid_comes_back_exactly(data: st.DataObject) -> None:
    spec = data.draw(grids(9))
    heights = data.draw(layers(spec))
    got = ascii_grid.parse(ascii_grid.dump(heights, spec))
    npt.assert_array_equal(got.heights[::-1] if spec.y_up else got.heights, heights)
    assert got.cell == (spec.cell_w, spec.cell_h)
    assert got.low == (spec.origin_x, spec.origin_y if spec.y_up else 0.0 - spec.high.y)


def test_a_height_that_looks_like_no_data_is_kept() -> None:
    heights = np.array([[-9999, NAN, 1]], np.float32)
    data = ascii_grid.dump(heights, GridSpec(3, 1))
    assert b"NODATA_value -99999" in data
    npt.assert_array_equal(ascii_grid.parse(data).heights, heights)


HEAD = b"ncols 2\nnrows 2\n"
GRIDS = {
    "CRLF": (HEAD.replace(b"\n", b"\r\n") + b"1 2\r\n3 4\r\n", [[1, 2], [3, 4]]),
    "old Mac line ends": (HEAD.replace(b"\n", b"\r") + b"1 2\r3 4", [[1, 2], [3, 4]]),
    "a byte order mark": (b"\xef\xbb\xbf" + HEAD + b"1 2\n3 4", [[1, 2], [3, 4]]),
    "capitals, and all in one line": (b"NCOLS 2\nNROWS 2\n1 2 3 4", [[1, 2], [3, 4]]),
    "no-data and NaN": (HEAD + b"NODATA_value -1\n-1 2\nnan 4", [[NAN, 2], [NAN, 4]]),
    "no-data that is NaN": (HEAD + b"nodata_value nan\nnan 2\n3 4", [[NAN, 2], [3, 4]]),
    "exponents": (HEAD + b"1e2 2.5E-1\n-3 +4", [[100, 0.25], [-3, 4]]),
    "an empty line or two": (b"\nncols 2\nnrows 2\n\n1 2\n\n3 4\n\n", [[1, 2], [3, 4]]),
}


@pytest.mark.parametrize("name", GRIDS)
def test_grids_as_others_write_them(name: str) -> None:
    data, wanted = GRIDS[name]
    npt.assert_array_equal(ascii_grid.parse(data).heights, np.array(wanted, np.float32))


def test_a_corner_by_its_cell_centre_and_cells_that_are_not_square() -> None:
    data = HEAD + b"xllcenter 5\nyllcenter 7\ndx 10\ndy 4\n1 2 3 4"
    got = ascii_grid.parse(data)
    assert (got.low, got.cell) == ((0, 5), (10, 4))


BROKEN_GRIDS = {
    "empty": (b"", "ncols is missing"),
    "a picture": (b"\x89PNG\r\n\x1a\n", "line 1: .*no ASCII"),
    "not UTF-8": (HEAD + b"1 2\n3 \xff", "line 4: .*no ASCII"),
    "UTF-16": ("ncols 2".encode("utf-16"), "no ASCII"),
    "no rows": (b"ncols 2\n1 2", "nrows is missing"),
    "a strange key": (b"columns 2\n", "line 1: 'columns' is no header"),
    "a key without its number": (b"ncols\n", "line 1: expected one number"),
    "a word for a number": (b"ncols two\n", "line 1: 'two' is no number"),
    "half a column": (b"ncols 2.5\nnrows 2\n1", "ncols must be 1 or more"),
    "no columns": (b"ncols 0\nnrows 2\n", "ncols must be 1 or more"),
    "decimal commas": (HEAD + b"1,5 2\n3 4", "line 3: '1,5' .*point, not a comma"),
    "decimal commas in the header": (HEAD + b"cellsize 2,5\n1 2 3 4", "point, not a comma"),
    "cut short": (HEAD + b"1 2\n3", "holds 3 numbers, .* = 4; the file was cut short"),
    "too many": (HEAD + b"1 2 3 4 5", "holds 5 numbers"),
    "a huge header": (b"ncols 60000\nnrows 60000\n1 2", "60,000 × 60,000 cells are too many"),
    "a header that lies": (b"ncols 8000\nnrows 8000\n1 2", "holds 2 numbers"),
    "infinity": (HEAD + b"1 2\n3 inf", "row 2, column 2: is not a finite height"),
    "too large to keep": (HEAD + b"1 2\n3 1e200", "too large to be kept"),
    "a cell of no size": (HEAD + b"cellsize 0\n1 2 3 4", "cellsize must be above 0"),
    "an endless corner": (HEAD + b"xllcorner inf\n1 2 3 4", "line 3: inf is not a finite"),
}


@pytest.mark.parametrize("name", BROKEN_GRIDS)
def test_a_broken_grid_is_refused_in_one_line(name: str, tmp_path: Path) -> None:
    data, words = BROKEN_GRIDS[name]
    path = tmp_path / "bad.asc"
    path.write_bytes(data)
    with pytest.raises(FileProblem, match=words) as caught:
        ascii_grid.load(path)
    assert str(caught.value).startswith(str(path))
    assert "\n" not in str(caught.value)


@given(st.binary(max_size=200) | st.text(alphabet="ncolsrw 0123.-e\n", max_size=99).map(str.encode))
def test_no_bytes_make_more_than_a_file_problem(data: bytes) -> None:
    for parse in (ascii_grid.parse, pictures.parse_picture, pictures.parse_grey):
        with pytest.raises(FileProblem):  # noqa: PT012 - a grid by chance is none
            parse(data)
            raise FileProblem("grid", "", "by chance it was one")


# --- pictures -----------------------------------------------------------------------------------------


def png(array: np.ndarray, mode: str | None = None) -> bytes:
    out = io.BytesIO()
    picture = Image.fromarray(array)
    (picture.convert(mode) if mode else picture).save(out, "PNG")
    return out.getvalue()


@given(
    hnp.arrays(
        np.uint8, hnp.array_shapes(min_dims=2, max_dims=2, max_side=9), elements=st.integers(0, 51)
    ),
    st.booleans(),
    st.lists(st.integers(0, 0xFFFFFF).map(lambda n: f"#{n:06X}"), min_size=52, max_size=52),
)
def test_terrain_goes_through_a_picture_unchanged(
    terrain: np.ndarray, y_up: bool, dyes: list[str]
) -> None:
    picture = pictures.parse_picture(pictures.dump_terrain(terrain, dyes, y_up))
    colours = pictures.distinct_colours(dyes)
    codes = np.array([colours.index(colour) for colour in picture.colours])[picture.codes]
    npt.assert_array_equal(codes[::-1] if y_up else codes, terrain)
    assert sum(picture.counts) == terrain.size
    assert list(picture.counts) == sorted(picture.counts, reverse=True)


def test_colours_are_matched_exactly_then_nearly_then_not_at_all() -> None:
    dyes = ["#A9B07A", "#7FA3BD"]
    colours = ((0xA9, 0xB0, 0x7A), (0x7F, 0xA0, 0xC0), (255, 0, 255))
    assert pictures.proposed(colours, dyes) == [0, 1, None]


@pytest.mark.parametrize("mode", ["RGB", "RGBA", "P", "L", "LA", "1"])
def test_pictures_of_any_usual_kind_are_read(mode: str) -> None:
    grey = np.array([[0, 255], [255, 0]], np.uint8)
    picture = pictures.parse_picture(png(grey, mode))
    assert set(picture.colours) == {(0, 0, 0), (255, 255, 255)}
    assert picture.codes[0, 0] == picture.codes[1, 1] != picture.codes[0, 1]


@pytest.mark.parametrize("depth", [8, 16])
@given(data=st.data())
def test_grey_heights_come_back_within_half_a_step(depth: int, data: st.DataObject) -> None:
    heights = data.draw(
        layers(GridSpec(data.draw(st.integers(1, 7)), data.draw(st.integers(1, 7))))
    )
    grey = pictures.grey_of(heights, depth)
    again = pictures.parse_grey(pictures.dump_grey(grey))
    assert again.depth == depth
    npt.assert_array_equal(again.values, grey.values)
    assert (again.scale, again.base, again.nodata) == (grey.scale, grey.base, grey.nodata)
    got = rasters.scaled(again)
    npt.assert_array_equal(np.isnan(got), np.isnan(heights))
    assert grey.scale is not None
    known = ~np.isnan(heights)
    # Half a step of the grey, and what float32 itself cannot say.
    slack = grey.scale * 0.501 + 1e-4
    assert np.abs(got[known].astype(float) - heights[known]).max(initial=0) <= slack


def test_whole_heights_go_through_16_bits_exactly() -> None:
    heights = np.array([[0, 1, 2], [500, 65535, 7]], np.float32)
    grey = pictures.grey_of(heights, 16, 1.0, 0.0)
    got = rasters.scaled(pictures.parse_grey(pictures.dump_grey(grey)))
    npt.assert_array_equal(got, heights)


def test_a_scale_by_hand_goes_before_the_picture_own() -> None:
    grey = pictures.parse_grey(png(np.array([[0, 10]], np.uint8)))
    assert (grey.scale, grey.base, grey.nodata) == (None, None, None)
    npt.assert_array_equal(rasters.scaled(grey, 0.5, 100), [[100, 105]])
    npt.assert_array_equal(rasters.scaled(grey, nodata=10), [[0, NAN]])
    npt.assert_array_equal(rasters.scaled(np.array([[1, 2]], np.float32), 2, 1), [[3, 5]])


def bomb() -> bytes:
    """A small file whose header promises 60 000 x 60 000 pixels."""

    def chunk(name: bytes, body: bytes) -> bytes:
        crc = struct.pack(">I", zlib.crc32(name + body))
        return struct.pack(">I", len(body)) + name + body + crc

    head = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 0, 0, 0, 0)
    body = zlib.compress(bytes(10_000_000), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


GOOD = png(np.arange(64, dtype=np.uint8).reshape(8, 8) * 3)
BROKEN_PICTURES = {
    "empty": (b"", "is no PNG"),
    "a JPEG by name": (b"\xff\xd8\xff\xe0" + bytes(40), "is no PNG"),
    "the signature alone": (GOOD[:8], "broken or truncated"),
    "cut in the header": (GOOD[:20], "broken or truncated"),
    "cut in the pixels": (GOOD[:-40], "broken or truncated"),
    "a wrong checksum": (GOOD[:50] + bytes([GOOD[50] ^ 255]) + GOOD[51:], "broken or truncated"),
    "a bomb": (bomb(), "60,000 × 60,000 pixels are too many|too large"),
}


@pytest.mark.parametrize("name", BROKEN_PICTURES)
def test_a_broken_picture_is_refused_in_one_line(name: str, tmp_path: Path) -> None:
    data, words = BROKEN_PICTURES[name]
    path = tmp_path / "bad.png"
    path.write_bytes(data)
    for load in (pictures.load_picture, pictures.load_grey):
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with pytest.raises(FileProblem, match=words) as caught:
                load(path)
        assert "\n" not in str(caught.value)


def test_colours_for_heights_and_heights_for_colours_are_told_apart() -> None:
    coloured = png(np.zeros((2, 2, 3), np.uint8))
    with pytest.raises(FileProblem, match="colour picture"):
        pictures.parse_grey(coloured)
    deep = png(np.zeros((2, 2), np.uint16))
    with pytest.raises(FileProblem, match="16-bit grey"):
        pictures.parse_picture(deep)


# --- onto a plan ----------------------------------------------------------------------------------------


def test_heights_and_terrain_are_laid_on_as_they_look_on_screen(tmp_path: Path) -> None:
    plan = draw("..\n..\n..")
    path = tmp_path / "steps.asc"
    path.write_bytes(b"ncols 2\nnrows 2\n1 2\n3 4\n")
    source, what = rasters.heights_source(path)
    assert what == "ASCII grid, 2 × 2"
    values = rasters.scaled(source)
    assert rasters.described(*rasters.Spread(values).scaled(1, 0)) == "1 to 4"
    history = History(plan)
    history.do(rasters.heights_edit(plan, values, Fit.LOW, path.name))
    npt.assert_array_equal(plan.heights, [[1, 2], [3, 4], [NAN, NAN]])
    assert history.entries == ["Heights from steps.asc"]
    picture = pictures.parse_picture(png(np.array([[0, 255]], np.uint8)))
    black = picture.colours.index((0, 0, 0))
    classes: list[int | None] = [None, None]
    classes[black] = 3
    history.do(rasters.terrain_edit(plan, picture, classes, Fit.HIGH, "dots.png"))
    assert plan.terrain.tolist() == [[0, 0], [0, 0], [3, 0]]


@pytest.mark.parametrize(
    "name",
    [
        form.name
        for form in formats.FORMATS.values()
        # A table of a value a cell is for other programs: it is not read.
        if form.holds in ("heights", "terrain") and form.suffix != ".csv"
    ],
)
@pytest.mark.parametrize("y_up", [False, True])
def test_what_is_taken_out_can_be_brought_in_again(name: str, y_up: bool, tmp_path: Path) -> None:
    old = draw(".bs\nck.")
    spec = replace(old.spec, y_up=y_up)
    heights = np.array([[0, 1, 2], [3, 4, 255]], np.float32)
    plan = Plan("x", spec, old.terrain_table, terrain=old.terrain, heights=heights)
    path = tmp_path / "out"
    formats.FORMATS[name].write(plan, path, formats.Out())
    bare = Plan("y", spec, old.terrain_table)
    if name == "terrain-png":
        picture = pictures.load_picture(path)
        dyes = [item.dye for item in bare.terrain_table]
        edit = rasters.terrain_edit(
            bare, picture, pictures.proposed(picture.colours, dyes), Fit.LOW, "x"
        )
    else:
        values = rasters.scaled(rasters.heights_source(path)[0])
        edit = rasters.heights_edit(bare, values, Fit.LOW, "x")
    History(bare).do(edit)
    if name == "terrain-png":
        npt.assert_array_equal(bare.terrain, plan.terrain)
    else:
        npt.assert_allclose(bare.heights, heights, atol=0.5 if name.endswith("8") else 0.01)


@given(data=st.data())
def test_a_spread_is_the_range_of_the_heights_it_stands_for(data: st.DataObject) -> None:
    grid = GridSpec(data.draw(st.integers(1, 6)), data.draw(st.integers(1, 6)))
    heights = data.draw(layers(grid))
    scale, base = data.draw(st.floats(-9, 9)), data.draw(st.floats(-99, 99))
    nodata = data.draw(st.none() | st.integers(0, 300))
    for source in (heights, pictures.grey_of(heights, 8)):
        got = rasters.Spread(source).scaled(scale, base, nodata)
        if isinstance(source, pictures.Grey):
            wanted = source.heights(scale, base, nodata)
        else:
            wanted = rasters.scaled(source, scale, base)
        assert got[2] == np.isnan(wanted).sum()
        if got[2] == wanted.size:
            assert rasters.described(*got) == "no height known"
        else:
            npt.assert_allclose(
                got[:2], (np.nanmin(wanted), np.nanmax(wanted)), rtol=1e-5, atol=1e-3
            )


def test_heights_that_are_not_there_cannot_be_taken_out(tmp_path: Path) -> None:
    with pytest.raises(FileProblem, match="has no heights"):
        formats.FORMATS["heights-asc"].write(draw(".."), tmp_path / "x.asc", formats.Out())
    with pytest.raises(FileProblem, match="cannot be read"):
        rasters.heights_source(tmp_path / "nothing.asc")
