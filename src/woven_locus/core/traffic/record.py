"""What a run has been like so far: where time was spent and lost, who queued, who arrived when."""

from __future__ import annotations

from array import array
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.distinct import distinct
from woven_locus.core.traffic.fleet import Fleet
from woven_locus.core.traffic.streets import Streets

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# Below this share of its kind's speed a vehicle counts as standing.
STANDS = 0.02
# How often the road is looked at, simulated seconds.
EVERY = 0.5


class Arrivals:
    """Who has arrived, in that order. trip : place of its trip.  at : when, seconds.  took : seconds from when it
    wanted to set off.  delay : how many of them an empty road would not have taken."""

    def __init__(self) -> None:
        self.trip = array("q")
        self.at, self.took, self.delay = array("d"), array("d"), array("d")

    def __len__(self) -> int:
        return len(self.trip)

    def add(self, trip: int, at: float, took: float, delay: float) -> None:
        """One more."""
        for column, value in ((self.at, at), (self.took, took), (self.delay, delay)):
            column.append(value)
        self.trip.append(trip)

    def first(self, count: int) -> Arrivals:
        """A copy of the first `count` of them."""
        found = Arrivals()
        for name in ("trip", "at", "took", "delay"):
            setattr(found, name, getattr(self, name)[:count])
        return found


class Moment(NamedTuple):
    """The road at one look. seconds : when.  mean_speed : of those under way, world units a second, 0 for nobody."""

    seconds: float
    under_way: int
    held_back: int
    standing: int
    mean_speed: float


def steps_looked_at(steps: int, every: int) -> int:
    """For how many steps a look stands after so many, 0 where none is due. Once in `every` steps, each time at another
    place among them: vehicles that come at even intervals would else be met at the same places again and again, and
    others never."""
    shift = max(1, round(0.382 * every))
    window, at = divmod(steps, every)
    if at != window * shift % every:
        return 0
    before = (window - 1) * every + (window - 1) * shift % every
    return steps - max(0, before)


class _Places:
    """Some of many places, each once."""

    def __init__(self, count: int) -> None:
        self._known = np.zeros(count, bool)
        self._parts: list[Ints] = []

    def add(self, places: Ints) -> None:
        """These too."""
        new = places[~self._known[places]]
        if len(new):
            new = distinct(new)
            self._known[new] = True
            self._parts.append(new)

    def all(self) -> Ints:
        """(K,) all of them."""
        found = np.concatenate([np.zeros(0, np.int64), *self._parts])
        self._parts = [found]
        return found


class KeptRecord(NamedTuple):
    """A record as it was, in the places where there was something: of a large town that is few, and it is kept every few
    seconds. counts : of nodes and movements in all.  sums : (K,) each, time, way, lost, stood."""

    counts: tuple[int, int]
    nodes: Ints
    sums: tuple[Floats, ...]
    moves: Ints
    delay: Floats
    queue: Ints
    seconds: float
    moments: array[float]

    @property
    def size(self) -> int:
        """Bytes that it takes."""
        arrays = (self.nodes, *self.sums, self.moves, self.delay, self.queue)
        return sum(part.nbytes for part in arrays) + 8 * len(self.moments)

    def record(self) -> Record:
        """A record that goes on from there by itself."""
        made = Record(*self.counts, len(self.queue))
        made.note(self.nodes, self.moves)
        for column, kept in zip(made.sums, self.sums, strict=True):
            column[self.nodes] = kept
        made.delay[self.moves] = self.delay
        made.queue[:] = self.queue
        made.seconds, made._moments = self.seconds, self.moments[:]
        return made


