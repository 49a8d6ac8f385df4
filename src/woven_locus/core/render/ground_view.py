"""What is shown of the ground besides its terrain: an overlay of classes, and hill shade."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.cells import movement_costs
from woven_locus.core.derived.rules import BIT, Reason
from woven_locus.core.geometry import Box
from woven_locus.core.ground import relief
from woven_locus.core.phrase import mark, phrase
from woven_locus.core.placing.feasibility import (
    FREE,
    ONE_REASON,
    SEVERAL,
    TURNED,
    Feasibility,
)
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value

Codes = npt.NDArray[np.uint8]

# Classes of an overlay: 0 is unknown, then 1 to 7, each darker and more hatched than the one before.
COST_STEPS = (1.0, 1.5, 2.0, 3.0, 5.0)
SLOPE_STEPS = (2.0, 5.0, 10.0, 20.0, 35.0)
HEIGHT_BANDS = 6


class GroundOverlay(Enum):
    """What the ground is coloured by."""

    NONE = mark("Terrain")
    BUILDABLE = mark("Buildable")
    PASSABLE = mark("Passable")
    COST = mark("Move cost")
    SLOPE = mark("Slope")
    HEIGHT = mark("Height")
    WHERE = mark("Where could it go")

    @property
    def needs_heights(self) -> bool:
        """Whether there is nothing to show of a plan without heights."""
        return self in (GroundOverlay.SLOPE, GroundOverlay.HEIGHT)


class GroundView(Value):
    """overlay : what the ground is coloured by.  shade : whether hills are shaded.
    contours : whether contour lines are drawn.  lowest, highest : the range of the height bands, world
    units; see `HeightRange`.  where : the map that WHERE shows.  any_turn : see
    `Feasibility.shades`."""

    overlay: GroundOverlay = GroundOverlay.NONE
    shade: bool = False
    contours: bool = False
    lowest: float = 0.0
    highest: float = 0.0
    where: Feasibility | None = None
    any_turn: bool = False

    def codes(self, plan: Plan, box: Box, skip: int = 1) -> Codes:
        """The overlay's class of each cell of a box, or of each skip-th, as rows of the screen: uint8."""
        if self.overlay is GroundOverlay.WHERE and self.where is not None:
            # Only what is shown is looked at: a tile of a large map has millions of cells.
            return self.where.shades(box, self.any_turn, skip, plan.spec.y_up)
        codes = _CODES[self.overlay](self, plan, box)
        return (codes[::-1] if plan.spec.y_up else codes)[::skip, ::skip]

    def light(self, plan: Plan, box: Box, skip: int = 1) -> npt.NDArray[np.float32]:
        """Factor on the brightness of each cell, or of each skip-th; 1 on flat ground."""
        assert plan.heights is not None
        spec = plan.spec
        if skip == 1:
            lit = relief.hill_shade(plan.heights, spec.cell_w, spec.cell_h, spec.y_up, box)
        else:
            # Rows are counted from the edge of the box that comes first on screen.
            part = plan.heights[box.slices]
            part = part[::-1][::skip][::-1] if spec.y_up else part[::skip]
            lit = relief.hill_shade(
                part[:, ::skip], spec.cell_w * skip, spec.cell_h * skip, spec.y_up
            )
        return np.float32(0.45) + lit * np.float32(0.55 / np.sqrt(0.5))

    def legend(self, plan: Plan) -> list[tuple[int, str]]:
        """(class, what it means) for those that there can be."""
        unit = plan.spec.unit
        if self.overlay is GroundOverlay.BUILDABLE:
            return [(code, words) for code, words in _BUILDABLE_WORDS]
        if self.overlay is GroundOverlay.PASSABLE:
            return [(1, phrase("walked freely")), (7, phrase("no way"))]
        if self.overlay is GroundOverlay.COST:
            return [*_ranges(COST_STEPS, "×"), (7, phrase("no way"))]
        if self.overlay is GroundOverlay.SLOPE:
            return [*_ranges(SLOPE_STEPS, "°"), (0, phrase("height unknown"))]
        if self.overlay is GroundOverlay.WHERE:
            free = (
                phrase("it fits, turned or not")
                if self.any_turn
                else phrase("it fits as it is turned")
            )
            rows: list[tuple[int, str]] = [
                (FREE, free),
                (ONE_REASON, phrase("one rule forbids it")),
                (SEVERAL, phrase("several do")),
            ]
            one_turn = self.where is not None and len(self.where.kind.all_turns) == 1
            if one_turn:
                return [(FREE, phrase("it fits")), *rows[1:]]
            return (
                rows
                if self.any_turn
                else [rows[0], (TURNED, phrase("turned another way")), *rows[1:]]
            )
        if self.overlay is GroundOverlay.HEIGHT:
            edges = np.linspace(self.lowest, self.highest, HEIGHT_BANDS + 1)
            rows = [
                (
                    k + 1,
                    phrase(
                        "{edges:.4g} to {edges2:.4g} {unit}",
                        edges=edges[k],
                        edges2=edges[k + 1],
                        unit=unit,
                    ),
                )
                for k in range(HEIGHT_BANDS)
            ]
            return [*rows, (0, phrase("height unknown"))]
        return []


