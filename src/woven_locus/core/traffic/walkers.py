"""People on foot: they walk, wait at crossings until no vehicle is there, and cross; vehicles wait meanwhile."""

from __future__ import annotations

from collections.abc import Sequence
from copy import deepcopy

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels.traffic_state import Cars, Road
from woven_locus.core.traffic.fleet import asking
from woven_locus.core.traffic.footways import Footway
from woven_locus.core.traffic.junctions import Junctions
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.value import Record, field
from woven_locus.core.vehicles import PersonKind

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

WALKING, WAITING, ON_CROSSING = 0, 1, 2


class Crossing(Record):
    """One arm of a junction. bits : the movements of its area that lead over it.  on : people on it.  waiting : rows of
    those who wait, in order of arrival.  since : when it was entered; closed : since when vehicles have their turn,
    None while people have.  people, waited : how many crossed, and seconds that they waited; arrived : when each row came."""

    junction: int
    side: int
    area: int
    bits: int
    on: int = 0
    waiting: list[int] = field(default_factory=list)
    since: float = 0.0
    closed: float | None = None
    people: int = 0
    waited: float = 0.0
    arrived: dict[int, float] = field(default_factory=dict)


class Walkers:
    """People as rows of arrays.

    there, trip, kind, number : by row; x, goal_x : along its way, world units; born : when it wanted to set off.
    state : WALKING, WAITING or ON_CROSSING.  ways : by row.  longest : seconds that people may hold vehicles up in one
    go.
    """

    def __init__(
        self, kinds: Sequence[PersonKind], junctions: Junctions, tracks: Tracks, longest: float
    ) -> None:
        self.kinds, self._junctions, self._tracks = tuple(kinds), junctions, tracks
        self.longest = longest
        self.speeds = np.array([kind.speed for kind in kinds], float)
        self.there = np.zeros(0, bool)
        self.state = np.zeros(0, np.uint8)
        self.trip, self.kind, self.number = (np.zeros(0, np.int64) for _ in range(3))
        self.x, self.goal_x, self.born, self.stop = (np.zeros(0) for _ in range(4))
        # Which crossing of its way comes next, or is being crossed.
        self.next = np.zeros(0, np.int64)
        self.ways: list[Footway] = []
        self.crossings: dict[tuple[int, int], Crossing] = {}
        self.sent = 0

    def copied(self) -> Walkers:
        """A copy that goes on by itself; ways are shared, and never change."""
        twin = Walkers.__new__(Walkers)
        twin.__dict__.update(self.__dict__)
        for name in _ARRAYS:
            setattr(twin, name, getattr(self, name).copy())
        twin.ways = list(self.ways)
        twin.crossings = deepcopy(self.crossings)
        return twin

    @property
    def size(self) -> int:
        """Bytes that it takes."""
        return sum(int(getattr(self, name).nbytes) for name in _ARRAYS) + 8 * len(self.ways)

    def under_way(self) -> Ints:
        """The rows of all on foot, by number."""
        rows = np.flatnonzero(self.there)
        return rows[np.argsort(self.number[rows])]

    # --- coming and going -----------------------------------------------------------------------------

    def set_off(self, trip: int, kind: int, way: Footway, born: float) -> None:
        """One more."""
        self.sent += 1
        self.put(self.sent, trip, kind, way, born)

    def put(self, number: int, trip: int, kind: int, way: Footway, born: float) -> int:
        """Somebody at the beginning of a way; returns the row."""
        free = np.flatnonzero(~self.there)
        if not len(free):
            self._grow(max(16, 2 * len(self.there)))
            free = np.flatnonzero(~self.there)
        row = int(free[0])
        self.there[row], self.state[row], self.number[row] = True, WALKING, number
        self.trip[row], self.kind[row], self.born[row] = trip, kind, born
        self.x[row], self.goal_x[row], self.next[row] = 0.0, way.length, 0
        self.ways[row] = way
        self.stop[row] = way.crossings[0][2] if way.crossings else np.inf
        return row

    def _grow(self, room: int) -> None:
        for name in _ARRAYS:
            old = getattr(self, name)
            fresh = np.zeros(room, old.dtype)
            fresh[: len(old)] = old
            setattr(self, name, fresh)
        nowhere = np.zeros((0, 2), np.int64)
        none = Footway(np.zeros((1, 2)), np.zeros(1), nowhere, np.zeros(0, np.uint8), ())
        self.ways += [none] * (room - len(self.ways))

    # --- walking ---------------------------------------------------------------------------------------

    def step(self, now: float, dt: float, road: Road, cars: Cars, pieces: Shorts) -> Ints:
        """One step of all, before that of the vehicles: `road.areas.crossed` says where these must wait. Returns the rows of
        those who come to their goal; they are there no more."""
        rows = np.flatnonzero(self.there)
        if not len(rows):
            if self.crossings:
                self._let_cross(now, road, cars, pieces)
            return rows
        moves = rows[self.state[rows] != WAITING]
        self.x[moves] += self.speeds[self.kind[moves]] * dt
        at_kerb = moves[(self.state[moves] == WALKING) & (self.x[moves] >= self.stop[moves])]
        for row in at_kerb.tolist():
            self._arrive_at(row, now)
        over = moves[(self.state[moves] == ON_CROSSING) & (self.x[moves] >= self.stop[moves])]
        for row in over.tolist():
            self._leave_crossing(row)
        if self.crossings:
            self._let_cross(now, road, cars, pieces)
        there = rows[(self.state[rows] == WALKING) & (self.x[rows] >= self.goal_x[rows])]
        self.there[there] = False
        found: Ints = there[np.argsort(self.number[there])]
        return found

    def _crossing_of(self, row: int) -> Crossing:
        """The one that somebody waits at, or is on."""
        junction, side, _, _ = self.ways[row].crossings[int(self.next[row])]
        return self.crossing(junction, side)

    def crossing(self, junction: int, side: int) -> Crossing:
        """One arm of a junction; made when somebody first comes to it."""
        found = self.crossings.get((junction, side))
        if found is None:
            junctions = self._junctions
            bits = 0
            for bit, move in enumerate(junctions.moves_of(junction).tolist()):
                if side in (int(junctions.came[move]), int(junctions.goes[move])):
                    bits |= 1 << bit
            area = int(junctions.areas[junction])
            found = self.crossings[junction, side] = Crossing(junction, side, area, bits)
        return found

    def _arrive_at(self, row: int, now: float) -> None:
        """Somebody has come to the kerb."""
        self.x[row] = self.stop[row]
        self.state[row] = WAITING
        crossing = self._crossing_of(row)
        crossing.waiting.append(row)
        crossing.arrived[row] = now

    def _leave_crossing(self, row: int) -> None:
        crossing = self._crossing_of(row)
        crossing.on -= 1
        self.state[row] = WALKING
        self.next[row] += 1
        way, at = self.ways[row], int(self.next[row])
        self.stop[row] = way.crossings[at][2] if at < len(way.crossings) else np.inf

    def _let_cross(self, now: float, road: Road, cars: Cars, pieces: Shorts) -> None:
        """Who may go, and which movements vehicles may not begin now."""
        road.areas.crossed[[crossing.area for crossing in self.crossings.values()]] = 0
        for crossing in self.crossings.values():
            if crossing.on or crossing.waiting:
                self._decide(crossing, now, road, cars, pieces)
                if crossing.on or (crossing.waiting and crossing.closed is None):
                    road.areas.crossed[crossing.area] |= np.int64(crossing.bits)

    def _decide(
        self, crossing: Crossing, now: float, road: Road, cars: Cars, pieces: Shorts
    ) -> None:
        vehicles = self._asked(crossing, road, cars, pieces)
        if crossing.closed is not None:
            if crossing.on:
                crossing.closed = now  # the vehicles' turn begins once nobody is left on it
            elif not vehicles or now - crossing.closed >= self.longest:
                crossing.closed = None
        if crossing.closed is not None or not crossing.waiting:
            return
        if crossing.on:
            if vehicles and now - crossing.since >= self.longest:
                crossing.closed = now
                return
        elif int(road.areas.bits[crossing.area]) & crossing.bits:
            return  # a vehicle is there, or has leave to come
        else:
            crossing.since = now
        for row in crossing.waiting:
            self.state[row] = ON_CROSSING
            self.stop[row] = self.ways[row].crossings[int(self.next[row])][3]
            crossing.waited += now - crossing.arrived.pop(row)
        crossing.people += len(crossing.waiting)
        crossing.on += len(crossing.waiting)
        crossing.waiting.clear()

    def _asked(self, crossing: Crossing, road: Road, cars: Cars, pieces: Shorts) -> bool:
        """Whether a vehicle waits for leave to drive over it."""
        return any(
            crossing.bits >> int(self._tracks.movement[pieces[cars.line[row]]]) & 1
            for row in asking(road, cars, crossing.area)
        )

    # --- looking ---------------------------------------------------------------------------------------

    def places(self, rows: Ints) -> Floats:
        """(N, 2) world points."""
        found = np.empty((len(rows), 2))
        for at, row in enumerate(rows.tolist()):
            way = self.ways[row]
            for axis in (0, 1):
                found[at, axis] = np.interp(self.x[row], way.at, way.points[:, axis])
        return found

    def headings(self, rows: Ints) -> Floats:
        """(N,) degrees, 0 towards higher columns and 90 towards higher rows."""
        found = np.empty(len(rows))
        for at, row in enumerate(rows.tolist()):
            way = self.ways[row]
            k = min(int(np.searchsorted(way.at, self.x[row], side="right")), len(way.at) - 1)
            dx, dy = way.points[k] - way.points[k - 1]
            found[at] = np.degrees(np.arctan2(dy, dx)) % 360.0
        return found


_ARRAYS = ("there", "state", "trip", "kind", "number", "x", "goal_x", "born", "stop", "next")
