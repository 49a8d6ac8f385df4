"""Snapping rules, what they give, and their arithmetic written out.

With o the origin and s the step of an axis, each axis on its own:

* corner: ``o + floor((p - o) / s) * s``
* centre: ``o + (floor((p - o) / s) + 1/2) * s``
* intersection: ``o + floor((p - o) / s + 1/2) * s``

Halves go up (towards +infinity) and negatives are floored, never truncated. A lattice of every nth
step keeps the corner rule's floor and the nearest place of the other two, among fewer places.
"""

from __future__ import annotations

import math
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadGrid
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid.axis import Axis
from woven_locus.core.grid.spec import GridSpec, checked_points
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

MOST_LATTICE = 10_000
LARGEST_HELD = 64


class Rule(Enum):
    """Where a point snaps to."""

    CORNER = "corner"
    CENTRE = "centre"
    INTERSECTION = "intersection"


class Holding(Enum):
    """What the pointer has in hand: nothing with a size, a footprint, or an object with its own
    origin at its low corner."""

    POINT = "point"
    FOOTPRINT = "footprint"
    OBJECT = "object"


class SnapSettings(Value):
    """The rule in force.

    step_x, step_y : None is the cell's own size on that axis; else world units, or cells when
    `in_cells`.
    every_x, every_y : only every nth step is on the lattice.  offset_x, offset_y : the first of them.
    hold_x, hold_y : a world value that this axis is held at, so that a line stays straight.
    holding : with FOOTPRINT, `held` is its columns and rows, and the footprint is centred under the
    pointer whatever the rule (an odd count on a centre, an even one on an intersection). With OBJECT,
    `held` is its world size, and `Snapped.origin` is half of it below the snapped place.
    Raises BadGrid.
    """

    rule: Rule = Rule.CENTRE
    step_x: float | None = None
    step_y: float | None = None
    in_cells: bool = False
    every_x: int = 1
    every_y: int = 1
    offset_x: int = 0
    offset_y: int = 0
    hold_x: float | None = None
    hold_y: float | None = None
    holding: Holding = Holding.POINT
    held: tuple[float, float] = (1, 1)

    def __post_init__(self) -> None:
        for step in (self.step_x, self.step_y):
            if step is not None and not (math.isfinite(step) and step > 0):
                raise BadGrid(phrase("a step must be a number above 0, not {step:g}", step=step))
        for every in (self.every_x, self.every_y):
            if not 1 <= every <= MOST_LATTICE:
                raise BadGrid(
                    phrase(
                        "a lattice takes every 1st to {most_lattice}th cell, not {every}",
                        most_lattice=MOST_LATTICE,
                        every=every,
                    )
                )
        for hold in (self.hold_x, self.hold_y):
            if hold is not None and not math.isfinite(hold):
                raise BadGrid(phrase("an axis is held at a finite number, not {hold:g}", hold=hold))
        for side in self.held:
            if not (math.isfinite(side) and side > 0):
                raise BadGrid(phrase("what is held has a size above 0, not {side:g}", side=side))
            if self.holding is Holding.FOOTPRINT and (side % 1 or side > LARGEST_HELD):
                raise BadGrid(
                    phrase(
                        "a footprint is 1 to {largest_held} whole cells a side, not {side:g}",
                        largest_held=LARGEST_HELD,
                        side=side,
                    )
                )

    @property
    def kept(self) -> SnapSettings:
        """What of it belongs to a plan: not the axes that are held, nor what is held."""
        return SnapSettings(
            *(self.rule, self.step_x, self.step_y, self.in_cells),
            *(self.every_x, self.every_y, self.offset_x, self.offset_y),
        )

    def steps(self, spec: GridSpec) -> tuple[float, float]:
        """(x, y) step in world units, before the lattice."""
        scale = (spec.cell_w, spec.cell_h) if self.in_cells else (1.0, 1.0)
        return (
            self.step_x * scale[0] if self.step_x else spec.cell_w,
            self.step_y * scale[1] if self.step_y else spec.cell_h,
        )

    @property
    def holds(self) -> tuple[float | None, float | None]:
        """Whether an axis is held where it was."""
        return self.hold_x, self.hold_y

    def axes(self, spec: GridSpec) -> tuple[Axis, Axis]:
        """The rule on x and on y."""
        step_x, step_y = self.steps(spec)
        x = self._axis(spec.origin_x, step_x, spec.cell_w, self.every_x, self.offset_x, 0)
        y = self._axis(spec.origin_y, step_y, spec.cell_h, self.every_y, self.offset_y, 1)
        return x, y

    def _axis(
        self, origin: float, step: float, cell: float, every: int, offset: int, way: int
    ) -> Axis:
        if self.holding is Holding.FOOTPRINT:
            # Halves of a cell, exact: low cell floor(q - n/2 + 1/2), and n/2 on from there.
            half = self.held[way] / 2
            return Axis(origin, cell, 0.5 - half, half)
        return rule_axis(self.rule, origin, step, every, offset)


# How points snap in a plan that says nothing of it.
PLAIN_SNAP = SnapSettings()


