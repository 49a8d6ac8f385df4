"""The clock of a run of traffic: time that passes, is stepped, is turned back; and what of the run is looked at."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.clock import Clock
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.traffic import STEP, TrafficRun
from woven_locus.core.traffic.timeline import Timeline
from woven_locus.core.traffic.waiting import stuck
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.session.session import Session

FRAME_MSEC = 16
SPEEDS = (1, 2, 4, 8, 16, 32)
# A frame that comes later than this, seconds, does not throw vehicles far ahead.
_LATEST = 0.1
# Seconds of a frame that steps may take; what is owed beyond is forgotten, and time runs slower.
_BUDGET = 0.010
# Steps between two looks for vehicles that wait for one another.
_LOOK_EVERY = 60


class RunClock(OneJob):
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

    def _forget(self) -> None:
        self._timer.stop()
        self.run: TrafficRun | None = None
        self.timeline: Timeline | None = None
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

    def take(self, run: TrafficRun) -> None:
        """This is the run from now on."""
        self.run, self.timeline = run, Timeline(run)

    def begin(self, go: bool) -> None:
        """Make a run, and let it go or do its first step."""
        raise NotImplementedError

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

    # --- what is looked at ----------------------------------------------------------------------------

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
