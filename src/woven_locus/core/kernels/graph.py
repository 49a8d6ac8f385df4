"""The arrays of a junction graph, and what is in use of them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

# Places in `GraphArrays.head`.
NODES, FREE_NODES, RUNS, FREE_RUNS, GROUPS, FREE_GROUPS, EPOCH, CELLS = range(8)


class GraphArrays(NamedTuple):
    """The graph as arrays, for kernels; others read it through `ways.graph.JunctionGraph`. Node, run and
    group 0 are none.

    owner : (H*W,) int32, 0 off the network, a run, or minus a node.
    at : (N,) int64 flat slot of a node, -1 once it is given up.  arm : (N, 4) int32, the run that leaves by each
    side.  group : (N,) int32.  ends : (M, 2) int32 nodes of a run.  side : (M, 2) int8, the side by which
    it leaves each.  steps : (M,) int32, 0 when free.  toll : (M, 2) float64, cost from the first end to the
    second and back, inf where a one-way cell forbids it.
    size : (N,) int64, road cells of each group.  free_* : stacks of unused numbers.  head : (8,) int64,
    how much of each is in use; see the names above. EPOCH grows when groups split, join, come or go. CELLS
    counts those of the network.
    mark, link : (N,) int32, zero between calls: scratch.
    """

    owner: npt.NDArray[np.int32]
    at: npt.NDArray[np.int64]
    arm: npt.NDArray[np.int32]
    group: npt.NDArray[np.int32]
    ends: npt.NDArray[np.int32]
    side: npt.NDArray[np.int8]
    steps: npt.NDArray[np.int32]
    toll: npt.NDArray[np.float64]
    size: npt.NDArray[np.int64]
    free_nodes: npt.NDArray[np.int32]
    free_runs: npt.NDArray[np.int32]
    free_groups: npt.NDArray[np.int32]
    head: npt.NDArray[np.int64]
    mark: npt.NDArray[np.int32]
    link: npt.NDArray[np.int32]


def empty_arrays(cells: int, nodes: int, runs: int) -> GraphArrays:
    """Arrays for a map of so many cells, with room for nodes and runs; number 0 of everything is none."""
    return GraphArrays(
        np.zeros(cells, np.int32),
        np.zeros(nodes, np.int64),
        np.zeros((nodes, 4), np.int32),
        np.zeros(nodes, np.int32),
        np.zeros((runs, 2), np.int32),
        np.zeros((runs, 2), np.int8),
        np.zeros(runs, np.int32),
        np.zeros((runs, 2)),
        np.zeros(nodes, np.int64),
        np.zeros(nodes, np.int32),
        np.zeros(runs, np.int32),
        np.zeros(nodes, np.int32),
        np.zeros(8, np.int64),
        np.zeros(nodes, np.int32),
        np.zeros(nodes, np.int32),
    )


def with_room(w: GraphArrays, nodes: int, runs: int) -> GraphArrays:
    """The same graph in arrays with room for so many nodes and runs."""
    grown = empty_arrays(0, nodes, runs)
    used = 1 + int(max(w.head[:EPOCH]))
    for name in GraphArrays._fields[1:]:
        held = getattr(w, name)
        getattr(grown, name)[: min(used, len(held))] = held[:used]
    grown.head[:] = w.head
    return grown._replace(owner=w.owner)


def take_number(free, head, used, unused):  # type: ignore[no-untyped-def]
    """A number that is not in use, from a stack or beyond the last; there is room."""
    if head[unused] > 0:
        head[unused] -= 1
        return free[head[unused]]
    head[used] += 1
    return head[used]
