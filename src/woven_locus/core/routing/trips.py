"""Many routes at once, over the junction graph: the cost between every two structures, and the load that
trips lay on each road cell."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import cached_property
from itertools import groupby

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.plan import Plan
from woven_locus.core.register import alike
from woven_locus.core.routing.route import (
    End,
    Manner,
    NoRoute,
    Route,
    ends_of,
    finish_route,
    prepare_route,
)
from woven_locus.core.routing.search import Path
from woven_locus.core.side_by_side import each, never, nobody
from woven_locus.core.value import Value
from woven_locus.core.ways.doors import approach_slots
from woven_locus.core.ways.graph import JunctionGraph
from woven_locus.core.ways.network import RoadNetwork

Floats = npt.NDArray[np.float64]
Stopped = Callable[[], bool]
Progress = Callable[[float], None]

# Buckets up to which a ring of them is quicker than a heap.
_MOST_BUCKETS = 1 << 18


class Matrix(Value, eq=False):
    """numbers : of the structures, in the order of rows and columns.  cost : (n, n) float64 from the row's
    structure to the column's; 0 to itself, inf without a way."""

    numbers: tuple[int, ...]
    cost: npt.NDArray[np.float64]


class Load(Value, eq=False, dict=True):
    """cells : (H, W) float64, trips over each road cell.  trips : that were made.  lost : trips for which
    there is no way.  most : on any cell."""

    cells: npt.NDArray[np.float64]
    trips: float
    lost: float

    @cached_property
    def most(self) -> float:
        """On any cell."""
        return float(self.cells.max(initial=0.0))


class _Doors:
    """Where structures join the graph."""

    def __init__(self, plan: Plan, numbers: Iterable[int]) -> None:
        self.graph = plan.network.graph
        slots = approach_slots(plan, alike([plan.register[number] for number in numbers]))
        # A door's cell is a node of its own, if it is open road.
        self.nodes = {number: self.graph.nodes_among(mine) for number, mine in slots.items()}


class _Goals:
    """Goals of one or many starts, as arrays: which nodes belong to each that has some."""

    def __init__(self, doors: _Doors, numbers: Sequence[int]) -> None:
        which = [doors.nodes[number] for number in numbers]
        lengths = np.array([len(mine) for mine in which], np.int64)
        self.some = lengths > 0
        self.nodes = np.concatenate(which) if which else np.empty(0, np.int64)
        self.begins = (np.cumsum(lengths) - lengths)[self.some]
        self._of = np.repeat(np.arange(len(self.begins)), lengths[self.some])

    def costs(self, g: Floats) -> Floats:
        """(goals,) the least of each goal's nodes, inf for one that joins nowhere."""
        found = np.full(len(self.some), np.inf)
        if len(self.begins):
            found[self.some] = np.minimum.reduceat(g[self.nodes], self.begins)
        return found

    def nearest(self, g: Floats) -> npt.NDArray[np.int64]:
        """(goals,) the node of each goal that costs least, the first of equals; 0 without a way."""
        found = np.zeros(len(self.some), np.int64)
        if len(self.begins):
            costs = g[self.nodes]
            least = np.minimum.reduceat(costs, self.begins)
            places = np.where(costs == least[self._of], np.arange(len(costs)), len(costs))
            first = np.minimum.reduceat(places, self.begins)
            found[self.some] = np.where(np.isfinite(least), self.nodes[first], 0)
        return found


class Spread:
    """Costs from one set of nodes to all others, in scratch of its own: one for each thread.

    g, came : of the last search, see `kernels.buckets.spread`.
    """

    def __init__(self, graph: JunctionGraph) -> None:
        self._graph = graph
        count = graph.node_room
        self.g, self.came = np.empty(count), np.zeros(count, np.int64)
        least, most = graph.cost_range()
        self._width = 0.999 * least
        ring = 1 << int(np.ceil(np.log2(most / self._width + 3))) if least else 4
        # Costs so uneven need more buckets than a heap would need steps.
        self._head = np.zeros(ring, np.int32) if ring <= _MOST_BUCKETS else None
        self._links = np.zeros((2, count), np.int32)

    def to_all(self, nodes: npt.NDArray[np.int64]) -> npt.NDArray[np.int32]:
        """Search; returns the nodes reached, each after the one that it was reached from."""
        order: npt.NDArray[np.int32]
        arrays = self._graph.arrays
        if self._head is None:
            order = kernels.dijkstra(arrays, nodes, np.zeros(len(nodes)), self.g, self.came)
        else:
            order = kernels.spread(
                arrays, nodes, self._width, self.g, self.came, self._head, *self._links
            )
        return order

    def path_to(self, network: RoadNetwork, node: int, explored: int) -> Path:
        """The way of the last search to a node that it reached."""
        *legs, first = kernels.runs_to(self._graph.arrays, self.came, node)
        flat = np.concatenate(([self._graph.slot_of(first)], network.cells_of_legs(*legs)))
        return Path.over(flat, network.road.shape[1], float(self.g[node]), explored)


def route_matrix(
    plan: Plan,
    numbers: Sequence[int],
    stopped: Stopped = never,
    progress: Progress = nobody,
) -> Matrix | None:
    """The cheapest cost by road between every two of some structures; None when it was stopped.

    O(structures x (nodes + runs)), one search a structure, on two threads. Raises Unknown for a number that is
    not in the register, NotReady where the network has no graph yet.
    """
    doors = _Doors(plan, numbers)
    goals = _Goals(doors, numbers)
    cost = np.full((len(numbers), len(numbers)), np.inf)

    def worker() -> Callable[[int], object]:
        search = Spread(doors.graph)

        def row(at: int) -> None:
            nodes = doors.nodes[numbers[at]]
            if len(nodes):
                search.to_all(nodes)
                cost[at] = goals.costs(search.g)
            cost[at, at] = 0.0

        return row

    whole = each(range(len(numbers)), worker, stopped, progress)
    return Matrix(tuple(numbers), cost) if whole else None


