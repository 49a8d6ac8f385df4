"""The lane graph as the window shows it: of a large plan it is made in a worker first; and the way of the current route
through it."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.plan import Plan
from woven_locus.core.routing import LaneWay, NoRoute, Over, find_lane_way
from woven_locus.document import PinnedRoute
from woven_locus.ui.answers.network import concerns_ways
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage


class LaneKeeper(OneJob):
    """way : of the current route, None without one or before it is there.  Worked out in Traffic only."""

    def __init__(self, session: Session, routes: RouteKeeper) -> None:
        super().__init__(session)
        self._routes = routes
        self._forget()
        session.changed.connect(self._edited)
        session.choices.stage_changed.connect(self.refresh)
        routes.changed.connect(self._route_changed)

    def _forget(self) -> None:
        self.way: LaneWay | NoRoute | None = None
        self._of: PinnedRoute | None = None
        self._numbers: tuple[LaneGraph, int, npt.NDArray[np.int64]] | None = None

    @property
    def graph(self) -> LaneGraph | None:
        """The plan's lane graph; None as long as a worker makes it."""
        plan = self._session.plan
        if plan.lanes.made or self._session.asking.is_small():
            return plan.lanes.graph
        return None

    def number_of(self, node: int) -> int:
        """The number of a node as it is printed."""
        graph = self._session.plan.lanes.graph
        if self._numbers is None or self._numbers[:2] != (graph, graph.revision):
            self._numbers = graph, graph.revision, graph.numbers()
        return int(self._numbers[2][node]) + 1

    def nearest(self, cell: Cell, to: Point) -> int | None:
        """The node of a cell that is nearest to a world point."""
        graph, spec = self.graph, self._session.plan.spec
        if graph is None or not spec.contains(cell):
            return None
        nodes = graph.nodes_at(spec.index(cell))
        if not len(nodes):
            return None
        away = graph.places(nodes) - np.array(to)
        return int(nodes[int(np.argmin((away**2).sum(axis=1)))])

    def _edited(self, notice: Notice) -> None:
        if concerns_ways(notice):
            self._of = None
            self.refresh()

    def _route_changed(self) -> None:
        if self._routes.current is not self._of:
            self.refresh()

    def refresh(self) -> None:
        """Work out what Traffic shows, if it is not there already."""
        if self._session.choices.stage is not Stage.TRAFFIC:
            return
        pin = self._routes.current
        if pin is not None and pin.manner.over is not Over.ROADS:
            pin = None
        if pin is self._of and (pin is not None or self._session.plan.lanes.made):
            return
        self._stop()
        self._of, self.way = pin, None
        self._ask(pin)
        self.changed.emit()

    def _ask(self, pin: PinnedRoute | None) -> None:
        session = self._session

        def work(plan: Plan, _control: object) -> tuple[Plan, LaneWay | NoRoute | None]:
            _ = plan.lanes.graph
            if pin is None or any(isinstance(e, int) and e not in plan.register for e in pin.ends):
                return plan, None
            return plan, find_lane_way(plan, pin.start, pin.goal)

        def done(found: tuple[Plan, LaneWay | NoRoute | None]) -> None:
            made_of, self.way = found
            # The copy was made for this question alone.
            session.plan.lanes.adopt(made_of.lanes)
            self.changed.emit()

        def ended() -> None:
            self._of = None
            self.changed.emit()

        self._work_out(tr("Laying out the lanes"), work, done, of=Plan.snapshot, ended=ended)
