"""What Ways works out about the network and lays over the map: groups, travel time, load, weak points and near
misses. At once on a small plan, in a worker on a large one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing import Notice
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import with_capital
from woven_locus.core.plan import Plan
from woven_locus.core.proof.misses import NearMiss, candidates
from woven_locus.core.routing import NoRoute
from woven_locus.core.routing.reach import times_from
from woven_locus.core.routing.trips import Load, all_pairs, road_load
from woven_locus.core.routing.weak import WeakPoint, weak_points
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.language import shown, tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage, Trips, WaysOverlay

Times = npt.NDArray[np.float64]
# Structures between which all trips are worked out within the frame.
FEW_STRUCTURES = 60


# Of these no way and no cost of one is made.
_NO_MATTER = frozenset({"funds", "actor", "heights", "reserved", "window"})


def concerns_ways(notice: Notice) -> bool:
    """Whether a way or its cost may be another after a change."""
    return bool(notice.layers - _NO_MATTER)


_NO_TRIPS = {
    Trips.ALL: tr("Trips need two structures."),
    Trips.CHOSEN: tr("Select the structures between which the trips go."),
    Trips.PINNED: tr("Ask for routes between structures first: each is a trip."),
}


class NetworkStudy(OneJob):
    """times, load, weak : the newest answers, None before there is one.  why : why there is none.
    stale : the plan has changed since, and working it out anew takes long enough to be asked for."""

    def __init__(self, session: Session, routes: RouteKeeper) -> None:
        super().__init__(session)
        self._routes = routes
        self._forget()
        session.changed.connect(self._edited)
        session.selection.changed.connect(self._selected)
        session.choices.stage_changed.connect(self._stage)

    def _forget(self) -> None:
        self.times: Times | None = None
        self.load: Load | None = None
        self.weak: list[WeakPoint] | None = None
        self.why = ""
        self.stale = False

    # --- when ----------------------------------------------------------------------------------

    def _edited(self, notice: Notice) -> None:
        if not concerns_ways(notice):
            return  # nothing of which a way or its cost is made
        if self._session.choices.ways.shown is WaysOverlay.NOTHING:
            return
        if self._is_small():
            self.refresh()
        elif self._session.choices.ways.shown is not WaysOverlay.GROUPS:
            self._stop()
            self.stale = True
            self.changed.emit()

    def _selected(self) -> None:
        ways = self._session.choices.ways
        follows = ways.shown is WaysOverlay.TIME or (
            ways.shown is WaysOverlay.LOAD and ways.trips is Trips.CHOSEN
        )
        if follows and self._session.choices.stage is Stage.WAYS:
            self.refresh()

    def _stage(self) -> None:
        if (
            self._session.choices.stage is Stage.WAYS
            and self._session.choices.ways.shown is not WaysOverlay.NOTHING
        ):
            self.refresh()

    def _is_small(self) -> bool:
        session = self._session
        few = (
            session.choices.ways.shown is not WaysOverlay.LOAD
            or len(session.plan.register) <= FEW_STRUCTURES
        )
        return few and session.asking.is_small()

    def show(self, shown: WaysOverlay) -> None:
        """Choose what lies over the map."""
        self._session.choices.set_ways(shown=shown)
        self.refresh()

    def refresh(self) -> None:
        """Work out what is shown anew."""
        self._stop()
        self.stale, self.why = False, ""
        shown, session = self._session.choices.ways.shown, self._session
        if shown is WaysOverlay.TIME:
            start = session.selection.front
            self.times = None
            if not start:
                self.why = tr("Select the structure to start from.")
            else:
                manner = self._routes.manner
                self._work(
                    tr("Travel times"),
                    lambda plan, _stopped: times_from(plan, start, manner),
                    self._timed,
                )
        elif shown is WaysOverlay.LOAD:
            trips = self._trips()
            self.load = None
            if not trips:
                self.why = _NO_TRIPS[session.choices.ways.trips]
            else:
                self._work(
                    tr("Load of the trips of {count:,} structures", count=len(trips)),
                    lambda plan, stopped: road_load(plan, trips, stopped),
                    self._loaded,
                )
        elif shown is WaysOverlay.WEAK:
            self.weak = None
            self._work(tr("Weak points"), lambda plan, _stopped: weak_points(plan), self._weakened)
        self.changed.emit()

    def _trips(self) -> dict[int, list[tuple[int, float]]]:
        session = self._session
        if session.choices.ways.trips is Trips.PINNED:
            found: dict[int, list[tuple[int, float]]] = {}
            for pin in self._routes.pins:
                a, b = pin.start, pin.goal
                # A cell is no structure, and a structure may be gone.
                there = all(end in session.plan.register for end in pin.ends)
                if not isinstance(a, Cell) and not isinstance(b, Cell) and there:
                    found.setdefault(a, []).append((b, 1.0))
            return found
        chosen = session.choices.ways.trips is Trips.CHOSEN
        numbers = session.selection.numbers if chosen else session.plan.register.numbers()
        return all_pairs(numbers) if len(numbers) > 1 else {}

    def _work(
        self,
        label: str,
        make: Callable[[Plan, Callable[[], bool]], Any],
        done: Callable[[Any], None],
    ) -> None:
        session = self._session
        if not session.plan.network.has_graph:
            self.why = tr("The fast search is not ready yet; ask again in a moment.")
            return

        def arrived(answer: Any) -> None:
            done(answer)
            self.changed.emit()

        self._work_out(
            label,
            make,
            arrived,
            at_once=self._is_small(),
            of=Plan.snapshot,
            ended=self._out_of_date,
            refused=self._refused,
        )

    def _out_of_date(self) -> None:
        """The plan moved on, or the user has had enough."""
        self.stale = True
        self.changed.emit()

    def _refused(self, error: WovenError) -> None:
        self.why = tr(error)
        self.changed.emit()

    def _timed(self, answer: Times | NoRoute) -> None:
        if isinstance(answer, NoRoute):
            self.why = with_capital(shown(answer.why)) + "."
        else:
            self.times = answer

    def _loaded(self, answer: Load | None) -> None:
        self.load = answer

    def _weakened(self, answer: list[WeakPoint]) -> None:
        self.weak = answer

    # --- near misses ---------------------------------------------------------------------------

    def misses(self) -> list[NearMiss]:
        """Those that are known; on a large plan they are worked out elsewhere the first time."""
        document = self._session.document
        book = document.misses
        if book.ready or self._session.asking.is_small():
            return book.found
        if self._looking is not document:
            self._looking = document
            self._look(document)
        return []

    _looking: object = None

    def _look(self, document: Any) -> None:
        def done(every: list[NearMiss]) -> None:
            self._looking = None
            document.misses.learn(every)
            self.changed.emit()

        def ended() -> None:
            # Whoever asks next asks for the plan as it is then.
            self._looking = None
            self.changed.emit()

        def stopped() -> None:
            self._looking = None

        self._session.asking.ask(
            tr("Looking for near misses"),
            lambda plan, _control: candidates(plan),
            done,
            dropped=ended,
            stopped=stopped,
        )
