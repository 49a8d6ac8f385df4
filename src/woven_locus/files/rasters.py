"""Heights and terrain from rasters that others made: grids and pictures, fitted under a plan."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing import Edit, LayerChange, Patch
from woven_locus.core.ground.relief import Fit, fitted
from woven_locus.core.layers import checked_heights
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Heights, Plan
from woven_locus.core.value import replace
from woven_locus.files import ascii_grid, pictures
from woven_locus.files.atomic import read_bytes

Source = Heights | pictures.Grey


def heights_source(path: Path) -> tuple[Source, str]:
    """Heights from an ASCII grid (an array, top row first) or a grey PNG, told apart by what the file
    begins with; and what it is, in words. Raises FileProblem."""
    data = read_bytes(path, max(ascii_grid.LARGEST, pictures.LARGEST))
    if data.startswith(b"\x89PNG"):
        grey = pictures.parse_grey(data, path)
        tall, wide = grey.values.shape
        return grey, phrase(
            "{depth}-bit grey picture, {wide} × {tall}", depth=grey.depth, wide=wide, tall=tall
        )
    values = ascii_grid.parse(data, path).heights
    return values, phrase(
        "ASCII grid, {shape} × {shape2}", shape=values.shape[1], shape2=values.shape[0]
    )


def scaled(
    source: Source,
    scale: float | None = None,
    base: float | None = None,
    nodata: int | None = None,
) -> Heights:
    """Heights, top row first, as base + scale x value.

    scale, base, nodata : those of the picture itself, or 1, 0 and none, when left out.
    """
    if isinstance(source, pictures.Grey):
        own = (
            1.0 if source.scale is None else source.scale,
            0.0 if source.base is None else source.base,
        )
        return source.heights(
            own[0] if scale is None else scale,
            own[1] if base is None else base,
            source.nodata if nodata is None else nodata,
        )
    if scale in (None, 1.0) and not base:
        return source
    out = source * np.float32(1.0 if scale is None else scale) + np.float32(base or 0.0)
    return np.asarray(out, np.float32)


def described(lowest: float, highest: float, unknown: int) -> str:
    """A range of heights, and how many cells are unknown, in words. NaN for no known height."""
    if lowest != lowest:
        return phrase("no height known")
    span = phrase("{lowest:.6g} to {highest:.6g}", lowest=lowest, highest=highest)
    return (
        phrase("{span}, {unknown:,} cells unknown", span=span, unknown=unknown) if unknown else span
    )


def thinned(source: Source, every: int) -> Source:
    """Every nth row and column of a source, for a picture of it."""
    if isinstance(source, pictures.Grey):
        return replace(source, values=source.values[::every, ::every])
    return source[::every, ::every]


class Spread:
    """The range of a source's own values, worked out once, so that a scale can be tried at once."""

    def __init__(self, source: Source) -> None:
        self._greys: npt.NDArray[np.int64] | None = None
        if isinstance(source, pictures.Grey):
            self._greys = np.zeros(source.most + 1, np.int64)
            flat = source.values.ravel()
            for at in range(0, len(flat), 1 << 20):
                self._greys += np.bincount(flat[at : at + (1 << 20)], minlength=source.most + 1)
            return
        self._range = (
            float(np.fmin.reduce(source, axis=None)),
            float(np.fmax.reduce(source, axis=None)),
        )
        self._unknown = int(np.count_nonzero(np.isnan(source)))

    def scaled(
        self, scale: float, base: float, nodata: int | None = None
    ) -> tuple[float, float, int]:
        """(lowest, highest, unknown cells) as base + scale x value; NaN when none is known."""
        if self._greys is None:
            ends, unknown = self._range, self._unknown
        else:
            greys = self._greys.copy()
            unknown = 0
            if nodata is not None and 0 <= nodata < len(greys):
                unknown, greys[nodata] = int(greys[nodata]), 0
            seen = np.flatnonzero(greys)
            ends = (float(seen[0]), float(seen[-1])) if len(seen) else (np.nan, np.nan)
        low, high = sorted((base + scale * ends[0], base + scale * ends[1]))
        return low, high, unknown


def _laid(raster: npt.NDArray[np.generic], plan: Plan) -> npt.NDArray[np.generic]:
    """A raster with its top row first, in rows of the plan."""
    return raster[::-1] if plan.spec.y_up else raster


def heights_edit(plan: Plan, values: Heights, fit: Fit, name: str) -> Edit:
    """Put heights, top row first, under a plan. Where an anchored raster does not reach, heights stay
    as they were, or unknown. Raises BadPlan."""
    under = plan.heights
    if under is None:
        under = np.full(plan.spec.shape, np.nan, np.float32)
    after = checked_heights(plan.spec, fitted(_laid(values, plan), under, fit))  # type: ignore[arg-type]
    return Edit(
        phrase("Heights from {name}", name=name), (LayerChange("heights", plan.heights, after),)
    )


def terrain_edit(
    plan: Plan,
    picture: pictures.Picture,
    classes: list[int | None],
    fit: Fit,
    name: str,
) -> Edit:
    """Put terrain from a picture under a plan. classes : a terrain code for each colour of the picture,
    or None for colours whose cells stay as they were. Raises BadPlan."""
    keep = np.uint8(255)
    table = np.array([keep if code is None else code for code in classes], np.uint8)
    codes = table[picture.codes]
    under = np.full(plan.spec.shape, keep)
    laid = fitted(_laid(codes, plan), under, fit).astype(np.uint8)
    after = np.where(laid == keep, plan.terrain, laid)
    patch = Patch.of_block(plan, "terrain", plan.spec.box, after)
    return Edit(phrase("Terrain from {name}", name=name), (patch,) if patch else ())
