"""Cheapest costs from one place to all of a junction graph, with a ring of buckets; plain Python that Numba
can compile.

Source: R. Dial, "Algorithm 360: Shortest-path forest with topological ordering", CACM 12 (1969). As no run
costs less than a bucket is wide, a node that is taken out of the current bucket is never improved again.
"""

from __future__ import annotations

import numpy as np


def spread(w, starts, width, g, came, head, after, before):  # type: ignore[no-untyped-def]
    """Costs and runs from the starts to every node; the answers of `journeys.dijkstra`.

    w : `GraphArrays`.  starts : int64 nodes.  width : of a bucket, above 0 and below the cost of any run.
    g : (N,) float64, filled, inf where nobody comes.  came : (N,) int64, filled: 2 x run + way, 0 at a start.
    head : (ring,) int32, ring a power of two; ring x width is more than any run costs, and two buckets.
    after, before : (N,) int32, scratch.
    Returns the nodes reached, int32, each after the node that it was reached from. O(nodes + runs + buckets).
    """
    g[:] = np.inf
    came[:] = 0
    head[:] = 0
    mask = len(head) - 1
    inverse = 1.0 / width
    order = np.empty(len(g), np.int32)
    reached = 0
    waiting = 0
    for start in starts:
        if g[start] == 0.0:
            continue
        g[start] = 0.0
        after[start] = head[0]
        before[start] = 0
        if head[0]:
            before[head[0]] = start
        head[0] = start
        waiting += 1
    bucket = 0
    while waiting > 0:
        node = head[bucket & mask]
        if node == 0:
            bucket += 1
            continue
        follows = after[node]
        head[bucket & mask] = follows
        if follows:
            before[follows] = 0
        waiting -= 1
        order[reached] = node
        reached += 1
        cost = g[node]
        for side in range(4):
            run = w.arm[node, side]
            if not run:
                continue
            way = 0 if w.ends[run, 0] == node and w.side[run, 0] == side else 1
            other = w.ends[run, 1 - way]
            there = cost + w.toll[run, way]
            known = g[other]
            if there >= known:
                continue
            slot = int(there * inverse) & mask
            g[other] = there
            came[other] = 2 * run + way
            if known < np.inf:
                old = int(known * inverse) & mask
                if old == slot:
                    continue
                ahead = before[other]
                behind = after[other]
                if ahead:
                    after[ahead] = behind
                else:
                    head[old] = behind
                if behind:
                    before[behind] = ahead
                waiting -= 1
            after[other] = head[slot]
            before[other] = 0
            if head[slot]:
                before[head[slot]] = other
            head[slot] = other
            waiting += 1
    return order[:reached]
