"""The way of least time over chains of lane edges, as plain Python that Numba can compile.

Source of the algorithm: P. Hart, N. Nilsson, B. Raphael (1968), as in `astar`; ties go to whatever was put
into the open list first.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
# Of a node, after the stamp of a search: seen, and closed.
SEEN, CLOSED = 0, 1


class ChainArrays(NamedTuple):
    """Nodes are dense numbers, as in `LaneGraph.nodes()`.

    begins : (C + 1,) the edges of chain c have the places begins[c] to begins[c + 1].  until : by place, the seconds from
    the chain's beginning to the end of that edge.  chain_of : by place.  last_node : (C,) where each ends.
    first, leaving : the chains that begin at a node are leaving[first[node]:first[node + 1]].  head : (N,) whether chains
    begin or end at a node, rather than lead through it.  on, into : (N,) the places of the edge that leaves a node within a
    chain and of the one that comes to it, -1 for none.  x, y : (N,) world.
    """

    begins: Ints
    until: Floats
    chain_of: Ints
    last_node: Ints
    first: Ints
    leaving: Ints
    head: npt.NDArray[np.bool_]
    on: Ints
    into: Ints
    x: Floats
    y: Floats


class ChainScratch(NamedTuple):
    """(N,) each, by node; see `search_chains`."""

    g: Floats
    seen: Ints
    chain: Ints
    begin: Ints
    end: Ints


def off(x, y, box):  # type: ignore[no-untyped-def]
    """How far a point is from a box (x, y, x, y)."""
    off_x = max(box[0] - x, x - box[2], 0.0)
    off_y = max(box[1] - y, y - box[3], 0.0)
    return np.sqrt(off_x * off_x + off_y * off_y)


def search_chains(net, starts, goals, box, least, mark, stamp, scratch):  # type: ignore[no-untyped-def]  # fmt: skip
    """A way of least time from any of `starts` to any of `goals`.

    net : `ChainArrays`.  starts, goals : int64 nodes, each once, at least one.  box : around the goals' places, (4,)
    float64.  least : what no edge is below in seconds a world unit.  mark : (chains,) uint8 scratch, 0 on return.
    stamp : even, larger than any in `scratch.seen`.  scratch : `ChainScratch`.

    Returns (goal, explored): -1 without a way. Then `scratch.chain` holds for each node on the way the chain by which it
    was reached, -1 at a start, and `scratch.begin` and `scratch.end` the places of that chain's edges from and up to which
    it was driven.
    """
    g, seen = scratch.g, scratch.seen
    keys = np.empty(max(HEAP_ROOM, len(starts) + len(goals) + 1), np.float64)
    items = np.empty(len(keys), np.int64)
    waiting = 0
    for goal in goals:
        # One within a chain is come to by a part of it.
        if not net.head[goal] and net.into[goal] >= 0:
            mark[net.chain_of[net.into[goal]]] = 1
    for start in starts:
        g[start] = 0.0
        seen[start] = stamp + SEEN
        scratch.chain[start] = -1
        push(keys, items, waiting, off(net.x[start], net.y[start], box) * least, start)
        waiting += 1
    explored = 0
    found = -1
    while waiting > 0:
        node = pop(keys, items, waiting)
        waiting -= 1
        if seen[node] == stamp + CLOSED:
            continue
        seen[node] = stamp + CLOSED
        explored += 1
        for goal in goals:
            if goal == node:
                found = node
        if found >= 0:
            break
        # The chains that leave it; from within one, what is left of it.
        count = net.first[node + 1] - net.first[node] if net.head[node] else 1
        for k in range(count):
            if net.head[node]:
                chain = net.leaving[net.first[node] + k]
                begin = net.begins[chain]
                before = 0.0
            elif net.on[node] >= 0:
                begin = net.on[node]
                chain = net.chain_of[begin]
                before = net.until[begin - 1]
            else:
                break  # a dead end
            last = net.begins[chain + 1] - 1
            for j in range(-1, len(goals) if mark[chain] else 0):
                if j < 0:
                    to = net.last_node[chain]
                    end = last
                else:
                    to = goals[j]
                    end = net.into[to]
                    if net.head[to] or end < begin or end >= last:
                        continue
                there = g[node] + net.until[end] - before
                if not there < np.inf or (seen[to] >= stamp and g[to] <= there):
                    continue
                seen[to] = stamp + SEEN
                g[to] = there
                scratch.chain[to] = chain
                scratch.begin[to] = begin
                scratch.end[to] = end + 1
                if waiting == len(keys):
                    keys, items = roomier(keys, items)
                push(keys, items, waiting, there + off(net.x[to], net.y[to], box) * least, to)
                waiting += 1
    for goal in goals:
        if net.into[goal] >= 0:
            mark[net.chain_of[net.into[goal]]] = 0
    return found, explored
