"""Marks of one cell as coverage, 0..1, drawn with distances rather than a painter.

u and v run across and down a cell from its centre, in units of its shorter side, so that lines are
equally thick in cells that are not square; a `Frame` says how far the cell reaches. x and y run over
a block of 4 x 4 cells that repeats, so that a pattern flows from cell to cell. `px` is one pixel in
the same units.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.ways.roads import HALF_WIDTHS

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


def rank(code: int, x: Floats, y: Floats, px: float) -> Floats:
    """Hatching of an overlay's class: 0, unknown, a loose sow of crosses; 1 nothing; 2 dots; 3 to 5
    slanted lines, closer and closer; 6 and 7 crossed lines."""
    if code == 0:
        u, v = x % 1.0 - 0.5, y % 1.0 - 0.5
        arm = np.minimum(np.abs(u - v), np.abs(u + v)) / np.sqrt(2)
        return _near(arm, px) * (np.maximum(np.abs(u), np.abs(v)) < 0.14)
    if code == 1:
        return np.zeros(np.broadcast(x, y).shape)
    if code == 2:
        return _fill(np.hypot(x % 0.5 - 0.25, y % 0.5 - 0.25) - max(0.04, 0.6 * px), px)
    lines = {3: 1, 4: 2, 5: 4, 6: 2, 7: 4}[code]
    out = _slanted(x + y, lines, px)
    return np.maximum(out, _slanted(x - y, lines, px)) if code >= 6 else out


def _slanted(across: Floats, lines: int, px: float) -> Floats:
    """`lines` slanted lines in each cell."""
    far = across * lines - np.rint(across * lines)
    return _near(far / lines / np.sqrt(2), px)


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


# Half the width of a door, and how deep its notch is.
DOOR_HALF, DOOR_DEEP = 0.2, 0.24


class Frame(NamedTuple):
    """Where each pixel of a cell lies.  a, b : half the cell's width and height."""

    u: Floats
    v: Floats
    a: float
    b: float
    px: float

    @classmethod
    def of(cls, pw: int, ph: int) -> Frame:
        """For cells of pw x ph pixels; arrays are (ph, pw)."""
        short = min(pw, ph)
        u = ((np.arange(pw) + 0.5) - pw / 2) / short
        v = ((np.arange(ph) + 0.5) - ph / 2) / short
        return cls(
            np.broadcast_to(u, (ph, pw)),
            np.broadcast_to(v[:, None], (ph, pw)),
            pw / short / 2,
            ph / short / 2,
            1 / short,
        )


def _band(cell: Frame, mask: int, h: float) -> Floats:
    """Signed distance to the road band of a neighbour mask (1 N, 2 E, 4 S, 8 W), h to each side."""
    u, v = cell.u, cell.v
    out = np.hypot(u, v) - h
    if mask & 1:
        out = np.minimum(out, _box(u, v, -h, -cell.b - 1, h, 0))
    if mask & 2:
        out = np.minimum(out, _box(u, v, 0, -h, cell.a + 1, h))
    if mask & 4:
        out = np.minimum(out, _box(u, v, -h, 0, h, cell.b + 1))
    if mask & 8:
        out = np.minimum(out, _box(u, v, -cell.a - 1, -h, 0, h))
    return out


# How far the corners of a junction are rounded.
_FILLET = 0.09
# Pixels of a cell's shorter side from which on lanes are marked.
LANE_MARKS_FROM = 40
# Unit steps along the arms of a road, as bits are ordered.
_ARMS = ((0.0, -1.0), (1.0, 0.0), (0.0, 1.0), (-1.0, 0.0))


def road(cell: Frame, mask: int, lanes: int = 2, bridge: bool = False) -> tuple[Floats, Floats]:
    """(body, ink) of a woven road band. Where three or four arms meet they are knotted: the corners are rounded
    and threads run from arm to arm, for one can turn there.  bridge : with a railing on both sides."""
    u, v, px, half = cell.u, cell.v, cell.px, HALF_WIDTHS[min(lanes, 6)]
    distance = _band(cell, mask, half)
    knotted = mask.bit_count() > 2
    if knotted:
        for x, y in _corners(mask):
            distance = np.minimum(distance, _fillet(u * x, v * y, half))
    body = _fill(distance, px)
    down, across = mask & 5, mask & 10
    # At a joint each arm keeps its own threads.
    sideways = np.abs(u) > np.abs(v) if down and across else np.full(u.shape, bool(across))
    threads = np.where(sideways, _threads(u, v, px), _threads(v, u, px))
    if knotted:
        threads = np.maximum(
            threads * (np.maximum(np.abs(u), np.abs(v)) > half), _knot(cell, mask, half)
        )
    line = np.maximum(_near(distance + 0.6 * px, px, 1.4), threads * body)
    if px * LANE_MARKS_FROM <= 1:
        line = np.maximum(line, _lane_marks(cell, mask, lanes, knotted))
    if bridge:
        line = np.maximum(line, _near(distance - max(0.08, 2 * px), px, 2.2))
    return body, line


