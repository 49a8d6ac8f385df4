"""Bridges and articulation points of a junction graph, as plain Python that Numba can compile.

Source: R. Tarjan, "Depth-First Search and Linear Graph Algorithms", SIAM J. Computing 1 (1972); J. Hopcroft,
R. Tarjan, "Algorithm 447", CACM 16 (1973).
"""

from __future__ import annotations


def low_links(w, used, enter, leave, low, up, order):  # type: ignore[no-untyped-def]
    """Search the graph depth first.

    w : `GraphArrays`.  used : the largest node number.  enter, leave : (N,) int32 zeros, filled with the time
    (from 1) at which a node was met, and the latest time in the subtree below it.  low : (N,) int32 zeros,
    filled with the earliest time that a node's subtree reaches by one edge.  up : (N,) int32 zeros, filled
    with the run by which a node was met, 0 at a root.  order : (N,) int32, filled with the nodes as met.
    Returns how many were met. O(nodes + runs).
    """
    time = 0
    for root in range(1, used + 1):
        if w.at[root] < 0 or enter[root] or w.owner[w.at[root]] != -root:
            continue
        time += 1
        enter[root] = time
        low[root] = time
        order[time - 1] = root
        # `w.mark` holds the next side to look at, `w.link` the node below on the stack.
        w.mark[root] = 0
        w.link[root] = 0
        top = root
        while top:
            if w.mark[top] < 4:
                run = w.arm[top, w.mark[top]]
                w.mark[top] += 1
                if not run or run == up[top]:
                    continue
                other = w.ends[run, 1] if w.ends[run, 0] == top else w.ends[run, 0]
                if enter[other]:
                    low[top] = min(low[top], enter[other])
                    continue
                time += 1
                enter[other] = time
                low[other] = time
                order[time - 1] = other
                up[other] = run
                w.mark[other] = 0
                w.link[other] = top
                top = other
            else:
                below = w.link[top]
                leave[top] = time
                w.mark[top] = 0
                w.link[top] = 0
                if below:
                    low[below] = min(low[below], low[top])
                top = below
    return time
