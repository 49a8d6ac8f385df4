"""The chains of a lane graph, as plain Python that Numba can compile."""

from __future__ import annotations

import numpy as np

# What an edge is: part of a track on which vehicles follow one another; part of a movement within a cell that
# branches; one of several between two cells.
FREE, INNER, BETWEEN = 0, 1, 2


def chains(first, to, start, kind):  # type: ignore[no-untyped-def]
    """Edges that follow one another without a choice, as chains.

    first, to : the graph in compressed sparse rows, int64.  start : (E,) int64, the node that each edge leaves.
    kind : (E,) uint8, FREE, INNER or BETWEEN; of the latter each edge is a chain by itself.
    Returns (begins, edges): int64, the edges of chain k are edges[begins[k]:begins[k + 1]]. A ring without a
    beginning begins at its first edge. O(E).
    """
    count = len(to)
    nodes = len(first) - 1
    # How many edges of a kind come to a node: a chain goes on where one comes and one leaves.
    comes = np.zeros((2, nodes), np.int64)
    for edge in range(count):
        if kind[edge] != BETWEEN:
            comes[kind[edge], to[edge]] += 1
    begins = np.empty(count + 1, np.int64)
    edges = np.empty(count, np.int64)
    done = np.zeros(count, np.uint8)
    made = 0
    put = 0
    for turn in range(2):
        for edge in range(count):
            if done[edge]:
                continue
            what = kind[edge]
            node = start[edge]
            if (
                turn == 0
                and what != BETWEEN
                and comes[what, node] == 1
                and leaves(first, kind, node, what) == 1
            ):
                continue  # the middle of a chain, or of a ring
            begins[made] = put
            made += 1
            here = edge
            while True:
                done[here] = 1
                edges[put] = here
                put += 1
                node = to[here]
                if (
                    what == BETWEEN
                    or comes[what, node] != 1
                    or leaves(first, kind, node, what) != 1
                ):
                    break
                here = following(first, kind, node, what)
                if done[here]:
                    break
    begins[made] = put
    return begins[: made + 1], edges


def leaves(first, kind, node, what):  # type: ignore[no-untyped-def]
    """How many edges of a kind leave a node."""
    count = 0
    for edge in range(first[node], first[node + 1]):
        if kind[edge] == what:
            count += 1
    return count


def following(first, kind, node, what):  # type: ignore[no-untyped-def]
    """The first edge of a kind that leaves a node; there must be one."""
    for edge in range(first[node], first[node + 1]):
        if kind[edge] == what:
            return edge
    return -1
