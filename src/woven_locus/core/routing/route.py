"""A route between two ends of a plan: structures (by their doors) or cells."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import Unknown
from woven_locus.core.geometry import Cell, Slot, cell_text
from woven_locus.core.plan import BLOCKED, Plan
from woven_locus.core.routing.search import Path, find_path

# An end of a route: a structure's number, or a cell.
End = int | Cell


class Over(Enum):
    ROADS = "roads"
    GROUND = "ground"


@dataclass(frozen=True, slots=True)
class Route:
    """A route that was found.

    cells : from start to goal.  points : (N, 2) float64, their centres in the world.
    length : world units along the centres.  cost : length with each step times its mean move cost.
    explored : cells expanded by the search.
    """

    cells: tuple[Cell, ...]
    points: npt.NDArray[np.float64]
    length: float
    cost: float
    explored: int


@dataclass(frozen=True, slots=True)
class NoRoute:
    """Why there is none. False in a condition.

    why : one sentence.  gap : the two road cells at which the groups come nearest, if that is it.
    """

    why: str
    explored: int = 0
    gap: tuple[Cell, Cell] | None = None

    def __bool__(self) -> bool:
        return False


def parse_end(text: str) -> End:
    """``S12`` -> 12, ``4,-7`` -> Cell(4, -7). Raises Unknown, saying what was expected."""
    text = text.strip()
    if match := re.fullmatch(r"[Ss](\d+)", text):
        return int(match[1])
    if match := re.fullmatch(r"(-?\d+)\s*,\s*(-?\d+)", text):
        return Cell(int(match[1]), int(match[2]))
    raise Unknown(f"{text!r} is neither a structure like S12 nor a cell like 14,9")


def end_name(plan: Plan, end: End) -> str:
    """An end in words: ``S12 Dye works`` or ``cell 14, 9``."""
    if isinstance(end, Cell):
        return f"cell {cell_text(end)}"
    return plan.title_of(end)


def find_route(
    plan: Plan, start: End, goal: End, over: Over = Over.ROADS, moves: int = 4
) -> Route | NoRoute:
    """The cheapest route, or the reason why there is none.

    Over roads, a structure joins at each road cell just outside one of its doors (any outer side,
    without doors), and the route starts and ends on such cells. Over the ground it starts and ends
    on the enterable cells there. Raises Unknown for a number that is not in the register.
    """
    query = prepare_route(plan, start, goal, over, moves)
    if isinstance(query, NoRoute):
        return query
    return finish_route(plan, query, query.search())


@dataclass(frozen=True, slots=True)
class RouteQuery:
    """A question ready to be searched, on this thread or another."""

    start: End
    goal: End
    over: Over
    moves: int
    layer: npt.NDArray[np.uint8]
    costs: npt.NDArray[np.float64]
    slots: tuple[list[Slot], list[Slot]]
    cell: tuple[float, float]

    def snapshot(self) -> RouteQuery:
        """With a copy of the layer, for a search that runs while the plan may change."""
        return replace(self, layer=self.layer.copy())

    def search(self) -> Path:
        return find_path(self.layer, self.costs, *self.slots, moves=self.moves, cell=self.cell)


def prepare_route(
    plan: Plan, start: End, goal: End, over: Over = Over.ROADS, moves: int = 4
) -> RouteQuery | NoRoute:
    """Everything of `find_route` that comes before the search; cheap."""
    if start == goal and not isinstance(start, Cell):
        return NoRoute(f"both ends are {end_name(plan, start)}; choose two structures")
    slots = []
    for end in (start, goal):
        found, why = _ends(plan, end, over)
        if why:
            return NoRoute(why)
        slots.append(found)
    roads = over is Over.ROADS
    return RouteQuery(
        start,
        goal,
        over,
        moves,
        plan.road if roads else plan.movement,
        plan.road_table.costs if roads else plan.movement_costs(),
        (slots[0], slots[1]),
        (plan.spec.cell_w, plan.spec.cell_h),
    )


def finish_route(plan: Plan, query: RouteQuery, path: Path) -> Route | NoRoute:
    """The answer to a query from the path that its search gave."""
    spec = plan.spec
    if not path:
        return _explain(plan, query, path.explored)
    points = spec.centres(path.slots)
    length = float(np.hypot(*np.diff(points, axis=0).T).sum()) if len(points) > 1 else 0.0
    cells = tuple(spec.cell_of_slot(slot) for slot in path.slots.tolist())
    return Route(cells, points, length, path.cost, path.explored)


def _ends(plan: Plan, end: End, over: Over) -> tuple[list[Slot], str]:
    """The slots at which an end joins, or why it joins nowhere."""
    name = end_name(plan, end)
    layer, nothing = (plan.road, 0) if over is Over.ROADS else (plan.movement, BLOCKED)
    if isinstance(end, Cell):
        if not plan.spec.contains(end):
            return [], f"{name} is outside the grid ({plan.spec.describe_range()})"
        cells = [end]
        missing = f"{name} is not road" if over is Over.ROADS else f"{name} cannot be entered"
    else:
        structure = plan.register[end]
        cells = plan.approaches_of(structure)
        doors = plan.kinds[structure.kind].footprint.doors
        side = "door" if len(doors) == 1 else "doors" if doors else "outer sides"
        where = f" (cell {cell_text(cells[0])})" if len(cells) == 1 else ""
        lacks = "no road" if over is Over.ROADS else "nothing that can be entered"
        missing = f"{name} has {lacks} at its {side}{where}"
    slots = [plan.spec.slot(cell) for cell in cells if plan.spec.contains(cell)]
    slots = [slot for slot in slots if layer[slot] != nothing]
    return slots, "" if slots else missing


def _explain(plan: Plan, query: RouteQuery, explored: int) -> NoRoute:
    a, b = end_name(plan, query.start), end_name(plan, query.goal)
    if query.over is Over.GROUND:
        return NoRoute(f"blocked ground lies all the way between {a} and {b}", explored)
    labels = plan.network.labels
    mine = sorted({int(labels[slot]) for slot in query.slots[0]})
    theirs = sorted({int(labels[slot]) for slot in query.slots[1]})
    gap = nearest_gap(plan, mine, theirs)
    sizes = [sum(plan.network.size(label) for label in group) for group in (mine, theirs)]
    why = f"the road at {a} ({_cells(sizes[0])}) does not meet the road at {b} ({_cells(sizes[1])})"
    if gap:
        p, q = gap
        why += f"; they come nearest at {cell_text(p)} and {cell_text(q)}"
    return NoRoute(why, explored, gap)


def _cells(count: int) -> str:
    return f"{count} cell{'s' * (count != 1)}"


# Comparisons up to which the nearest pair of cells is looked for.
MOST_PAIRS = 4_000_000


def nearest_gap(plan: Plan, mine: list[int], theirs: list[int]) -> tuple[Cell, Cell] | None:
    """The two cells, one of each group of labels, that are nearest in the world.

    None for a large network, for which comparing all pairs would hold up whoever asks.
    """
    labels = plan.network.labels
    sizes = [sum(plan.network.size(label) for label in group) for group in (mine, theirs)]
    if not 0 < sizes[0] * sizes[1] <= MOST_PAIRS or labels.size > MOST_PAIRS:
        return None
    first = np.argwhere(np.isin(labels, mine))
    second = np.argwhere(np.isin(labels, theirs))
    a, b = plan.spec.centres(first), plan.spec.centres(second)
    far = ((a[:, None, :] - b[None, :, :]) ** 2).sum(axis=2)
    at, to = np.unravel_index(int(far.argmin()), far.shape)
    return plan.spec.cell_of_slot(first[at].tolist()), plan.spec.cell_of_slot(second[to].tolist())
