"""Heights as a surface: slope, hill shade, smoothing, profiles, resampling.

Heights are (H, W) float arrays in world units, NaN where the height is not known (no-data). Rows grow
with y. Nothing here changes its input.
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Box
from woven_locus.core.phrase import mark, phrase

Floats = npt.NDArray[np.float32]
Doubles = npt.NDArray[np.float64]
Places = npt.NDArray[np.int64]
_Beside = tuple[Doubles, Doubles, float]


def gradient(
    heights: Floats, cell_w: float, cell_h: float, box: Box | None = None
) -> tuple[Floats, Floats]:
    """Rise per world unit along x and along y, for cells that need not be square.

    Central differences between the neighbours two cells apart; at an edge of the map, or beside a cell
    without a height, the difference to the one neighbour there is; 0 with none. NaN where the cell
    itself has no height. box : slots to answer for (all by default). Returns two (box) float32.
    """
    rows, cols = heights.shape
    box = box or Box(0, 0, rows, cols)
    wide = box.grown(1)
    known = wide.clipped((rows, cols))
    around = np.full(wide.shape, np.nan, np.float32)
    around[known.seen_from(wide).slices] = heights[known.slices]
    here = around[1:-1, 1:-1]
    across = _slope_along(around[1:-1, :-2], here, around[1:-1, 2:], cell_w)
    along = _slope_along(around[:-2, 1:-1], here, around[2:, 1:-1], cell_h)
    return across, along


def _slope_along(before: Floats, here: Floats, after: Floats, size: float) -> Floats:
    no_before, no_after = np.isnan(before), np.isnan(after)
    if not (no_before.any() or no_after.any()):
        rise = (after - before) / np.float32(2 * size)
    else:
        low, high = np.where(no_before, here, before), np.where(no_after, here, after)
        steps = np.float32(2) - no_before - no_after
        rise = (high - low) / (np.maximum(steps, 1) * np.float32(size))
    return np.asarray(np.where(np.isnan(here), np.float32(np.nan), rise), np.float32)


def slope(heights: Floats, cell_w: float, cell_h: float, box: Box | None = None) -> Floats:
    """Steepest rise per world unit of way: 1 is 45 degrees. See `gradient` for edges and no-data.

    Source: the tangent of the angle between the surface's normal and the vertical, |grad h|.
    """
    across, along = gradient(heights, cell_w, cell_h, box)
    steep: Floats = np.asarray(np.hypot(across, along), np.float32)
    return steep


def steeper(
    heights: Floats, cell_w: float, cell_h: float, rise: float, box: Box
) -> npt.NDArray[np.bool_]:
    """Where the surface is steeper than `rise` per world unit; False where its height is not known.

    As `slope`, but in float64, operation for operation as in `steeper_at`, so that the two never
    disagree. box : slots to answer for. Returns (box) bool.
    """
    wide = box.grown(1)
    known = wide.clipped(heights.shape)
    around = np.full(wide.shape, np.nan)
    around[known.seen_from(wide).slices] = heights[known.slices]
    if kernels.compiled_ready():
        out = np.empty(box.shape, np.bool_)
        kernels.steep(around, cell_w, cell_h, rise * rise, out)
        return out
    across = (around[1:-1, :-2], around[1:-1, 2:], cell_w)
    along = (around[:-2, 1:-1], around[2:, 1:-1], cell_h)
    return _steeper(around[1:-1, 1:-1], across, along, rise)


def steeper_among(
    heights: Floats, cell_w: float, cell_h: float, rise: float, rows: Places, cols: Places
) -> npt.NDArray[np.bool_]:
    """`steeper` for cells that lie anywhere on the map. rows, cols : of any one shape, which is returned, too."""

    def at(d_row: int, d_col: int) -> Doubles:
        r, c = rows + d_row, cols + d_col
        inside = (r >= 0) & (r < heights.shape[0]) & (c >= 0) & (c < heights.shape[1])
        there = heights.take(r * heights.shape[1] + c, mode="clip").astype(np.float64)
        return np.where(inside, there, np.nan)

    across, along = (at(0, -1), at(0, 1), cell_w), (at(-1, 0), at(1, 0), cell_h)
    return _steeper(at(0, 0), across, along, rise)


def _steeper(here: Doubles, across: _Beside, along: _Beside, rise: float) -> npt.NDArray[np.bool_]:
    """across, along : the heights of the cells before and after on that axis, and the size of a cell."""
    total = np.zeros(here.shape)
    for before, after, size in (across, along):
        no_before, no_after = np.isnan(before), np.isnan(after)
        steps = np.float64(2) - no_before - no_after
        way = np.where(no_after, here, after) - np.where(no_before, here, before)
        way /= np.maximum(steps, 1) * size
        total += way * way
    with np.errstate(invalid="ignore"):
        return np.asarray((total > rise * rise) & ~np.isnan(here))


def steeper_at(
    around: Sequence[Sequence[float]],
    row: int,
    col: int,
    cell_w: float,
    cell_h: float,
    rise: float,
) -> bool | None:
    """`steeper` for one cell; None where its height is not known.

    around : rows of heights with the cell and its four neighbours among them, NaN beyond the map.
    """
    here = around[row][col]
    if here != here:
        return None
    total = 0.0
    for before, after, size in (
        (around[row][col - 1], around[row][col + 1], cell_w),
        (around[row - 1][col], around[row + 1][col], cell_h),
    ):
        steps = 2 - (before != before) - (after != after)
        way = (here if after != after else after) - (here if before != before else before)
        way /= max(steps, 1) * size
        total += way * way
    return total > rise * rise


def hill_shade(
    heights: Floats, cell_w: float, cell_h: float, y_up: bool, box: Box | None = None
) -> Floats:
    """Brightness, 0 to 1, of the surface lit from the top left of the screen at 45 degrees; flat
    ground and ground without a height have 0.707.

    Source: J. H. Lambert, "Photometria" (1760): brightness goes with the cosine between the surface's
    normal and the light.
    """
    across, along = gradient(heights, cell_w, cell_h, box)
    light_x, light_y, light_z = -0.5, 0.5 if y_up else -0.5, np.sqrt(0.5)
    steep = np.sqrt(1 + across * across + along * along)
    lit = (light_z - light_x * across - light_y * along) / steep
    lit[np.isnan(lit)] = light_z
    bright: Floats = np.clip(lit, 0, 1).astype(np.float32, copy=False)
    return bright


def smoothed(heights: Floats, box: Box) -> Floats:
    """The mean of each cell of a box and its eight neighbours, of those that have a height; cells
    without one stay so. box : within the map."""
    wide = box.grown(1).clipped(heights.shape)
    part = heights[wide.slices].astype(np.float64)
    known = ~np.isnan(part)
    values = np.pad(np.where(known, part, 0), 1)
    counts = np.pad(known.astype(np.float64), 1)
    total, number = np.zeros_like(part), np.zeros_like(part)
    for d_row in range(3):
        for d_col in range(3):
            rows, cols = part.shape
            total += values[d_row : d_row + rows, d_col : d_col + cols]
            number += counts[d_row : d_row + rows, d_col : d_col + cols]
    mean = np.where(known, total / np.maximum(number, 1), np.nan).astype(np.float32)
    return mean[box.seen_from(wide).slices]


def profile(heights: Floats, points: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Heights along a line, between four cell centres each (bilinear).

    points : (N, 2) of (x, y) in cells from the low corner of the first, so that (0.5, 0.5) is a centre.
    Returns (N,) float64; NaN outside the map and beside a cell without a height.
    """
    rows, cols = heights.shape
    x, y = points[:, 0] - 0.5, points[:, 1] - 0.5
    inside = (x >= -0.5) & (x <= cols - 0.5) & (y >= -0.5) & (y <= rows - 0.5)
    x, y = np.clip(x, 0, cols - 1), np.clip(y, 0, rows - 1)
    c0, r0 = (
        np.minimum(x.astype(int), max(0, cols - 2)),
        np.minimum(y.astype(int), max(0, rows - 2)),
    )
    c1, r1 = np.minimum(c0 + 1, cols - 1), np.minimum(r0 + 1, rows - 1)
    u, v = x - c0, y - r0
    low = _blend(heights[r0, c0], heights[r0, c1], u)
    high = _blend(heights[r1, c0], heights[r1, c1], u)
    out = _blend(low, high, v)
    out[~inside] = np.nan
    return out


