"""Snapping rules, what they give, and their arithmetic written out.

With o the origin and s the step of an axis, each axis on its own:

* corner: ``o + floor((p - o) / s) * s``
* centre: ``o + (floor((p - o) / s) + 1/2) * s``
* intersection: ``o + floor((p - o) / s + 1/2) * s``

Halves go up (towards +infinity) and negatives are floored, never truncated.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadGrid
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid.spec import GridSpec


class Rule(Enum):
    CORNER = "corner"
    CENTRE = "centre"
    INTERSECTION = "intersection"


# What each rule adds before the floor (in steps), and after it.
_BEFORE = {Rule.CORNER: 0.0, Rule.CENTRE: 0.0, Rule.INTERSECTION: 0.5}
_AFTER = {Rule.CORNER: 0.0, Rule.CENTRE: 0.5, Rule.INTERSECTION: 0.0}


@dataclass(frozen=True, slots=True)
class SnapSettings:
    """The rule in force. A step of None is the cell's own size on that axis; world units."""

    rule: Rule = Rule.CENTRE
    step_x: float | None = None
    step_y: float | None = None

    def __post_init__(self) -> None:
        for step in (self.step_x, self.step_y):
            if step is not None and not (math.isfinite(step) and step > 0):
                raise BadGrid(f"a step must be a number above 0, not {step:g}")

    def steps(self, spec: GridSpec) -> tuple[float, float]:
        """(x, y) step in world units."""
        return self.step_x or spec.cell_w, self.step_y or spec.cell_h


@dataclass(frozen=True, slots=True)
class Snapped:
    """The answer of a rule for one point.

    at : the snapped place.  low, high : the half-open block of world within which the answer
    stays the same; its edges are where the rule would switch.
    """

    raw: Point
    at: Point
    low: Point
    high: Point


def _snap_axis(p: float, origin: float, step: float, rule: Rule) -> tuple[float, float, float]:
    """Snapped value, and the low and high switch points, of one axis."""
    before = _BEFORE[rule]
    k = math.floor((p - origin) / step + before)
    return (
        origin + (k + _AFTER[rule]) * step,
        origin + (k - before) * step,
        origin + (k - before + 1) * step,
    )


def snap(spec: GridSpec, settings: SnapSettings, x: float, y: float) -> Snapped:
    """Snap one world point. Points outside the grid snap to the lattice that goes on there."""
    step_x, step_y = settings.steps(spec)
    sx, low_x, high_x = _snap_axis(x, spec.origin_x, step_x, settings.rule)
    sy, low_y, high_y = _snap_axis(y, spec.origin_y, step_y, settings.rule)
    return Snapped(Point(x, y), Point(sx, sy), Point(low_x, low_y), Point(high_x, high_y))


def snap_many(
    spec: GridSpec, settings: SnapSettings, points: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """`snap` for many points at once; agrees with it bit for bit.

    points : (N, 2) float64 of (x, y), world units. Returns the same shape. Not changed in place.
    """
    if points.ndim != 2 or points.shape[1] != 2:
        raise BadGrid(f"points must be (N, 2), got {points.shape}")
    out = np.empty(points.shape, np.float64)
    origins = (spec.origin_x, spec.origin_y)
    before, after = _BEFORE[settings.rule], _AFTER[settings.rule]
    for axis, step in enumerate(settings.steps(spec)):
        line = points[:, axis] - origins[axis]
        line /= step
        if before:
            line += before
        np.floor(line, out=line)
        if after:
            line += after
        line *= step
        np.add(line, origins[axis], out=out[:, axis])
    return out


def low_cell(spec: GridSpec, x: float, y: float, cols: int, rows: int) -> Cell:
    """Lowest cell of a footprint of cols x rows cells that is centred under a world point.

    An odd side lands on a cell's centre and an even side on an intersection.
    """
    return Cell(
        math.floor((x - spec.origin_x) / spec.cell_w - cols / 2 + 0.5) + spec.first_col,
        math.floor((y - spec.origin_y) / spec.cell_h - rows / 2 + 0.5) + spec.first_row,
    )


def number(value: float) -> str:
    """A number as the working shows it: at most 4 decimals, no trailing zeros, a true minus."""
    text = f"{value:.4f}".rstrip("0").rstrip(".") if abs(value) < 1e12 else f"{value:.6g}"
    if text == "-0":
        text = "0"
    return text.replace("-", "\N{MINUS SIGN}")


def working(spec: GridSpec, settings: SnapSettings, x: float, y: float) -> list[str]:
    """The arithmetic of `snap` with its real numbers, one line a step, x before y."""
    lines = []
    rule = settings.rule
    step_x, step_y = settings.steps(spec)
    for name, p, origin, step in (
        ("x", x, spec.origin_x, step_x),
        ("y", y, spec.origin_y, step_y),
    ):
        before, after = _BEFORE[rule], _AFTER[rule]
        q = (p - origin) / step
        k = math.floor(q + before)
        snapped = origin + (k + after) * step
        minus = f"({number(origin)})" if origin < 0 else number(origin)
        lines.append(f"{name}: ({number(p)} \N{MINUS SIGN} {minus}) / {number(step)} = {number(q)}")
        if before:
            lines.append(f"   floor({number(q)} + 1/2) = {number(k)}")
        else:
            lines.append(f"   floor({number(q)}) = {number(k)}")
        factor = f"({number(k)} + 1/2)" if after else number(k)
        lines.append(
            f"   {number(origin)} + {factor} \N{MULTIPLICATION SIGN} {number(step)} = {number(snapped)}"
        )
    return lines
