"""The lane graph in forms that can be compared, and what it must be by other means."""

from __future__ import annotations

from collections import deque

import numpy as np

from woven_locus.core.kernels.moves import may_step
from woven_locus.core.lanes import LaneGraph, LaneNetwork
from woven_locus.core.lanes.shape import lanes_each_way
from woven_locus.core.plan import Plan
from woven_locus.core.ways.roads import class_of

STEPS = ((-1, 0), (0, 1), (1, 0), (0, -1))


def named(graph: LaneGraph) -> dict[tuple[int, int], tuple[object, ...]]:
    """By (flat slot, place in its cell): where a node is, and to which (slot, place) one goes on from it."""

    def name(node: int) -> tuple[int, int]:
        slot = int(graph.slot[node])
        return slot, node - int(graph.first[slot])

    nodes = graph.nodes()
    return {
        name(node): (tuple(point), heading, tuple(map(name, graph.follows(node))))
        for node, point, heading in zip(
            nodes.tolist(),
            graph.places(nodes).tolist(),
            graph.headings(nodes).tolist(),
            strict=True,
        )
    }


def assert_lanes_are_current(plan: Plan) -> None:
    """The graph, if there is one, is what a rebuild gives."""
    if not plan.lanes.made:
        return
    fresh = LaneNetwork(plan.road.copy(), plan.road_table, plan.spec, plan.keep)
    assert named(plan.lanes.graph) == named(fresh.graph)
    mine, theirs = plan.lanes.graph.edges(), fresh.graph.edges()
    for one, other in zip(mine, theirs, strict=True):
        np.testing.assert_array_equal(one, other)


def cells_ahead(plan: Plan, start: tuple[int, int]) -> set[tuple[int, int]]:
    """The (row, column) that traffic can come to from a cell, whichever way it sets out: by trying states of
    (cell, side by which it came in), one turning about only where nothing else is possible."""
    costs, exits = plan.road_table.costs, plan.road_table.exits

    def leads(row: int, col: int) -> list[int]:
        found = []
        for side, (d_row, d_col) in enumerate(STEPS):
            r, c = row + d_row, col + d_col
            if 0 <= r < plan.road.shape[0] and 0 <= c < plan.road.shape[1]:
                here, there = plan.road[row, col], plan.road[r, c]
                if np.isfinite(costs[there]) and may_step(exits[here], exits[there], side + 1):
                    found.append(side)
        return found

    seen: set[tuple[int, int, int]] = set()
    waiting = deque((*start, side) for side in leads(*start))
    ahead = {start}
    # The first step may go out by any side; from then on a side of entry is known.
    while waiting:
        row, col, side = waiting.popleft()
        row, col = row + STEPS[side][0], col + STEPS[side][1]
        came = (side + 2) % 4
        if (row, col, came) in seen:
            continue
        seen.add((row, col, came))
        ahead.add((row, col))
        out = leads(row, col)
        waiting.extend((row, col, to) for to in ([to for to in out if to != came] or out))
    return ahead


def each_way_at(plan: Plan, row: int, col: int) -> int:
    return lanes_each_way(plan.road_table[class_of(int(plan.road[row, col]))].lanes)
