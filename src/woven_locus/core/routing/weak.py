"""Where the road network would fall apart: bridges and articulation cells, and what each would cut off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell
from woven_locus.core.kernels.woven import NODES, Woven
from woven_locus.core.plan import Plan
from woven_locus.core.ways.doors import approach_slots


@dataclass(frozen=True, slots=True)
class WeakPoint:
    """A piece of road whose loss splits its group.

    cell : of it, the middle of a run.  cells : how many it has; the loss of any one of them is enough.
    structures : numbers of those that would be parted from the larger rest, by structures and then cells.
    road_cells : of the smaller part.
    """

    cell: Cell
    cells: int
    structures: tuple[int, ...]
    road_cells: int


def weak_points(plan: Plan, most: int = 1000) -> list[WeakPoint]:
    """The places that part structures from one another, those that part most first, at most `most`.

    A structure is parted when none of its doors is left with the larger part; one whose only door is on
    the lost cell itself does not count. Raises ValueError where the network has no graph yet.
    O(nodes + runs + structures + cells of what is returned).
    """
    woven = plan.network.woven
    if woven is None:
        raise ValueError("the network has no graph as long as the kernels are not compiled")
    return _Weak(plan, woven).points(most)


class _Weak:
    def __init__(self, plan: Plan, woven: Woven) -> None:
        self.plan, self.w = plan, woven
        count = len(woven.at)
        self.enter, self.leave, self.low, self.up, self.order = (
            np.zeros(count, np.int32) for _ in range(5)
        )
        met = kernels.low_links(
            woven, int(woven.head[NODES]), self.enter, self.leave, self.low, self.up, self.order
        )
        self.order = self.order[:met]
        self._count_structures()
        self._count_cells()

    def _count_structures(self) -> None:
        """For each structure: the times of its first and last door, and the node whose subtree is the
        least that holds all of them (0 for none: its doors are in several groups)."""
        w = self.w
        slots = approach_slots(self.plan, self.plan.register)
        self.numbers, first, last, home = [], [], [], []
        for number, mine in slots.items():
            nodes = -w.owner[mine][w.owner[mine] < 0]
            if not len(nodes):
                continue
            times = self.enter[nodes]
            low, high = int(times.min()), int(times.max())
            node = int(nodes[times.argmin()])
            while node and self.leave[node] < high:
                node = self._above(node)
            self.numbers.append(number)
            first.append(low)
            last.append(high)
            home.append(node)
        self.first, self.last = np.array(first, np.int64), np.array(last, np.int64)
        held = np.bincount(np.array(home, np.int64), minlength=len(w.at)).astype(np.int64)
        held[0] = 0
        only = np.array(home, np.int64)[self.first == self.last]
        # Those with no door but on the node itself.
        self.here = np.bincount(only, minlength=len(w.at))
        self.held = self._summed(held)

    def _count_cells(self) -> None:
        """Road cells below each node: the nodes, the runs by which they were met, and the runs that close
        a ring there."""
        w = self.w
        own = np.zeros(len(w.at), np.int64)
        own[self.order] = 1
        runs = np.flatnonzero(w.steps > 0)
        a, b = w.ends[runs, 0], w.ends[runs, 1]
        # A run belongs to whichever of its ends was met later.
        np.add.at(own, np.where(self.enter[a] > self.enter[b], a, b), w.steps[runs] - 1)
        self.cells = self._summed(own)

    def _summed(self, own: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        """What is counted at each node, summed over its subtree."""
        through = np.concatenate(([0], np.cumsum(own[self.order])))
        out = np.zeros_like(own)
        out[self.order] = through[self.leave[self.order]] - through[self.enter[self.order] - 1]
        return out

    def _above(self, node: int) -> int:
        run = int(self.up[node])
        if not run:
            return 0
        a, b = self.w.ends[run].tolist()
        return int(b if a == node else a)

    def points(self, most: int) -> list[WeakPoint]:
        found = [*self._bridges(), *self._joints()]
        found.sort(key=lambda each: (-each[0], -each[1], each[2]))
        return [self._point(*each[2:]) for each in found[:most]]

    # (structures parted, cells parted, node below, whether it is the run above it: else the node itself)
    def _bridges(self) -> list[tuple[int, int, int, bool]]:
        w, order = self.w, self.order
        met = order[(self.up[order] > 0) & (self.low[order] == self.enter[order])]
        met = met[w.steps[self.up[met]] > 1]
        whole, cells = self._of_group(met)
        inside = self.held[met]
        parts = np.minimum(inside, whole - inside)
        fewer = np.minimum(self.cells[met] - (w.steps[self.up[met]] - 1), cells - self.cells[met])
        some = parts > 0
        return [
            (int(p), int(c), int(n), True)
            for p, c, n in zip(parts[some], fewer[some], met[some], strict=True)
        ]

    def _joints(self) -> list[tuple[int, int, int, bool]]:
        """Junctions whose loss splits: some child's subtree reaches no further up than the junction."""
        found = []
        for node in self.order.tolist():
            cut = self._cut_children(node)
            if not cut:
                continue
            whole, cells = (int(total[0]) for total in self._of_group(np.array([node])))
            pieces = [(int(self.held[c]), int(self.cells[c])) for c in cut]
            if self.up[node]:
                rest = whole - sum(p for p, _ in pieces) - int(self.here[node])
                pieces.append((rest, cells - 1 - sum(c for _, c in pieces)))
            if len(pieces) < 2:
                continue
            pieces.sort()
            lost = sum(p for p, _ in pieces[:-1])
            if lost > 0:
                found.append((lost, sum(c for _, c in pieces[:-1]), node, False))
        return found

    def _cut_children(self, node: int) -> list[int]:
        w = self.w
        found = []
        for run in w.arm[node].tolist():
            if not run:
                continue
            a, b = w.ends[run].tolist()
            child = b if a == node else a
            if self.up[child] == run and child != node and self.low[child] >= self.enter[node]:
                found.append(child)
        return found

    def _of_group(
        self, nodes: npt.NDArray[np.integer]
    ) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        """Structures and cells of the groups of nodes."""
        roots = self.order[self.up[self.order] == 0]
        # A group's nodes were met between its root and the next one.
        at = np.searchsorted(self.enter[roots], self.enter[nodes], side="right") - 1
        return self.held[roots[at]], self.cells[roots[at]]

    def _point(self, node: int, run_above: bool) -> WeakPoint:
        w, spec = self.w, self.plan.spec
        if run_above:
            run = int(self.up[node])
            slots = self.plan.network.cells_of_run(run)
            inside = self._within(node)
            root = self._group_of(node)
            outside = root & (self.last < self.enter[node]) | root & (self.first > self.leave[node])
            lost = inside if inside.sum() <= outside.sum() else outside
            cells = int(self.cells[node]) - len(slots)
            total = int(self._of_group(np.array([node]))[1][0])
            less = cells if lost is inside else total - len(slots) - cells
            return WeakPoint(
                spec.cell_at_index(int(slots[len(slots) // 2])), len(slots), self._named(lost), less
            )
        pieces = [self._within(child) for child in self._cut_children(node)]
        sizes = [int(self.cells[child]) for child in self._cut_children(node)]
        if self.up[node]:
            below = np.logical_or.reduce(pieces)
            here = (self.first == self.enter[node]) & (self.last == self.enter[node])
            pieces.append(self._group_of(node) & ~below & ~here)
            sizes.append(int(self._of_group(np.array([node]))[1][0]) - 1 - sum(sizes))
        keep = max(range(len(pieces)), key=lambda k: (int(pieces[k].sum()), sizes[k]))
        lost = np.logical_or.reduce([piece for k, piece in enumerate(pieces) if k != keep])
        return WeakPoint(
            spec.cell_at_index(int(w.at[node])), 1, self._named(lost), sum(sizes) - sizes[keep]
        )

    def _within(self, node: int) -> npt.NDArray[np.bool_]:
        """Which structures have all their doors in a subtree."""
        return np.asarray((self.first >= self.enter[node]) & (self.last <= self.leave[node]))

    def _group_of(self, node: int) -> npt.NDArray[np.bool_]:
        """Which structures have all their doors in a node's group."""
        roots = self.order[self.up[self.order] == 0]
        at = np.searchsorted(self.enter[roots], self.enter[node], side="right") - 1
        return self._within(int(roots[at]))

    def _named(self, which: npt.NDArray[np.bool_]) -> tuple[int, ...]:
        return tuple(self.numbers[k] for k in np.flatnonzero(which).tolist())
