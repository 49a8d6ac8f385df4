"""Runs the core's simulation of traffic while time passes, on the plan as it is."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.clock import Clock
from woven_locus.core.editing import Notice
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.plan import Plan
from woven_locus.core.traffic import STEP, TrafficRun
from woven_locus.core.traffic.replan import carried_over
from woven_locus.core.traffic.timeline import Timeline
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.traffic.waiting import stuck
from woven_locus.core.vehicles import NO_TRAFFIC, Trip
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
# What a run cannot go on over, once it is another: every lane is elsewhere then.
_GROUND = frozenset({"keep", "grid"})


class TrafficKeeper(OneJob):
    """run : the simulation, None before one was begun; after an edit of the roads it goes on as another one.
    timeline : of the run, to turn it back.  chosen : number of the vehicle that is looked at, 0 for none; follow : whether the
    sheet goes with it.  junction : the one that is looked at, or None.  speed : simulated seconds in one that passes.
    behind : whether steps take longer than the time they stand for.  rings : of vehicles that wait for one another and so
    will never move."""

    moved = pyqtSignal()  # positions are new
    looked_at = pyqtSignal()  # another vehicle or junction is

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MSEC)
        self._timer.timeout.connect(self._frame)
        self._last = 0.0
        self.speed = 1
        self._forget()
        session.changed.connect(self._edited)
        session.settled.connect(self._settled)

    def _forget(self) -> None:
        self._timer.stop()
        self.run: TrafficRun | None = None
        self.timeline: Timeline | None = None
        self._of = NO_TRAFFIC  # what of the plan the run goes by
        self.clock = Clock(STEP, self.speed)
        self.chosen = 0
        self.follow = False
        self.junction: Cell | None = None
        self._seeks = 0  # steps that are still to be done, once turned back
        self._stale = False  # the plan changed under the run, which waits to be led on
        self._resume = False
        self.behind = False
        self.rings: list[list[int]] = []
        self._looked = 0

    # --- beginning and ending -----------------------------------------------------------------------

    def begin(self, go: bool) -> None:
        """Make a run of the plan's trips, and let it go or do its first step."""
        session = self._session
        if self.working:
            return
        if not (session.plan.traffic.trips or session.plan.traffic.rules):
            session.say("There are no trips yet: ask for a route and add it as a trip", "no")
            self.changed.emit()
            return

        def make(plan: Plan, _control: object) -> tuple[Plan, TrafficRun]:
            return plan, TrafficRun(plan, all_trips(plan), plan.traffic.vehicles)

        def done(found: tuple[Plan, TrafficRun]) -> None:
            self._job = None
            made_of, self.run = found
            self.timeline, self._of = Timeline(self.run), session.plan.traffic
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
        junction = self.junction
        self._forget()
        self.junction = junction
        self.changed.emit()
        self.moved.emit()

    # --- a plan that changes meanwhile ----------------------------------------------------------------

    def _edited(self, notice: Notice) -> None:
        run, plan = self.run, self._session.plan
        if run is None:
            return
        traffic = plan.traffic
        if notice.layers & _GROUND:
            self._end("every lane is elsewhere now")
        elif traffic.vehicles and traffic.vehicles != run.kinds:
            self._end("the kinds of vehicle changed")
        elif (
            self._stale  # whatever it was asked, the plan has moved on
            or notice.reformed
            or "road" in notice.layers
            or notice.structures & run.structures
            or (notice.structures and traffic.rules)
        ):
            self._lead_on()
        elif "traffic" in notice.layers:
            self._trips_or_rules_changed(run, plan)

    def _trips_or_rules_changed(self, run: TrafficRun, plan: Plan) -> None:
        traffic, before = plan.traffic, self._of
        more = traffic.trips[len(before.trips) :]
        if traffic.rules != before.rules or traffic.trips[: len(before.trips)] != before.trips:
            self._lead_on()
            return
        self._of = traffic
        assert self.timeline is not None
        earlier = any(trip.depart < run.seconds for trip in more) and run.steps > 0
        if more:
            run.add(plan, more)
        if traffic.junctions != run.junction_rules:
            run.obey(plan)
            earlier = True
        if earlier:
            # What was before would have gone another way.
            self.timeline.begin()
        self.changed.emit()

    def _lead_on(self) -> None:
        """The roads under it changed: it waits until its vehicles have found their ways anew."""
        if not self._stale:
            self._resume = self.running
        self._timer.stop()
        self._stale, self._seeks = True, 0
        self._stop()
        if not self._session.document.history.in_gesture:
            self._ask_on()
        self.changed.emit()

    def _settled(self) -> None:
        """A gesture has ended, or an answer was of a plan that is no more."""
        if self._stale and not self.working and not self._session.document.history.in_gesture:
            self._ask_on()

    def _ask_on(self) -> None:
        session, run = self._session, self.run
        assert run is not None

        def work(plan: Plan, _control: object) -> tuple[Plan, TrafficRun]:
            return plan, carried_over(run, plan)

        def done(found: tuple[Plan, TrafficRun]) -> None:
            self._job = None
            made_of, after = found
            session.plan.lanes.adopt(made_of.lanes)
            self._go_on_with(run, after)

        def refused(error: WovenError) -> None:
            self._job = None
            self._end(str(error))

        def ended() -> None:
            if job is self._job:
                self._job = None
                self._end("its vehicles could not be led on")

        def moved_on() -> None:
            if job is self._job:
                self._job = None
                self._settled()

        job: Job | None = None
        job = self._job = session.asking.ask(
            "Leading traffic on",
            work,
            done,
            of=Plan.snapshot,
            dropped=moved_on,
            refused=refused,
            stopped=ended,
        )

    def _go_on_with(self, before: TrafficRun, after: TrafficRun) -> None:
        self.run, self.timeline = after, Timeline(after)
        self._of = self._session.plan.traffic
        self._stale, self.rings = False, []
        gone = after.taken_off[len(before.taken_off) :]
        if gone:
            names = ", ".join(f"V{number}" for number in gone[:6]) + (" …" if len(gone) > 6 else "")
            plural = len(gone) > 1
            self._session.say(
                f"{names} {'were' if plural else 'was'} taken off the road: "
                f"{'their' if plural else 'its'} lane or way is gone",
                "no",
            )
        if self._resume:
            self.set_running(True)
        self.changed.emit()
        self.moved.emit()

    def _end(self, why: str) -> None:
        """The run is of a plan that is no more."""
        if self.run is None:
            return
        count = self.run.counts().under_way
        self.clear()
        if count:
            vehicles = f"{count:,} vehicle{'s' * (count != 1)}"
            self._session.say(f"Traffic was taken off the road, {vehicles}: {why}", "no")

    # --- time ---------------------------------------------------------------------------------------

    @property
    def running(self) -> bool:
        """Whether time goes by."""
        return (self._timer.isActive() and not self._seeks) or (self._stale and self._resume)

    def set_running(self, on: bool) -> None:
        """Let time go by, or stop it."""
        if on and self.run is None:
            self.begin(go=True)
            return
        if self._stale:
            self._resume = on
        elif on and not self.running:
            self._seeks = 0
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
        elif not self._stale:
            self._steps(1)
            self._shown()

    def advance(self, seconds: float) -> None:
        """So much time has passed; as many steps are done as a frame has room for."""
        owed = self.clock.passed(seconds)
        self.behind = self._steps(owed) < owed
        self._shown()

    def _steps(self, wanted: int) -> int:
        """Do steps, as many as a frame has room for; returns how many."""
        assert self.timeline is not None
        began, done = time.monotonic(), 0
        while done < wanted and time.monotonic() - began < _BUDGET:
            self.timeline.advance()
            done += 1
        return done

    def seek(self, step: int) -> None:
        """Show the run as it was after so many steps, between the first that one can go back to and the last that was
        done. Many steps from the key frame before it are done over several frames."""
        if self.timeline is None or self._stale:
            return
        self._timer.stop()
        self._seeks = self.timeline.go_to(step)
        self._seeks -= self._steps(self._seeks)
        if self._seeks:
            self._timer.start()
        self._looked = self.timeline.run.steps
        self.changed.emit()
        self.moved.emit()

    def _frame(self) -> None:
        if self._seeks:
            self._seeks -= self._steps(self._seeks)
            if not self._seeks:
                self._timer.stop()
                self.changed.emit()
            self.moved.emit()
            return
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
            counts = run.counts()
            if counts.arrived == counts.wanted:
                self._session.say(f"Every vehicle has arrived: {run.arrived:,}")
            elif not counts.taken_off:
                self._session.say(f"All others have arrived: {run.arrived:,}")
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

    def choose(self, at: Point, reach: float) -> bool:
        """Look at the vehicle nearest to a world point, within `reach`; False when there is none."""
        number = 0
        if self.run is not None:
            number = self.run.fleet.nearest(at, reach)
        if number != self.chosen:
            self.chosen = number
            self.follow = self.follow and number != 0
            self.looked_at.emit()
            self.moved.emit()
        return number != 0

    def set_follow(self, on: bool) -> None:
        """Let the sheet go with the vehicle that is looked at."""
        self.follow = on and self.chosen != 0
        self.looked_at.emit()
        self.moved.emit()

    def followed(self) -> Point | None:
        """Where the vehicle is that the sheet goes with, None for none."""
        row = self.run.fleet.row_of(self.chosen) if self.run is not None and self.follow else None
        if self.run is None or row is None:
            return None
        x, y = self.run.fleet.fronts(np.array([row]))[0].tolist()
        return Point(x, y)

    def choose_junction(self, cell: Cell | None) -> None:
        """Look at the junction at a cell, or at none."""
        if cell != self.junction:
            self.junction = cell
            self.looked_at.emit()
            self.moved.emit()
