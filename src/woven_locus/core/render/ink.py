"""Marks of one cell as coverage, 0..1, drawn with distances rather than a painter.

u and v run across and down a cell from 0 to 1; X and Y run over a block of 4 x 4 cells that
repeats, so that a pattern flows from cell to cell. `px` is one pixel, in cells.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

# Cells after which an engraved pattern repeats.
PERIOD = 4


def _near(distance: Floats, px: float, thick: float = 1.1) -> Floats:
    """Coverage of a line `thick` pixels wide around distance 0."""
    return np.clip(thick / 2 + 0.5 - np.abs(distance) / px, 0, 1)


def _fill(distance: Floats, px: float) -> Floats:
    """Coverage of the inside (negative distance)."""
    return np.clip(0.5 - distance / px, 0, 1)


def _wrapped(delta: Floats) -> Floats:
    return (delta + PERIOD / 2) % PERIOD - PERIOD / 2


def _scattered(count: int, seed: int) -> Floats:
    """(count, 2) places in the period, evenly spread: a jittered lattice."""
    rng = np.random.default_rng(seed)
    side = int(np.ceil(np.sqrt(count)))
    lattice = np.stack(np.meshgrid(np.arange(side), np.arange(side)), -1).reshape(-1, 2)[:count]
    places: Floats = (lattice + 0.5 + rng.uniform(-0.33, 0.33, (count, 2))) * (PERIOD / side)
    return places


def _segment(x: Floats, y: Floats, ax: float, ay: float, bx: float, by: float) -> Floats:
    """Distance to a segment."""
    dx, dy = bx - ax, by - ay
    t = np.clip(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy), 0, 1)
    return np.hypot(x - ax - t * dx, y - ay - t * dy)


def pattern(name: str, x: Floats, y: Floats, px: float) -> Floats:
    """The engraving of a terrain pattern at places of the period; see ground.PATTERNS.

    x, y : (H, W); x is the same in every row and y in every column, as a cell's pixels are.
    Lines are told apart by the nearest one alone; scattered marks that lie too far off to matter
    are passed over, so that a single cell costs little.
    """
    if name == "tufts":
        return _marks(_scattered(9, 3), x, y, 0.25 + px, partial(_tuft, px=px))
    if name == "steps":
        k = np.rint(y * 2)
        gap = ((x + 1.3 * (k % 8 % 3)) % 2.0) < 1.5
        return _near(y - k / 2, px) * gap
    if name == "reeds":
        return _marks(_scattered(12, 8), x, y, 0.35 + px, partial(_reed, px=px))
    if name == "waves":
        k = np.floor(y * 7 / PERIOD)
        crest = y - (k + 0.5) * PERIOD / 7 - 0.1 * np.sin(np.pi * x + 1.7 * (k % 7))
        return _near(crest, px)
    if name == "stipple":
        # Three sizes of ring, each on its own share of the places.
        out = np.zeros(np.broadcast(x, y).shape)
        places = _scattered(49, 6)
        for share, radius in enumerate((0.04, 0.06, 0.08)):
            rings = _marks(places[share::3], x, y, 0.1 + px, partial(_ring, radius=radius, px=px))
            out = np.maximum(out, rings)
        return out
    if name == "cracks":
        k = np.rint((x + y) * 2)
        gap = ((x - y + 0.9 * (k % 8 % 4)) % 1.0) < 0.78
        return _near((x + y - k / 2) / np.sqrt(2), px, 1.3) * gap
    return np.zeros(np.broadcast(x, y).shape)


def _marks(
    places: Floats, x: Floats, y: Floats, reach: float, mark: Callable[[Floats, Floats], Floats]
) -> Floats:
    """The strongest of a mark drawn at each place. reach : how far it goes from there, in cells."""
    out = np.zeros(np.broadcast(x, y).shape)
    across, down = x[0], y[:, 0]
    for cx, cy in places:
        dx, dy = _wrapped(across - cx), _wrapped(down - cy)
        # Only the window that the mark can touch is worked out.
        cols = np.flatnonzero(np.abs(dx) <= reach)
        rows = np.flatnonzero(np.abs(dy) <= reach)
        if len(rows) and len(cols):
            at = np.ix_(rows, cols)
            out[at] = np.maximum(out[at], mark(*np.meshgrid(dx[cols], dy[rows])))
    return out


def _ring(dx: Floats, dy: Floats, radius: float, px: float) -> Floats:
    return _near(np.hypot(dx, dy) - radius, px, 0.9)


def _tuft(dx: Floats, dy: Floats, px: float) -> Floats:
    blades = [_segment(dx, dy, 0.3 * lean, 0.1, lean, -0.14) for lean in (-0.16, 0.0, 0.16)]
    return _near(np.minimum.reduce(blades), px)


def _reed(dx: Floats, dy: Floats, px: float) -> Floats:
    stems = [_segment(dx, dy, at, 0.1, at, -0.16) for at in (-0.1, 0.08)]
    return _near(np.minimum.reduce([_segment(dx, dy, -0.3, 0.12, 0.3, 0.12), *stems]), px)


def reserved(x: Floats, y: Floats, px: float) -> Floats:
    """Reserved ground: rows of dots set off against each other, unlike any terrain pattern."""
    row = np.floor(y * 2)
    far = np.hypot((x + 0.25 * (row % 2)) % 0.5 - 0.25, y * 2 % 1 / 2 - 0.25)
    return _fill(far - max(0.075, 0.8 * px), px)


def _box(x: Floats, y: Floats, x0: float, y0: float, x1: float, y1: float) -> Floats:
    """Signed distance to a box, negative inside."""
    dx = np.maximum(x0 - x, x - x1)
    dy = np.maximum(y0 - y, y - y1)
    outside = np.hypot(np.maximum(dx, 0), np.maximum(dy, 0))
    return outside + np.minimum(np.maximum(dx, dy), 0)


ROAD_HALF = 0.31


def _band(u: Floats, v: Floats, mask: int) -> Floats:
    """Signed distance to the road band of a neighbour mask (1 N, 2 E, 4 S, 8 W)."""
    h = ROAD_HALF
    out = np.hypot(u - 0.5, v - 0.5) - h
    if mask & 1:
        out = np.minimum(out, _box(u, v, 0.5 - h, -1, 0.5 + h, 0.5))
    if mask & 2:
        out = np.minimum(out, _box(u, v, 0.5, 0.5 - h, 2, 0.5 + h))
    if mask & 4:
        out = np.minimum(out, _box(u, v, 0.5 - h, 0.5, 0.5 + h, 2))
    if mask & 8:
        out = np.minimum(out, _box(u, v, -1, 0.5 - h, 0.5, 0.5 + h))
    return out


def road(u: Floats, v: Floats, mask: int, over: bool, px: float) -> tuple[Floats, Floats]:
    """(body, ink) of a woven road band. At a crossing one band passes over the other; `over` says
    whether it is the one that runs up and down."""
    if mask != 15:
        distance = _band(u, v, mask)
        body = _fill(distance, px)
        ink = _near(distance + 0.6 * px, px, 1.4)
        along = v if mask & 5 and not mask & 10 else u
        if mask & 5 and mask & 10:
            # At a joint each arm keeps its own threads.
            along = np.where(np.abs(u - 0.5) > np.abs(v - 0.5), u, v)
        across = np.where(along is v, u, v) if along is u or along is v else np.minimum(u, v)
        return body, np.maximum(ink, _threads(along, across, px) * body)
    a, b = (5, 10) if over else (10, 5)
    upper, lower = _band(u, v, a), _band(u, v, b)
    body = np.maximum(_fill(upper, px), _fill(lower, px))
    low_ink = np.maximum(
        _near(lower + 0.6 * px, px, 1.4),
        _threads(v if b == 5 else u, u if b == 5 else v, px) * _fill(lower, px),
    )
    gap = _fill(upper - 0.07, px)
    up_ink = np.maximum(
        _near(upper + 0.6 * px, px, 1.4),
        _threads(v if a == 5 else u, u if a == 5 else v, px) * _fill(upper, px),
    )
    return body * (1 - gap) + np.maximum(_fill(upper, px), 0), np.maximum(
        low_ink * (1 - gap), up_ink
    )


def _threads(along: Floats, across: Floats, px: float) -> Floats:
    """Short cross-threads of a band, set off in two rows like a plain weave."""
    if px > 0.09:
        return np.zeros(np.broadcast(along, across).shape)
    # None in the joint itself, where arms of both directions meet.
    row = across > 0.5
    lines = (along * 4 + 0.5 * row + 0.25) % 1.0 - 0.5
    inside = np.abs(np.abs(across - 0.5) - 0.12) < 0.09
    return _near(lines / 4, px, 0.9) * inside * 0.6


def edges(u: Floats, v: Floats, mask: int, px: float) -> tuple[Floats, Floats]:
    """(line, stitches) of the outer sides of a structure's cell; bits as for roads."""
    line = np.zeros(np.broadcast(u, v).shape)
    stitch = np.zeros_like(line)
    sides = ((1, v, u), (2, 1 - u, v), (4, 1 - v, u), (8, u, v))
    inset = max(0.13, 2.5 * px)
    for bit, far, along in sides:
        if mask & bit:
            line = np.maximum(line, _near(far - 0.5 * px, px, 1.6))
            dash = ((along * 4 + 0.25) % 1.0) < 0.56
            stitch = np.maximum(stitch, _near(far - inset, px, 1.3) * dash)
    if px > 0.09:
        stitch[:] = 0
    return line, stitch


