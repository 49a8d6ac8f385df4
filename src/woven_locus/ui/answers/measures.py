"""What was measured of the run, cell by cell, as the sheet shows it: brought up to date now and then."""

from __future__ import annotations

import time

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.traffic.maps import CellMap, Measure
from woven_locus.core.traffic.streets import Streets
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.session.session import Session

# Real seconds between two looks at a run, and how many times what a look takes.
_EVERY, _REST = 0.5, 20.0


class MeasureKeeper(QObject):
    """layer : (H, W) float32 of what is shown, nan where nothing was measured, or None; another object whenever it is
    another.  most : the largest value in it."""

    changed = pyqtSignal()

    def __init__(self, session: Session, traffic: TrafficKeeper) -> None:
        super().__init__(session)
        self._session, self._traffic = session, traffic
        self._of: tuple[Streets, CellMap] | None = None
        self._due = 0.0
        self.layer: npt.NDArray[np.float32] | None = None
        self.most = 0.0
        session.choices.on("traffic", self._look_now)
        traffic.changed.connect(self._look_now)
        traffic.moved.connect(self._moved)

    def _moved(self) -> None:
        # A paused run is looked at each time that it moves: it is turned back, or stepped.
        if time.monotonic() >= self._due or not self._traffic.running:
            self._look()

    def _look_now(self) -> None:
        self._look()
        self.changed.emit()

    def _look(self) -> None:
        run, measure = self._traffic.run, self._session.choices.traffic.shown
        if run is None or measure is None:
            self._of, self.layer, self.most = None, None, 0.0
            return
        began = time.monotonic()
        if self._of is None or self._of[0] is not run.streets:
            self._of = run.streets, CellMap(run)
        cells = self._of[1]
        values = cells.of(run, measure)
        before = self.most
        known = values[np.isfinite(values)]
        self.most = float(known.max()) if len(known) else 0.0
        layer = np.full(run.streets.graph.spec.shape, np.nan, np.float32)
        layer.ravel()[cells.slots] = values
        if measure is not Measure.SPEED:
            layer[layer <= 0] = np.nan
        self.layer = layer
        took = time.monotonic() - began
        self._due = time.monotonic() + max(_EVERY, _REST * took)
        if self.most != before:
            self.changed.emit()
