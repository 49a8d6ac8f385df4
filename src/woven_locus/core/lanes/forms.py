"""The lanes of every pattern that lies on a map, each worked out once, as tables that array passes can read."""

from __future__ import annotations

from copy import copy

import numpy as np
import numpy.typing as npt

from woven_locus.core.lanes.pattern import PATTERNS, Patterns
from woven_locus.core.lanes.shape import MOST, CellLanes, cell_lanes

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class Forms:
    """A *form* is one node of one pattern.

    x, y, radius : (F,) by form, world units from the middle of the cell; inf on a straight.
    heading : (F,) degrees.  about : (F,) bool.  lane : (F,).
    base, size : (PATTERNS,) the first form of a pattern, and how many it has; 0 for one that is not made yet.
    each_way : (PATTERNS,) lanes in a direction.  entry, exit : (PATTERNS, 4, MOST) local nodes, -1 for none.
    straight : (PATTERNS, 4), branches : (PATTERNS,) bool, see `CellLanes`.
    """

    def __init__(self, cell_w: float, cell_h: float, hand: int) -> None:
        self._unit = min(cell_w, cell_h)
        self._half = cell_w / self._unit / 2, cell_h / self._unit / 2
        self._hand = hand
        self._made: dict[int, CellLanes] = {}
        self.x, self.y, self.radius, self.heading = (np.zeros(0) for _ in range(4))
        self.about = np.zeros(0, bool)
        self.lane: Ints = np.zeros(0, np.int64)
        self.base = np.zeros(PATTERNS, np.int64)
        self.size = np.zeros(PATTERNS, np.int64)
        self.each_way = np.zeros(PATTERNS, np.int64)
        self.entry = np.full((PATTERNS, 4, MOST), -1, np.int64)
        self.exit = np.full((PATTERNS, 4, MOST), -1, np.int64)
        self.straight = np.zeros((PATTERNS, 4), bool)
        self.branches = np.zeros(PATTERNS, bool)

    def copied(self) -> Forms:
        """A copy to which more can be added by itself."""
        twin = copy(self)
        twin._made = dict(self._made)
        for name in ("base", "size", "each_way", "entry", "exit", "straight", "branches"):
            setattr(twin, name, getattr(self, name).copy())
        return twin

    def of(self, pattern: int) -> CellLanes:
        """The lanes of a pattern other than 0."""
        if pattern not in self._made:
            self._make(pattern)
        return self._made[pattern]

    def make(self, some: Patterns) -> None:
        """Have all of these patterns made."""
        for pattern in np.flatnonzero(np.bincount(some, minlength=PATTERNS)).tolist():
            if pattern:
                self.of(pattern)

    def _make(self, pattern: int) -> None:
        lanes = self._made[pattern] = cell_lanes(pattern, *self._half, self._hand)
        unit = self._unit
        self.base[pattern], self.size[pattern] = len(self.x), len(lanes)
        self.each_way[pattern] = int(lanes.lane.max()) + 1
        self.entry[pattern], self.exit[pattern] = lanes.entry, lanes.exit
        self.straight[pattern], self.branches[pattern] = lanes.straight, lanes.branches
        self.x = np.append(self.x, lanes.x * unit)
        self.y = np.append(self.y, lanes.y * unit)
        self.radius = np.append(self.radius, lanes.radius * unit)
        self.heading = np.append(self.heading, lanes.heading)
        self.about = np.append(self.about, lanes.about)
        self.lane = np.append(self.lane, lanes.lane)
