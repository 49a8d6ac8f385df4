"""What a run has been like, cell by cell."""

from __future__ import annotations

from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core.phrase import mark
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.streets import KEYS_A_SLOT

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]


class Measure(Enum):
    """FLOW : vehicles a minute that pass a cell, both directions together: the way driven in it over its mean side.
    SPEED : mean speed, world units a second.  DENSITY : vehicles in the cell on average.  QUEUE : of those, the ones that
    stand.  LOST : seconds that all vehicles together lost there."""

    FLOW = mark("Flow")
    SPEED = mark("Mean speed")
    DENSITY = mark("Density")
    QUEUE = mark("Queue")
    LOST = mark("Time lost")


class CellMap:
    """The road cells of a run, (C,) flat slots in order, and what was measured there."""

    def __init__(self, run: TrafficRun) -> None:
        spec = run.streets.graph.spec
        self.slots, self._cell_of = np.unique(run.streets.keys // KEYS_A_SLOT, return_inverse=True)
        self._side = (spec.cell_w + spec.cell_h) / 2

    def of(self, run: TrafficRun, measure: Measure) -> Floats:
        """(C,) of a run over the same roads; nan where a mean speed is of nobody."""
        record = run.record
        # Looks cover what was recorded, which may be less than the run is old.
        seconds = max(record.seconds, 1e-9)
        if measure is Measure.SPEED:
            with np.errstate(invalid="ignore", divide="ignore"):
                return self._sum(record.way) / self._sum(record.time)
        if measure is Measure.FLOW:
            return self._sum(record.way) * (60 / (self._side * seconds))
        if measure is Measure.DENSITY:
            return self._sum(record.time) / seconds
        if measure is Measure.QUEUE:
            return self._sum(record.stood) / seconds
        return self._sum(record.lost)

    def _sum(self, by_node: Floats) -> Floats:
        found = np.bincount(self._cell_of, weights=by_node, minlength=len(self.slots))
        return np.asarray(found, np.float64)
