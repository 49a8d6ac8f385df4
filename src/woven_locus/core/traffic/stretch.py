"""A stretch of road looked at closely: who was where when, and how flow goes with density."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.lines import distances
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.value import Value
from woven_locus.core.vehicles import VehicleKind

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]

# Simulated seconds between two looks.
EVERY = 0.5
# Seconds and parts of the stretch over which flow and density are taken.
WINDOW, PARTS = 20.0, 4


class Seen(Value, eq=False):
    """One row a vehicle and look, in order of time: seconds, number of the vehicle, how far along the stretch its front
    was, and its speed, all (N,). length : of the stretch."""

    seconds: Floats
    number: Ints
    along: Floats
    speed: Floats
    length: float

    def lines(self) -> list[tuple[int, Floats, Floats]]:
        """(number, seconds, along) of each time that a vehicle drove through, in order of time."""
        order = np.lexsort((self.seconds, self.number))
        number, seconds, along = self.number[order], self.seconds[order], self.along[order]
        # A vehicle that comes again begins a new line.
        gap = (np.diff(number) != 0) | (np.diff(seconds) > 1.5 * EVERY) | (np.diff(along) < -1e-9)
        parts = np.split(np.arange(len(order)), np.flatnonzero(gap) + 1) if len(order) else []
        found = [(int(number[part[0]]), seconds[part], along[part]) for part in parts]
        return sorted(found, key=lambda line: float(line[1][0]))


class Stretch:
    """Nodes of the lane graph one after the other, by dense number. at : how far along each lies."""

    def __init__(self, run: TrafficRun, nodes: Sequence[int]) -> None:
        self.nodes = np.array(nodes, np.int64)
        self.at = distances(run.streets.places[self.nodes])
        count = len(run.streets.tracks.nodes)
        self._place = np.full(count, -1, np.int64)
        # Of a node that is passed twice the first counts.
        self._place[self.nodes[::-1]] = np.arange(len(self.nodes))[::-1]

    @property
    def length(self) -> float:
        """World units."""
        return float(self.at[-1])

    def look(self, run: TrafficRun) -> tuple[Ints, Floats, Floats]:
        """(numbers, along, speeds) of the vehicles whose front is on it."""
        fleet, tracks = run.fleet, run.streets.tracks
        rows = np.flatnonzero(fleet.cars.there)
        edge = fleet.cars.edge[rows].astype(np.int64)
        number = tracks.edges[edge]
        start, to = self._place[tracks.edge_start[number]], self._place[tracks.edge_to[number]]
        on = (start >= 0) & (to == start + 1)
        rows, edge, start = rows[on], edge[on], start[on]
        along = self.at[start] + fleet.cars.s[rows] - tracks.began(edge)
        return fleet.number[rows], along, fleet.cars.v[rows]


def watch(
    run: TrafficRun,
    stretch: Stretch,
    until: int,
    tell: Callable[[float], object] = lambda _share: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Seen:
    """Let a run go on until so many steps are done, and note who is on a stretch. tell : is told the share that is done.
    stopped : asked now and then; then it ends early."""
    often = max(1, round(EVERY / run.step))
    first = run.steps
    seconds, numbers, along, speeds = [], [], [], []
    while run.steps < until and not stopped():
        run.advance(min(often, until - run.steps))
        number, at, speed = stretch.look(run)
        seconds.append(np.full(len(number), run.seconds))
        numbers.append(number)
        along.append(at)
        speeds.append(speed)
        tell((run.steps - first) / max(1, until - first))
    none = [np.zeros(0)]
    return Seen(
        np.concatenate(seconds or none),
        np.concatenate(numbers or none).astype(np.int64),
        np.concatenate(along or none),
        np.concatenate(speeds or none),
        stretch.length,
    )


def fundamental(seen: Seen) -> tuple[Floats, Floats]:
    """(density, flow) of parts of the stretch in windows of time: vehicles a world unit, vehicles a second. By Edie's
    definitions; see `record.Record`. Parts in which nobody was are left out."""
    if not len(seen.seconds):
        return np.zeros(0), np.zeros(0)
    part = np.minimum((seen.along / seen.length * PARTS).astype(np.int64), PARTS - 1)
    window = ((seen.seconds - EVERY) / WINDOW).astype(np.int64)
    key = window * PARTS + part
    count = int(key.max()) + 1
    time = np.bincount(key, minlength=count) * EVERY
    way = np.bincount(key, weights=seen.speed * EVERY, minlength=count)
    area = seen.length / PARTS * WINDOW
    # The last window may have been cut short.
    whole = window[-1] * PARTS
    some = np.flatnonzero(time[:whole] > 0)
    density, flow = time[some] / area, way[some] / area
    return np.asarray(density, np.float64), np.asarray(flow, np.float64)


def model_curve(kind: VehicleKind, top: float) -> tuple[Floats, Floats]:
    """(density, flow) that the following model carries in equilibrium, from standing to speed `top` or that of the kind."""
    fastest = min(kind.speed, top)
    v = np.concatenate(([0.0], np.linspace(0.01, 0.999, 120))) * fastest
    density: Floats = 1 / (kind.equilibrium_gap(v, fastest) + kind.length)
    return density, density * v
