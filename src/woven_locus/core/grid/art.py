"""Does a picture fit the cells it is drawn for?"""

from __future__ import annotations

import math

from woven_locus.core.errors import BadGrid
from woven_locus.core.grid.snapping import number
from woven_locus.core.grid.spec import GridSpec
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value


class Art(Value):
    """A picture meant for a block of cells.

    width, height : pixels.  per_unit : pixels for one world unit.  cols, rows : the block.
    Raises BadGrid.
    """

    width: int
    height: int
    per_unit: float
    cols: int = 1
    rows: int = 1

    def __post_init__(self) -> None:
        if min(self.width, self.height, self.cols, self.rows) < 1:
            raise BadGrid(phrase("art has at least one pixel and covers at least one cell a side"))
        if not (math.isfinite(self.per_unit) and self.per_unit > 0):
            raise BadGrid(
                phrase(
                    "pixels for a unit must be a number above 0, not {per_unit:g}",
                    per_unit=self.per_unit,
                )
            )

    @property
    def size(self) -> tuple[float, float]:
        """Its size in world units."""
        return self.width / self.per_unit, self.height / self.per_unit


class Fitting(Value):
    """One axis of an art check. size : the art, units.  span : the cells, units.
    over : art beyond its cells (an overlap when above 0, a gap when below), units and pixels.
    exact : the nearest whole number of pixels that tiles exactly, or None when there is none.
    per_unit : with no exact size, the nearest pixels for a unit that would have one."""

    size: float
    span: float
    over: float
    over_px: float
    exact: int | None
    per_unit: float | None

    @property
    def fits(self) -> bool:
        """Whether the picture fills whole cells."""
        return self.over == 0


def check(spec: GridSpec, art: Art) -> tuple[Fitting, Fitting]:
    """The art against its cells, along x and y.

    Pixels are compared with pixels: the span in pixels is exact when it is a whole number to within
    the rounding of one product.
    """
    found = []
    for pixels, count, cell in (
        (art.width, art.cols, spec.cell_w),
        (art.height, art.rows, spec.cell_h),
    ):
        span = count * cell
        wanted = span * art.per_unit
        whole = round(wanted)
        exact = whole >= 1 and math.isclose(wanted, whole, rel_tol=1e-12)
        over_px = 0.0 if exact and whole == pixels else pixels - wanted
        better = None if exact else max(1, whole) / span
        found.append(
            Fitting(
                pixels / art.per_unit,
                span,
                over_px / art.per_unit,
                over_px,
                whole if exact else None,
                better,
            )
        )
    return found[0], found[1]


def words(spec: GridSpec, art: Art) -> list[str]:
    """The check as lines to read."""
    lines: list[str] = []
    for name, fit, pixels in zip(
        ("across", "down"), check(spec, art), (art.width, art.height), strict=True
    ):
        head = phrase(
            "{name}: {pixels} px = {size} of {span} {unit}",
            name=name,
            pixels=pixels,
            size=number(fit.size),
            span=number(fit.span),
            unit=spec.unit,
        )
        if fit.fits:
            lines.append(phrase("{head}: tiles exactly", head=head))
            continue
        kind = phrase("overlap") if fit.over > 0 else phrase("gap")
        lines.append(
            phrase(
                "{head}: {kind} of {over} ({over_px} px)",
                head=head,
                kind=kind,
                over=number(abs(fit.over)),
                over_px=number(abs(fit.over_px)),
            )
        )
        if fit.exact is not None:
            lines.append(phrase("   {exact} px would tile exactly", exact=fit.exact))
        elif fit.per_unit is not None:
            lines.append(
                phrase(
                    "   no whole size tiles; {per_unit:.6g} px a unit would have one",
                    per_unit=fit.per_unit,
                )
            )
    return lines