def door(u: Floats, v: Floats, mask: int, px: float) -> tuple[Floats, Floats]:
    """(body, line) of the notches of doors; bits as for roads."""
    body = np.zeros(np.broadcast(u, v).shape)
    line = np.zeros_like(body)
    boxes = {
        1: (0.3, -1.0, 0.7, 0.24),
        2: (0.76, 0.3, 2.0, 0.7),
        4: (0.3, 0.76, 0.7, 2.0),
        8: (-1.0, 0.3, 0.24, 0.7),
    }
    for bit, box in boxes.items():
        if mask & bit:
            distance = _box(u, v, *box)
            body = np.maximum(body, _fill(distance, px))
            line = np.maximum(line, _near(distance, px, 1.2))
    return body, line


def obstacle(look: str, u: Floats, v: Floats, px: float) -> tuple[Floats, Floats]:
    """(body, ink) of an obstacle that fills most of its cell."""
    if look == "rowan":
        crown = np.hypot(u - 0.5, v - 0.42) - 0.33
        crown = crown + 0.03 * np.cos(7 * np.arctan2(v - 0.42, u - 0.5))
        trunk = _box(u, v, 0.46, 0.6, 0.54, 0.95)
        ink = np.maximum(_near(crown, px, 1.3), _fill(trunk, px) * (crown > 0))
        for cx, cy in ((0.38, 0.34), (0.6, 0.3), (0.5, 0.5), (0.66, 0.48), (0.34, 0.52)):
            ink = np.maximum(ink, _fill(np.hypot(u - cx, v - cy) - 0.045, px))
        return np.maximum(_fill(crown, px), _fill(trunk, px)), ink
    stone = np.hypot((u - 0.5) / 1.15, v - 0.54) - 0.34
    stone = np.maximum(stone, v - 0.82)
    ink = _near(stone, px, 1.4)
    for a in ((0.26, 0.5, 0.46, 0.38), (0.46, 0.38, 0.62, 0.46), (0.3, 0.7, 0.5, 0.64)):
        ink = np.maximum(ink, _near(_segment(u, v, *a), px, 1.0))
    return _fill(stone, px), ink
