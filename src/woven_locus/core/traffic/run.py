"""The stepped simulation of vehicles: the same plan, trips and step give the same run, whoever runs it."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.clock import STEP
from woven_locus.core.errors import Refused, Stopped, Unknown
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.junction_rules import JunctionRule
from woven_locus.core.kernels.traffic_state import Plans
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.side_by_side import never, nobody
from woven_locus.core.traffic.fleet import Fleet
from woven_locus.core.traffic.footways import Footway, Footways, check_size
from woven_locus.core.traffic.junctions import make_rules
from woven_locus.core.traffic.record import EVERY, Arrivals, Record, steps_looked_at
from woven_locus.core.traffic.streets import Streets
from woven_locus.core.traffic.walkers import Walkers
from woven_locus.core.traffic.ways import TripWay, WayFinder
from woven_locus.core.vehicles import Trip, VehicleKind, plain_vehicle

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

# Rows of vehicles that there are at first. After so many steps they are put in order again: meanwhile a vehicle passes
# a few cells, and its neighbours change little.
_ROWS, IN_ORDER = 256, 60


class Counts(NamedTuple):
    """How many vehicles and people wanted to set off, did, arrived, are under way, wait for room to set off, have no
    way, or were taken off the road since it was changed under them."""

    wanted: int
    sent: int
    arrived: int
    under_way: int
    held_back: int
    no_way: int
    taken_off: int


class Tally(NamedTuple):
    """What had come of a junction when its rule was changed: seconds; vehicles that had passed, steps that they waited,
    and seconds that they lost."""

    seconds: float
    passed: int
    waited: int
    delay: float


class TrafficRun:
    """Vehicles on the roads of a plan, which must not change meanwhile.

    kinds, people, trips : of vehicle and of people, and what they do.  streets, fleet, walkers : what is driven on, who
    drives, and who is on foot.  step : seconds.  steps : done so far.  structures : numbers of those that trips begin or
    end at.
    By trip: ways, its way or why it has none; no_way, whether it has none; kind, that of its vehicle, or -1 less that of
    its people; on_foot, whether it is of people; least, seconds that it takes with nobody else there; depart, every,
    count, as it says; foot_due, when the next of its people wants to set off, inf for nobody.  plans : the trips as the
    kernels take them.
    rules, junction_rules : who goes first, as the kernels take it and as the plan says it; rule_of, by cell; since, what
    had come of those whose rule was changed while it ran.
    arrivals : who has come to its goal.  record : what it has been like.  taken_off : names of those that lost their
    road, as V12 and P3.  log : hash of who arrived when.
    """

    def __init__(
        self,
        plan: Plan,
        trips: Sequence[Trip],
        kinds: Sequence[VehicleKind] = (),
        step: float = STEP,
        seed: int = 0,
        stopped: Callable[[], bool] = never,
        progress: Callable[[float], object] = nobody,
    ) -> None:
        """kinds : a plain one without.  seed : that the trips were made with, kept for whoever makes them anew.
        stopped : asked now and then while ways are looked for; raises Stopped then.  progress : told the share that is done.
        Raises Refused for a step that is too long or too short, and for vehicles or people that the roads have no room
        for; Unknown for a trip of a kind that there is not."""
        if not (math.isfinite(step) and 0.001 <= step <= 0.5):
            raise Refused(phrase("a step must be 0.001 to 0.5 seconds, not {step:g}", step=step))
        self.step, self.steps, self.seed = step, 0, seed
        self.taken_off: list[str] = []
        self.kinds = tuple(kinds) or (plain_vehicle(plan.spec),)
        self.trips = tuple(trips)
        self.streets = Streets(plan, self.kinds)
        self.people = plan.traffic.people
        check_size(plan, self.people)
        self.walkers = Walkers(
            self.people,
            self.streets.junctions,
            self.streets.tracks,
            plan.traffic.longest_crossing,
        )
        self.ways: list[TripWay | Footway | str] = []
        self.kind = np.zeros(0, np.int64)
        self._find_ways(plan, self.trips, stopped, progress)
        self.plans, pieces = _laid(self)
        self.foot_due = self.first_due(on_foot=True)
        self.fleet = Fleet(self.streets, self.kinds, pieces)
        self.fleet.grow(_ROWS)
        self.arrivals, self.record = Arrivals(), Record.on(self.streets)
        self.log = hashlib.blake2b(digest_size=16)
        self.junction_rules: tuple[JunctionRule, ...] = ()
        self.since: dict[Cell, Tally] = {}
        self.obey(plan)
        self.since.clear()

    def obey(self, plan: Plan) -> None:
        """Follow the rules that a plan has for its junctions now; of the rest only its classes of road are looked at."""
        before = {rule.cell: rule for rule in self.junction_rules}
        self.junction_rules = plan.traffic.junctions
        now = {rule.cell: rule for rule in self.junction_rules}
        changed = [at for at in before.keys() | now.keys() if before.get(at) != now.get(at)]
        self.since |= {
            cell: tally_of(self, junction)
            for cell in changed
            if (junction := self.streets.junctions.find(cell)) is not None
        }
        self.rule_of = {cell: rule.rule for cell, rule in now.items()}
        self.rules = make_rules(
            self.streets.tracks, self.streets.junctions, self.junction_rules, plan.road_table
        )

    def _find_ways(
        self,
        plan: Plan,
        trips: Sequence[Trip],
        stopped: Callable[[], bool] = never,
        progress: Callable[[float], object] = nobody,
    ) -> None:
        """The kinds and ways of more trips, which are the last of all."""
        kinds = _kinds_of(self, trips)
        self.ways += _ways_of(self, plan, trips, kinds, stopped, progress)
        self.kind = np.concatenate((self.kind, np.array(kinds, np.int64)))
        self.on_foot = self.kind < 0
        self.no_way = np.array([isinstance(way, str) for way in self.ways], bool)
        self.least = np.array(list(map(self._seconds, self.kind.tolist(), self.ways)), float)
        self.count = np.array([trip.count for trip in self.trips], np.int64)
        self.depart = np.array([trip.depart for trip in self.trips], float)
        self.every = np.array([trip.every for trip in self.trips], float)
        ends = (end for trip in self.trips for end in (trip.start, trip.goal))
        self.structures = frozenset(end for end in ends if isinstance(end, int))

    def _seconds(self, kind: int, way: TripWay | Footway | str) -> float:
        """That nobody else's presence would make longer."""
        if isinstance(way, Footway):
            return way.length / self.people[-1 - kind].speed
        return 0.0 if isinstance(way, str) else way.seconds

    def add(self, plan: Plan, trips: Sequence[Trip]) -> None:
        """More trips, while those that there are go on. plan : that of the run. Raises Unknown as the making does."""
        before = self.plans
        self.trips = (*self.trips, *trips)
        self._find_ways(plan, trips)
        self.plans, self.fleet.pieces = _laid(self)
        known = len(before.due)
        self.plans.due[:known], self.plans.left[:known] = before.due, before.left
        self.foot_due = np.concatenate((self.foot_due, self.first_due(on_foot=True)[known:]))

    def first_due(self, on_foot: bool) -> Floats:
        """(trips,) when the first of people, or of vehicles, wants to set off; inf for nobody, as without a way."""
        return np.where(self.no_way | (self.on_foot != on_foot), np.inf, self.depart)

    def begin_trips(self) -> None:
        """As if no trip had sent anybody."""
        self.plans.due[:] = self.first_due(on_foot=False)
        self.foot_due[:] = self.first_due(on_foot=True)
        self.plans.left[:] = self.count

    def nearest(self, to: Point, reach: float) -> int:
        """See `Fleet.nearest`."""
        return self.fleet.nearest(to, reach)

    # --- running it ---------------------------------------------------------------------------------

    @property
    def seconds(self) -> float:
        """Simulated time since the beginning."""
        return self.steps * self.step

    def advance(self, steps: int = 1) -> None:
        """Do so many steps."""
        for _ in range(steps):
            self._advance()

    def _advance(self) -> None:
        fleet, streets = self.fleet, self.streets
        # Of each trip one sets off in a step at most.
        wants = int(((self.plans.due <= self.seconds) & (self.plans.left > 0)).sum())
        if fleet.free_count < wants:
            fleet.grow(fleet.room + max(fleet.room, wants))
        if self.steps % IN_ORDER == 0:
            fleet.put_in_order(streets.road)
        road, on = (streets.net, streets.road), (fleet.cars, streets.kinds, fleet.pieces)
        left = (fleet.born, fleet.trip, fleet.free, fleet.free_count)
        count = kernels.depart(self.seconds, *road, *on, self.plans, *left)
        fleet.set_off(count, self.least)
        self._walk()
        arrived = np.empty(fleet.room, np.int64)
        count = kernels.drive(self.steps, self.step, fleet.room, *road, self.rules, *on, arrived)
        self.steps += 1
        self._take_in(arrived[:count])
        self._look()

    def _walk(self) -> None:
        """One step of the people on foot."""
        _set_off_on_foot(self)
        walkers, fleet = self.walkers, self.fleet
        came = walkers.step(self.seconds, self.step, self.streets.road, fleet.cars, fleet.pieces)
        now = self.seconds + self.step
        for row in came.tolist():
            trip = int(walkers.trip[row])
            took = now - float(walkers.born[row])
            self.arrivals.add(trip, now, took, took - float(self.least[trip]))
            self.log.update(f"P{walkers.number[row]} {took!r};".encode())

    def _look(self) -> None:
        steps = steps_looked_at(self.steps, max(1, round(EVERY / self.step)))
        if steps:
            held_back = self.counts().held_back
            self.record.look(self.fleet, self.streets, self.seconds, steps * self.step, held_back)

    def _take_in(self, rows: Ints) -> None:
        """Those are at their goal."""
        fleet = self.fleet
        for row in rows.tolist():
            took = self.seconds - float(fleet.born[row])
            self.arrivals.add(
                int(fleet.trip[row]), self.seconds, took, took - float(fleet.least[row])
            )
            self.log.update(f"{fleet.number[row]} {took!r};".encode())
        fleet.give_back(rows)

    @property
    def arrived(self) -> int:
        """How many have come to their goal."""
        return len(self.arrivals)

    @property
    def over(self) -> bool:
        """Whether nobody is on the road, and nobody is to come."""
        gone = self.arrived + len(self.taken_off)
        return self.sent == gone and not self._more

    @property
    def _more(self) -> bool:
        """Whether somebody is to come."""
        due = np.isfinite(self.plans.due) | np.isfinite(self.foot_due)
        return bool((due & (self.plans.left > 0)).any())

    @property
    def sent(self) -> int:
        """How many have set off."""
        return self.fleet.sent + self.walkers.sent

    # --- looking at it ------------------------------------------------------------------------------

    def wanted_by_trip(self) -> Ints:
        """(trips,) how many were due when the step began that was done last."""
        now = (self.steps - 1) * self.step
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            due = np.floor((now - self.depart) / self.every + 1e-9) + 1
        due = np.where(self.every > 0, np.minimum(due, self.count), self.count)
        return np.where(self.depart <= now, due, 0).astype(np.int64)

    def sent_by_trip(self) -> Ints:
        """(trips,) how many have set off."""
        return self.count - self.plans.left

    def counts(self) -> Counts:
        """wanted = sent + held_back + no_way, and sent = arrived + under_way + taken_off, always."""
        due = self.wanted_by_trip()
        no_way = int((due - self.sent_by_trip())[self.no_way].sum())
        wanted = int(due.sum())
        sent = self.sent
        gone = len(self.taken_off)
        under_way = sent - self.arrived - gone
        return Counts(wanted, sent, self.arrived, under_way, wanted - sent - no_way, no_way, gone)

    def digest(self) -> str:
        """A hash of who arrived when, and of where everybody is and how fast."""
        state, fleet = self.log.copy(), self.fleet
        rows = fleet.under_way()
        columns: list[npt.NDArray[Any]] = [
            fleet.number[rows],
            fleet.cars.x[rows],
            fleet.cars.v[rows],
            fleet.trip[rows],
        ]
        walkers = self.walkers
        rows = walkers.under_way()
        columns += [walkers.number[rows], walkers.x[rows], walkers.state[rows], walkers.trip[rows]]
        for column in columns:
            state.update(column.tobytes())
        state.update(str(self.steps).encode())
        return state.hexdigest()