Trip = tuple[End, End, Manner]


def find_routes(
    plan: Plan, trips: Sequence[Trip], stopped: Stopped = never, progress: Progress = nobody
) -> Iterator[tuple[Trip, Route | NoRoute]]:
    """`find_route` of each trip, in order. Trips by road from one structure that follow one another take one
    search together. Ends when it is stopped. Raises Unknown for a number that is not in the register."""
    done = 0
    ends = _Ends(plan)
    for _key, same in groupby(trips, lambda trip: (trip[0], trip[2])):
        group = list(same)
        for trip, answer in zip(group, _from_one(plan, group, ends), strict=True):
            if stopped():
                return
            yield trip, answer
            done += 1
            if done % 64 == 0 or done == len(trips):
                progress(done / len(trips))


class _Ends:
    """Where ends join, each worked out once: of all pairs, every end is one in as many trips as there are
    ends."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._joins: dict[tuple[End, bool], tuple[list[Slot], str]] = {}
        self._nodes: dict[End, npt.NDArray[np.int64]] = {}

    def joins(self, plan: Plan, end: End, roads: bool, costs: Floats) -> tuple[list[Slot], str]:
        """`ends_of`."""
        key = (end, roads)
        if key not in self._joins:
            self._joins[key] = ends_of(plan, end, roads, costs)
        return self._joins[key]

    def nodes(self, end: End, slots: Sequence[Slot]) -> npt.NDArray[np.int64]:
        """The nodes of the junction graph at an end that joins the road at some slots."""
        if end not in self._nodes:
            cols = self._plan.spec.cols
            flat = np.array([row * cols + col for row, col in slots], np.int64)
            self._nodes[end] = self._plan.network.graph.nodes_among(flat)
        return self._nodes[end]


def _from_one(plan: Plan, trips: Sequence[Trip], ends: _Ends) -> Iterator[Route | NoRoute]:
    """The routes of trips with the same start and manner."""
    search: Spread | None = None
    for start, goal, manner in trips:
        query = prepare_route(plan, start, goal, manner, ends.joins)
        if isinstance(query, NoRoute):
            yield query
            continue
        if (
            query.network is None
            or len(trips) == 1
            or any(isinstance(e, Cell) for e in (start, goal))
        ):
            yield finish_route(plan, query, query.search())
            continue
        if search is None:
            search = Spread(plan.network.graph)
            reached = len(search.to_all(ends.nodes(start, query.slots[0])))
        goals = ends.nodes(goal, query.slots[1])
        best = int(goals[np.argmin(search.g[goals])])
        path = Path(np.empty((0, 2), np.int64), np.inf, reached)
        if np.isfinite(search.g[best]):
            path = search.path_to(plan.network, best, reached)
        yield finish_route(plan, query, path)


def all_pairs(numbers: Sequence[int]) -> dict[int, list[tuple[int, float]]]:
    """A trip from each of some structures to each other one."""
    return {start: [(goal, 1.0) for goal in numbers if goal != start] for start in numbers}


def road_load(
    plan: Plan,
    trips: dict[int, list[tuple[int, float]]],
    stopped: Stopped = never,
    progress: Progress = nobody,
) -> Load | None:
    """The load of trips, each along a cheapest way; None when it was stopped.

    trips : by start, the goals and how many go there. Where two ways cost the same, one of them takes all.
    O(starts x (nodes + runs)), on two threads. Raises as `route_matrix` does.
    """
    numbers = {
        number for start, goals in trips.items() for number in (start, *(g for g, _ in goals))
    }
    doors = _Doors(plan, sorted(numbers))
    graph = doors.graph
    parts: list[_Counted] = []

    def worker() -> Callable[[int], object]:
        search, mine = Spread(graph), _Counted(graph)
        parts.append(mine)
        bound_for = np.zeros(graph.node_room)

        def count(start: int) -> None:
            goals = _Goals(doors, [goal for goal, _ in trips[start]])
            many = np.array([number for _, number in trips[start]], np.float64)
            if not len(doors.nodes[start]):
                mine.lost += float(many.sum())
                return
            order = search.to_all(doors.nodes[start])
            nearest = goals.nearest(search.g)
            np.add.at(bound_for, nearest, np.where(nearest > 0, many, 0.0))
            mine.made += float(many[nearest > 0].sum())
            mine.lost += float(many[nearest == 0].sum())
            kernels.add_load(graph.arrays, order, search.came, bound_for, mine.on_node, mine.on_run)

        return count

    if not each(list(trips), worker, stopped, progress):
        return None
    on_node = np.zeros(graph.node_room) + sum(part.on_node for part in parts)
    on_run = np.zeros(graph.run_room) + sum(part.on_run for part in parts)
    cells = np.zeros(plan.road.shape)
    slots = graph.slots()
    cells.ravel()[slots] = graph.values_at(slots, on_node, on_run)
    return Load(cells, sum(part.made for part in parts), sum(part.lost for part in parts))


class _Counted:
    """What one thread has counted."""

    def __init__(self, graph: JunctionGraph) -> None:
        self.on_node, self.on_run = np.zeros(graph.node_room), np.zeros(graph.run_room)
        self.made = self.lost = 0.0
