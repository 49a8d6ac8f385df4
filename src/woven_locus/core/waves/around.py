"""The ways around what is about to be built: many questions of one plan, each quick."""

from __future__ import annotations

from collections.abc import Sequence

from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.routing.mended import Mended, Tree
from woven_locus.core.wave_plan import Entry, Goal, Moves
from woven_locus.core.waves.ways import EntryWay, ground_of, slots_of, way_of


class Around:
    """Of one state of a plan, which must not change meanwhile. Making it looks at the whole map once for each entry
    and each set of goals; a question then looks only at what may lie on a way around."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._ground, self._costs = ground_of(plan)
        to: dict[tuple[str, ...], Tree] = {}
        self._mended: dict[str, Mended] = {}
        for entry in plan.waves.walked:
            goals = plan.waves.goals_of(entry)
            key = tuple(goal.id for goal in goals)
            if key not in to:
                to[key] = self._tree(goals)
            self._mended[entry.id] = Mended(self._tree([entry]), to[key])

    def _tree(self, ends: Sequence[Entry | Goal]) -> Tree:
        plan = self._plan
        cell = plan.spec.cell_w, plan.spec.cell_h
        slots = slots_of(plan, ends)
        return Tree(self._ground, self._costs, slots, moves=plan.waves.moves, cell=cell)

    def find(self, way: EntryWay, closed: Sequence[Cell]) -> EntryWay:
        """A way over the ground as it would be with some cells closed: of the least cost, as `find_way` finds one."""
        plan, spec = self._plan, self._plan.spec
        entry = plan.waves.entry(way.entry)
        assert entry is not None
        slots = [spec.slot(cell) for cell in closed if spec.contains(cell)]
        path = self._mended[entry.id].find(slots)
        ground, costs = self._ground, self._costs
        return way_of(plan, entry, Moves.GROUND, path.slots, path.cost, ground, costs)
