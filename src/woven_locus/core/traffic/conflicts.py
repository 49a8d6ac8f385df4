"""Which paths through a place are in each other's way, from their geometry: those on which two vehicles could touch."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.lines import distances, step_lengths

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# How far before a lane's first point, or after its last, the road is taken to go on, world units.
NEARBY = 1e-3
# Places along a path at which a vehicle is looked at.
_SAMPLES = 48
# Of those only each so-many-th is looked at first.
_COARSE = 6
# Vehicles keep this much more apart than not to touch, as a share of their width.
_APART = 0.1
# Places before and beyond a path at which a vehicle is looked at, along its length.
_PLACES = 16
# Places before a path at which one may wait.
_WAITS = 32


class Body(NamedTuple):
    """Length and width of a vehicle, and how near the one behind may come; world units."""

    length: float
    width: float
    gap: float


class Path(NamedTuple):
    """A way through a place: (P, 2) world points; the point, (2,), before and after it on the road, and the headings
    there, degrees, with which the road is taken to run straight before and beyond these."""

    points: Floats
    before: Floats
    comes: float
    after: Floats
    goes: float


class Conflicts(NamedTuple):
    """By path: bits, of the paths that it conflicts with; back, how far before its beginning a vehicle must wait so that
    nobody touches it who comes from another lane; out, how far beyond its end the rear of a vehicle must be so that
    nobody touches it who leaves by another lane; swing, how much more than the gap one must keep to a vehicle that
    turns there, until one may follow it; world units."""

    bits: Ints
    back: Floats
    out: Floats
    swing: Floats

    def __bool__(self) -> bool:
        return bool(self.bits.any() or self.back.any() or self.out.any())


def conflicts(paths: Sequence[Path], body: Body) -> Conflicts:
    """Which paths through a place are in each other's way: those on which bodies could touch, and a path with itself where
    bodies that follow one another could. Paths that begin or end together conflict always: who comes second waits
    until the first is through, unless both go the same way.

    A long vehicle that turns reaches over the lanes beside its own, before it has come to the turn and when it is out
    of it; so there vehicles wait farther back, and keep what they have leave for a little longer. Its side also swings
    towards the one behind it.
    """
    count = len(paths)
    found = np.zeros(count, np.int64)
    swept = [_swept(path, body) for path in paths]
    begins, ends = (_same([path.points[at] for path in paths]) for at in (0, -1))
    back, out = np.zeros(count), np.zeros(count)
    for far, mine, turn in ((back, begins, -1.0), (out, ends, 1.0)):
        for at in np.unique(mine).tolist():
            others = [swept[k] for k in np.flatnonzero(mine != at).tolist()]
            far[mine == at] = _stays_clear(paths[at], turn, others, body)
    held = [
        _joined((swept[at], _beyond(path, float(out[at]), body))) if out[at] else swept[at]
        for at, path in enumerate(paths)
    ]
    for a in range(count):
        if _touches_itself(paths[a], body):
            found[a] |= 1 << a
        for b in range(a + 1, count):
            together = begins[a] == begins[b] or ends[a] == ends[b]
            if together or _touch(held[a], swept[b]) or (out[b] and _touch(swept[a], held[b])):
                found[a] |= 1 << b
                found[b] |= 1 << a
    swing = np.array([_swing(path, body) for path in paths])
    return Conflicts(found, back, out, swing)


def _same(points: Sequence[Floats]) -> Ints:
    """For each point the place of the first one that is equal."""
    known: dict[bytes, int] = {}
    return np.array([known.setdefault(point.tobytes(), at) for at, point in enumerate(points)], int)


class _Bodies(NamedTuple):
    """(N, 4, 2) corners of vehicles, and (N, 2) the least and greatest x and y of each."""

    corners: Floats
    low: Floats
    high: Floats


def _joined(some: Sequence[_Bodies]) -> _Bodies:
    return _Bodies(*(np.concatenate(parts) for parts in zip(*some, strict=True)))


def _stays_clear(path: Path, turn: float, passing: Sequence[_Bodies], body: Body) -> float:
    """How far before the beginning of a path (turn -1), or beyond its end (1), a vehicle must stand so that none of those
    that pass by touches it; its length at most."""
    if not passing:
        return 0.0
    front = 0.0 if turn < 0 else float(step_lengths(path.points).sum()) + body.length
    far = np.linspace(0.0, body.length, _PLACES + 1)
    stands = _stands(path, front + turn * far, body, body.width)
    free = ~_touched(stands, _joined(passing))
    return float(far[np.argmax(free)]) if free.any() else body.length


def _swing(path: Path, body: Body) -> float:
    """How much more than the gap a vehicle must keep that waits before a path, to one that drives along it."""
    begin = path.points[0]
    shape = np.concatenate(([path.before], path.points, [path.after])) - begin
    return _swing_of(np.round(shape, 6).tobytes(), path.comes, path.goes, body)


@lru_cache(maxsize=4096)
def _swing_of(shape: bytes, comes: float, goes: float, body: Body) -> float:
    """`_swing` of a path by its look: most turns are turns of many junctions. shape : (P + 2, 2) float64."""
    points = np.frombuffer(shape).reshape(-1, 2)
    path = Path(points[1:-1], points[0], comes, points[-1], goes)
    step = body.length / _WAITS
    waits = -np.linspace(0.0, body.length, _WAITS, endpoint=False)
    length = float(step_lengths(path.points).sum())
    rear = np.linspace(-body.length, min(length, body.length), _SAMPLES)
    far = rear - waits[:, None]
    waiting = _stands(path, waits, body, body.width)
    ahead = _stands(path, rear + body.length, body, body.width * (1 + _APART))
    one, other = _pairs(waiting, ahead, far > body.gap - step)
    return max(0.0, float(far[one, other].max(initial=-step)) + step - body.gap)


def _stands(path: Path, at: Floats, body: Body, width: float) -> _Bodies:
    """A vehicle with its front so far along a path. at : (N,)"""
    front, rear = np.split(_along(path, np.concatenate((at, at - body.length))), 2)
    corners = rectangles(front, rear, width, body.length)
    return _Bodies(corners, corners.min(axis=1), corners.max(axis=1))


def _beyond(path: Path, out: float, body: Body) -> _Bodies:
    """A vehicle whose rear goes on from the end of a path so far."""
    length = float(step_lengths(path.points).sum())
    at = length + body.length + np.linspace(0.0, out, _PLACES)
    return _stands(path, at, body, body.width * (1 + _APART))


def _along(path: Path, at: Floats) -> Floats:
    """(N, 2) points so far along a path, which goes straight on before its beginning and beyond its end."""
    far = 1.0 + float(np.abs(at).max())
    first, last = path.before - far * _unit(path.comes), path.after + far * _unit(path.goes)
    line = np.concatenate(([first, path.before], path.points, [path.after, last]))
    ends = distances(line)
    ends -= ends[2]
    steps = np.diff(line, axis=0)
    which = np.clip(np.searchsorted(ends, at, side="right") - 1, 0, len(steps) - 1)
    share = (at - ends[which]) / step_lengths(line)[which]
    found: Floats = line[which] + steps[which] * share[:, None]
    return found


def _unit(heading: float) -> Floats:
    turn = math.radians(heading)
    return np.array([math.cos(turn), math.sin(turn)])


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


def _swept(path: Path, body: Body) -> _Bodies:
    """A vehicle on its way along a path, from when its front is at the beginning until its rear is at the end."""
    length = float(step_lengths(path.points).sum())
    at = np.linspace(0.0, length + body.length, _SAMPLES)
    return _stands(path, at, body, body.width * (1 + _APART))


def _touches_itself(path: Path, body: Body) -> bool:
    """Whether a vehicle could touch the one behind it: so in a bend that is tight for its length."""
    length = float(step_lengths(path.points).sum())
    at = np.linspace(0.0, length + 2 * body.length, 2 * _SAMPLES)
    wide = body.width * (1 + _APART)
    behind = at - body.length - body.gap
    first, second = (_stands(path, front, body, wide).corners for front in (at, behind))
    return bool(overlapping(first, second).any())


def overlapping(a: Floats, b: Floats) -> npt.NDArray[np.bool_]:
    """Whether pairs of rectangles share more than an edge. a, b : (..., 4, 2) corners in order.

    Source: the theorem of separating axes for convex bodies (S. Gottschalk, M. Lin, D. Manocha, "OBBTree",
    SIGGRAPH 1996).
    """
    # All four axes at once, and no reduction over so few numbers: most questions are about some dozens of pairs.
    axes = np.empty((4, *np.broadcast_shapes(a.shape[:-2], b.shape[:-2]), 2))
    for k, (mine, corner) in enumerate(((a, 0), (a, 1), (b, 0), (b, 1))):
        np.subtract(mine[..., corner + 1, :], mine[..., corner, :], out=axes[k])
    (low, high), (least, most) = _extent(a, axes), _extent(b, axes)
    apart: npt.NDArray[np.bool_] = (high <= least + 1e-9) | (most <= low + 1e-9)
    return np.asarray(~apart.any(axis=0))


def _extent(corners: Floats, axis: Floats) -> tuple[Floats, Floats]:
    """From where to where rectangles, (..., 4, 2), reach along axes, (..., 2)."""
    at = corners[..., 0] * axis[..., :1] + corners[..., 1] * axis[..., 1:]
    one, two, three, four = (at[..., k] for k in range(4))
    low = np.minimum(np.minimum(one, two), np.minimum(three, four))
    return low, np.maximum(np.maximum(one, two), np.maximum(three, four))


def _touched(a: _Bodies, b: _Bodies) -> npt.NDArray[np.bool_]:
    """(N,) whether each of some bodies touches any of others."""
    found = np.zeros(len(a.low), bool)
    found[_pairs(a, b)[0]] = True
    return found


def _pairs(a: _Bodies, b: _Bodies, asked: npt.NDArray[np.bool_] | bool = True) -> tuple[Ints, Ints]:
    """(M,) and (M,): which of some bodies touch which of others, among the pairs that are asked for."""
    near = (a.low[:, None] < b.high) & (b.low < a.high[:, None])
    one, other = np.nonzero(near[..., 0] & near[..., 1] & asked)
    touch = overlapping(a.corners[one], b.corners[other])
    return one[touch], other[touch]


def _touch(a: _Bodies, b: _Bodies) -> bool:
    """Whether any of some bodies touches any of others."""
    # Most that touch do so at many places: a few are looked at first.
    few = _Bodies(*(part[::_COARSE] for part in a)), _Bodies(*(part[::_COARSE] for part in b))
    return bool(_touched(*few).any()) or bool(_touched(a, b).any())
