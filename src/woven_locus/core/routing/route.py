"""A route between two ends of a plan: structures (by their doors) or cells."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.cells import ON_ROAD, movement_costs
from woven_locus.core.errors import Unknown
from woven_locus.core.geometry import Cell, Slot, cell_text
from woven_locus.core.lines import step_lengths
from woven_locus.core.numbers import parse_whole
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.plan import Plan
from woven_locus.core.routing.along import find_along
from woven_locus.core.routing.room import reaching, with_room
from woven_locus.core.routing.search import Path, find_path
from woven_locus.core.value import Value, replace
from woven_locus.core.ways.network import RoadNetwork

# An end of a route: a structure's number, or a cell.
End = int | Cell
# What `ends_of` is.
Joins = Callable[[Plan, End, bool, npt.NDArray[np.float64]], tuple[list[Slot], str]]


class Over(Enum):
    """What a route runs over. PREFERRED is the ground, with every cell off the road weighed as if it cost
    OFF_ROAD times as much; the cost of the route that is found is told without that weight."""

    ROADS = "roads"
    GROUND = "ground"
    PREFERRED = "preferred"


OFF_ROAD = 4.0


class Route(Value, eq=False):
    """A route that was found.

    slots : (N, 2) int64 of (row, col), start to goal.  first : the grid's first column and row.
    points : (N, 2) float64, centres in the world.
    length : world units along the centres.  cost : length with each step times its mean move cost.
    explored : cells expanded by the search, or nodes of the junction graph.
    """

    slots: npt.NDArray[np.int64]
    first: tuple[int, int]
    points: npt.NDArray[np.float64]
    length: float
    cost: float
    explored: int

    @property
    def cells(self) -> tuple[Cell, ...]:
        """From start to goal; made anew each time."""
        col, row = self.first
        return tuple(Cell(c + col, r + row) for r, c in self.slots.tolist())

    def same_way(self, other: Route) -> bool:
        """Whether another runs over the same cells."""
        return self.first == other.first and np.array_equal(self.slots, other.slots)

    @property
    def detour(self) -> float:
        """Its length against the straight line between its ends; 1 where they are one."""
        (x0, y0), (x1, y1) = self.points[0].tolist(), self.points[-1].tolist()
        straight = math.hypot(x1 - x0, y1 - y0)
        return self.length / straight if straight else 1.0


class NoRoute(Value):
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
    try:
        if text[:1] in ("S", "s") and text[1:2].isdigit():
            return parse_whole(text[1:])
        col, row = map(parse_whole, text.split(","))
        return Cell(col, row)
    except ValueError:
        pass
    raise Unknown(
        phrase("{text!r} is neither a structure like S12 nor a cell like 14,9", text=text)
    )


def end_name(plan: Plan, end: End) -> str:
    """An end in words: ``S12 Dye works`` or ``cell 14, 9``."""
    if isinstance(end, Cell):
        return phrase("cell {end}", end=cell_text(end))
    return plan.title_of(end)


class Manner(Value):
    """How somebody travels.  over : what they go over.  moves : 4 or 8.  size : cells that they are wide,
    1 to 3."""

    over: Over = Over.ROADS
    moves: int = 4
    size: int = 1

    @property
    def words(self) -> str:
        """``roads, 4 moves``."""
        wide = phrase(", {size} cells wide", size=self.size) if self.size > 1 else ""
        return phrase(
            "{over}, {moves} moves{wide}", over=phrase(self.over.value), moves=self.moves, wide=wide
        )


ON_FOOT = Manner(Over.GROUND)
BY_ROAD = Manner()


def find_route(plan: Plan, start: End, goal: End, manner: Manner = BY_ROAD) -> Route | NoRoute:
    """The cheapest route, or the reason why there is none.

    Over roads, a structure joins at each road cell just outside one of its doors (any outer side,
    without doors), and the route starts and ends on such cells. Over the ground it starts and ends
    on the enterable cells there. From an end to itself it is one cell of cost 0.
    Raises Unknown for a number that is not in the register.
    """
    query = prepare_route(plan, start, goal, manner)
    if isinstance(query, NoRoute):
        return query
    return finish_route(plan, query, query.search())


class RouteQuery(Value):
    """A question ready to be searched, on this thread or another.

    network : where the junction graph answers it, at once and on the thread that edits; else None.
    layer, costs, exits : what a search of the cells is made of, see `find_path`.
    slots : where it may start and end, for an agent of one cell.
    """

    start: End
    goal: End
    manner: Manner
    network: RoadNetwork | None
    layer: npt.NDArray[np.uint8]
    costs: npt.NDArray[np.float64]
    exits: npt.NDArray[np.uint8] | None
    slots: tuple[list[Slot], list[Slot]]
    cell: tuple[float, float]

    def snapshot(self) -> RouteQuery:
        """With a copy of the layer, for a search that runs while the plan may change."""
        return replace(self, layer=self.layer.copy(), network=None)

    @property
    def at_once(self) -> bool:
        """Whether the answer takes no longer than a frame, however large the plan."""
        return self.network is not None

    def ends(self) -> tuple[list[Slot], list[Slot]]:
        """Where the search starts and ends, for an agent of this size."""
        if self.manner.size == 1:
            return self.slots
        return tuple(reaching(slots, self.manner.size) for slots in self.slots)  # type: ignore[return-value]

    def search(self) -> Path:
        """The cheapest way; see `finish_route` for what becomes of it."""
        if self.network is not None:
            return find_along(self.network, *self.slots)
        layer = with_room(self.layer, self.costs, self.manner.size)
        manner = self.manner
        return find_path(
            layer, self.costs, *self.ends(), moves=manner.moves, cell=self.cell, exits=self.exits
        )


def prepare_route(
    plan: Plan, start: End, goal: End, manner: Manner = BY_ROAD, joins: Joins | None = None
) -> RouteQuery | NoRoute:
    """Everything of `find_route` that comes before the search; cheap.

    joins : `ends_of`, for who knows of ends already where they join.
    """
    roads = manner.over is Over.ROADS
    costs = plan.road_table.costs if roads else movement_costs(plan)
    slots = []
    for end in (start, goal):
        found, why = (joins or ends_of)(plan, end, roads, costs)
        if why:
            return NoRoute(why)
        slots.append(found)
    if manner.over is Over.PREFERRED:
        off_road = np.ones(256, bool)
        off_road[ON_ROAD + 1 - len(plan.road_table) :] = False
        costs = np.where(off_road, costs * OFF_ROAD, costs)
    by_graph = roads and manner.moves == 4 and manner.size == 1 and plan.network.worthwhile
    signs = roads and bool(plan.road_table.exits.any())
    return RouteQuery(
        start,
        goal,
        manner,
        plan.network if by_graph else None,
        plan.road if roads else plan.movement,
        costs,
        plan.road_table.exits if signs else None,
        (slots[0], slots[1]),
        (plan.spec.cell_w, plan.spec.cell_h),
    )


def finish_route(plan: Plan, query: RouteQuery, path: Path) -> Route | NoRoute:
    """The answer to a query from the path that its search gave."""
    spec = plan.spec
    if not path:
        return _explain(plan, query, path.explored)
    points = spec.centres(path.slots)
    steps = step_lengths(points)
    cost = path.cost
    if query.manner.over is Over.PREFERRED:
        at = movement_costs(plan)[plan.movement[path.slots[:, 0], path.slots[:, 1]]]
        cost = float((steps * (at[:-1] + at[1:]) / 2).sum())
    return Route(path.slots, spec.first, points, float(steps.sum()), cost, path.explored)


def cannot_end(plan: Plan, end: End, manner: Manner) -> str:
    """Why no route of this manner starts or ends there; empty where one may."""
    roads = manner.over is Over.ROADS
    return ends_of(plan, end, roads, plan.road_table.costs if roads else movement_costs(plan))[1]


def ends_of(
    plan: Plan, end: End, roads: bool, costs: npt.NDArray[np.float64]
) -> tuple[list[Slot], str]:
    """The slots at which an end joins, or why it joins nowhere."""
    layer = plan.road if roads else plan.movement
    cells = [end] if isinstance(end, Cell) else plan.approaches_of(plan.register[end])
    slots = [plan.spec.slot(cell) for cell in cells if plan.spec.contains(cell)]
    slots = [slot for slot in slots if np.isfinite(costs[layer[slot]])]
    return slots, "" if slots else _joins_nowhere(plan, end, roads, cells)


def _joins_nowhere(plan: Plan, end: End, roads: bool, cells: Sequence[Cell]) -> str:
    """Why an end joins nowhere, in words. cells : at which it would."""
    name = end_name(plan, end)
    if isinstance(end, Cell):
        if not plan.spec.contains(end):
            return phrase(
                "{name} is outside the grid ({describe_range})",
                name=name,
                describe_range=plan.spec.describe_range(),
            )
        if not roads:
            return phrase("{name} cannot be entered", name=name)
        if plan.road[plan.spec.slot(end)] != 0:
            return phrase("{name} is closed road", name=name)
        return phrase("{name} is not road", name=name)
    doors = plan.kinds[plan.register[end].kind].footprint.doors
    side = phrase("outer sides")
    if doors:
        side = phrase("door") if len(doors) == 1 else phrase("doors")
    where = phrase(" (cell {cells})", cells=cell_text(cells[0])) if len(cells) == 1 else ""
    lacks = phrase("no road") if roads else phrase("nothing that can be entered")
    return phrase(
        "{name} has {lacks} at its {side}{where}",
        name=name,
        lacks=lacks,
        side=side,
        where=where,
    )


def _explain(plan: Plan, query: RouteQuery, explored: int) -> NoRoute:
    a, b = end_name(plan, query.start), end_name(plan, query.goal)
    wide = (
        phrase(" for an agent {size} cells wide", size=query.manner.size)
        if query.manner.size > 1
        else ""
    )
    if query.manner.over is not Over.ROADS:
        what = (
            phrase("no way wide enough leads")
            if wide
            else phrase("blocked ground lies all the way")
        )
        return NoRoute(phrase("{what} between {a} and {b}", what=what, a=a, b=b), explored)
    network, spec = plan.network, plan.spec
    mine, theirs = (
        sorted({network.group_at(row * spec.cols + col) for row, col in slots})
        for slots in query.slots
    )
    if set(mine) & set(theirs):
        if wide:
            return NoRoute(
                phrase("no road{wide} leads from {a} to {b}", wide=wide, a=a, b=b), explored
            )
        return NoRoute(
            phrase("the road from {a} leads to {b} only against a one-way sign", a=a, b=b), explored
        )
    gap = nearest_gap(plan, mine, theirs)
    sizes = [sum(network.size(label) for label in group) for group in (mine, theirs)]
    why = phrase(
        "the road at {a} ({cells}) does not meet the road at {b} ({cells2})",
        a=a,
        cells=_cells(sizes[0]),
        b=b,
        cells2=_cells(sizes[1]),
    )
    if gap:
        p, q = gap
        why = phrase(
            "{why}; they come nearest at {p} and {q}", why=why, p=cell_text(p), q=cell_text(q)
        )
    return NoRoute(why, explored, gap)


def _cells(count: int) -> str:
    return counted(count, "{n} cell", "{n} cells")


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
