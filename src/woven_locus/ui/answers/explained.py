"""A search for a pinned route, explained: searched again with all that is done kept, and played step by
step."""

from __future__ import annotations

from collections.abc import Callable
from time import perf_counter
from typing import Any

from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.editing import Notice
from woven_locus.core.routing import Manner, NoRoute
from woven_locus.core.routing.explain import Explained, Heuristic, compare, explain
from woven_locus.document import PinnedRoute
from woven_locus.ui.answers.network import concerns_ways
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

# Ticks in which a search is played, and how long one lasts.
PLAY_TICKS, PLAY_MSEC = 240, 33


class ExplainedSearch(OneJob):
    """explained : the search that is shown, or None.  compared : the same question by every heuristic.
    asked : the route that it is about.  step : up to which it is shown.  by_cost : how cells are coloured."""

    stepped = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._play = QTimer(self)
        self._play.setInterval(PLAY_MSEC)
        self._play.timeout.connect(self._tick)
        self._forget()
        session.changed.connect(self._edited)

    def _forget(self) -> None:
        self.explained: Explained | None = None
        self.compared: list[Explained] = []
        self.asked: PinnedRoute | None = None
        self.step = 0
        self.by_cost = False
        self._play.stop()

    def _edited(self, notice: Notice) -> None:
        if concerns_ways(notice):
            self.put_away()

    def explain(self, pin: PinnedRoute, heuristic: Heuristic | None = None) -> None:
        """Search for a pinned route again and keep all that is done."""
        self._explain(
            pin, tr("Explaining"), lambda query, _stopped: [explain(query, heuristic, perf_counter)]
        )

    def compare(self, pin: PinnedRoute) -> None:
        """The same question by every heuristic, side by side."""
        self._explain(
            pin,
            tr("Comparing heuristics for"),
            lambda query, stopped: compare(query, stopped, perf_counter),
        )

    def _explain(
        self,
        pin: PinnedRoute,
        label: str,
        make: Callable[[Any, Callable[[], bool]], list[Explained]],
    ) -> None:
        session = self._session
        query = session.document.routes.question(pin)
        if isinstance(query, NoRoute):
            session.say(tr("Nothing to explain: {why}", why=query.why), "no")
            return
        small = session.asking.is_small()
        # Copied here: the layers of a question are the plan's own.
        query = query if small else query.snapshot()

        def done(found: list[Explained]) -> None:
            if not found:
                self.changed.emit()
                return
            self.asked = pin
            self.compared = found if len(found) > 1 else []
            self.look_at(found[0] if len(found) == 1 else self._preferred(found, pin.manner))

        self._work_out(
            f"{label} {pin.title}",
            lambda _plan, control: make(query, control),
            done,
            at_once=small,
            of=lambda plan: plan,  # it is the query's own copies that are searched
        )
        self.changed.emit()

    def _preferred(self, found: list[Explained], manner: Manner) -> Explained:
        sure = [each for each in found if each.heuristic.sure(manner.moves)]
        return min(sure or found, key=lambda each: each.steps)

    def look_at(self, explained: Explained) -> None:
        """Show one search, all of it."""
        self.explained, self.step = explained, explained.steps
        self._play.stop()
        self.changed.emit()

    def put_away(self) -> bool:
        """Put the explained search away; False when there was none."""
        if self.explained is None:
            return False
        self._play.stop()
        self.explained, self.compared, self.asked = None, [], None
        self.changed.emit()
        return True

    def set_step(self, step: int) -> None:
        if self.explained is not None and step != self.step:
            self.step = max(0, min(step, self.explained.steps))
            self.stepped.emit()

    def set_by_cost(self, on: bool) -> None:
        self.by_cost = on
        self.stepped.emit()

    @property
    def playing(self) -> bool:
        return self._play.isActive()

    def play(self, on: bool) -> None:
        """Run through the search from where it stands, or from the beginning when it is at the end."""
        if on and self.explained is not None:
            if self.step >= self.explained.steps:
                self.set_step(0)
            self._play.start()
        else:
            self._play.stop()
        self.stepped.emit()

    def _tick(self) -> None:
        if self.explained is None:
            self._play.stop()
            return
        self.set_step(self.step + max(1, self.explained.steps // PLAY_TICKS))
        if self.step >= self.explained.steps:
            self._play.stop()
            self.stepped.emit()
