"""What the Reading says in Traffic: of the lane under the pointer, and of the vehicle that was clicked."""

from __future__ import annotations

import math

import numpy as np

from woven_locus.core.geometry import cell_text
from woven_locus.core.grid.snapping import number
from woven_locus.core.kernels.traffic_state import (
    AT_LINE,
    AT_RED,
    BEHIND,
    EXIT_FULL,
    FOR_PEOPLE,
    FREELY,
    GIVES_WAY,
    IN_TURN,
)
from woven_locus.core.plan import Plan
from woven_locus.core.routing import end_name
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.waiting import waits_for
from woven_locus.core.traffic.ways import TripWay
from woven_locus.ui.answers.lanes import LaneKeeper
from woven_locus.ui.session.pointer import Hover


def lane_lines(lanes: LaneKeeper, plan: Plan, hover: Hover) -> list[str]:
    """The lane node nearest to the pointer, its heading, and where it leads."""
    node = lanes.nearest(hover.cell, hover.point)
    if node is None:
        return ["lane      none", "leads to  nowhere"]
    graph = plan.lanes.graph
    at = np.array([node])
    heading, lane = float(graph.headings(at)[0]), int(graph.lanes(at)[0]) + 1
    ahead = ", ".join(str(lanes.number_of(to)) for to in graph.follows(node))
    return [
        f"lane      node {lanes.number_of(node)}, {heading:.0f}°, lane {lane}",
        f"leads to  {ahead or 'nowhere'}",
    ]


def vehicle_lines(plan: Plan, run: TrafficRun, chosen: int) -> list[str]:
    """About a vehicle on the road; one line for one that has left it."""
    fleet = run.fleet
    row = fleet.row_of(chosen)
    if row is None:
        return [f"V{chosen} has left the road"]
    cars = fleet.cars
    kind, trip = run.kinds[int(cars.kind[row])], run.trips[int(fleet.trip[row])]
    unit = plan.spec.unit
    gap = float(cars.gap[row])
    way = run.ways[int(fleet.trip[row])]
    assert isinstance(way, TripWay)
    gone = float(cars.x[row]) / way.goal_x
    return [
        f"V{chosen} {kind.name}",
        why_it_stands(plan, run, row),
        f"from      {_end(plan, trip.start)}",
        f"to        {_end(plan, trip.goal)}",
        f"way       {gone:.0%} of {number(round(way.goal_x, 1))} {unit}",
        f"speed     {number(round(float(cars.v[row]), 2))} of {number(kind.speed)} {unit}/s",
        f"gap       {number(round(gap, 2)) if math.isfinite(gap) else 'nobody ahead'}",
        f"on road   {run.seconds - float(fleet.born[row]):.1f} s",
    ]


def _end(plan: Plan, end: object) -> str:
    """An end of a trip in words; its structure may be gone."""
    if isinstance(end, int) and end not in plan.register:
        return f"S{end}, gone"
    return end_name(plan, end)  # type: ignore[arg-type]


def why_it_stands(plan: Plan, run: TrafficRun, row: int) -> str:
    """``waits at 36, 27 for V12, which has leave to cross``; ``drives`` for who does not wait."""
    fleet, tracks = run.fleet, run.streets.tracks
    cars = fleet.cars
    why = int(cars.why[row])
    other = int(waits_for(run, np.array([row]))[row])
    who = f"V{fleet.number[other]}" if other >= 0 else ""
    if why == BEHIND:
        return f"follows {who}" if float(cars.v[row]) > 1e-2 else f"queues behind {who}"
    if not AT_LINE <= why <= FOR_PEOPLE or cars.line[row] < 0:
        return "drives freely" if why == FREELY else "comes to its goal"
    area = int(tracks.area[fleet.pieces[cars.line[row]]])
    at = cell_text(plan.spec.cell_at_index(int(tracks.slots[area])))
    asked = int(cars.asked[row])
    since = f", for {(run.steps - asked) * run.step:.1f} s" if asked >= 0 else ""
    if why == AT_RED:
        return f"waits at {at} for green{since}"
    if why == FOR_PEOPLE:
        return f"waits at {at} for people who cross{since}"
    reason = {
        AT_LINE: "has leave for a way that crosses",
        EXIT_FULL: "stands where there must be room beyond",
        IN_TURN: "came before",
        GIVES_WAY: "comes by the larger road",
    }[why]
    if why == IN_TURN and other >= 0 and cars.asked[other] >= 0:
        reason = f"came {(asked - int(cars.asked[other])) * run.step:.1f} s earlier"
    return f"waits at {at} for {who or 'one'}, which {reason}{since}"