def _kinds_of(run: TrafficRun, trips: Sequence[Trip]) -> list[int]:
    """By trip, as in `TrafficRun.kind`. Raises Unknown."""
    known = {"": 0} | {kind.key: at for at, kind in enumerate(run.kinds)}
    known |= {kind.key: -1 - at for at, kind in enumerate(run.people)}
    for trip in trips:
        if trip.kind not in known:
            raise Unknown(
                phrase(
                    "no kind of vehicle or people {key!r}; there is {there}",
                    key=trip.kind,
                    there=", ".join(kind.key for kind in run.kinds),
                )
            )
    return [known[trip.kind] for trip in trips]


def _ways_of(
    run: TrafficRun,
    plan: Plan,
    trips: Sequence[Trip],
    kinds: Sequence[int],
    stopped: Callable[[], bool],
    progress: Callable[[float], object],
) -> list[TripWay | Footway | str]:
    """The way of each trip, or why it has none. Raises Stopped."""
    finder = WayFinder(plan, run.streets.graph, run.streets.tracks)
    driven = iter(
        finder.find_all(
            [
                (trip.start, trip.goal, run.kinds[kind])
                for trip, kind in zip(trips, kinds, strict=True)
                if kind >= 0
            ],
            stopped,
            progress,
        )
    )
    footways: Footways | None = None
    ways: list[TripWay | Footway | str] = []
    for trip, kind in zip(trips, kinds, strict=True):
        if kind >= 0:
            ways.append(next(driven))
        elif stopped():
            raise Stopped
        else:
            # Made only where somebody walks: it is nine times the map.
            footways = footways or Footways(plan, run.streets.junctions)
            ways.append(footways.find(trip.start, trip.goal))
    return ways


