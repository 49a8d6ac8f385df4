"""Vehicles, and the road that they drive on, as arrays for kernels.

Vehicles are rows of arrays, `x` is how far the front has come along its own way. A vehicle is on the piece that holds
its front; those on one piece are linked in the order in which they came.
"""

from __future__ import annotations

from typing import Any, NamedTuple, TypeVar, get_args, get_type_hints

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]
# Records, of which the fields beside them are columns. Compiled kernels take the records in place of the columns: what is
# looked at together then lies in one or two lines of the cache, not in twenty, and one array is compiled sooner than
# twenty.
Rows = npt.NDArray[np.void]
Columns = TypeVar("Columns", "Cars", "Kinds", "NetPieces", "RoadPieces", "Areas")

# Why a vehicle does not go faster.
FREELY, BEHIND, AT_LINE, EXIT_FULL, IN_TURN, GIVES_WAY, AT_RED, FOR_PEOPLE, ARRIVING = range(9)
# The share of the least gap that is kept even while braking hard.
KEPT = 0.5


class NetPieces(NamedTuple):
    """By piece, what does not change while vehicles drive. length; area and movement; inner.
    enter : the speed with which it may be entered so that its bends can be taken.
    source : the area whose movements lead into it, -1 for none.
    back, out : how far before it one stops without leave to drive onto it, and how far beyond its end one's
    rear must be to let go of it.
    swing : how much more than the gap one keeps to a vehicle that drives onto it.
    """

    length: Floats
    enter: Floats
    back: Floats
    out: Floats
    swing: Floats
    area: Shorts
    movement: Shorts
    source: Shorts
    inner: npt.NDArray[np.bool_]
    rows: Rows


class Net(NamedTuple):
    """What does not change while vehicles drive; see `traffic.tracks.Tracks`.

    allow : by place in `end`, the speed that is allowed at the end of that edge.
    """

    pieces: NetPieces
    begins: Ints
    end: Floats
    speed: Floats
    allow: Floats
    mask: Ints
    mask_at: Ints


class Kinds(NamedTuple):
    """By kind of vehicle, float64: world units and seconds. hardest : braking that nobody exceeds."""

    length: Floats
    speed: Floats
    accel: Floats
    brake: Floats
    headway: Floats
    gap: Floats
    hardest: Floats
    rows: Rows


class RoadPieces(NamedTuple):
    """By piece: last, the vehicle that came last, -1 for none; left, the one that left last, and left_x, how far along its
    way the end of the piece lies; taken, room beyond a junction that is promised."""

    left_x: Floats
    taken: Floats
    last: Shorts
    left: Shorts
    rows: Rows


class Areas(NamedTuple):
    """By area: bits, of the movements that are held; crossed, of those on whose way somebody walks; first, final, the
    vehicles that asked first and last."""

    bits: Ints
    crossed: Ints
    first: Shorts
    final: Shorts
    rows: Rows


class Road(NamedTuple):
    """By movement: held, how many vehicles have leave to be there; passed, how many had; waited, steps from asking to
    having it."""

    pieces: RoadPieces
    areas: Areas
    held: Shorts
    passed: Ints
    waited: Ints


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
    """

    x: Floats
    s: Floats
    v: Floats
    new_v: Floats
    at: Ints
    way_end: Ints
    line_x: Floats
    goal_x: Floats
    asked: Ints
    tail: Ints
    tail_x: Floats
    gap: Floats
    line: Ints
    room_at: Ints
    way: Ints
    kind: Shorts
    piece: Shorts
    edge: Shorts
    ahead: Shorts
    behind: Shorts
    for_: Shorts
    next: Shorts
    there: npt.NDArray[np.uint8]
    why: npt.NDArray[np.uint8]
    rows: Rows


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


def columns_of(kind: type[Columns], rows: Rows) -> Columns:
    """The columns of records."""
    columns: dict[str, Any] = {name: rows[name] for name in kind._fields if name != "rows"}
    return kind(**columns, rows=rows)


def empty(kind: type[Columns], room: int) -> Columns:
    """So many records, all 0, and their columns."""
    fields = [
        (name, np.dtype(get_args(get_args(of)[1])[0]))
        for name, of in get_type_hints(kind).items()
        if name != "rows"
    ]
    # The widest first, so that nothing lies across a border.
    fields.sort(key=lambda field: -field[1].itemsize)
    return columns_of(kind, np.zeros(room, np.dtype(fields, align=True)))


def copied(columns: Columns) -> Columns:
    """A copy."""
    return columns_of(type(columns), columns.rows.copy())


def made(kind: type[Columns], **values: npt.ArrayLike) -> Columns:
    """Records from their columns."""
    found = empty(kind, len(np.asarray(next(iter(values.values())))))
    for name, column in values.items():
        found.rows[name] = column
    return found
