"""Routes along the road, by way of the junction graph: the checked front of its kernels."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Slot
from woven_locus.core.routing.search import Path
from woven_locus.core.ways.network import RoadNetwork


class Leg(NamedTuple):
    """A way along a single run: from a flat slot out of a side, for so many steps. cost : of it."""

    slot: int
    side: int
    steps: int
    cost: float


class _Legs(NamedTuple):
    """Legs in order, as arrays (N,) int64."""

    slots: npt.NDArray[np.int64]
    sides: npt.NDArray[np.int64]
    steps: npt.NDArray[np.int64]

    @classmethod
    def of(cls, leg: Leg) -> _Legs:
        return cls(*(np.array([value], np.int64) for value in leg[:3]))


class Terminal(NamedTuple):
    """A node next to an end of a route.  leg : the way there, or from there, None where the end is the
    node itself."""

    node: int
    leg: Leg | None

    @property
    def cost(self) -> float:
        """Of the leg, 0 without one."""
        return self.leg.cost if self.leg is not None else 0.0


def find_along(network: RoadNetwork, starts: Sequence[Slot], goals: Sequence[Slot]) -> Path:
    """Cheapest way along the road from any start to any goal; all are open road.

    The costs are those of `find_path` with 4 moves over the road layer, one-way signs kept.
    `Path.explored` counts nodes. Raises NotReady where the network has no graph yet.
    """
    search = _Search(network)
    return search.run([search.flat(slot) for slot in starts], [search.flat(slot) for slot in goals])


class _Search:
    def __init__(self, network: RoadNetwork) -> None:
        self.network, self.graph = network, network.graph
        self.arrays = self.graph.arrays
        self.rows, self.cols = (int(size) for size in network.road.shape)

    def flat(self, slot: Slot) -> int:
        return int(slot[0]) * self.cols + int(slot[1])

    def run(self, starts: list[int], goals: list[int]) -> Path:
        same = set(starts) & set(goals)
        if same:
            at = min(same)
            return Path(np.array([divmod(at, self.cols)], np.int64), 0.0, 0)
        out = self._terminals(starts, there=True)
        back = self._terminals(goals, there=False)
        direct = self._direct(starts, goals)
        cost, goal, explored = np.inf, -1, 0
        if out and back:
            cost, goal, explored = self._search(out, back, goals)
        if direct is not None and direct.cost <= cost:
            return self._path(_Legs.of(direct), direct.cost, explored)
        if goal < 0:
            return Path(np.empty((0, 2), np.int64), np.inf, explored)
        return self._path(self._way(out, back[goal]), cost, explored)

    def _search(
        self, out: list[Terminal], back: list[Terminal], goals: list[int]
    ) -> tuple[float, int, int]:
        network = self.network
        rows, cols = np.divmod(np.array(goals, np.int64), self.cols)
        box = np.array([rows.min(), cols.min(), rows.max(), cols.max()], np.int64)
        least = network.least
        h_w, h_h = network.cell[0] * least, network.cell[1] * least
        self.scratch = network.scratch.arrays(network.graph.node_room)
        found: tuple[float, int, int] = kernels.search_graph(
            self.arrays,
            self.cols,
            h_w,
            h_h,
            min(h_w, h_h),
            np.array([t.node for t in out], np.int64),
            np.array([t.cost for t in out]),
            np.array([t.node for t in back], np.int64),
            np.array([t.cost for t in back]),
            box,
            *self.scratch,
            network.scratch.next_stamp(),
        )
        return found

    def _trace(self, slot: int, side: int, until: int = -1) -> tuple[int, int, int, float, float]:
        """(last slot, the side it is entered by, steps, cost there, cost back)."""
        network = self.network
        last, enter, steps, there, back, _ = kernels.trace(
            self.arrays,
            network.road.ravel(),
            network.table.costs,
            network.table.exits,
            network.doors.ravel(),
            self.rows,
            self.cols,
            float(network.cell[0]),
            float(network.cell[1]),
            slot,
            side,
            0,
            until,
        )
        return int(last), int(enter), int(steps), float(there), float(back)

    def _sides(self, slot: int) -> list[int]:
        """The two sides by which a cell within a run is left."""
        road, costs = self.network.road.ravel(), self.network.table.costs
        row, col = divmod(slot, self.cols)
        near = [(row > 0, -self.cols), (col < self.cols - 1, 1)]
        near += [(row < self.rows - 1, self.cols), (col > 0, -1)]
        return [
            side
            for side, (inside, by) in enumerate(near)
            if inside and np.isfinite(costs[road[slot + by]])
        ]

    def _terminals(self, slots: list[int], there: bool) -> list[Terminal]:
        """The nodes from which (or, not `there`, to which) it goes on, each once at its least cost."""
        found: dict[int, Terminal] = {}
        for slot in slots:
            if node := self.graph.node_at(slot):
                found[node] = Terminal(node, None)
            elif run := self.graph.run_at(slot):
                # The node of a ring is no junction that a walk would notice.
                ring = self.graph.slot_of(self.graph.ends(run)[0])
                for side in self._sides(slot):
                    last, enter, steps, out, back = self._trace(slot, side, ring)
                    node = self.graph.node_at(last)
                    leg = Leg(slot, side, steps, out) if there else Leg(last, enter, steps, back)
                    if leg.cost < (found[node].cost if node in found else np.inf):
                        found[node] = Terminal(node, leg)
        return list(found.values())

    def _direct(self, starts: list[int], goals: list[int]) -> Leg | None:
        """The best way that stays within one run."""
        run_at, best = self.graph.run_at, None
        for slot in starts:
            for goal in goals:
                if run_at(slot) and run_at(goal) == run_at(slot):
                    for side in self._sides(slot):
                        last, _, steps, out, _ = self._trace(slot, side, goal)
                        if last == goal and out < (best.cost if best else np.inf):
                            best = Leg(slot, side, steps, out)
        return best

    def _way(self, out: list[Terminal], goal: Terminal) -> _Legs:
        """The way that the search found."""
        found = kernels.runs_to(self.arrays, self.scratch[1], goal.node)
        slots, sides, steps, first = found
        (start,) = (terminal for terminal in out if terminal.node == first)
        parts = [_Legs(slots, sides, steps)]
        if start.leg is not None:
            parts.insert(0, _Legs.of(start.leg))
        if goal.leg is not None:
            parts.append(_Legs.of(goal.leg))
        if len(slots) == 0 and len(parts) == 1:
            return _Legs.of(Leg(self.graph.slot_of(first), 0, 0, 0.0))
        return _Legs(*(np.concatenate(each) for each in zip(*parts, strict=True)))

    def _path(self, legs: _Legs, cost: float, explored: int) -> Path:
        flat = self.network.cells_of_legs(*legs)
        flat = np.concatenate((legs.slots[:1], flat))
        return Path.over(flat, self.cols, cost, explored)
