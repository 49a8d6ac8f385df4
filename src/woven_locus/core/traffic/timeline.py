"""Turning a run back: key frames now and then, and the steps from there done once more."""

from __future__ import annotations

import math
from copy import copy
from typing import Any, NamedTuple, TypeVar

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels.traffic_state import Cars, Plans, Road
from woven_locus.core.traffic.record import Arrivals, Record
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.walkers import Walkers

# Simulated seconds between two key frames at first; more once they take too much room.
FIRST_EVERY = 5.0
# Key frames, and bytes of them all, that are kept at most.
MOST_FRAMES, MOST_BYTES = 100, 256 << 20

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
Arrays = TypeVar("Arrays", Cars, Road, Plans)
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
    record: Record
    walkers: Walkers
    foot_due: Floats

    @property
    def size(self) -> int:
        """Bytes."""
        arrays: tuple[Any, ...] = (
            *self.cars,
            *self.road,
            *self.columns,
            self.due,
            self.left,
        )
        return sum(int(array.nbytes) for array in arrays) + self.record.size + self.walkers.size


class Timeline:
    """Key frames of a run from `first` on, the step at which it began or at which it was last changed from outside: by an
    edit, a rule, a trip that should have begun earlier. What was before is another run."""

    def __init__(self, run: TrafficRun) -> None:
        self.run = run
        self.begin()

    def begin(self) -> None:
        """What was before cannot be come to by doing the steps again."""
        self._every = max(1, round(FIRST_EVERY / self.run.step))
        self._frames = [_taken(self.run)]
        self._arrivals = self.run.arrivals
        self.last = self.run.steps

    @property
    def first(self) -> int:
        """The earliest step that one can go back to."""
        return self._frames[0].steps

    def advance(self, steps: int = 1) -> None:
        """Do steps of the run, keeping frames."""
        for _ in range(steps):
            self.run.advance()
            now = self.run.steps
            if now > self.last:
                self.last = now
                if now - self._frames[-1].steps >= self._every:
                    self._frames.append(_taken(self.run))
                    self._thin_out()

    def _thin_out(self) -> None:
        while len(self._frames) > 2 and (
            len(self._frames) > MOST_FRAMES or sum(f.size for f in self._frames) > MOST_BYTES
        ):
            self._frames = [*self._frames[:-1:2], self._frames[-1]]
            self._every *= 2

    def twin(self) -> TrafficRun:
        """The run as it was at `first`, to go on by itself; the streets and ways are shared, and never change."""
        twin = copy(self.run)
        twin.streets, twin.fleet = copy(self.run.streets), copy(self.run.fleet)
        twin.fleet.drive_on(twin.streets)
        twin.plans, twin.foot_due = _copied(self.run.plans), self.run.foot_due.copy()
        twin.rules = self.run.rules._replace(green=self.run.rules.green.copy())
        twin.taken_off = list(self.run.taken_off)
        _put_back(twin, self._frames[0], self._arrivals)
        return twin

    def go_to(self, step: int) -> int:
        """Set the run to the last key frame that is no later than a step, unless it is already between that and the step.
        Returns how many steps are left to do; the step is brought between `first` and the last that was done."""
        step = min(max(step, self.first), self.last)
        frame = next(frame for frame in reversed(self._frames) if frame.steps <= step)
        if not frame.steps <= self.run.steps <= step:
            # One may jump forwards too, to who arrived after the steps that were done last.
            if len(self.run.arrivals) > len(self._arrivals):
                self._arrivals = self.run.arrivals
            _put_back(self.run, frame, self._arrivals)
        return step - self.run.steps


def _taken(run: TrafficRun) -> _Frame:
    fleet = run.fleet
    return _Frame(
        run.steps,
        _copied(fleet.cars),
        _copied(run.streets.road),
        tuple(getattr(fleet, name).copy() for name in _COLUMNS),
        fleet.free_count,
        fleet.sent,
        run.plans.due.copy(),
        run.plans.left.copy(),
        run.arrived,
        run.log.copy(),
        run.record.copied(),
        run.walkers.copied(),
        run.foot_due.copy(),
    )


def _copied(arrays: Arrays) -> Arrays:
    columns: Any = (array.copy() for array in arrays)
    return type(arrays)(*columns)


def _put_back(run: TrafficRun, frame: _Frame, arrivals: Arrivals) -> None:
    """The frame stays as it is: one may come back to it. arrivals : of the run as far as it was ever done."""
    fleet = run.fleet
    run.steps = frame.steps
    fleet.cars = _copied(frame.cars)
    fleet.room = len(fleet.cars.there)
    run.streets.road = _copied(frame.road)
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
    run.record = frame.record.copied()


def seconds_words(seconds: float) -> str:
    """``3:07`` or ``1:02:07``: minutes and seconds, and hours where there are some."""
    whole = math.floor(seconds + 1e-9)
    hours, rest = divmod(whole, 3600)
    minutes, rest = divmod(rest, 60)
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes}:{rest:02}"
