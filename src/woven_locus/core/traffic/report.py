"""What came of a run, in figures: of junctions, of trips, of all."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import SIDE_NAMES, Cell
from woven_locus.core.junction_rules import RULE_WORDS, Rule, shown_side
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.run import Counts, Tally, TrafficRun, tally_of
from woven_locus.core.traffic.waiting import stuck
from woven_locus.core.value import Value
from woven_locus.core.vehicles import Trip

Floats = npt.NDArray[np.float64]


class JunctionFigures(Value):
    """passed : vehicles that drove in.  mean_wait : seconds from asking for leave to having it.  mean_delay : seconds
    that each lost on the way to the line; delay : all of them together.  longest_queue : vehicles that stood before it
    at once at most."""

    cell: Cell
    rule: Rule
    passed: int
    mean_wait: float
    mean_delay: float
    delay: float
    longest_queue: int


class Watch:
    """Looks whether vehicles keep apart; costs more than the run itself.

    overlaps : pairs of vehicles, or of a vehicle and somebody on foot, that were in one another, added up; there must
    be none.  least_gap : from a front to the rear ahead, inf where nobody was near to anybody.
    """

    def __init__(self, run: TrafficRun) -> None:
        self._run = run
        self.overlaps = 0
        self.least_gap = np.inf

    def look(self) -> None:
        """Look at how things are now."""
        fleet = self._run.fleet
        self.overlaps += len(fleet.overlaps()) + len(run_over(self._run))
        gaps = fleet.cars.gap[fleet.under_way()]
        self.least_gap = min(self.least_gap, float(gaps.min(initial=np.inf)))


def junction_figures(run: TrafficRun) -> list[JunctionFigures]:
    """Of every cell that branches, by row and column."""
    return [_figures_of(run, at) for at in np.flatnonzero(run.streets.junctions.branches).tolist()]


def junction_figures_at(run: TrafficRun, cell: Cell) -> JunctionFigures | None:
    """Of the junction at a cell since it has its rule, but for the longest queue; None where none is."""
    at = run.streets.junctions.find(cell)
    return None if at is None else _figures_of(run, at, run.since.get(cell, _NOTHING))


# The tally of a junction that has had its rule from the beginning.
_NOTHING = Tally(0.0, 0, 0, 0.0)


def _figures_of(run: TrafficRun, junction: int, since: Tally = _NOTHING) -> JunctionFigures:
    junctions, now = run.streets.junctions, tally_of(run, junction)
    passed, delay = now.passed - since.passed, now.delay - since.delay
    each = 1.0 / passed if passed else 0.0
    cell = junctions.cell(junction)
    return JunctionFigures(
        cell,
        run.rule_of.get(cell, Rule.FIRST),
        passed,
        (now.waited - since.waited) * run.step * each,
        delay * each,
        delay,
        int(run.record.queue[junctions.areas[junction]]),
    )


class CrossingFigures(Value):
    """side : of the junction's cell in the array.  people : who crossed.  mean_wait : seconds at the kerb."""

    cell: Cell
    side: int
    people: int
    mean_wait: float


def crossing_figures(run: TrafficRun) -> list[CrossingFigures]:
    """Of every crossing to which somebody came, by row, column and side."""
    junctions = run.streets.junctions
    found = [
        CrossingFigures(
            junctions.cell(item.junction),
            item.side,
            item.people,
            item.waited / item.people if item.people else 0.0,
        )
        for item in run.walkers.crossings.values()
    ]
    return sorted(found, key=lambda item: (item.cell.row, item.cell.col, item.side))


def run_over(run: TrafficRun) -> list[tuple[str, str]]:
    """People and vehicles that are in one another: there must be none. O(n log n)."""
    from scipy.spatial import cKDTree

    walkers, fleet = run.walkers, run.fleet
    people, rows = walkers.under_way(), fleet.under_way()
    if not len(people) or not len(rows):
        return []
    places, shapes = walkers.places(people), fleet.shapes(rows)
    middles = shapes.mean(axis=1)
    radius = np.array([kind.size / 2 for kind in walkers.kinds])[walkers.kind[people]]
    reach = float(np.hypot(*(shapes - middles[:, None]).T).max() + radius.max())
    found = []
    for at, near in enumerate(cKDTree(middles).query_ball_point(places, reach)):
        for which in near:
            if _within(shapes[which], places[at], float(radius[at])):
                person, car = walkers.number[people[at]], fleet.number[rows[which]]
                found.append((f"P{person}", f"V{car}"))
    return found


