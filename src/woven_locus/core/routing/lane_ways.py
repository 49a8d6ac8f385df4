"""Ways through the lane graph: from the doors of one end to those of another, in the least time."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Slot
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.routing.route import (
    BY_ROAD,
    End,
    NoRoute,
    end_name,
    ends_of,
    find_route,
)
from woven_locus.core.value import Value

Ints = npt.NDArray[np.int64]


class LaneWay(Value, eq=False):
    """A way that was found.

    nodes : (N,) of the lane graph as it was then, start to goal.  points : (N, 2) in the world.
    seconds, length : along the edges.  explored : nodes that the search took up.
    """

    nodes: Ints
    points: npt.NDArray[np.float64]
    seconds: float
    length: float
    explored: int


def find_lane_way(plan: Plan, start: End, goal: End) -> LaneWay | NoRoute:
    """The way that takes the least time, or the reason why there is none.

    An end joins at every node of the road cells on which a route over roads may start or end; all are tried, in
    either direction of travel. From an end to itself, or to one at the same cell, it is a single node.
    Raises Unknown for a number that is not in the register.
    """
    ends = []
    for end in (start, goal):
        slots, why = ends_of(plan, end, True, plan.road_table.costs)
        if why:
            return NoRoute(why)
        ends.append(slots)
    graph = plan.lanes.graph
    nodes, explored = search(graph, plan, *(nodes_of(graph, slots) for slots in ends))
    if not len(nodes):
        return NoRoute(_why_none(plan, start, goal), explored)
    length, seconds = graph.along(nodes[:-1], nodes[1:])
    return LaneWay(nodes, graph.places(nodes), float(seconds.sum()), float(length.sum()), explored)


def nodes_of(graph: LaneGraph, slots: list[Slot]) -> Ints:
    """The nodes of some cells, each once, ascending."""
    cols = graph.spec.cols
    flat = np.array([row * cols + col for row, col in slots], np.int64)
    return np.unique(graph.nodes_in(flat)[0])


def search(graph: LaneGraph, plan: Plan, starts: Ints, goals: Ints) -> tuple[Ints, int]:
    """The nodes of the cheapest way, none without one, and how many were looked at."""
    forms, spec = graph.forms, plan.spec
    slow = graph.class_slowness
    nodes, explored = kernels.search_lanes(
        graph.out,
        graph.slot,
        graph.form,
        forms.x,
        forms.y,
        graph.bend_slowness,
        plan.road.ravel(),
        slow,
        spec.cols,
        float(spec.cell_w),
        float(spec.cell_h),
        starts,
        goals,
        float(slow.min()),
    )
    return nodes, int(explored)


def _why_none(plan: Plan, start: End, goal: End) -> str:
    """Two ends may be joined by road and yet not in this direction."""
    route = find_route(plan, start, goal, BY_ROAD)
    if isinstance(route, NoRoute):
        return route.why
    a, b = end_name(plan, start), end_name(plan, goal)
    return phrase(
        "the lanes that lead away from {a} do not reach {b}: one would have to turn about on the way",
        a=a,
        b=b,
    )