def rule_axis(rule: Rule, origin: float, step: float, every: int = 1, offset: int = 0) -> Axis:
    """A rule as numbers. every, offset : the lattice, in steps."""
    origin, whole = origin + offset * step if offset else origin, step * every
    if rule is Rule.CORNER:
        return Axis(origin, whole)
    if rule is Rule.INTERSECTION:
        return Axis(origin, whole, 0.5)
    # The centre of a step is half a step on; the nearest such place switches half way between two.
    return Axis(origin, whole, 0.5 - 0.5 / every, 0.5 / every)


class Snapped(Value):
    """The answer of a rule for one point.

    at : the snapped place.  low, high : the half-open block of world within which the answer
    stays the same; its edges are where the rule would switch (infinite on an axis that is held).
    origin : where the held thing's own origin goes; `at` unless an object or a footprint is held.
    """

    raw: Point
    at: Point
    low: Point
    high: Point
    origin: Point


def snap(spec: GridSpec, settings: SnapSettings, x: float, y: float) -> Snapped:
    """Snap one world point. Points outside the grid snap to the lattice that goes on there.

    Raises BadGrid for a point that is not finite or too far out to count steps.
    """
    at, low, high = [], [], []
    for p, axis, held in zip((x, y), settings.axes(spec), settings.holds, strict=True):
        k = axis.index(p)
        at.append(axis.value(k) if held is None else held)
        low.append(axis.border(k) if held is None else -math.inf)
        high.append(axis.border(k + 1) if held is None else math.inf)
    half = (0.0, 0.0)
    if settings.holding is Holding.OBJECT:
        half = settings.held[0] / 2, settings.held[1] / 2
    elif settings.holding is Holding.FOOTPRINT:
        half = settings.held[0] / 2 * spec.cell_w, settings.held[1] / 2 * spec.cell_h
    origin = Point(at[0] - half[0], at[1] - half[1])
    return Snapped(Point(x, y), Point(*at), Point(*low), Point(*high), origin)


def snap_many(
    spec: GridSpec, settings: SnapSettings, points: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """`snap` for many points at once; agrees with it bit for bit.

    points : (N, 2) float64 of (x, y), world units. Returns the same shape. Not changed in place.
    Raises BadGrid, naming the row, for a point that is not finite or too far out.
    """
    checked_points(points)
    out = np.empty(points.shape, np.float64)
    for at, (axis, held) in enumerate(zip(settings.axes(spec), settings.holds, strict=True)):
        if held is None:
            out[:, at] = axis.values(axis.indices(points[:, at]))
        else:
            out[:, at] = held
    return out


def low_cell(spec: GridSpec, x: float, y: float, cols: int, rows: int) -> Cell:
    """Lowest cell of a footprint of cols x rows cells that is centred under a world point.

    An odd side lands on a cell's centre and an even side on an intersection.
    """
    return Cell(
        Axis(spec.origin_x, spec.cell_w, 0.5 - cols / 2).index(x) + spec.first_col,
        Axis(spec.origin_y, spec.cell_h, 0.5 - rows / 2).index(y) + spec.first_row,
    )


def number(value: float) -> str:
    """A number as the working shows it: at most 4 decimals, no trailing zeros, a true minus."""
    text = f"{value:.4f}".rstrip("0").rstrip(".") if abs(value) < 1e12 else f"{value:.6g}"
    if text == "-0":
        text = "0"
    return text.replace("-", "\N{MINUS SIGN}")


def _added(value: float) -> str:
    """`` + 1/2`` and the like, or nothing for 0."""
    if not value:
        return ""
    sign = "+" if value > 0 else "\N{MINUS SIGN}"
    return f" {sign} {'1/2' if abs(value) == 0.5 else number(abs(value))}"


def working(spec: GridSpec, settings: SnapSettings, x: float, y: float) -> list[str]:
    """The arithmetic of `snap` with its real numbers, one line a step, x before y."""
    lines: list[str] = []
    for name, p, axis, held in zip(
        ("x", "y"), (x, y), settings.axes(spec), settings.holds, strict=True
    ):
        if held is not None:
            lines.append(phrase("{name}: held at {held}", name=name, held=number(held)))
            continue
        k = axis.index(p)
        q = (p - axis.origin) / axis.step
        minus = f"({number(axis.origin)})" if axis.origin < 0 else number(axis.origin)
        lines.append(
            f"{name}: ({number(p)} \N{MINUS SIGN} {minus}) / {number(axis.step)} = {number(q)}"
        )
        lines.append(f"   floor({number(q)}{_added(axis.before)}) = {number(k)}")
        if math.floor(q + axis.before) != k:
            lines.append(
                phrase(
                    "   since border {floor} as a float lies beside it",
                    floor=math.floor(q + axis.before),
                )
            )
        factor = f"({number(k)}{_added(axis.after)})" if axis.after else number(k)
        lines.append(
            f"   {number(axis.origin)} + {factor} \N{MULTIPLICATION SIGN} {number(axis.step)}"
            f" = {number(axis.value(k))}"
        )
    if settings.holding is Holding.OBJECT:
        at = snap(spec, settings, x, y)
        for name, value, side, origin in zip(
            ("x", "y"), at.at, settings.held, at.origin, strict=True
        ):
            lines.append(
                f"{name}: {number(value)} \N{MINUS SIGN} {number(side)} / 2 = {number(origin)}"
            )
    return lines
