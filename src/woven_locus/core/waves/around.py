"""The ways around what is about to be built: many questions of one plan, each quick."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.routing.search import NO_EXITS, open_ends
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.ways import EntryWay, ground_of, slots_of, way_of

Floats = npt.NDArray[np.float64]
Bytes = npt.NDArray[np.uint8]


class Around:
    """Of one state of a plan, which must not change meanwhile. Making it looks at the whole map once for each set of
    goals; a question then looks only at what may lie on a way around."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._ground, self._costs = ground_of(plan)
        # By goals: what is left to go from each cell, and by which move the way on comes to it from them.
        self._left: dict[tuple[str, ...], tuple[Floats, Bytes]] = {}
        for entry in plan.waves.walked:
            goals = plan.waves.goals_of(entry)
            key = tuple(goal.id for goal in goals)
            if key not in self._left:
                self._left[key] = self._costs_to(slots_of(plan, goals))
        self._g = np.empty(self._ground.size)

    def _costs_to(self, slots: Sequence[tuple[int, int]]) -> tuple[Floats, Bytes]:
        """(n,) from each cell to the nearest of some: over the ground a way costs the same both ways. And (n,) by which
        move it was come to."""
        spec, size = self._plan.spec, self._ground.size
        g, came = np.full(size, np.inf), np.zeros(size, np.uint8)
        kernels.explore(
            np.ascontiguousarray(self._ground).ravel(),
            spec.cols,
            spec.rows,
            self._costs,
            NO_EXITS,
            spec.cell_w,
            spec.cell_h,
            self._plan.waves.moves,
            open_ends(self._ground, self._costs, list(slots)),  # type: ignore[arg-type]
            np.empty(0, np.int64),
            1.0,
            0,
            1.0,
            np.inf,
            g,
            came,
            np.zeros(size, np.int32),
            np.zeros(size, np.int32),
        )
        return g, came

    def find(self, way: EntryWay, closed: Sequence[Cell]) -> EntryWay:
        """A way over the ground as it would be with some cells closed: of the least cost, as `find_way` finds one."""
        plan, spec = self._plan, self._plan.spec
        entry = plan.waves.entry(way.entry)
        assert entry is not None
        on = self._left[tuple(goal.id for goal in plan.waves.goals_of(entry))]
        slots = [spec.slot(cell) for cell in closed if spec.contains(cell)]
        at = tuple(np.array(slots, np.int64).reshape(-1, 2).T)
        ground = self._ground.copy()
        ground[at] = 0
        starts = open_ends(ground, self._costs, slots_of(plan, [entry]))
        came = np.zeros(ground.size, np.uint8)
        path, cost = kernels.search_guided(
            ground.ravel(),
            spec.cols,
            spec.rows,
            self._costs,
            spec.cell_w,
            spec.cell_h,
            plan.waves.moves,
            starts,
            on,
            self._g,
            came,
            np.zeros(ground.size, np.uint8),
        )
        found = np.stack([path // spec.cols, path % spec.cols], axis=1)
        return way_of(plan, entry, Moves.GROUND, found, float(cost), self._ground, self._costs)
