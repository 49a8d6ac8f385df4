"""The map as a picture of an exact number of pixels a cell, for use as a background: no seam, no clipped edge."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Collection
from copy import copy
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Box
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.render import Raster, Scale
from woven_locus.files.map_frame import PLAIN_LOOK, Frame, MapLook, Swatch, frame_of
from woven_locus.files.map_svg import place_of_code

if TYPE_CHECKING:
    from PIL import Image, ImageFont

# Pixels of a cell where nothing is said, and of a picture at most.
PIXELS, MOST_PIXELS = 16, 120_000_000
# Rows of cells that are shaded together.
_STRIP = 16
# Pixels of the words around a map at least, and of a letter code.
LEAST_TEXT, _LEAST_CODE = 11, 7


class TooLarge(WovenError):
    """A picture of more pixels than one program should ask another to open."""


def shown(plan: Plan, hidden: Collection[str]) -> Plan:
    """A plan to be looked at only, without some of `map_frame.HIDEABLE`. It shares its arrays with the one that is given."""
    found = copy(plan)
    for name, layer in (("reserved", "reserved"), ("barriers", "barrier"), ("roads", "road")):
        if name in hidden:
            setattr(found, layer, np.zeros_like(getattr(plan, layer)))
    if "structures" in hidden:
        found.occupant = np.minimum(plan.occupant, 0)
    if "obstacles" in hidden:
        found.occupant = np.maximum(found.occupant, 0)
    return found


def scale_of(plan: Plan, pixels: int) -> Scale:
    """Pixels of a cell, of which the shorter side has so many. Raises TooLarge for none."""
    spec = plan.spec
    short = min(spec.cell_w, spec.cell_h)
    if pixels < 1:
        raise TooLarge(phrase("a cell has at least 1 pixel, not {pixels}", pixels=pixels))
    return Scale(round(pixels * spec.cell_w / short), round(pixels * spec.cell_h / short))


def size_of(plan: Plan, pixels: int, look: MapLook) -> tuple[int, int]:
    """Rows and columns of pixels of a map's area, without what stands around it. Raises TooLarge."""
    scale = scale_of(plan, pixels)
    rows, cols = look.box(plan).shape
    size = rows * scale.ph, cols * scale.pw
    if size[0] * size[1] > MOST_PIXELS:
        raise TooLarge(
            phrase(
                "{size:,} × {size2:,} pixels are more than {most_pixels:,}; ask for fewer pixels a cell",
                size=size[1],
                size2=size[0],
                most_pixels=MOST_PIXELS,
            )
        )
    return size


def map_pixels(
    plan: Plan,
    pixels: int = PIXELS,
    look: MapLook = PLAIN_LOOK,
    stopped: Callable[[], bool] = lambda: False,
) -> npt.NDArray[np.uint8]:
    """(rows * tall, cols * wide, 3) of the map's area, as on screen, without what stands around it. pixels : of a cell's
    shorter side, the longer one in proportion. Raises TooLarge; WovenError when stopped."""
    scale, box = scale_of(plan, pixels), look.box(plan)
    size, rows = size_of(plan, pixels, look), box.shape[0]
    raster = Raster(shown(plan, look.hidden), look.palette)
    found = np.empty((*size, 3), np.uint8)
    for top in range(0, rows, _STRIP):
        if stopped():
            raise WovenError(phrase("the picture was stopped"))
        last = min(top + _STRIP, rows)
        part = raster.shade(Box(box.r0 + top, box.c0, box.r0 + last, box.c1), scale)
        for channel, shift in enumerate((16, 8, 0)):
            found[top * scale.ph : last * scale.ph, :, channel] = part >> np.uint32(shift) & 0xFF
    return found


def frame_in(plan: Plan, pixels: int, look: MapLook) -> Frame:
    """What stands around a picture of so many pixels a cell."""
    scale = scale_of(plan, pixels)
    return frame_of(plan, look, scale.pw, scale.ph, LEAST_TEXT)


def map_png(
    plan: Plan,
    pixels: int = PIXELS,
    look: MapLook = PLAIN_LOOK,
    stopped: Callable[[], bool] = lambda: False,
) -> bytes:
    """`map_pixels` as a PNG, with scales and a legend around it where they are asked for."""
    from PIL import Image

    out = io.BytesIO()
    image = Image.fromarray(map_pixels(plan, pixels, look, stopped), "RGB")
    frame = frame_in(plan, pixels, look)
    if frame.marks:
        if look.legend and "structures" not in look.hidden:
            # The legend speaks of them.
            _codes(image, plan, look.box(plan), scale_of(plan, pixels))
        image = _framed(image, frame, look)
    image.save(out, "PNG", optimize=False)
    return out.getvalue()


def _codes(image: Image.Image, plan: Plan, box: Box, scale: Scale) -> None:
    """Letter codes on structures, where they can be read."""
    from PIL import ImageDraw

    size = 0.5 * scale.ph
    if size < _LEAST_CODE:
        return
    draw, face, spec = ImageDraw.Draw(image), _face(size, True), plan.spec
    numbers = np.unique(np.maximum(plan.occupant, 0))
    for number in numbers[numbers > 0].tolist():
        row = plan.register[number]
        x, y = place_of_code(plan, row)
        at = x / spec.cell_w - box.c0, y / spec.cell_h - box.r0
        draw.text(
            (at[0] * scale.pw, at[1] * scale.ph), plan.kinds[row.kind].code, "#FBF7EF", face, "mm"
        )


def _framed(image: Image.Image, frame: Frame, look: MapLook) -> Image.Image:
    from PIL import Image, ImageDraw

    left, top = math.ceil(frame.left), math.ceil(frame.top)
    whole = Image.new("RGB", frame.around(*image.size), look.palette.panel)
    whole.paste(image, (left, top))
    draw = ImageDraw.Draw(whole)
    faces = {bold: _face(frame.text, bold) for bold in (False, True)}
    for drawn in frame.marks:
        x, y = drawn.x + left - frame.left, drawn.y + top - frame.top
        if isinstance(drawn, Swatch):
            corner = round(x), round(y)
            far = round(x + max(1.0, drawn.wide)) - 1, round(y + max(1.0, drawn.tall)) - 1
            draw.rectangle((*corner, *far), drawn.colour)
        else:
            anchor = {"start": "lm", "middle": "mm", "end": "rm"}[drawn.anchor]
            draw.text((x, y), drawn.text, drawn.colour, faces[drawn.bold], anchor)
    return whole


def _face(size: float, bold: bool) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    """A face of the system that knows most scripts, or the one that comes with the library."""
    from PIL import ImageFont

    try:
        return ImageFont.truetype("DejaVuSans-Bold.ttf" if bold else "DejaVuSans.ttf", round(size))
    except OSError:
        return ImageFont.load_default(round(size))