def _blend(
    a: npt.NDArray[np.floating], b: npt.NDArray[np.floating], share: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """a to b, without asking the one that has no part in it."""
    out = np.where(share == 0, a, a * (1 - share) + b * share)
    return np.where(share == 1, b, out).astype(np.float64)


class Fit(Enum):
    """How a raster of another size comes onto a map.

    STRETCH : resampled to the map's size.  LOW, MIDDLE, HIGH : cell for cell, its low corner, middle
    or high corner on the map's; what does not fit is cut off, what is not covered stays as it was.
    """

    STRETCH = "stretch"
    LOW = mark("low corner")
    MIDDLE = "middle"
    HIGH = mark("high corner")


def placed(raster_shape: tuple[int, int], shape: tuple[int, int], fit: Fit) -> tuple[Box, Box]:
    """Where an anchored raster goes: the box of the map and the box of the raster that match."""
    lows = []
    for have, want in zip(raster_shape, shape, strict=True):
        spare = want - have
        lows.append({Fit.LOW: 0, Fit.MIDDLE: spare // 2, Fit.HIGH: spare}.get(fit, 0))
    whole = Box(lows[0], lows[1], lows[0] + raster_shape[0], lows[1] + raster_shape[1])
    on_map = whole.clipped(shape)
    return on_map, on_map.seen_from(whole)


def fitted(
    raster: npt.NDArray[np.generic], under: npt.NDArray[np.generic], fit: Fit
) -> npt.NDArray[np.generic]:
    """A raster on a map of another size.

    raster : (h, w), heights (floating, blended between four values) or codes (whole numbers, the
    nearest).  under : (H, W), what stays where an anchored raster does not reach.
    Returns (H, W) of the raster's dtype. Raises BadPlan for a raster without cells.
    """
    if raster.ndim != 2 or not raster.size:
        raise BadPlan(
            "raster", phrase("expected rows and columns, got {shape}", shape=raster.shape)
        )
    shape = under.shape
    if fit is not Fit.STRETCH:
        out = under.astype(raster.dtype)
        on_map, of_raster = placed(raster.shape, (shape[0], shape[1]), fit)
        out[on_map.slices] = raster[of_raster.slices]
        return out
    if raster.shape == shape:
        return raster.copy()
    rows = (np.arange(shape[0]) + 0.5) * raster.shape[0] / shape[0]
    cols = (np.arange(shape[1]) + 0.5) * raster.shape[1] / shape[1]
    if raster.dtype.kind != "f":
        return raster[np.ix_(rows.astype(int), cols.astype(int))]
    out = np.empty(shape, raster.dtype)
    for row, y in enumerate(rows):
        out[row] = profile(raster, np.stack([cols, np.full(shape[1], y)], axis=1))  # type: ignore[arg-type]
    return out
