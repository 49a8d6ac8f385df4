"""How much of a way lies within the range of a tower: exact, from geometry."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Point
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.lines import distances, step_lengths
from woven_locus.core.waves.ways import EntryWay

Floats = npt.NDArray[np.float64]


class Stretch(NamedTuple):
    """Part of a way, from and to so far along it, world units."""

    begin: float
    end: float


def stretches(points: Floats, centre: Point, least: float, most: float) -> list[Stretch]:
    """The parts of a way, a line through points, that lie at least `least` and at most `most` from a centre, in order.

    points : (N, 2). Where a line meets a circle is the root of a quadratic. O(N).
    """
    if len(points) < 2:
        return []
    steps, lengths, begins = np.diff(points, axis=0), step_lengths(points), distances(points)
    inner, outer = (
        _within(points, steps, lengths, centre, least),
        _within(points, steps, lengths, centre, most),
    )
    found: list[Stretch] = []
    for k in np.flatnonzero(outer[:, 1] > outer[:, 0]).tolist():
        low, high = outer[k].tolist()
        hole = inner[k].tolist()
        parts = (
            [(low, high)]
            if hole[1] <= hole[0]
            else [(low, min(high, hole[0])), (max(low, hole[1]), high)]
        )
        for a, b in parts:
            if b <= a:
                continue
            begin, end = float(begins[k] + a), float(begins[k] + b)
            if found and begin - found[-1].end < 1e-9:
                found[-1] = Stretch(found[-1].begin, end)
            else:
                found.append(Stretch(begin, end))
    return found


def _within(points: Floats, steps: Floats, lengths: Floats, centre: Point, radius: float) -> Floats:
    """(N - 1, 2) from where to where along each step one is nearer than `radius`; the same twice for nowhere."""
    back = points[:-1] - np.array(centre)
    with np.errstate(divide="ignore", invalid="ignore"):
        unit = np.where(lengths[:, None] > 0, steps / lengths[:, None], 0.0)
    # The foot of the perpendicular, and half of the chord.
    foot = -(back * unit).sum(axis=1)
    away = (back * back).sum(axis=1) - foot * foot
    half = np.sqrt(np.maximum(radius * radius - away, 0.0))
    low, high = np.clip(foot - half, 0.0, lengths), np.clip(foot + half, 0.0, lengths)
    return np.stack([low, np.maximum(low, high)], axis=1)


def effort_in_range(way: EntryWay, centre: Point, tower: Tower) -> float:
    """Seconds that one who goes a way at a speed of one world unit a second is in the range of a tower."""
    line = way.strokes
    parts = stretches(line.points, centre, tower.least, tower.most)
    if not parts:
        return 0.0
    ends: Floats = np.interp(np.array(parts), distances(line.points), line.efforts)
    return float((ends[:, 1] - ends[:, 0]).sum())


def in_range(points: Floats, centre: Point, tower: Tower) -> float:
    """Length of a way in the range of a tower, world units."""
    return sum(part.end - part.begin for part in stretches(points, centre, tower.least, tower.most))
