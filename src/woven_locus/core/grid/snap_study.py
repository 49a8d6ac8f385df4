"""Snapping rules side by side on one axis: where each jumps, where two disagree, and the wrong
variants that are met with most, so that a bug can be known by its picture."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadGrid
from woven_locus.core.grid.axis import Axis
from woven_locus.core.grid.snapping import Rule, SnapSettings, rule_axis
from woven_locus.core.grid.spec import GridSpec
from woven_locus.core.phrase import capital, phrase
from woven_locus.core.value import Value

Floats = npt.NDArray[np.float64]

# Steps that are studied at once; more would be a grey wash.
MOST_STEPS = 400


class Curve(Value):
    """One way to snap. wrong : empty for a rule, else the mistake in words.
    like : for a wrong variant the key of the rule that it fails to be."""

    key: str
    name: str
    snap: Callable[[Floats], Floats]
    wrong: str = ""
    like: str = ""


class Study(Value):
    """One axis of a grid under the settings in force.

    axis : "x" or "y".  origin, step : of that axis.  cell : its cell size, what a wrong variant takes.
    curves : the three rules, the one in force when it is none of them, and the wrong variants.
    """

    axis: str
    origin: float
    step: float
    curves: tuple[Curve, ...]
    every: int = 1

    def curve(self, key: str) -> Curve:
        """A curve by its key. Raises KeyError."""
        return next(curve for curve in self.curves if curve.key == key)

    def places(self, low: float, high: float) -> Floats:
        """Every place in a range where some curve may jump, ascending. Raises BadGrid for a range with
        too many steps."""
        count = (high - low) / self.step
        if not 0 < count <= MOST_STEPS:
            raise BadGrid(
                phrase(
                    "{count:,.0f} steps are too many to study at once; the most is {most_steps}",
                    count=count,
                    most_steps=MOST_STEPS,
                )
            )
        found = []
        # Halves of a step from the origin, and from 0 for who forgets the origin; with a lattice the
        # places between two of its points are no multiple of that.
        part = self.step / 2 if self.every == 1 else self.step / (2 * self.every)
        for zero in (self.origin, 0.0):
            first, last = math.floor((low - zero) / part), math.ceil((high - zero) / part)
            found.append(zero + np.arange(first, last + 1) * part)
        places = np.unique(np.concatenate(found))
        return places[(places >= low) & (places <= high)]

    def segments(self, key: str, low: float, high: float) -> list[tuple[float, float, float]]:
        """A curve as level pieces: (from, to, snapped), the jumps lying between them."""
        curve = self.curve(key)
        edges = np.unique(np.concatenate([[low], self.places(low, high), [high]]))
        middles = (edges[:-1] + edges[1:]) / 2
        values = curve.snap(middles)
        pieces: list[tuple[float, float, float]] = []
        for a, b, value in zip(
            edges[:-1].tolist(), edges[1:].tolist(), values.tolist(), strict=True
        ):
            if pieces and pieces[-1][2] == value:
                pieces[-1] = (pieces[-1][0], b, value)
            else:
                pieces.append((a, b, value))
        return pieces

    def jumps(self, key: str, low: float, high: float) -> list[float]:
        """Where a curve jumps, within a range."""
        return [piece[0] for piece in self.segments(key, low, high)[1:]]

    def disagreements(
        self, a: str, b: str, low: float, high: float
    ) -> tuple[list[tuple[float, float]], list[float]]:
        """Where two curves differ: stretches, and single places (exact halves, borders) between which
        they agree."""
        one, two = self.curve(a), self.curve(b)
        edges = np.unique(np.concatenate([[low], self.places(low, high), [high]]))
        middles = (edges[:-1] + edges[1:]) / 2
        apart = one.snap(middles) != two.snap(middles)
        at_edges = one.snap(edges) != two.snap(edges)
        stretches: list[tuple[float, float]] = []
        for k in np.flatnonzero(apart).tolist():
            left, right = float(edges[k]), float(edges[k + 1])
            if stretches and stretches[-1][1] == left:
                stretches[-1] = (stretches[-1][0], right)
            else:
                stretches.append((left, right))
        single = [
            float(edges[k])
            for k in np.flatnonzero(at_edges).tolist()
            if not (k > 0 and apart[k - 1]) and not (k < len(apart) and apart[k])
        ]
        return stretches, single


class Case(NamedTuple):
    """A worked case. why : what it shows.  values : snapped by each curve of the study, in order."""

    raw: float
    why: str
    values: tuple[float, ...]


def study(spec: GridSpec, settings: SnapSettings, axis: str) -> Study:
    """The study of one axis, "x" or "y"."""
    way = "xy".index(axis)
    origin = (spec.origin_x, spec.origin_y)[way]
    step = settings.steps(spec)[way]
    every = (settings.every_x, settings.every_y)[way]
    offset = (settings.offset_x, settings.offset_y)[way]
    curves = [
        Curve(
            rule.value,
            capital(phrase(rule.value)),
            _of(rule_axis(rule, origin, step, every, offset)),
        )
        for rule in Rule
    ]
    in_force = settings.axes(spec)[way]
    held = settings.holds[way]
    if held is not None:
        curves.append(Curve("force", phrase("In force: held"), lambda p: np.full_like(p, held)))
    elif all(in_force != rule_axis(rule, origin, step, every, offset) for rule in Rule):
        curves.append(Curve("force", phrase("In force"), _of(in_force)))
    curves += _wrong(origin, step)
    return Study(axis, origin + offset * step, step * every, tuple(curves), every)


def _of(axis: Axis) -> Callable[[Floats], Floats]:
    return lambda p: axis.values(axis.indices(p))


def _wrong(origin: float, step: float) -> list[Curve]:
    """The common wrong variants, as they are written."""
    return [
        Curve(
            "truncated",
            phrase("Truncated"),
            lambda p: origin + np.trunc((p - origin) / step) * step,
            phrase("cuts towards zero: the cells on both sides of the origin fall into one"),
            "corner",
        ),
        Curve(
            "half-even",
            phrase("Half to even"),
            lambda p: origin + np.rint((p - origin) / step) * step,
            phrase("rounds exact halves to the even neighbour: every second half goes down"),
            "intersection",
        ),
        Curve(
            "half-away",
            phrase("Half away"),
            lambda p: (
                origin + np.copysign(np.floor(np.abs((p - origin) / step) + 0.5), p - origin) * step
            ),
            phrase("rounds exact halves away from zero: those below the origin go down"),
            "intersection",
        ),
        Curve(
            "no-origin",
            phrase("No origin"),
            lambda p: np.floor(p / step) * step,
            phrase(
                "forgets the origin: everything is shifted by what the origin lacks to a whole step"
            ),
            "corner",
        ),
        Curve(
            "not-scaled",
            phrase("Not scaled"),
            lambda p: np.floor((p - origin) / step),
            phrase("divides and forgets to multiply back: the answer is an index, not a place"),
            "corner",
        ),
    ]


def standard_places(of: Study) -> list[tuple[float, str]]:
    """The cases that tell snapping rules apart, each with what it shows."""
    o, s = of.origin, of.step
    border = o + s
    return [
        (o, phrase("the origin")),
        (o + s / 4, phrase("a quarter on")),
        (o + s / 2, phrase("half, beside even 0")),
        (o + 1.5 * s, phrase("half, beside odd 1")),
        (math.nextafter(border, -math.inf), phrase("float below a border")),
        (border, phrase("a border")),
        (math.nextafter(border, math.inf), phrase("float above a border")),
        (o - s / 4, phrase("a quarter below")),
        (o - s / 2, phrase("half a step below")),
        (o - s, phrase("a border below")),
        (o - 1.5 * s, phrase("1½ below")),
    ]


def worked(of: Study, places: Sequence[tuple[float, str]]) -> list[Case]:
    """The cases, snapped by every curve. Raises BadGrid for a place too far out."""
    if not places:
        return []
    raw = np.array([place for place, _why in places], np.float64)
    columns = [curve.snap(raw) for curve in of.curves]
    return [
        Case(place, why, tuple(float(column[k]) for column in columns))
        for k, (place, why) in enumerate(places)
    ]


def differs(of: Study, case: Case) -> list[str]:
    """Keys of the wrong variants that fail in a case."""
    values = {curve.key: value for curve, value in zip(of.curves, case.values, strict=True)}
    return [c.key for c in of.curves if c.wrong and values[c.key] != values[c.like]]