def _ranges(steps: tuple[float, ...], unit: str) -> list[tuple[int, str]]:
    rows = [(1, phrase("up to {steps:g}{unit}", steps=steps[0], unit=unit))]
    for k in range(1, len(steps)):
        rows.append(
            (
                k + 1,
                phrase(
                    "{steps:g} to {steps2:g}{unit}", steps=steps[k - 1], steps2=steps[k], unit=unit
                ),
            )
        )
    return [*rows, (len(steps) + 1, phrase("above {steps:g}{unit}", steps=steps[-1], unit=unit))]


_BUILDABLE_WORDS = (
    (1, phrase("may be built on")),
    (2, "reserved"),
    (4, phrase("terrain forbids it")),
    (6, phrase("an obstacle")),
    (7, phrase("outside the window")),
)


def _plain(_view: GroundView, _plan: Plan, box: Box) -> Codes:
    return np.ones(box.shape, np.uint8)


def _buildable(_view: GroundView, plan: Plan, box: Box) -> Codes:
    bits = plan.blocks[box.slices]
    out = np.ones(box.shape, np.uint8)
    for reason, code in (
        (Reason.RESERVED, 2),
        (Reason.TERRAIN, 4),
        (Reason.OBSTACLE, 6),
        (Reason.OUTSIDE, 7),
    ):
        out[bits & BIT[reason] != 0] = code
    return out


def _passable(_view: GroundView, plan: Plan, box: Box) -> Codes:
    return np.where(plan.movement[box.slices] == 0, np.uint8(7), np.uint8(1))


def _cost(_view: GroundView, plan: Plan, box: Box) -> Codes:
    costs = movement_costs(plan)
    table = (np.searchsorted(COST_STEPS, costs, "left") + 1).astype(np.uint8)
    table[np.isinf(costs)] = 7
    return table[plan.movement[box.slices]]


def _slope(_view: GroundView, plan: Plan, box: Box) -> Codes:
    if plan.heights is None:
        return np.zeros(box.shape, np.uint8)
    steep = relief.slope(plan.heights, plan.spec.cell_w, plan.spec.cell_h, box)
    edges = np.tan(np.radians(SLOPE_STEPS)).astype(np.float32)
    return _banded(np.searchsorted(edges, steep, "left") + 1, steep)


def _height(view: GroundView, plan: Plan, box: Box) -> Codes:
    if plan.heights is None:
        return np.zeros(box.shape, np.uint8)
    part = plan.heights[box.slices]
    span = view.highest - view.lowest
    with np.errstate(invalid="ignore"):
        band = np.floor((part - view.lowest) * np.float32(HEIGHT_BANDS / span if span else 0))
        return _banded(np.clip(band, 0, HEIGHT_BANDS - 1) + 1, part)


def _banded(codes: npt.NDArray[np.generic], values: npt.NDArray[np.float32]) -> Codes:
    return np.where(np.isnan(values), 0, codes).astype(np.uint8)


_CODES: dict[GroundOverlay, Callable[[GroundView, Plan, Box], Codes]] = {
    GroundOverlay.NONE: _plain,
    GroundOverlay.BUILDABLE: _buildable,
    GroundOverlay.PASSABLE: _passable,
    GroundOverlay.COST: _cost,
    GroundOverlay.SLOPE: _slope,
    GroundOverlay.HEIGHT: _height,
    GroundOverlay.WHERE: _plain,
}
