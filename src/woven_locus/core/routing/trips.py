"""Many routes at once, over the junction graph: the cost between every two structures, and the load that
trips lay on each road cell."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.plan import Plan
from woven_locus.core.ways.doors import approach_slots

Stopped = Callable[[], bool]
Progress = Callable[[float], None]


def never() -> bool:
    """For whoever cannot be stopped."""
    return False


def nobody(_share: float) -> None:
    """For whoever tells no progress."""
    return


@dataclass(frozen=True, slots=True, eq=False)
class Matrix:
    """numbers : of the structures, in the order of rows and columns.  cost : (n, n) float64 from the row's
    structure to the column's; 0 to itself, inf without a way."""

    numbers: tuple[int, ...]
    cost: npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Load:
    """cells : (H, W) float64, trips over each road cell.  trips : that were made.  lost : trips for which
    there is no way.  most : on any cell."""

    cells: npt.NDArray[np.float64]
    trips: float
    lost: float

    @property
    def most(self) -> float:
        """On any cell."""
        return float(self.cells.max(initial=0.0))


class _Doors:
    """Where structures join the graph."""

    def __init__(self, plan: Plan, numbers: Iterable[int]) -> None:
        self.graph = plan.network.graph
        slots = approach_slots(plan, (plan.register[number] for number in numbers))
        # A door's cell is a node of its own, if it is open road.
        self.nodes = {number: self.graph.nodes_among(mine) for number, mine in slots.items()}
        count = self.graph.node_room
        self.g, self.came = np.empty(count), np.zeros(count, np.int64)

    def spread(self, number: int) -> npt.NDArray[np.int32]:
        """Costs from a structure to every node, in `g` and `came`; the nodes reached, in order."""
        nodes = self.nodes[number]
        free = np.zeros(len(nodes))
        order: npt.NDArray[np.int32] = kernels.dijkstra(
            self.graph.arrays, nodes, free, self.g, self.came
        )
        return order


def route_matrix(
    plan: Plan,
    numbers: Sequence[int],
    stopped: Stopped = never,
    progress: Progress = nobody,
) -> Matrix | None:
    """The cheapest cost by road between every two of some structures; None when it was stopped.

    O(structures x nodes log nodes). Raises Unknown for a number that is not in the register, NotReady
    where the network has no graph yet.
    """
    doors = _Doors(plan, numbers)
    which = [doors.nodes[number] for number in numbers]
    lengths = [len(mine) for mine in which]
    every = np.concatenate(which) if which else np.empty(0, np.int64)
    starts = np.cumsum([0, *lengths])[:-1]
    cost = np.full((len(numbers), len(numbers)), np.inf)
    some = np.array(lengths) > 0
    for at, number in enumerate(numbers):
        if stopped():
            return None
        if lengths[at]:
            doors.spread(number)
            cost[at, some] = np.minimum.reduceat(doors.g[every], starts[some])
        cost[at, at] = 0.0
        progress((at + 1) / len(numbers))
    return Matrix(tuple(numbers), cost)


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
    O(starts x nodes log nodes). Raises as `route_matrix` does.
    """
    numbers = {
        number for start, goals in trips.items() for number in (start, *(g for g, _ in goals))
    }
    doors = _Doors(plan, sorted(numbers))
    graph = doors.graph
    on_node, on_run = np.zeros(graph.node_room), np.zeros(graph.run_room)
    made = lost = 0.0
    for at, (start, goals) in enumerate(trips.items()):
        if stopped():
            return None
        order = doors.spread(start) if len(doors.nodes[start]) else np.empty(0, np.int32)
        bound_for = np.zeros(graph.node_room)
        for goal, count in goals:
            nodes = doors.nodes[goal]
            best = nodes[doors.g[nodes].argmin()] if len(nodes) and len(order) else 0
            if best and np.isfinite(doors.g[best]):
                bound_for[best] += count
                made += count
            else:
                lost += count
        kernels.add_load(graph.arrays, order, doors.came, bound_for, on_node, on_run)
        progress((at + 1) / len(trips))
    cells = np.zeros(plan.road.shape)
    slots = graph.slots()
    cells.ravel()[slots] = graph.values_at(slots, on_node, on_run)
    return Load(cells, made, lost)