def _corners(mask: int) -> list[tuple[float, float]]:
    """Between which arms that lie side by side a road turns: the signs of (u, v) there."""
    both = ((3, 1.0, -1.0), (6, 1.0, 1.0), (12, -1.0, 1.0), (9, -1.0, -1.0))
    return [(x, y) for bits, x, y in both if mask & bits == bits]


def _fillet(p: Floats, q: Floats, half: float) -> Floats:
    """Signed distance to the rounding of the corner at (half, half), inf away from it."""
    end = half + _FILLET
    inside = (p >= half) & (q >= half) & (p <= end) & (q <= end)
    return np.where(inside, _FILLET - np.hypot(p - end, q - end), np.inf)


def _knot(cell: Frame, mask: int, half: float) -> Floats:
    """Threads that run round the corners of a junction, from the middle of one arm to the middle of the next,
    and straight on where there is no arm to turn to; small ones are one stitch."""
    u, v, px = cell.u, cell.v, cell.px
    if px > 0.07:
        return _fill(np.hypot(u, v) - max(0.11, 1.1 * px), px)
    out = np.zeros(u.shape)
    for x, y in _corners(mask):
        p, q = u * x, v * y
        end = half + _FILLET
        near = (p <= end) & (q <= end) & (p >= -0.05) & (q >= -0.05)
        far = np.hypot(p - end, q - end)
        out = np.maximum(out, _near(far - 0.72 * end, px, 1.2) * near)
        out = np.maximum(out, _near(far - end, px, 1.6) * near)
    middle = np.hypot(u, v)
    return np.maximum(out * (middle > 0.075), _near(middle - 0.075, px, 1.6))


