"""Very many ways through one lane graph: edges that follow one another without a choice are one step of the search."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.kernels.lane_chains import ChainArrays, ChainScratch
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lanes.graph import sums_along

Ints = npt.NDArray[np.int64]


class ChainSearch:
    """The lane graph as it is now, made ready for many questions. O(edges) to make, 100 bytes a node."""

    def __init__(self, graph: LaneGraph) -> None:
        nodes, edges = graph.nodes(), graph.edges()
        count = len(nodes)
        out = np.diff(edges.first)
        self._start = np.repeat(np.arange(count), out)
        plain = np.zeros(len(edges.to), np.uint8)
        begins, self._order = kernels.chains(edges.first, edges.to, self._start, plain)
        until, heads = sums_along(edges.seconds[self._order], begins), begins[:-1]
        chain_of = np.repeat(np.arange(len(heads)), np.diff(begins))
        starts = self._start[self._order[heads]]
        leaving = np.argsort(starts, kind="stable")
        first = np.concatenate(([0], np.cumsum(np.bincount(starts, minlength=count))))
        last_node = edges.to[self._order[begins[1:] - 1]]
        head = np.zeros(count, bool)
        head[starts] = head[last_node] = True
        place = np.empty(len(edges.to), np.int64)
        place[self._order] = np.arange(len(place))
        on, into = np.full(count, -1, np.int64), np.full(count, -1, np.int64)
        on[self._start], into[edges.to] = place, place
        x, y = np.ascontiguousarray(graph.places(nodes).T)
        self.net = ChainArrays(
            begins, until, chain_of, last_node, first, leaving, head, on, into, x, y
        )
        self._least = float(graph.class_slowness.min())
        # What is never looked at is never written to.
        self._scratch = ChainScratch(
            np.empty(count), *(np.zeros(count, np.int64) for _ in ChainScratch._fields[1:])
        )
        self._mark, self._stamp = np.zeros(len(heads), np.uint8), 0

    def search(self, starts: Ints, goals: Ints) -> tuple[Ints, int]:
        """As `lane_ways.search`, of dense nodes."""
        net, scratch = self.net, self._scratch
        self._stamp += 2
        x, y = net.x[goals], net.y[goals]
        box = np.array([x.min(), y.min(), x.max(), y.max()])
        goal, explored = kernels.search_chains(
            net, starts, goals, box, self._least, self._mark, self._stamp, scratch
        )
        if goal < 0:
            return np.zeros(0, np.int64), int(explored)
        parts = [np.array([goal])]
        node = int(goal)
        while scratch.chain[node] >= 0:
            edges = self._order[scratch.begin[node] : scratch.end[node]]
            parts.append(self._start[edges][::-1])
            node = int(parts[-1][-1])
        return np.concatenate(parts)[::-1], int(explored)
