"""The clock of a run: time that passes, is stepped, is turned back. One for all that runs."""

from __future__ import annotations

import time
from typing import Any, Generic, Protocol, TypeVar

from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.clock import STEP, Clock
from woven_locus.core.geometry import Point
from woven_locus.core.timeline import Stepped, Timeline
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.session.session import Session

FRAME_MSEC = 16
SPEEDS = (1, 2, 4, 8, 16, 32)
# A frame that comes later than this, seconds, does not throw what moves far ahead.
_LATEST = 0.1
# Seconds of a frame that steps may take; what is owed beyond is forgotten, and time runs slower.
_BUDGET = 0.010


class Running(Stepped, Protocol):
    """A simulation that can be shown."""

    @property
    def seconds(self) -> float:
        """Simulated time since the beginning."""

    def nearest(self, to: Point, reach: float) -> int:
        """The number of what moves nearest to a world point, 0 for none within `reach`."""


Run = TypeVar("Run", bound=Running)


class RunClock(OneJob, Generic[Run]):
    """run : the simulation, None before one was begun; after an edit it goes on, or another one in its place.
    timeline : of the run, to turn it back.  chosen : number of what is looked at of all that moves, 0 for nothing.
    speed : simulated seconds in one that passes.  seed : of chance, in runs that are begun.  behind : whether steps take longer than the time they stand for."""

    moved = pyqtSignal()  # positions are new

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MSEC)
        self._timer.timeout.connect(self._frame)
        self._last = 0.0
        self.speed, self.seed = 1, 0
        self._forget()

    def _replaced(self) -> None:
        self.seed = 0
        super()._replaced()

    def _forget(self) -> None:
        self._timer.stop()
        self.run: Run | None = None
        self.timeline: Timeline[Run, Any] | None = None
        self.clock = Clock(STEP, self.speed)
        self.chosen = 0
        self._seeks = 0  # steps that are still to be done, once turned back
        self._stale = False  # the plan changed under the run, which waits to be led on
        self._resume = False
        self.behind = False

    # --- what each kind of run says --------------------------------------------------------------------

    def begin(self, go: bool) -> None:
        """Make a run, and let it go or do its first step."""
        raise NotImplementedError

    def _at_end(self) -> bool:
        """Whether nothing more will happen, so that time need not go by."""
        return False

    def _did_step(self) -> None:
        """The run has done one step."""

    def _looked(self) -> None:
        """Steps of a frame were done; `moved` follows."""

    # --- time ---------------------------------------------------------------------------------------

    @property
    def running(self) -> bool:
        """Whether time goes by."""
        return (self._timer.isActive() and not self._seeks) or (self._stale and self._resume)

    def set_running(self, on: bool) -> None:
        """Let time go by, or stop it. Where there is no run, one is begun."""
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
        self.speed = self.clock.speed = speed
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
        """Do steps, as many as a frame has room for; returns how many, or all of them where they are of no use."""
        assert self.timeline is not None
        began, done = time.monotonic(), 0
        while done < wanted and time.monotonic() - began < _BUDGET:
            if self._at_end():
                return wanted
            self.timeline.advance()
            self._did_step()
            done += 1
        return done

    def _wait(self) -> None:
        """The plan is another: no step is done until the run was led on."""
        if not self._stale:
            self._resume = self.running
        self._timer.stop()
        self._stale, self._seeks = True, 0

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
        self._turned_back()
        self.changed.emit()
        self.moved.emit()

    def _turned_back(self) -> None:
        """The run is at another time."""

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
        self._looked()
        self.moved.emit()

    # --- what is looked at ----------------------------------------------------------------------------

    def choose(self, at: Point, reach: float) -> bool:
        """Look at what moves nearest to a world point, within `reach`; False when nothing does."""
        number = self.run.nearest(at, reach) if self.run is not None else 0
        if number != self.chosen:
            self.chosen = number
            self._chose()
            self.moved.emit()
        return number != 0

    def _chose(self) -> None:
        """Something else is looked at."""