class Record:
    """By node of the lane graph, (N,) each, of the edges that leave it: time, vehicle-seconds spent there; way, world
    units driven there; lost, seconds that standing and driving below what the road and the kind allow took; stood,
    vehicle-seconds of those who stood. By movement, (M,): delay, seconds that were lost by those whose next line it was.
    By area, (A,): queue, the most that stood before it at once.
    seconds : that were recorded.

    Flow, density and mean speed follow from time and way as L. Edie defines them ("Discussion of traffic stream
    measurements and definitions", 1963): density = time / (length · T), flow = way / (length · T), speed = way / time.
    """

    def __init__(self, nodes: int, moves: int, areas: int) -> None:
        """How many there are of each."""
        self.time, self.way, self.lost, self.stood = (np.zeros(nodes) for _ in range(4))
        self.delay: Floats = np.zeros(moves)
        self.queue: Ints = np.zeros(areas, np.int64)
        self.seconds = 0.0
        self._moments = array("d")
        self._nodes, self._moves = _Places(nodes), _Places(moves)

    @classmethod
    def on(cls, streets: Streets) -> Record:
        """An empty one."""
        tracks = streets.tracks
        return cls(len(tracks.nodes), len(tracks.mask), len(tracks.slots))

    def kept(self) -> KeptRecord:
        """What there is of it now."""
        nodes, moves = self._nodes.all(), self._moves.all()
        return KeptRecord(
            (len(self.time), len(self.delay)),
            nodes,
            tuple(column[nodes] for column in self.sums),
            moves,
            self.delay[moves],
            self.queue.copy(),
            self.seconds,
            self._moments[:],
        )

    @property
    def sums(self) -> tuple[Floats, ...]:
        """By node: time, way, lost, stood."""
        return self.time, self.way, self.lost, self.stood

    @property
    def nodes(self) -> Ints:
        """(K,) those at which something was written."""
        return self._nodes.all()

    def note(self, nodes: Ints, moves: Ints) -> None:
        """Something was written there. Whoever writes says so; what is not said is not kept."""
        self._nodes.add(nodes)
        self._moves.add(moves)

    def take_moments(self, other: Record) -> None:
        """The looks of another record as one's own."""
        self.seconds, self._moments = other.seconds, other._moments[:]

    def look(
        self, fleet: Fleet, streets: Streets, seconds: float, passed: float, held_back: int
    ) -> None:
        """Look at how things are now. passed : seconds since the last look.  held_back : vehicles."""
        cars, tracks = fleet.cars, streets.tracks
        rows = np.flatnonzero(cars.there)
        self.seconds += passed
        v = cars.v[rows]
        fastest = streets.kinds.speed[cars.kind[rows]]
        top = np.minimum(fastest, streets.net.speed[cars.edge[rows]])
        lost = passed * np.maximum(0.0, 1.0 - v / top)
        node = tracks.edge_start[tracks.edges[cars.edge[rows]]]
        waits = cars.line[rows] >= 0
        line = fleet.pieces[cars.line[rows[waits]]]
        moves = tracks.moves(line)
        self.note(node, moves)
        np.add.at(self.time, node, passed)
        np.add.at(self.way, node, v * passed)
        np.add.at(self.lost, node, lost)
        stands = v < STANDS * fastest
        np.add.at(self.stood, node[stands], passed)
        area = tracks.area[line]
        np.add.at(self.delay, moves, lost[waits])
        queued = np.bincount(area[stands[waits]], minlength=len(self.queue))
        np.maximum(self.queue, queued, out=self.queue)
        mean = float(v.mean()) if len(rows) else 0.0
        self._moments.extend((seconds, len(rows), held_back, int(stands.sum()), mean))

    def moments(self) -> list[Moment]:
        """The road at every look."""
        flat = self._moments
        return [
            Moment(flat[at], int(flat[at + 1]), int(flat[at + 2]), int(flat[at + 3]), flat[at + 4])
            for at in range(0, len(flat), 5)
        ]

    @property
    def time_spent(self) -> float:
        """Seconds that all vehicles together have spent on the road or waiting to set off, by the looks."""
        found = last = 0.0
        for moment in self.moments():
            found += (moment.under_way + moment.held_back) * (moment.seconds - last)
            last = moment.seconds
        return found

    @property
    def mean_speed(self) -> float:
        """Of all vehicles at all looks, world units a second; 0 where there were none."""
        time = float(self.time.sum())
        return float(self.way.sum()) / time if time else 0.0
