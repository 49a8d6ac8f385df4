"""The clock of traffic, and what of it is looked at: vehicles, junctions, rings that never move again."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal

from woven_locus.core.geometry import Cell, Point
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.timeline import TrafficTimeline
from woven_locus.core.traffic.waiting import ring_names, stuck
from woven_locus.ui.answers.run_clock import RunClock
from woven_locus.ui.language import tr

# Steps between two looks for vehicles that wait for one another.
_LOOK_EVERY = 60


class TrafficClock(RunClock[TrafficRun]):
    """follow : whether the sheet goes with the vehicle that is looked at.  junction : the one that is looked at, or None.
    rings : of vehicles that wait for one another and so will never move."""

    timeline: TrafficTimeline | None
    looked_at = pyqtSignal()  # another vehicle or junction is

    def _forget(self) -> None:
        super()._forget()
        self.follow = False
        self.junction: Cell | None = None
        self.rings: list[list[int]] = []
        self._looked_at_step = 0

    def take(self, run: TrafficRun) -> None:
        """This is the run from now on."""
        self.run, self.timeline = run, TrafficTimeline(run)

    def _turned_back(self) -> None:
        assert self.run is not None
        self._looked_at_step = self.run.steps

    def _looked(self) -> None:
        run = self.run
        assert run is not None
        if run.steps - self._looked_at_step >= _LOOK_EVERY:
            self._looked_at_step = run.steps
            self._look_for_rings(run)
        if self.running and run.over:
            self.set_running(False)
            counts = run.counts()
            if counts.arrived == counts.wanted:
                self._session.say(tr("Every vehicle has arrived: {arrived:,}", arrived=run.arrived))
            elif not counts.taken_off:
                self._session.say(tr("All others have arrived: {arrived:,}", arrived=run.arrived))

    def _look_for_rings(self, run: TrafficRun) -> None:
        known, self.rings = len(self.rings), stuck(run)
        if len(self.rings) > known:
            ring = self.rings[-1]
            words = tr(
                "Gridlock: {count} vehicles wait for one another: {ring_names}",
                count=len(ring),
                ring_names=ring_names(ring),
            )
            self._session.say(words, "no")
            front = run.fleet.front_of(ring[0])
            if front is not None:
                self._session.reveal.emit(self._session.plan.spec.locate_virtual(*front))

    # --- what is looked at ----------------------------------------------------------------------------

    def _chose(self) -> None:
        self.follow = self.follow and self.chosen != 0
        self.looked_at.emit()

    def set_follow(self, on: bool) -> None:
        """Let the sheet go with the vehicle that is looked at."""
        self.follow = on and self.chosen != 0
        self.looked_at.emit()
        self.moved.emit()

    def followed(self) -> Point | None:
        """Where the vehicle is that the sheet goes with, None for none."""
        if self.run is None or not self.follow:
            return None
        return self.run.fleet.front_of(self.chosen)

    def choose_junction(self, cell: Cell | None) -> None:
        """Look at the junction at a cell, or at none."""
        if cell != self.junction:
            self.junction = cell
            self.looked_at.emit()
            self.moved.emit()
