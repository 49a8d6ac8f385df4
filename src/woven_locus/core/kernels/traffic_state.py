"""Vehicles, and the road that they drive on, as arrays for kernels.

Vehicles are rows of arrays, `x` is how far the front has come along its own way. A vehicle is on the piece that holds
its front; those on one piece are linked in the order in which they came.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

# Why a vehicle does not go faster.
FREELY, BEHIND, AT_LINE, EXIT_FULL, IN_TURN, GIVES_WAY, AT_RED, FOR_PEOPLE, ARRIVING = range(9)
# The share of the least gap that is kept even while braking hard.
KEPT = 0.5


class Net(NamedTuple):
    """What does not change while vehicles drive; see `traffic.tracks.Tracks`.

    enter : by piece, the speed with which it may be entered so that its bends can be taken.
    source : by piece, the area whose movements lead into it, -1 for none.
    allow : by place in `end`, the speed that is allowed at the end of that edge.
    back, out : by piece, how far before it one stops without leave to drive onto it, and how far beyond its end one's
    rear must be to let go of it.
    """

    length: Floats
    area: Shorts
    movement: Shorts
    inner: npt.NDArray[np.bool_]
    begins: Ints
    end: Floats
    speed: Floats
    allow: Floats
    enter: Floats
    mask: Ints
    mask_at: Ints
    source: Shorts
    back: Floats
    out: Floats


class Kinds(NamedTuple):
    """By kind of vehicle, float64: world units and seconds. hardest : braking that nobody exceeds."""

    length: Floats
    speed: Floats
    accel: Floats
    brake: Floats
    headway: Floats
    gap: Floats
    hardest: Floats


class Road(NamedTuple):
    """By piece: last, the vehicle that came last, -1 for none; left, the one that left last, and left_x, how far
    along its way the end of the piece lies; taken, room beyond a junction that is promised. By movement: held, how
    many vehicles have leave to be there. By area: bits, of the movements that are held; first, final, the
    vehicles that asked first and last; passed, how many had leave; waited, steps from asking to having it."""

    last: Shorts
    left: Shorts
    left_x: Floats
    taken: Floats
    held: Shorts
    bits: Ints
    first: Shorts
    final: Shorts
    passed: Ints
    waited: Ints
    crossed: Ints


class Rules(NamedTuple):
    """Who goes first. By movement: rank, whoever has the higher one. By area: top, the highest rank there; green, the bits
    of the movements that may be driven now, all of them where there are no signals. By signal: at, its area; begins, its
    phases, those of signal k from begins[k] to begins[k + 1]; cycle and offset, seconds. By phase: from_, to, its green
    in seconds from the beginning of the cycle; bits, of its movements."""

    rank: npt.NDArray[np.uint8]
    top: npt.NDArray[np.uint8]
    green: Ints
    at: Ints
    begins: Ints
    cycle: Floats
    offset: Floats
    from_: Floats
    to: Floats
    bits: Ints


class Cars(NamedTuple):
    """By vehicle. way, way_end : its pieces in `ways`; at, the one that it is on; tail, the one that its rear is on
    or has not let go of, tail_x, where along its way it does.  edge : place in `Net.end`.  line, line_x : the next movement for which it
    has no leave, and where it stops before that; -1 and inf for none.  room_at : where a promise of room is called in, -1.
    goal_x : where it stops for good.  asked : the step in which it asked for leave, -1.  next : who asked next.
    why, for_ : what holds it back, and whom it waits for, -1 for nobody.  gap : to the vehicle ahead, as far as one
    looks, else inf.
    rows : all of it, a record a vehicle, of which the others are columns. Compiled kernels take it in their place: a vehicle
    is then found in two or three lines of the cache, not in twenty, and one array is compiled faster than twenty.
    """

    there: npt.NDArray[np.uint8]
    kind: Shorts
    piece: Shorts
    s: Floats
    x: Floats
    v: Floats
    new_v: Floats
    edge: Shorts
    ahead: Shorts
    behind: Shorts
    way: Ints
    way_end: Ints
    at: Ints
    tail: Ints
    tail_x: Floats
    line: Ints
    line_x: Floats
    room_at: Ints
    goal_x: Floats
    asked: Ints
    next: Shorts
    why: npt.NDArray[np.uint8]
    for_: Shorts
    gap: Floats
    rows: npt.NDArray[np.void]


class Plans(NamedTuple):
    """By trip: way, way_end, its pieces; x, goal_x, where along them it begins and ends; due, when the next vehicle
    wants to set off, seconds; every, seconds between two; left, how many are to come."""

    way: Ints
    way_end: Ints
    x: Floats
    goal_x: Floats
    kind: Shorts
    due: Floats
    every: Floats
    left: Ints


# What a step looks at together lies together.
_ROW = np.dtype(
    [
        *((name, np.float64) for name in ("x", "s", "v", "new_v", "line_x", "goal_x", "tail_x", "gap")),
        *((name, np.int32) for name in ("kind", "piece", "edge", "ahead", "behind", "for_", "next")),
        *((name, np.uint8) for name in ("there", "why")),
        *((name, np.int64) for name in ("at", "way_end", "asked", "line", "tail", "room_at", "way")),
    ],
    align=True,
)  # fmt: skip


def cars_in(rows: npt.NDArray[np.void]) -> Cars:
    """The columns of rows of vehicles."""
    columns: dict[str, Any] = {name: rows[name] for name in Cars._fields if name != "rows"}
    return Cars(**columns, rows=rows)


def empty_cars(room: int) -> Cars:
    """Room for so many vehicles, none of them there."""
    return cars_in(np.zeros(room, _ROW))
