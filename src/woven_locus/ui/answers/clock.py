"""The plan's clock: run, paused, stepped. Every tick is an edit; a run is one step of the history."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from woven_locus.core import clock as core_clock
from woven_locus.core.edits import money
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

TICK_MSEC = 200
SPEEDS = (1, 10, 60, 600)
STEPS = ((1, tr("1 second")), (10, tr("10 seconds")), (60, tr("1 minute")), (600, tr("10 minutes")))


class PlanClock(QObject):
    """speed : simulated seconds for one of the wall."""

    switched = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._clock = core_clock.Clock(1.0, SPEEDS[0])
        self._wall = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MSEC)
        self._timer.timeout.connect(self._tick)
        session.replaced.connect(lambda: self.set_running(False))

    @property
    def speed(self) -> float:
        return self._clock.speed

    @speed.setter
    def speed(self, speed: float) -> None:
        self._clock.speed = speed

    @property
    def owed(self) -> float:
        """Simulated seconds that are still to be made up."""
        return self._clock.owed

    @property
    def running(self) -> bool:
        return self._timer.isActive()

    def set_running(self, on: bool) -> None:
        """Run or pause. It cannot run where no funds are kept."""
        if on == self.running:
            return
        if on and self._session.plan.funds is not None:
            self._clock.forget()
            self._wall.start()
            self._timer.start()
        else:
            self._timer.stop()
        self.switched.emit()

    def step(self, seconds: int) -> None:
        """Go on by so many seconds at once."""
        session = self._session
        if session.document.history.in_gesture:
            session.say(tr("Not now: end the stroke in hand first"), "no")
            return
        session.attempt(money.advance, session.plan, seconds)

    def _tick(self) -> None:
        session = self._session
        self._clock.hold(self._wall.restart() / 1000)
        if session.plan.funds is None:
            self.set_running(False)
        elif session.document.history.in_gesture or session.asking.waiting:
            # A stroke in hand holds time back, and so does a question of the plan as it is, whose answer
            # would be dropped; it is made up afterwards.
            return
        elif (seconds := self._clock.take()) and not session.attempt(
            money.advance, session.plan, seconds
        ):
            self.set_running(False)
