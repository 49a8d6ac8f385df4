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
from woven_locus.ui.language import tr
from woven_locus.ui.session.pointer import Hover


def lane_lines(lanes: LaneKeeper, plan: Plan, hover: Hover) -> list[str]:
    """The lane node nearest to the pointer, its heading, and where it leads."""
    node = lanes.nearest(hover.cell, hover.point)
    if node is None:
        return [tr("lane      none"), tr("leads to  nowhere")]
    graph = plan.lanes.graph
    at = np.array([node])
    heading, lane = float(graph.headings(at)[0]), int(graph.lanes(at)[0]) + 1
    ahead = ", ".join(str(lanes.number_of(to)) for to in graph.follows(node))
    return [
        tr(
            "lane      node {number_of}, {heading:.0f}°, lane {lane}",
            number_of=lanes.number_of(node),
            heading=heading,
            lane=lane,
        ),
        tr("leads to  {ahead}", ahead=ahead or tr("nowhere")),
    ]


def vehicle_lines(plan: Plan, run: TrafficRun, chosen: int) -> list[str]:
    """About a vehicle on the road; one line for one that has left it."""
    fleet = run.fleet
    row = fleet.row_of(chosen)
    if row is None:
        return [tr("V{chosen} has left the road", chosen=chosen)]
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
        tr("from      {end}", end=_end(plan, trip.start)),
        tr("to        {end}", end=_end(plan, trip.goal)),
        tr(
            "way       {gone:.0%} of {goal_x} {unit}",
            gone=gone,
            goal_x=number(round(way.goal_x, 1)),
            unit=unit,
        ),
        tr(
            "speed     {v} of {speed} {unit}/s",
            v=number(round(float(cars.v[row]), 2)),
            speed=number(kind.speed),
            unit=unit,
        ),
        tr(
            "gap       {gap}",
            gap=number(round(gap, 2)) if math.isfinite(gap) else tr("nobody ahead"),
        ),
        tr("on road   {seconds:.1f} s", seconds=run.seconds - float(fleet.born[row])),
    ]


def _end(plan: Plan, end: object) -> str:
    """An end of a trip in words; its structure may be gone."""
    if isinstance(end, int) and end not in plan.register:
        return tr("S{end}, gone", end=end)
    return end_name(plan, end)  # type: ignore[arg-type]


def why_it_stands(plan: Plan, run: TrafficRun, row: int) -> str:
    """``waits at 36, 27 for V12, which has leave to cross``; ``drives`` for who does not wait."""
    fleet, tracks = run.fleet, run.streets.tracks
    cars = fleet.cars
    why = int(cars.why[row])
    other = int(waits_for(run, np.array([row]))[row])
    who = f"V{fleet.number[other]}" if other >= 0 else ""
    if why == BEHIND:
        return (
            tr("follows {who}", who=who)
            if float(cars.v[row]) > 1e-2
            else tr("queues behind {who}", who=who)
        )
    if not AT_LINE <= why <= FOR_PEOPLE or cars.line[row] < 0:
        return tr("drives freely") if why == FREELY else tr("comes to its goal")
    area = int(tracks.area[fleet.pieces[cars.line[row]]])
    at = cell_text(plan.spec.cell_at_index(int(tracks.slots[area])))
    asked = int(cars.asked[row])
    since = tr(", for {steps:.1f} s", steps=(run.steps - asked) * run.step) if asked >= 0 else ""
    if why == AT_RED:
        return tr("waits at {at} for green{since}", at=at, since=since)
    if why == FOR_PEOPLE:
        return tr("waits at {at} for people who cross{since}", at=at, since=since)
    reason = {
        AT_LINE: tr("has leave for a way that crosses"),
        EXIT_FULL: tr("stands where there must be room beyond"),
        IN_TURN: tr("came before"),
        GIVES_WAY: tr("comes by the larger road"),
    }[why]
    if why == IN_TURN and other >= 0 and cars.asked[other] >= 0:
        reason = tr("came {asked:.1f} s earlier", asked=(asked - int(cars.asked[other])) * run.step)
    return tr(
        "waits at {at} for {who}, which {reason}{since}",
        at=at,
        who=who or tr("one"),
        reason=reason,
        since=since,
    )