def _lane_marks(cell: Frame, mask: int, lanes: int, knotted: bool) -> Floats:
    """Dashes along the centre line, and dots between lanes of one direction."""
    u, v, px, half = cell.u, cell.v, cell.px, HALF_WIDTHS[min(lanes, 6)]
    out = np.zeros(u.shape)
    bend = mask.bit_count() == 2 and mask not in (5, 10)
    start = half + _FILLET if knotted else min(cell.a, cell.b) if bend else 0.0
    count = max(1, lanes // 2)
    for bit, (x, y) in enumerate(_ARMS):
        if not mask >> bit & 1:
            continue
        along, across = u * x + v * y, u * y - v * x
        out = np.maximum(out, _dashes(along, px) * _near(across, px, 1.6) * (along > start))
        begin = half if bend or knotted else 0.0
        for lane in range(1, count):
            aside = _near(np.abs(across) - half * lane / count, px, 1.4)
            dots = (((along * 8) % 1.0) < 0.4) & (along > begin)
            out = np.maximum(out, aside * dots)
    if bend:
        r = min(cell.a, cell.b)
        x, y = _corners(mask)[0]
        p, q = r - u * x, r - v * y
        along = np.arctan2(p, q) * r
        inside = (p >= 0) & (q >= 0)
        out = np.maximum(out, _dashes(along, px) * _near(np.hypot(p, q) - r, px, 1.6) * inside)
    return out * 0.8


def _dashes(along: Floats, px: float) -> npt.NDArray[np.bool_]:
    """Where a dashed line that goes on from cell to cell is drawn: two dashes a cell."""
    return np.asarray((along * 4 + 0.25) % 1.0 < 0.5)


def barrier(cell: Frame, mask: int) -> tuple[Floats, Floats]:
    """(body, ink) of a barrier: a post with rails to the neighbours that are barriers too; bits as for
    roads."""
    u, v, px = cell.u, cell.v, cell.px
    rails = np.full(u.shape, np.inf)
    for bit, x, y in ((1, 0.0, -cell.b), (2, cell.a, 0.0), (4, 0.0, cell.b), (8, -cell.a, 0.0)):
        if mask & bit:
            rails = np.minimum(rails, _segment(u, v, 0.0, 0.0, x, y))
    post = np.maximum(np.abs(u), np.abs(v)) - 0.2
    wall = np.minimum(rails - 0.09, post)
    body = _fill(wall, px)
    line = np.maximum(_near(wall, px, 1.4), _fill(np.hypot(u, v) - 0.07, px))
    return body, line


def road_sign(cell: Frame, sign: int) -> Floats:
    """Ink of a sign on a road, as on screen: 1 to 4 an arrowhead to the north, east, south or west, 5 a
    bar across a disc, closed; 6 two footprints, a crossing."""
    u, v, px = cell.u, cell.v, cell.px
    if sign == 6:
        heel, toe = 0.075, 0.11
        feet = [
            np.hypot((u - x) / 0.6, v - y) - size
            for x, y0 in ((-0.09, -0.05), (0.09, 0.08))
            for y, size in ((y0 + 0.1, heel * 0.8), (y0 - 0.05, toe * 0.8))
        ]
        return _fill(np.minimum.reduce(feet), px)
    if sign == 5:
        disc = np.hypot(u, v) - 0.2
        bar = _box(u, v, -0.12, -0.045, 0.12, 0.045)
        return np.maximum(_near(disc, px, 2.4), _fill(bar, px))
    along, across = ((-v, u), (u, v), (v, u), (-u, v))[sign - 1]
    head = np.minimum(
        _segment(along, across, 0.13, 0.0, -0.08, 0.17),
        _segment(along, across, 0.13, 0.0, -0.08, -0.17),
    )
    return _near(head, px, max(2.2, 0.09 / px))


def _threads(along: Floats, across: Floats, px: float) -> Floats:
    """Short cross-threads of a band, set off in two rows like a plain weave."""
    if px > 0.09:
        return np.zeros(np.broadcast(along, across).shape)
    lines = ((along + 0.5) * 4 + 0.5 * (across > 0) + 0.25) % 1.0 - 0.5
    inside = np.abs(np.abs(across) - 0.12) < 0.09
    return _near(lines / 4, px, 0.9) * inside * 0.6


def edges(cell: Frame, mask: int) -> tuple[Floats, Floats]:
    """(line, stitches) of the outer sides of a structure's cell; bits as for roads."""
    u, v, px = cell.u, cell.v, cell.px
    line, stitch = np.zeros(u.shape), np.zeros(u.shape)
    sides = ((1, v + cell.b, u), (2, cell.a - u, v), (4, cell.b - v, u), (8, u + cell.a, v))
    inset = max(0.13, 2.5 * px)
    for bit, far, along in sides:
        if mask & bit:
            line = np.maximum(line, _near(far - 0.5 * px, px, 1.6))
            dash = (((along + 0.5) * 4 + 0.25) % 1.0) < 0.56
            stitch = np.maximum(stitch, _near(far - inset, px, 1.3) * dash)
    if px > 0.09:
        stitch[:] = 0
    return line, stitch


def door(cell: Frame, mask: int) -> tuple[Floats, Floats]:
    """(body, line) of the notches of doors; bits as for roads."""
    body, line = np.zeros(cell.u.shape), np.zeros(cell.u.shape)
    a, b, h, deep = cell.a, cell.b, DOOR_HALF, DOOR_DEEP
    boxes = {
        1: (-h, -b - 1, h, -b + deep),
        2: (a - deep, -h, a + 1, h),
        4: (-h, b - deep, h, b + 1),
        8: (-a - 1, -h, -a + deep, h),
    }
    for bit, box in boxes.items():
        if mask & bit:
            distance = _box(cell.u, cell.v, *box)
            body = np.maximum(body, _fill(distance, cell.px))
            line = np.maximum(line, _near(distance, cell.px, 1.2))
    return body, line


def obstacle(look: str, cell: Frame) -> tuple[Floats, Floats]:
    """(body, ink) of an obstacle that fills most of its cell."""
    u, v, px = cell.u, cell.v, cell.px
    if look == "rowan":
        crown = np.hypot(u, v + 0.08) - 0.33
        crown = crown + 0.03 * np.cos(7 * np.arctan2(v + 0.08, u))
        trunk = _box(u, v, -0.04, 0.1, 0.04, 0.45)
        ink = np.maximum(_near(crown, px, 1.3), _fill(trunk, px) * (crown > 0))
        for x, y in ((-0.12, -0.16), (0.1, -0.2), (0, 0), (0.16, -0.02), (-0.16, 0.02)):
            ink = np.maximum(ink, _fill(np.hypot(u - x, v - y) - 0.045, px))
        return np.maximum(_fill(crown, px), _fill(trunk, px)), ink
    stone = np.maximum(np.hypot(u / 1.15, v - 0.04) - 0.34, v - 0.32)
    ink = _near(stone, px, 1.4)
    for ends in ((-0.24, 0, -0.04, -0.12), (-0.04, -0.12, 0.12, -0.04), (-0.2, 0.2, 0, 0.14)):
        ink = np.maximum(ink, _near(_segment(u, v, *ends), px, 1.0))
    return _fill(stone, px), ink