def _laid(run: TrafficRun) -> tuple[Plans, Shorts]:
    """The trips as the kernels take them, and the pieces of all ways. Of one without a way nobody comes."""
    none = TripWay(np.zeros(0, np.int32), 0.0, 0.0, 0.0)
    ways = [way if isinstance(way, TripWay) else none for way in run.ways]
    ends = np.cumsum([len(way.pieces) for way in ways], dtype=np.int64)
    starts = np.concatenate((np.zeros(1, np.int64), ends[:-1]))[: len(ends)]
    plans = Plans(
        starts,
        ends,
        np.array([way.x for way in ways], float),
        np.array([way.goal_x for way in ways], float),
        np.maximum(run.kind, 0).astype(np.int32),
        run.first_due(on_foot=False),
        run.every,
        run.count.copy(),
    )
    return plans, np.concatenate([none.pieces, *(way.pieces for way in ways)])


def _set_off_on_foot(run: TrafficRun) -> None:
    """Those whose time has come."""
    for trip in np.flatnonzero(run.foot_due <= run.seconds).tolist():
        kind, way = -1 - int(run.kind[trip]), run.ways[trip]
        assert isinstance(way, Footway)
        while run.plans.left[trip] > 0 and run.foot_due[trip] <= run.seconds:
            run.walkers.set_off(trip, kind, way, float(run.foot_due[trip]))
            run.plans.left[trip] -= 1
            run.foot_due[trip] += run.every[trip]
        if run.plans.left[trip] <= 0:
            run.foot_due[trip] = np.inf


def tally_of(run: TrafficRun, junction: int) -> Tally:
    """What has come of a junction so far."""
    road, moves = run.streets.road, run.streets.junctions.moves_of(junction)
    passed, waited = int(road.passed[moves].sum()), int(road.waited[moves].sum())
    return Tally(run.seconds, passed, waited, float(run.record.delay[moves].sum()))
