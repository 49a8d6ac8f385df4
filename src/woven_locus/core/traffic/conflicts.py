"""Which paths through a place are in each other's way, from their geometry: those on which two vehicles could touch."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.lines import distances, step_lengths

Floats = npt.NDArray[np.float64]

# Places along a path at which a vehicle is looked at.
_SAMPLES = 24
# Vehicles keep this much more apart than not to touch, as a share of their width.
_APART = 0.1


class Body(NamedTuple):
    """Length and width of a vehicle, and how near the one behind may come; world units."""

    length: float
    width: float
    gap: float


def conflicts(paths: Sequence[Floats], body: Body, whole: bool) -> npt.NDArray[np.int64]:
    """For each path the bits of those that it conflicts with.

    paths : (P, 2) world points each.  whole : they run from cell to cell side by side, where only those conflict that
    begin or end at one point or cross; else any two on which bodies could touch, and a path with itself where
    bodies that follow one another could. Paths that begin or end together conflict always: who comes second waits
    until the first is through, unless both go the same way.
    """
    count = len(paths)
    found = np.zeros(count, np.int64)
    swept = [] if whole else [_swept(path, body) for path in paths]
    for a in range(count):
        if not whole and _touches_itself(paths[a], body):
            found[a] |= 1 << a
        for b in range(a + 1, count):
            together = np.array_equal(paths[a][0], paths[b][0]) or np.array_equal(
                paths[a][-1], paths[b][-1]
            )
            if together or (_cross(paths[a], paths[b]) if whole else _touch(swept[a], swept[b])):
                found[a] |= 1 << b
                found[b] |= 1 << a
    return found


def _cross(a: Floats, b: Floats) -> bool:
    """Whether two paths between the same two cells change sides."""
    first, last = a[0] - b[0], a[-1] - b[-1]
    return float(first @ last) < 0


def on_path(path: Floats, at: Floats) -> Floats:
    """(N, 2) points so far along a path, which goes straight on before its beginning and beyond its end."""
    steps, ends = np.diff(path, axis=0), distances(path)
    which = np.clip(np.searchsorted(ends, at, side="right") - 1, 0, len(steps) - 1)
    share = (at - ends[which]) / step_lengths(path)[which]
    found: Floats = path[which] + steps[which] * share[:, None]
    return found


def rectangles(front: Floats, rear: Floats, width: float, length: float) -> Floats:
    """(N, 4, 2) corners of vehicles whose front and rear are at these places of their path: the middle lies between
    them, the heading runs from one to the other. front, rear : (N, 2)."""
    ahead = front - rear
    ahead /= np.maximum(np.hypot(ahead[:, 0], ahead[:, 1]), 1e-12)[:, None]
    aside = np.stack([-ahead[:, 1], ahead[:, 0]], axis=1)
    middle = (front + rear) / 2
    out = np.empty((len(front), 4, 2))
    for corner, (along, across) in enumerate(((1, 1), (1, -1), (-1, -1), (-1, 1))):
        out[:, corner] = middle + ahead * (along * length / 2) + aside * (across * width / 2)
    return out


def _swept(path: Floats, body: Body) -> Floats:
    """The rectangles of a vehicle on its way along a path, from when its front is at the beginning until its rear
    is at the end."""
    length = float(step_lengths(path).sum())
    at = np.linspace(0.0, length + body.length, _SAMPLES)
    wide = body.width * (1 + _APART)
    return rectangles(on_path(path, at), on_path(path, at - body.length), wide, body.length)


def _touches_itself(path: Floats, body: Body) -> bool:
    """Whether a vehicle could touch the one behind it: so in a bend that is tight for its length."""
    length = float(step_lengths(path).sum())
    at = np.linspace(0.0, length + 2 * body.length, 2 * _SAMPLES)
    wide = body.width * (1 + _APART)
    behind = at - body.length - body.gap
    first, second = (
        rectangles(on_path(path, s), on_path(path, s - body.length), wide, body.length)
        for s in (at, behind)
    )
    return bool(overlapping(first, second).any())


def overlapping(a: Floats, b: Floats) -> npt.NDArray[np.bool_]:
    """Whether pairs of rectangles share more than an edge. a, b : (..., 4, 2) corners in order.

    Source: the theorem of separating axes for convex bodies (S. Gottschalk, M. Lin, D. Manocha, "OBBTree",
    SIGGRAPH 1996).
    """
    apart = np.zeros(np.broadcast_shapes(a.shape[:-2], b.shape[:-2]), bool)
    for mine in (a, b):
        for corner in (0, 1):
            axis = mine[..., corner + 1, :] - mine[..., corner, :]
            here, there = ((other * axis[..., None, :]).sum(axis=-1) for other in (a, b))
            apart |= here.max(axis=-1) <= there.min(axis=-1) + 1e-9
            apart |= there.max(axis=-1) <= here.min(axis=-1) + 1e-9
    return ~apart


def _touch(a: Floats, b: Floats) -> bool:
    return bool(overlapping(a[:, None], b[None, :]).any())