def _within(shape: Floats, place: Floats, radius: float) -> bool:
    """Whether a circle touches a rectangle, given by its corners in order."""
    along, across = shape[1] - shape[0], shape[3] - shape[0]
    away = place - shape.mean(axis=0)
    beyond = [
        max(0.0, abs(float(away @ axis)) / float(np.hypot(*axis)) - float(np.hypot(*axis)) / 2)
        for axis in (along, across)
    ]
    return math.hypot(beyond[0], beyond[1]) < radius - 1e-9


class TripFigures(Value):
    """Of one trip of the run. wanted, sent, arrived : vehicles.  free : seconds on an empty road; mean, p95, delay :
    seconds of those who arrived; 0 for nobody.  why : why it has no way, else empty."""

    wanted: int
    sent: int
    arrived: int
    free: float
    mean: float
    p95: float
    delay: float
    why: str


def trip_figures(run: TrafficRun) -> list[TripFigures]:
    """Of every trip, in order. O(trips + arrivals log arrivals)."""
    arrivals, count = run.arrivals, len(run.trips)
    trip = np.array(arrivals.trip, np.int64)
    took, delay = np.array(arrivals.took), np.array(arrivals.delay)
    order = np.lexsort((took, trip))
    took = took[order]
    arrived = np.bincount(trip, minlength=count)
    lost = np.bincount(trip, weights=delay, minlength=count)
    ends = np.cumsum(arrived)
    wanted, sent, free = run.wanted_by_trip(), run.sent_by_trip(), run.least
    found = []
    for at, way in enumerate(run.ways):
        mine = took[ends[at] - arrived[at] : ends[at]]
        some = len(mine) > 0
        found.append(
            TripFigures(
                int(wanted[at]),
                int(sent[at]),
                len(mine),
                float(free[at]),
                float(mine.mean()) if some else 0.0,
                float(np.percentile(mine, 95)) if some else 0.0,
                float(lost[at]) / len(mine) if some else 0.0,
                way if isinstance(way, str) else "",
            )
        )
    return found


def figures(run: TrafficRun, watch: Watch, plan: Plan) -> dict[str, Any]:
    """All figures of a run, by the names that the command line gives them."""
    counts = run.counts()
    times, delays = np.array(run.arrivals.took), np.array(run.arrivals.delay)
    # Where nobody was near to anybody, nobody was nearer than the map is large.
    spec = plan.spec
    gap = min(watch.least_gap, math.hypot(spec.cols * spec.cell_w, spec.rows * spec.cell_h))
    return {
        "seconds": run.seconds,
        "steps": run.steps,
        **{key: value for key, value in counts._asdict().items() if key != "taken_off"},
        "mean_trip": float(times.mean()) if len(times) else 0.0,
        "p95_trip": float(np.percentile(times, 95)) if len(times) else 0.0,
        "mean_delay": float(delays.mean()) if len(delays) else 0.0,
        "mean_speed": run.record.mean_speed,
        "least_gap": gap,
        "overlaps": watch.overlaps,
        "stuck": sum(map(len, stuck(run))),
        "digest": run.digest(),
        "junctions": [
            {
                "cell": [item.cell.col, item.cell.row],
                "rule": RULE_WORDS[item.rule],
                "passed": item.passed,
                "mean_wait": item.mean_wait,
                "mean_delay": item.mean_delay,
                "longest_queue": item.longest_queue,
            }
            for item in junction_figures(run)
        ],
        "crossings": [
            {
                "cell": [item.cell.col, item.cell.row],
                "side": SIDE_NAMES[shown_side(item.side, spec.y_up)],
                "people": item.people,
                "mean_wait": item.mean_wait,
            }
            for item in crossing_figures(run)
        ],
    }


class Baseline(Value):
    """The figures of a run that another is compared with. trips : by trip; junctions : by cell."""

    seconds: float
    counts: Counts
    time_spent: float
    trips: dict[Trip, TripFigures]
    junctions: dict[Cell, JunctionFigures]


def baseline(run: TrafficRun) -> Baseline:
    """The figures of a run as it is now. Of trips that are alike the last counts."""
    return Baseline(
        run.seconds,
        run.counts(),
        run.record.time_spent,
        dict(zip(run.trips, trip_figures(run), strict=True)),
        {item.cell: item for item in junction_figures(run)},
    )
