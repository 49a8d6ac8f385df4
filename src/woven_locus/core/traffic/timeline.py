"""Key frames of a run of traffic."""

from __future__ import annotations

from copy import copy
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels.traffic_state import Cars, Road, copied
from woven_locus.core.timeline import Timeline
from woven_locus.core.traffic.record import Arrivals, KeptRecord
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.walkers import Walkers

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
_COLUMNS = ("born", "least", "trip", "number", "free")


class _Frame(NamedTuple):
    """All of a run that changes as it goes."""

    steps: int
    cars: Cars
    road: Road
    columns: tuple[npt.NDArray[Any], ...]
    free_count: int
    sent: int
    due: Floats
    left: Ints
    arrived: int
    log: Any
    record: KeptRecord
    walkers: Walkers
    foot_due: Floats

    @property
    def size(self) -> int:
        """Bytes."""
        arrays: tuple[Any, ...] = (
            *(part.rows for part in (self.cars, self.road.pieces, self.road.areas)),
            *self.road[2:],
            *self.columns,
            self.due,
            self.left,
        )
        return sum(int(array.nbytes) for array in arrays) + self.record.size + self.walkers.size


class TrafficTimeline(Timeline[TrafficRun, _Frame]):
    """See `Timeline`."""

    def _taken(self) -> _Frame:
        return _taken(self.run)

    def begin(self) -> None:
        """See `Timeline.begin`."""
        super().begin()
        self._arrivals = self.run.arrivals

    def _put_back(self, frame: _Frame) -> None:
        # One may jump forwards too, to who arrived after the steps that were done last.
        if len(self.run.arrivals) > len(self._arrivals):
            self._arrivals = self.run.arrivals
        _put_back(self.run, frame, self._arrivals)

    def twin(self) -> TrafficRun:
        """The run as it was at `first`, to go on by itself; the streets and ways are shared, and never change."""
        twin = copy(self.run)
        twin.streets, twin.fleet = copy(self.run.streets), copy(self.run.fleet)
        twin.fleet.drive_on(twin.streets)
        plans = self.run.plans
        twin.plans = plans._replace(due=plans.due.copy(), left=plans.left.copy())
        twin.foot_due = self.run.foot_due.copy()
        twin.rules = self.run.rules._replace(green=self.run.rules.green.copy())
        twin.taken_off = list(self.run.taken_off)
        _put_back(twin, self._frames[0], self._arrivals)
        return twin


def _taken(run: TrafficRun) -> _Frame:
    fleet = run.fleet
    return _Frame(
        run.steps,
        copied(fleet.cars),
        _copied_road(run.streets.road),
        tuple(getattr(fleet, name).copy() for name in _COLUMNS),
        fleet.free_count,
        fleet.sent,
        run.plans.due.copy(),
        run.plans.left.copy(),
        run.arrived,
        run.log.copy(),
        run.record.kept(),
        run.walkers.copied(),
        run.foot_due.copy(),
    )


def _copied_road(road: Road) -> Road:
    return Road(
        copied(road.pieces),
        copied(road.areas),
        road.held.copy(),
        road.passed.copy(),
        road.waited.copy(),
    )


def _put_back(run: TrafficRun, frame: _Frame, arrivals: Arrivals) -> None:
    """The frame stays as it is: one may come back to it. arrivals : of the run as far as it was ever done."""
    fleet = run.fleet
    run.steps = frame.steps
    fleet.cars = copied(frame.cars)
    fleet.room = len(fleet.cars.there)
    run.streets.road = _copied_road(frame.road)
    for name, array in zip(_COLUMNS, frame.columns, strict=True):
        setattr(fleet, name, array.copy())
    fleet.free_count, fleet.sent = frame.free_count, frame.sent
    # Trips that were added later have sent nobody.
    known = len(frame.due)
    run.begin_trips()
    run.plans.due[:known], run.plans.left[:known] = frame.due, frame.left
    run.foot_due[:known] = frame.foot_due
    run.walkers = frame.walkers.copied()
    run.arrivals = arrivals.first(frame.arrived)
    run.log = frame.log.copy()
    run.record = frame.record.record()
