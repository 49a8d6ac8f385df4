"""Attackers on their lines: where they are, what they have before them."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Point
from woven_locus.core.plan import Plan
from woven_locus.core.waves.attackers import Attackers
from woven_locus.core.waves.towers import Targets, heights_at
from woven_locus.core.waves.tracks import Lines

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class OnTheWay:
    """attackers : all who come, a row each.  seconds : simulated time, set by whoever lets it pass."""

    attackers: Attackers

    def __init__(self, plan: Plan) -> None:
        self._lines = Lines(plan)
        self._height_reach = plan.waves.height_reach
        self._take_heights(plan)

    def _take_heights(self, plan: Plan) -> None:
        """Heights count where the plan says so."""
        self._heights = plan if self._height_reach and plan.heights is not None else None

    @property
    def seconds(self) -> float:
        """Simulated time since the beginning."""
        raise NotImplementedError

    def targets(self) -> tuple[Ints, Targets]:
        """The rows of all who are on the map, and how they stand."""
        rows, men = self.attackers.there(), self.attackers
        points = self._lines.points(men.line[rows], men.x[rows])
        left = self._lines.length[men.line[rows]] - men.x[rows]
        height = heights_at(self._heights, points) if self._heights else np.zeros(len(rows))
        return rows, Targets(points, left, men.health[rows], men.flies[rows], height)

    def points(self, rows: Ints) -> Floats:
        """(N, 2) where attackers are."""
        return self._lines.points(self.attackers.line[rows], self.attackers.x[rows])

    def way_ahead(self, row: int) -> Floats:
        """(N, 2) what an attacker still has to go."""
        return self._lines.ahead(int(self.attackers.line[row]), float(self.attackers.x[row]))

    def way_left(self, row: int) -> float:
        """How far an attacker still has to go, world units."""
        men = self.attackers
        return float(self._lines.length[men.line[row]] - max(0.0, float(men.x[row])))

    def speed_of(self, row: int) -> float:
        """How fast it goes where it is, were nobody in its way."""
        rows = np.array([row])
        men = self.attackers
        slow = self._lines.slowness(men.line[rows], men.x[rows])
        return float((men.speed[rows] * men.slowed(rows, self.seconds) / slow)[0])

    def nearest(self, to: Point, reach: float) -> int:
        """The number of the attacker nearest to a world point, 0 for none within `reach`."""
        rows = self.attackers.there()
        if not len(rows):
            return 0
        far = np.hypot(*(self.points(rows) - np.array(to)).T)
        at = int(np.argmin(far))
        return int(rows[at]) + 1 if far[at] <= reach else 0
