"""PNG pictures of the map, one pixel a cell: terrain by colour, heights as grey.

The picture's top row is the map's top row on screen.
"""

from __future__ import annotations

import io
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import FileProblem, words_of
from woven_locus.core.grid.spec import MOST_CELLS
from woven_locus.core.numbers import parse_number, parse_whole
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Heights
from woven_locus.core.value import Value
from woven_locus.files.atomic import read_bytes, write_bytes

if TYPE_CHECKING:
    # Imported where it is used: the window does not need it to start.
    from PIL import Image, PngImagePlugin

Rgb = tuple[int, int, int]

# Grey that stands for an unknown height, and the text chunk that says so.
UNKNOWN_GREY = 0
_SCALE, _BASE, _NODATA = "heights:scale", "heights:base", "heights:nodata"


# Bytes of a file at most: four for each pixel of the largest picture, and some for what is beside them.
LARGEST = 5 * MOST_CELLS
# Pixels that are looked at together.
_BAND = 1 << 20


def _opened(data: bytes, path: object) -> Image.Image:
    """The picture with its pixels read. Raises FileProblem, whatever is wrong with it."""
    from PIL import Image

    if not data.startswith(b"\x89PNG\r\n\x1a\n"):
        raise FileProblem(path, "", phrase("is no PNG picture"))
    try:
        with warnings.catch_warnings():
            # The size is looked at below, before any pixel is unpacked.
            warnings.simplefilter("ignore")
            picture = Image.open(io.BytesIO(data), formats=("PNG",))
            wide, tall = picture.size
            if wide * tall > MOST_CELLS:
                raise FileProblem(
                    path,
                    "header",
                    phrase(
                        "{wide:,} × {tall:,} pixels are too many; the most is {most_cells:,}",
                        wide=wide,
                        tall=tall,
                        most_cells=MOST_CELLS,
                    ),
                )
            picture.load()
    except FileProblem:
        raise
    except Image.DecompressionBombError as err:
        raise FileProblem(
            path,
            "header",
            phrase(
                "the picture is too large; the most is {most_cells:,} pixels", most_cells=MOST_CELLS
            ),
        ) from err
    except Exception as err:
        # A broken chunk makes the decoder raise all sorts of errors.
        what = phrase("is a broken or truncated picture: {words_of}", words_of=words_of(err))
        raise FileProblem(path, "", what) from err
    return picture


class Picture(Value):
    """A picture as a table of its colours.

    codes : (H, W) int32, index into `colours`, top row first.  colours : by how often, then by value.
    counts : pixels of each.
    """

    codes: npt.NDArray[np.int32]
    colours: tuple[Rgb, ...]
    counts: tuple[int, ...]


def is_grey(path: Path) -> bool:
    """Whether a PNG says of itself that it has no colours. Raises FileProblem."""
    data = read_bytes(path, LARGEST)
    # The colour type, behind the size and the depth (ISO/IEC 15948, 11.2.2): 0 and 4 are grey.
    return data[25:26] in (b"\x00", b"\x04")


def load_picture(path: Path, stopped: Callable[[], bool] = lambda: False) -> Picture:
    """Read a colour picture. Raises FileProblem, also when stopped."""
    return parse_picture(read_bytes(path, LARGEST, stopped), path, stopped)


