"""Runs the core's simulation of traffic while time passes, on the plan as it is."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.clock import Clock
from woven_locus.core.editing import Notice
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.geometry import Point
from woven_locus.core.plan import Plan
from woven_locus.core.traffic import STEP, TrafficRun
from woven_locus.core.traffic.waiting import stuck
from woven_locus.core.vehicles import Trip
from woven_locus.document import PinnedRoute
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.session.session import Session

FRAME_MSEC = 16
SPEEDS = (1, 2, 4, 8, 16, 32)
# A frame that comes later than this, seconds, does not throw vehicles far ahead.
_LATEST = 0.1
# Seconds of a frame that steps may take; what is owed beyond is forgotten, and time runs slower.
_BUDGET = 0.010
# Steps between two looks for vehicles that wait for one another.
_LOOK_EVERY = 60
# What a run is made of besides the trips: when it changes, the run is over.
_GROUND = frozenset({"road", "keep", "grid"})


class TrafficKeeper(OneJob):
    """run : the simulation, None before one was begun.  chosen : number of the vehicle
    that is looked at, 0 for none.  speed : simulated seconds in one that passes.  behind : whether steps take longer
    than the time they stand for.  rings : of vehicles that wait for one another and so will never move."""

    moved = pyqtSignal()  # positions are new

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MSEC)
        self._timer.timeout.connect(self._frame)
        self._last = 0.0
        self.speed = 1
        self._forget()
        session.changed.connect(self._edited)

    def _forget(self) -> None:
        self._timer.stop()
        self.run: TrafficRun | None = None
        self.clock = Clock(STEP, self.speed)
        self.chosen = 0
        self.behind = False
        self.rings: list[list[int]] = []
        self._looked = 0

    # --- beginning and ending -----------------------------------------------------------------------

    def begin(self, go: bool) -> None:
        """Make a run of the plan's trips, and let it go or do its first step."""
        session = self._session
        if self.working:
            return
        if not session.plan.traffic.trips:
            session.say("There are no trips yet: ask for a route and add it as a trip", "no")
            self.changed.emit()
            return

        def make(plan: Plan, _control: object) -> tuple[Plan, TrafficRun]:
            return plan, TrafficRun(plan, plan.traffic.trips, plan.traffic.vehicles)

        def done(found: tuple[Plan, TrafficRun]) -> None:
            self._job = None
            made_of, self.run = found
            session.plan.lanes.adopt(made_of.lanes)
            without = [way for way in self.run.ways if isinstance(way, str)]
            if without:
                count = len(without)
                session.say(
                    f"{count} trip{'s have' if count > 1 else ' has'} no way: {without[0]}", "no"
                )
            self.set_running(go)
            if not go:
                self.step()

        def ended() -> None:
            if job is self._job:
                self._job = None
                self.changed.emit()

        job: Job | None = None
        job = self._job = session.asking.ask(
            "Making traffic ready", make, done, of=Plan.snapshot, dropped=ended, stopped=ended
        )
        self.changed.emit()

    def clear(self) -> None:
        """Take all vehicles away; the next run begins at 0."""
        self._stop()
        self._forget()
        self.changed.emit()
        self.moved.emit()

    def _edited(self, notice: Notice) -> None:
        run, plan = self.run, self._session.plan
        if run is None:
            return
        traffic = plan.traffic
        if notice.layers & _GROUND or notice.reformed or notice.structures & run.structures:
            self._end("the roads under it changed")
        elif "traffic" in notice.layers:
            more = traffic.trips[len(run.trips) :]
            same = traffic.trips[: len(run.trips)] == run.trips
            if same and (not traffic.vehicles or traffic.vehicles == run.kinds):
                run.add(plan, more)
                self.changed.emit()
            else:
                self._end("its trips changed")

    def _end(self, why: str) -> None:
        """The run is of a plan that is no more."""
        assert self.run is not None
        count = self.run.counts().under_way
        self.clear()
        if count:
            vehicles = f"{count:,} vehicle{'s' * (count != 1)}"
            self._session.say(f"Traffic was taken off the road, {vehicles}: {why}", "no")

    # --- time ---------------------------------------------------------------------------------------

    @property
    def running(self) -> bool:
        """Whether time goes by."""
        return self._timer.isActive()

    def set_running(self, on: bool) -> None:
        """Let time go by, or stop it."""
        if on and self.run is None:
            self.begin(go=True)
            return
        if on and not self.running:
            self._last = time.monotonic()
            self.clock.forget()
            self._timer.start()
        elif not on:
            self._timer.stop()
        self.changed.emit()

    def set_speed(self, speed: int) -> None:
        """Simulated seconds in one that passes."""
        self.speed = speed
        self.clock.speed = speed
        self.changed.emit()

    def step(self) -> None:
        """One step of the simulation, at any speed."""
        if self.run is None:
            self.begin(go=False)
            return
        self.run.advance()
        self._shown()

    def advance(self, seconds: float) -> None:
        """So much time has passed; as many steps are done as a frame has room for."""
        assert self.run is not None
        began, owed = time.monotonic(), self.clock.passed(seconds)
        done = 0
        while done < owed and time.monotonic() - began < _BUDGET:
            self.run.advance()
            done += 1
        self.behind = done < owed
        self._shown()

    def _frame(self) -> None:
        now = time.monotonic()
        passed, self._last = min(now - self._last, _LATEST), now
        self.advance(passed)

    def _shown(self) -> None:
        run = self.run
        assert run is not None
        if run.steps - self._looked >= _LOOK_EVERY:
            self._looked = run.steps
            self._look_for_rings()
        if self.running and run.over:
            self.set_running(False)
            self._session.say(f"Every vehicle has arrived: {run.arrived:,}")
        self.moved.emit()

    def _look_for_rings(self) -> None:
        assert self.run is not None
        known, self.rings = len(self.rings), stuck(self.run)
        if len(self.rings) > known:
            ring = self.rings[-1]
            names = ", ".join(f"V{number}" for number in ring[:6]) + (" …" if len(ring) > 6 else "")
            self._session.say(f"Gridlock: {len(ring)} vehicles wait for one another: {names}", "no")
            row = self.run.fleet.row_of(ring[0])
            if row is not None:
                x, y = self.run.fleet.fronts(np.array([row]))[0].tolist()
                self._session.reveal.emit(self._session.plan.spec.locate_virtual(x, y))

    # --- trips and vehicles ---------------------------------------------------------------------------

    def add_trip(self, pin: PinnedRoute | None, every: float, count: int) -> bool:
        """Make a trip of the current route. False, and said, when there is none."""
        session = self._session
        if pin is None:
            session.say("No trip was added: choose or find a route first", "no")
            return False
        depart = round(self.run.seconds, 1) if self.run is not None else 0.0
        trip = Trip(pin.start, pin.goal, depart, "", every, count)
        label = f"Added the trip {pin.title}"
        return session.attempt(set_trips, session.plan, (*session.plan.traffic.trips, trip), label)

    def take_trips_away(self) -> bool:
        """No trips at all."""
        return self._session.attempt(set_trips, self._session.plan, (), "Took all trips away")

    def choose(self, at: Point, reach: float) -> bool:
        """Look at the vehicle nearest to a world point, within `reach`; False when there is none."""
        number = 0
        if self.run is not None:
            number = self.run.fleet.nearest(at, reach)
        if number != self.chosen:
            self.chosen = number
            self.moved.emit()
        return number != 0
