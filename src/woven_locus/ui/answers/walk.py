"""Runs the core's simulation of agents while time passes, and keeps it to the pinned routes."""

from __future__ import annotations

import time
from collections.abc import Hashable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from woven_locus.core.editing import Notice
from woven_locus.core.routing import Route
from woven_locus.core.traffic import Simulation
from woven_locus.document import PinnedRoute
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.session.session import Session

FRAME_MSEC = 16
SPEEDS = (1, 2, 4, 8)
# A frame that comes later than this, seconds, does not throw agents far ahead.
_LATEST = 0.1


class Walk(QObject):
    """The simulation that the Traffic stage shows."""

    moved = pyqtSignal()  # positions are new
    changed = pyqtSignal()  # running, speed, or who is there

    def __init__(self, session: Session, routes: RouteKeeper) -> None:
        super().__init__(session)
        self._session = session
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MSEC)
        self._timer.timeout.connect(self._frame)
        self._last = 0.0
        self.speed = 1
        self.clear()
        session.replaced.connect(self.clear)
        # On another grid nobody is where they were.
        session.changed.connect(self._edited)
        routes.changed.connect(self._follow_routes)

    def clear(self) -> None:
        """Take all agents away and stop the clock."""
        self._timer.stop()
        spec = self._session.plan.spec
        self.simulation = Simulation((spec.cell_w + spec.cell_h) / 2, self.speed)
        self.changed.emit()
        self.moved.emit()

    def _edited(self, notice: Notice) -> None:
        if "grid" in notice.layers:
            self.clear()

    @property
    def running(self) -> bool:
        return self._timer.isActive()

    def send(self, pin: PinnedRoute | None) -> bool:
        """Send an agent along a route and let time run. False, and said, when there is none."""
        if pin is None or not isinstance(pin.answer, Route):
            why = "choose or find a route first" if pin is None else "the route is broken"
            self._session.say(f"No agent was sent: {why}", "no")
            return False
        self.simulation.send(pin, pin.answer)
        self.set_running(True)
        return True

    def set_running(self, run: bool) -> None:
        if run and not self.running:
            self._last = time.monotonic()
            self._timer.start()
        elif not run:
            self._timer.stop()
        self.changed.emit()

    def set_speed(self, speed: int) -> None:
        self.speed = self.simulation.clock.speed = speed
        self.changed.emit()

    def step(self) -> None:
        """One step of the simulation, at any speed."""
        self.simulation.step()
        self._stepped()

    def advance(self, seconds: float) -> None:
        """So many seconds have passed at the chosen speed."""
        self.simulation.advance(seconds)
        self._stepped()

    def _stepped(self) -> None:
        if self.running and self.simulation.over:
            self.set_running(False)
            self._session.say("Every agent has arrived")
        self.moved.emit()

    def _frame(self) -> None:
        now = time.monotonic()
        passed, self._last = min(now - self._last, _LATEST), now
        self.advance(passed)

    def _follow_routes(self) -> None:
        """Agents whose route changed or broke are taken off it; the way is no longer theirs."""

        def route_of(pin: Hashable) -> Route | None:
            answer = pin.answer if isinstance(pin, PinnedRoute) else None
            return answer if isinstance(answer, Route) else None

        gone = self.simulation.follow(route_of)
        if gone:
            self._session.say(
                f"{gone} agent{'s' * (gone != 1)} left the map: the route under them changed", "no"
            )
            self.changed.emit()
            self.moved.emit()