def parse_picture(
    data: bytes, path: object = "picture", stopped: Callable[[], bool] = lambda: False
) -> Picture:
    """`load_picture` from bytes. Transparency is laid on black. Looked at band by band, so that little more
    memory is taken than for the picture and the answer."""
    picture = _opened(data, path)
    if picture.mode.startswith("I"):
        raise FileProblem(
            path, "", phrase("is a 16-bit grey picture, which holds heights rather than colours")
        )
    wide, tall = picture.size
    codes = np.empty((tall, wide), np.int32)
    # By packed colour: its place in `found`, in the order of first sight.
    known = np.full(1 << 24, -1, np.int32)
    found: list[int] = []
    counts = np.zeros(0, np.int64)
    rows = max(1, _BAND // wide)
    for top in range(0, tall, rows):
        if stopped():
            raise FileProblem(path, "", phrase("was not read to its end: stopped"))
        packed = _packed(picture, top, min(tall, top + rows), path)
        places = known[packed]
        if (places < 0).any():
            fresh = np.unique(packed[places < 0])
            known[fresh] = np.arange(len(found), len(found) + len(fresh), dtype=np.int32)
            found += fresh.tolist()
            counts = np.append(counts, np.zeros(len(fresh), np.int64))
            places = known[packed]
        codes[top : top + rows] = places
        counts += np.bincount(places.ravel(), minlength=len(found))
    values = np.array(found, np.int64)
    order = np.lexsort((values, -counts))
    place = np.empty(len(order), np.int32)
    place[order] = np.arange(len(order), dtype=np.int32)
    for top in range(0, tall, rows):
        codes[top : top + rows] = place[codes[top : top + rows]]
    colours = tuple((v >> 16, v >> 8 & 255, v & 255) for v in values[order].tolist())
    return Picture(codes, colours, tuple(counts[order].tolist()))


def _packed(picture: Image.Image, top: int, bottom: int, path: object) -> npt.NDArray[np.uint32]:
    """(rows, W) uint32, 0xRRGGBB, of a band. Raises FileProblem."""
    from PIL import Image

    try:
        band = picture.crop((0, top, picture.width, bottom))
        if band.mode in ("RGBA", "LA") or "transparency" in picture.info:
            ground = Image.new("RGBA", band.size, (0, 0, 0, 255))
            band.info = picture.info
            band = Image.alpha_composite(ground, band.convert("RGBA"))
        pixels = np.asarray(band.convert("RGB"), np.uint8)
    except Exception as err:
        # A palette or its transparency may be broken in many ways.
        raise FileProblem(
            path, "", phrase("is a broken picture: {words_of}", words_of=words_of(err))
        ) from err
    red, green, blue = (pixels[..., k].astype(np.uint32) for k in range(3))
    return np.asarray(red << 16 | green << 8 | blue, np.uint32)


def hex_of(colour: Rgb) -> str:
    """A colour as #RRGGBB."""
    return "#{:02X}{:02X}{:02X}".format(*colour)


def rgb_of(text: str) -> Rgb:
    """ "#RRGGBB" as three numbers."""
    return int(text[1:3], 16), int(text[3:5], 16), int(text[5:7], 16)


def proposed(colours: tuple[Rgb, ...], dyes: list[str], reach: float = 60) -> list[int | None]:
    """For each colour the terrain code whose dye is the same or, within `reach` of RGB distance, the
    nearest; None for those that no dye is near to."""
    table = np.array([rgb_of(dye) for dye in dyes], np.float64)
    out: list[int | None] = []
    for colour in colours:
        far = np.linalg.norm(table - np.array(colour, np.float64), axis=1)
        best = int(np.argmin(far))
        out.append(best if far[best] <= reach else None)
    return out


def distinct_colours(dyes: list[str]) -> list[Rgb]:
    """A colour for each class: its dye, or when an earlier class has that, the nearest free one, so
    that a picture reads back to the same classes."""
    taken: set[Rgb] = set()
    out = []
    for dye in dyes:
        red, green, blue = rgb_of(dye)
        step = 0
        while (red, green, blue) in taken:
            step += 1
            blue = (blue + step) % 256
        taken.add((red, green, blue))
        out.append((red, green, blue))
    return out


def dump_terrain(terrain: npt.NDArray[np.uint8], dyes: list[str], y_up: bool) -> bytes:
    """Terrain as a palette picture, one pixel a cell. terrain : (H, W) codes, rows growing with y."""
    from PIL import Image

    rows = terrain[::-1] if y_up else terrain
    picture = Image.fromarray(np.ascontiguousarray(rows)).convert("P")
    picture.putpalette([part for colour in distinct_colours(dyes) for part in colour])
    return _bytes(picture)


def save_terrain(terrain: npt.NDArray[np.uint8], dyes: list[str], y_up: bool, path: Path) -> None:
    """Write the picture, atomically. Raises FileProblem."""
    write_bytes(path, dump_terrain(terrain, dyes, y_up))


class Grey(Value):
    """A grey picture of heights: height = base + scale * value.

    values : (H, W) uint16, top row first.  depth : 8 or 16 bits.
    scale, base, nodata : as the picture itself says, or None.
    """

    values: npt.NDArray[np.uint16]
    depth: int
    scale: float | None = None
    base: float | None = None
    nodata: int | None = None

    @property
    def most(self) -> int:
        """The largest value of a pixel."""
        return (1 << self.depth) - 1

    def heights(self, scale: float, base: float, nodata: int | None) -> Heights:
        """(H, W) float32, top row first; NaN where the value is `nodata`."""
        out = (base + scale * self.values.astype(np.float64)).astype(np.float32)
        if nodata is not None:
            out[self.values == nodata] = np.nan
        return out


def load_grey(path: Path) -> Grey:
    """Read an 8 or 16-bit grey picture. Raises FileProblem."""
    return parse_grey(read_bytes(path, LARGEST), path)


def parse_grey(data: bytes, path: object = "picture") -> Grey:
    """`load_grey` from bytes."""
    picture = _opened(data, path)
    text: dict[str, str] = getattr(picture, "text", {})
    if picture.mode.startswith("I"):
        values, depth = np.asarray(picture).astype(np.uint16), 16
    elif picture.mode in ("L", "1"):
        values, depth = np.asarray(picture.convert("L")).astype(np.uint16), 8
    else:
        raise FileProblem(
            path,
            "",
            phrase(
                "is a colour picture ({mode}); heights are read from a grey one", mode=picture.mode
            ),
        )
    try:
        scale, base = (parse_number(text[key]) if key in text else None for key in (_SCALE, _BASE))
        nodata = parse_whole(text[_NODATA]) if _NODATA in text else None
    except ValueError as err:
        raise FileProblem(path, "text", phrase("its scale cannot be read: {err}", err=err)) from err
    if scale is not None and not (np.isfinite(scale) and scale > 0 and np.isfinite(base or 0.0)):
        raise FileProblem(
            path, "text", phrase("its scale must be a number above 0, not {scale:g}", scale=scale)
        )
    return Grey(values, depth, scale, base, nodata)


def whole_range(lowest: float, highest: float, depth: int, first: int = 0) -> tuple[float, float]:
    """(scale, base) that put the lowest height on grey `first` and the highest on the last."""
    scale = (highest - lowest) / ((1 << depth) - 1 - first) or 1.0
    return scale, lowest - first * scale


def grey_of(
    heights: Heights, depth: int, scale: float | None = None, base: float | None = None
) -> Grey:
    """Heights as grey values. Without a scale and a base the whole range of heights is used. Values
    are rounded to the nearest (halves up) and cut off at the ends. Unknown heights become 0, and then
    known ones begin at 1.

    heights : (H, W), as it lies on screen, the top row first.
    """
    most = (1 << depth) - 1
    unknown = np.isnan(heights)
    first = 1 if unknown.any() else 0
    known = heights[~unknown].astype(np.float64)
    lowest, highest = (float(known.min()), float(known.max())) if known.size else (0.0, 1.0)
    whole = whole_range(lowest, highest, depth, first)
    scale = whole[0] if scale is None else scale
    base = lowest - first * scale if base is None else base
    with np.errstate(invalid="ignore"):
        values = np.floor((heights.astype(np.float64) - base) / scale + 0.5)
    values = np.clip(np.where(unknown, UNKNOWN_GREY, values), 0, most)
    if first:
        values = np.where(unknown, UNKNOWN_GREY, np.maximum(values, 1))
    return Grey(values.astype(np.uint16), depth, scale, base, UNKNOWN_GREY if first else None)


def dump_grey(grey: Grey) -> bytes:
    """The bytes of a grey PNG, with its scale in text chunks."""
    from PIL import Image, PngImagePlugin

    pixels = grey.values if grey.depth == 16 else grey.values.astype(np.uint8)
    said = PngImagePlugin.PngInfo()
    said.add_text(_SCALE, repr(float(grey.scale or 1.0)))
    said.add_text(_BASE, repr(float(grey.base or 0.0)))
    if grey.nodata is not None:
        said.add_text(_NODATA, str(grey.nodata))
    return _bytes(Image.fromarray(np.ascontiguousarray(pixels)), said)


def save_grey(grey: Grey, path: Path) -> None:
    """Write the picture, atomically. Raises FileProblem."""
    write_bytes(path, dump_grey(grey))


def _bytes(picture: Image.Image, said: PngImagePlugin.PngInfo | None = None) -> bytes:
    out = io.BytesIO()
    picture.save(out, "PNG", pnginfo=said)
    return out.getvalue()
