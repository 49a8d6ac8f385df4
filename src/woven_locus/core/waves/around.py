"""The ways around what is about to be built: many questions of one plan, each quick."""

from __future__ import annotations

from collections.abc import Sequence

from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.routing.mended import Mended
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.ways import EntryWay, ground_of, slots_of, way_of


class Around:
    """Of one state of a plan, which must not change meanwhile. Making it looks at the whole map once for each set of
    goals; a question then looks only at what may lie on a way around."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._ground, self._costs = ground_of(plan)
        self._to: dict[tuple[str, ...], Mended] = {}
        cell = plan.spec.cell_w, plan.spec.cell_h
        for entry in plan.waves.walked:
            goals = plan.waves.goals_of(entry)
            key = tuple(goal.id for goal in goals)
            if key not in self._to:
                slots = slots_of(plan, goals)
                self._to[key] = Mended(
                    self._ground, self._costs, slots, moves=plan.waves.moves, cell=cell
                )

    def find(self, way: EntryWay, closed: Sequence[Cell]) -> EntryWay:
        """A way over the ground as it would be with some cells closed: of the least cost, as `find_way` finds one."""
        plan, spec = self._plan, self._plan.spec
        entry = plan.waves.entry(way.entry)
        assert entry is not None
        to = self._to[tuple(goal.id for goal in plan.waves.goals_of(entry))]
        slots = [spec.slot(cell) for cell in closed if spec.contains(cell)]
        path = to.find(slots_of(plan, [entry]), slots)
        ground, costs = self._ground, self._costs
        return way_of(plan, entry, Moves.GROUND, path.slots, path.cost, ground, costs)
