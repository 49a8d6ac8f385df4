"""A plan that is checked, with what several checks look at, each worked out once."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.proof.misses import NearMiss, near_misses
from woven_locus.core.proof.soundness import Soundness
from woven_locus.core.routing.links import Links, find_links
from woven_locus.core.routing.weak import WeakPoint, weak_points
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.traffic.waiting import stuck
from woven_locus.core.value import Record, field
from woven_locus.core.ways.doors import approach_slots

# Simulated seconds between two looks at traffic that runs.
_LOOK_EVERY = 5.0

Slots = npt.NDArray[np.int64]


class Motion(Record):
    """What was seen of traffic that ran.  seconds : for so long.  rings : vehicles that wait for one another, by number;
    overlaps : that stand in one another; each with where and when it was first seen.  held_back : at the end."""

    seconds: float = 0.0
    rings: dict[tuple[int, ...], tuple[Cell | None, float]] = field(default_factory=dict)
    overlaps: dict[tuple[int, int], tuple[Cell | None, float]] = field(default_factory=dict)
    held_back: int = 0


class Subject:
    """plan : must not change meanwhile.  seconds : of traffic to be let pass, 0 for none.  seed : of that traffic."""

    def __init__(self, plan: Plan, seconds: float = 0.0, seed: int = 0) -> None:
        self.plan, self.seconds, self.seed = plan, seconds, seed

    def is_brief(self, count: int) -> bool:
        """Whether so many structures are named without being judged again for the reasons."""
        return False

    @cached_property
    def misses(self) -> list[NearMiss]:
        """See `near_misses`."""
        return near_misses(self.plan)

    @cached_property
    def unsound(self) -> Iterable[int]:
        """See `Soundness`."""
        return sorted(Soundness(self.plan).unsound)

    @cached_property
    def links(self) -> Links:
        """See `find_links`."""
        return find_links(self.plan)

    @cached_property
    def weak(self) -> list[WeakPoint]:
        """See `weak_points`; none while there is no graph."""
        return weak_points(self.plan) if self.plan.network.has_graph else []

    @cached_property
    def approaches(self) -> dict[int, Slots]:
        """See `approach_slots`."""
        return approach_slots(self.plan, self.plan.register.alike())

    @cached_property
    def used(self) -> npt.NDArray[np.bool_]:
        """(rows, cols) where structures open to the road or the ground, and the cells of entries, goals and of ends of
        trips."""
        plan = self.plan
        found = np.zeros(plan.spec.shape, bool)
        for slots in self.approaches.values():
            found.ravel()[slots] = True
        ends = (end for trip in plan.traffic.trips for end in (trip.start, trip.goal))
        cells = [end for end in ends if not isinstance(end, int)]
        for cell in (*plan.waves.cells(), *cells):
            if plan.spec.contains(cell):
                found[plan.spec.slot(cell)] = True
        return found

    @cached_property
    def traffic(self) -> TrafficRun | str:
        """A run of all trips, not begun; or why there can be none."""
        plan = self.plan
        try:
            trips = all_trips(plan, self.seed)
            return TrafficRun(plan, trips, plan.traffic.vehicles, seed=self.seed)
        except WovenError as err:
            return str(err)

    @cached_property
    def motion(self) -> Motion:
        """Of all trips, looked at every few seconds; nothing where no time is to pass."""
        found, traffic = Motion(), self.plan.traffic
        if not self.seconds or not (traffic.trips or traffic.rules):
            return found
        run = self.traffic
        if isinstance(run, str):
            return found
        every = max(1, round(_LOOK_EVERY / run.step))
        last = round(self.seconds / run.step)
        while run.steps < last and not run.over:
            run.advance(min(every, last - run.steps))
            for ring in stuck(run):
                found.rings.setdefault(tuple(ring), (self._front(run, ring[0]), run.seconds))
            for a, b in run.fleet.overlaps():
                found.overlaps.setdefault((a, b), (self._front(run, a), run.seconds))
        found.seconds, found.held_back = run.seconds, run.counts().held_back
        return found

    def _front(self, run: TrafficRun, number: int) -> Cell | None:
        front = run.fleet.front_of(number)
        return self.plan.spec.locate_virtual(*front) if front is not None else None
