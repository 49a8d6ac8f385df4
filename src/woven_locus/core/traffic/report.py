"""What came of a run, in figures."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.kernels.traffic_state import BEHIND
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.run import TrafficRun

Ints = npt.NDArray[np.int64]

# Below this share of its kind's speed a vehicle counts as standing.
STANDS = 0.02
# How often the road is looked at while a run is watched, simulated seconds.
EVERY = 0.5


@dataclass(frozen=True, slots=True)
class JunctionFigures:
    """passed : vehicles that drove in.  mean_wait : seconds from asking for leave to having it.  longest_queue : vehicles
    that stood before it at once at most."""

    cell: Cell
    rule: str
    passed: int
    mean_wait: float
    longest_queue: int


class Watch:
    """Looks at a run every so often and remembers what was worst. See `EVERY`.

    overlaps : pairs of vehicles that stood in one another, added up; there must be none.  least_gap : from a
    front to the rear ahead, inf where nobody was near to anybody.
    """

    def __init__(self, run: TrafficRun) -> None:
        self._run = run
        self.overlaps = 0
        self.least_gap = np.inf
        self._queues = np.zeros(len(run.streets.tracks.slots), np.int64)
        self._way = self._time = 0.0

    def look(self) -> None:
        """Look at how things are now."""
        fleet, streets = self._run.fleet, self._run.streets
        rows = fleet.under_way()
        self.overlaps += len(fleet.overlaps())
        cars = fleet.cars
        self.least_gap = min(self.least_gap, float(cars.gap[rows].min(initial=np.inf)))
        self._way += float(cars.v[rows].sum())
        self._time += len(rows)
        stands = rows[cars.v[rows] < STANDS * streets.kinds.speed[cars.kind[rows]]]
        stands = stands[cars.line[stands] >= 0]
        area = streets.tracks.area[fleet.pieces[cars.line[stands]]]
        self._queues = np.maximum(self._queues, np.bincount(area, minlength=len(self._queues)))

    @property
    def mean_speed(self) -> float:
        """Of all vehicles at all times that were looked at, world units a second; 0 where there were none."""
        return self._way / self._time if self._time else 0.0

    def junctions(self, plan: Plan) -> list[JunctionFigures]:
        """Of every cell that branches, by row and column."""
        run = self._run
        tracks, road = run.streets.tracks, run.streets.road
        branches = run.streets.graph.forms.branches[run.streets.graph.pattern[tracks.slots]]
        found = []
        for area in np.flatnonzero((tracks.side < 0) & branches).tolist():
            passed = int(road.passed[area])
            wait = float(road.waited[area]) * run.step / passed if passed else 0.0
            cell = plan.spec.cell_at_index(int(tracks.slots[area]))
            rule = "first come, first served"
            found.append(JunctionFigures(cell, rule, passed, wait, int(self._queues[area])))
        return found


def stuck(run: TrafficRun) -> list[list[int]]:
    """Rings of vehicles that wait for one another and so will never move: the numbers of each ring's vehicles.

    O(vehicles): each waits for one other at most.
    """
    fleet = run.fleet
    rows = fleet.under_way()
    waits = waits_for(run)
    stands = fleet.cars.v < 1e-3
    seen = np.zeros(fleet.room, np.int64)
    rings = []
    for walk, row in enumerate(rows.tolist(), 1):
        here, path = row, []
        while here >= 0 and stands[here] and not seen[here]:
            seen[here] = walk
            path.append(here)
            here = int(waits[here])
        if here >= 0 and stands[here] and seen[here] == walk:
            ring = path[path.index(here) :]
            rings.append(sorted(fleet.number[ring].tolist()))
    return rings


def waits_for(run: TrafficRun, some: Ints | None = None) -> Ints:
    """By row of the fleet: the row of the vehicle that each waits for, -1 for nobody. Who waits for leave waits for one
    that has it for a movement in conflict with its own, or for one that asked before.
    some : rows that are asked about; all on the road by default."""
    fleet, cars = run.fleet, run.fleet.cars
    found = np.full(fleet.room, -1, np.int64)
    rows = fleet.under_way() if some is None else some
    named = rows[cars.for_[rows] >= 0]
    found[named] = cars.for_[named]
    asks = rows[(cars.asked[rows] >= 0) & (cars.why[rows] != BEHIND) & (found[rows] < 0)]
    holders = _holders(run, fleet.under_way()) if len(asks) else {}
    for row in asks.tolist():
        found[row] = _in_the_way(run, row, holders)
    return found


def _holders(run: TrafficRun, rows: Ints) -> dict[int, list[tuple[int, int]]]:
    """By area: (movement, row) of those that have leave there."""
    fleet, tracks = run.fleet, run.streets.tracks
    cars = fleet.cars
    found: dict[int, list[tuple[int, int]]] = {}
    for row in rows.tolist():
        until = int(cars.line[row]) if cars.line[row] >= 0 else int(cars.way_end[row])
        for piece in fleet.pieces[int(cars.tail[row]) : until].tolist():
            if (area := int(tracks.area[piece])) >= 0:
                found.setdefault(area, []).append((int(tracks.movement[piece]), row))
    return found


def _in_the_way(run: TrafficRun, row: int, holders: dict[int, list[tuple[int, int]]]) -> int:
    """The row of who has leave, or asked before, for what conflicts with a vehicle's next movement; -1 for nobody."""
    fleet, tracks, road = run.fleet, run.streets.tracks, run.streets.road
    cars = fleet.cars
    at = int(cars.line[row])
    # Leave is given for a movement and those that follow it without room to wait between them.
    while at < cars.way_end[row] and (area := int(tracks.area[fleet.pieces[at]])) >= 0:
        piece = int(fleet.pieces[at])
        mask = int(tracks.mask[tracks.mask_at[area] + tracks.movement[piece]])
        for movement, other in holders.get(area, ()):
            if other != row and mask >> movement & 1:
                return other
        at += 1
    piece = int(fleet.pieces[cars.line[row]])
    area = int(tracks.area[piece])
    mask = int(tracks.mask[tracks.mask_at[area] + tracks.movement[piece]])
    mask |= 1 << int(tracks.movement[piece])
    other = int(road.first[area])
    while other >= 0 and other != row:
        if mask >> int(tracks.movement[fleet.pieces[cars.line[other]]]) & 1:
            return other
        other = int(cars.next[other])
    return -1


def figures(run: TrafficRun, watch: Watch, plan: Plan) -> dict[str, Any]:
    """All figures of a run, by the names that the command line gives them."""
    counts = run.counts()
    times, delays = np.array(run.times), np.array(run.delays)
    # Where nobody was near to anybody, nobody was nearer than the map is large.
    spec = plan.spec
    gap = min(watch.least_gap, math.hypot(spec.cols * spec.cell_w, spec.rows * spec.cell_h))
    return {
        "seconds": run.seconds,
        "steps": run.steps,
        **counts._asdict(),
        "mean_trip": float(times.mean()) if len(times) else 0.0,
        "p95_trip": float(np.percentile(times, 95)) if len(times) else 0.0,
        "mean_delay": float(delays.mean()) if len(delays) else 0.0,
        "mean_speed": watch.mean_speed,
        "least_gap": gap,
        "overlaps": watch.overlaps,
        "stuck": sum(map(len, stuck(run))),
        "digest": run.digest(),
        "junctions": [
            {
                "cell": [item.cell.col, item.cell.row],
                "rule": item.rule,
                "passed": item.passed,
                "mean_wait": item.mean_wait,
                "longest_queue": item.longest_queue,
            }
            for item in watch.junctions(plan)
        ],
        "crossings": [],
    }
