"""Agents on their way: a clock that steps the core's walkers, and who walks which route."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from woven_locus.core.editing import Notice
from woven_locus.core.routing import Route
from woven_locus.core.traffic import Walkers
from woven_locus.document import PinnedRoute
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.session.session import Session

# One step of simulated time, seconds; frames come as they can, steps are always alike.
STEP = 1 / 60
FRAME_MSEC = 16
SPEEDS = (1, 2, 4, 8)


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
        self.walkers = Walkers((spec.cell_w + spec.cell_h) / 2)
        self.routes: list[tuple[PinnedRoute, Route]] = []
        self.seconds = 0.0
        self._due = 0.0
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
        self.walkers.send(pin.answer.points)
        self.routes.append((pin, pin.answer))
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
        self.speed = speed
        self.changed.emit()

    def advance(self, seconds: float) -> None:
        """Let simulated time pass, in steps of STEP; what is left over waits for the next call."""
        self._due += seconds
        while self._due >= STEP:
            self._due -= STEP
            self.seconds += STEP
            self.walkers.step(STEP)
        if self.running and len(self.walkers) and self.walkers.arrived.all():
            self.set_running(False)
            self._session.say("Every agent has arrived")
        self.moved.emit()

    def _frame(self) -> None:
        now = time.monotonic()
        # A frame that came very late does not throw agents far ahead.
        passed = min(now - self._last, 0.1)
        self._last = now
        self.advance(passed * self.speed)

    def _follow_routes(self) -> None:
        """Agents whose route changed or broke are taken off it; the way is no longer theirs."""
        stays = [
            k
            for k, (pin, route) in enumerate(self.routes)
            if isinstance(pin.answer, Route) and pin.answer.cells == route.cells
        ]
        gone = len(self.routes) - len(stays)
        if gone:
            self.walkers.keep(stays)
            self.routes = [self.routes[k] for k in stays]
            self._session.say(
                f"{gone} agent{'s' * (gone != 1)} left the map: the route under them changed", "no"
            )
            self.changed.emit()
            self.moved.emit()
