"""A stretch of the run looked at closely: the run is done once more in a worker, from as far back as it can."""

from __future__ import annotations

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.core.routing import LaneWay
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.streets import KEYS_A_SLOT
from woven_locus.core.traffic.stretch import Seen, Stretch, watch
from woven_locus.ui.answers.lanes import LaneKeeper
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session


class StretchKeeper(OneJob):
    """seen : who was where when, None before it was asked.  of : whose way it is, in words.  top : the highest speed that
    its road allows.  run : the one that it is of."""

    def __init__(self, session: Session, traffic: TrafficKeeper, lanes: LaneKeeper) -> None:
        super().__init__(session)
        self._traffic, self._lanes = traffic, lanes
        self._forget()
        traffic.changed.connect(self._run_changed)

    def _forget(self) -> None:
        self.seen: Seen | None = None
        self.of, self.top = "", 0.0
        self.run: TrafficRun | None = None
        self.crossings: list[float] = []

    def _run_changed(self) -> None:
        if self.run is not None and self.run is not self._traffic.run:
            self._stop()
            self._forget()
            self.changed.emit()

    def ask(self) -> None:
        """Look at the way of the vehicle that was clicked, or else of the current route."""
        run, timeline = self._traffic.run, self._traffic.timeline
        if run is None or timeline is None or self.working:
            return
        found = self._chosen(run)
        if found is None:
            self._session.say(
                tr("Click a vehicle, or choose a route that runs along lanes, first"), "no"
            )
            return
        self.of, nodes = found
        twin, until = timeline.twin(), timeline.last
        stretch = Stretch(twin, nodes)
        tracks, junctions = run.streets.tracks, run.streets.junctions
        slots = set(junctions.slots.tolist())
        cells = run.streets.keys[stretch.nodes] // KEYS_A_SLOT
        self.crossings = [
            float(at) for at, slot in zip(stretch.at, cells.tolist(), strict=True) if slot in slots
        ]
        speeds = tracks.speed[np.isin(tracks.edge_start[tracks.edges], stretch.nodes)]
        self.top = float(speeds.max())
        self.run, self.seen = run, None

        def work(_plan: Plan, control: Control) -> Seen:
            return watch(twin, stretch, until, control.tell, control)

        def done(seen: Seen) -> None:
            self.seen = seen
            self.changed.emit()

        # The twin is the run's own: of the plan nothing is read.
        self._work_out(
            tr("Looking at the stretch"), work, done, at_once=False, of=lambda plan: plan
        )
        self.changed.emit()

    def _chosen(self, run: TrafficRun) -> tuple[str, list[int]] | None:
        """Whose way, and its nodes."""
        row = run.fleet.row_of(self._traffic.chosen)
        if row is not None:
            cars = run.fleet.cars
            pieces = run.fleet.pieces[int(cars.way[row]) : int(cars.way_end[row])]
            nodes = run.streets.tracks.nodes_along(pieces)
            return tr("the way of V{chosen}", chosen=self._traffic.chosen), nodes
        way = self._lanes.way
        if isinstance(way, LaneWay):
            dense = self._session.plan.lanes.graph.numbers()[way.nodes].tolist()
            if len(dense) > 1:
                return tr("the current route"), dense
        return None
