"""The map as a picture of an exact number of pixels a cell, for use as a background: no seam, no clipped edge."""

from __future__ import annotations

import io
from collections.abc import Callable, Collection
from copy import copy

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Box
from woven_locus.core.plan import Plan
from woven_locus.core.render import LIGHT, Palette, Raster, Scale

# What can be left out, and pixels of a cell where nothing is said, and of a picture at most.
HIDEABLE = ("reserved", "obstacles", "barriers", "roads", "structures")
PIXELS, MOST_PIXELS = 16, 120_000_000
# Rows of cells that are shaded together.
_STRIP = 16


class TooLarge(WovenError):
    """A picture of more pixels than one program should ask another to open."""


def shown(plan: Plan, hidden: Collection[str]) -> Plan:
    """A plan to be looked at only, without some of HIDEABLE. It shares its arrays with the one that is given."""
    found = copy(plan)
    for name, layer in (("reserved", "reserved"), ("barriers", "barrier"), ("roads", "road")):
        if name in hidden:
            setattr(found, layer, np.zeros_like(getattr(plan, layer)))
    if "structures" in hidden:
        found.occupant = np.minimum(plan.occupant, 0)
    if "obstacles" in hidden:
        found.occupant = np.maximum(found.occupant, 0)
    return found


def map_pixels(
    plan: Plan,
    pixels: int = PIXELS,
    palette: Palette = LIGHT,
    hidden: Collection[str] = (),
    stopped: Callable[[], bool] = lambda: False,
) -> npt.NDArray[np.uint8]:
    """(rows * tall, cols * wide, 3) of the whole map, as on screen. pixels : of a cell's shorter side, the longer one in
    proportion.  hidden : of HIDEABLE. Raises TooLarge, also for none; WovenError when stopped."""
    spec = plan.spec
    short = min(spec.cell_w, spec.cell_h)
    if pixels < 1:
        raise TooLarge(f"a cell has at least 1 pixel, not {pixels}")
    scale = Scale(round(pixels * spec.cell_w / short), round(pixels * spec.cell_h / short))
    size = spec.rows * scale.ph, spec.cols * scale.pw
    if size[0] * size[1] > MOST_PIXELS:
        raise TooLarge(
            f"{size[1]:,} × {size[0]:,} pixels are more than {MOST_PIXELS:,}; ask for fewer pixels a cell"
        )
    raster = Raster(shown(plan, hidden), palette)
    found = np.empty((*size, 3), np.uint8)
    for top in range(0, spec.rows, _STRIP):
        if stopped():
            raise WovenError("the picture was stopped")
        last = min(top + _STRIP, spec.rows)
        part = raster.shade(Box(top, 0, last, spec.cols), scale)
        for channel, shift in enumerate((16, 8, 0)):
            found[top * scale.ph : last * scale.ph, :, channel] = part >> np.uint32(shift) & 0xFF
    return found


def map_png(
    plan: Plan,
    pixels: int = PIXELS,
    palette: Palette = LIGHT,
    hidden: Collection[str] = (),
    stopped: Callable[[], bool] = lambda: False,
) -> bytes:
    """`map_pixels` as a PNG."""
    from PIL import Image

    out = io.BytesIO()
    image = Image.fromarray(map_pixels(plan, pixels, palette, hidden, stopped), "RGB")
    image.save(out, "PNG", optimize=False)
    return out.getvalue()
