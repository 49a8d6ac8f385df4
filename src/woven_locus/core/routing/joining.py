"""What would join two ends that no road joins: a search that pays for the cells that are missing."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.rules import way_bars
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.plan import Plan
from woven_locus.core.routing.route import End
from woven_locus.core.routing.search import find_path
from woven_locus.core.value import Value

# Codes of the layer that is searched: closed to it, road that is there, cells that may become road.
_NO, _ROAD, _FREE = 0, 1, 2
# Road that is there costs next to nothing; a map's worth of it is still less than one cell more.
_COSTS = np.full(256, np.inf)
_COSTS[_ROAD], _COSTS[_FREE] = 1e-8, 1.0


class Proposal(Value):
    """cells : the missing ones, from the start on; none when no road can join the two."""

    cells: tuple[Cell, ...]

    def __bool__(self) -> bool:
        return bool(self.cells)


def propose_join(plan: Plan, start: End, goal: End) -> Proposal:
    """The fewest cells of new road that join two ends, subject to what may be built on.

    Road that is closed is not used. Raises Unknown for a number that is not in the register.
    """
    spec, layer = plan.spec, _layer(plan)
    ends = []
    for end in (start, goal):
        cells = [end] if isinstance(end, Cell) else plan.approaches_of(plan.register[end])
        ends.append([spec.slot(cell) for cell in cells if spec.contains(cell)])
    return Proposal(_missing(plan, layer, *ends))


def join_from(plan: Plan, cell: Cell) -> tuple[Cell, ...]:
    """The fewest cells of new road that join the piece of road at a cell to any other piece; none where there
    is no road, no other piece, or no way."""
    spec = plan.spec
    group = plan.network.group_at(spec.index(cell)) if spec.contains(cell) else 0
    if not group:
        return ()
    layer = _layer(plan)
    cells = np.flatnonzero(layer == _ROAD)
    others = cells[plan.network.groups_at(cells) != group]
    goals = [Slot(*divmod(at, spec.cols)) for at in others.tolist()]
    return _missing(plan, layer, [spec.slot(cell)], goals)


def _missing(
    plan: Plan, layer: npt.NDArray[np.uint8], starts: list[Slot], goals: list[Slot]
) -> tuple[Cell, ...]:
    """The cells of the cheapest way that are no road yet."""
    slots = find_path(layer, _COSTS, starts, goals).slots.tolist()
    return tuple(plan.spec.cell_of_slot(slot) for slot in slots if layer[tuple(slot)] == _FREE)


def _layer(plan: Plan) -> npt.NDArray[np.uint8]:
    """What each cell is to the search: closed to it, open road, or one that may become road."""
    free = way_bars(plan, plan.spec.box, "road") == 0
    layer = np.where(free, np.uint8(_FREE), np.uint8(_NO))
    road = plan.road != 0
    layer[road] = np.where(np.isfinite(plan.road_table.costs[plan.road[road]]), _ROAD, _NO)
    return np.asarray(layer, np.uint8)
