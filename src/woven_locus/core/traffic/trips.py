"""All trips of a plan: those of its table, and those that its rules make of the structures that there are."""

from __future__ import annotations

import math

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.core.routing.lane_ways import nodes_of, search
from woven_locus.core.routing.route import ends_of
from woven_locus.core.vehicles import Spacing, Trip, TripRule


def all_trips(plan: Plan, seed: int = 0) -> tuple[Trip, ...]:
    """The trips that rules make, then those of the table: what is added to the table comes last."""
    return (*made_trips(plan, seed), *plan.traffic.trips)


def made_trips(plan: Plan, seed: int = 0) -> tuple[Trip, ...]:
    """The trips that a plan's rules make. Of each structure of a kind vehicles go to the nearest one of the other kind: by
    the lanes, or where none leads there, as the crow flies. The same seed makes the same trips."""
    found: list[Trip] = []
    for at, rule in enumerate(plan.traffic.rules):
        goals = [row.number for row in plan.register if row.kind == rule.goal]
        for row in plan.register:
            others = [number for number in goals if number != row.number]
            if row.kind != rule.start or not others:
                continue
            goal = _nearest(plan, row.number, others)
            rng = np.random.default_rng([seed, at, row.number])
            found += _departures(rule, row.number, goal, rng)
    return tuple(found)


def _departures(rule: TripRule, start: int, goal: int, rng: np.random.Generator) -> list[Trip]:
    if rule.spacing is Spacing.EVENLY:
        return [Trip(start, goal, rule.depart, rule.kind, rule.every, rule.count)]
    gaps = rng.exponential(rule.every, rule.count)
    times = rule.depart + np.cumsum(gaps)
    return [Trip(start, goal, float(time), rule.kind) for time in times]


def _nearest(plan: Plan, start: int, goals: list[int]) -> int:
    """The structure among some that is reached first."""
    costs = plan.road_table.costs
    graph = plan.lanes.graph
    slots, why = ends_of(plan, start, True, costs)
    if not why:
        of_node: dict[int, int] = {}
        for goal in goals:
            there, none = ends_of(plan, goal, True, costs)
            if not none:
                for node in nodes_of(graph, there).tolist():
                    of_node.setdefault(node, goal)
        if of_node:
            ends = np.array(sorted(of_node), np.int64)
            nodes, _ = search(graph, plan, nodes_of(graph, slots), ends)
            if len(nodes):
                return of_node[int(nodes[-1])]
    here = plan.spec.centre(plan.register[start].cell)

    def away(number: int) -> tuple[float, int]:
        there = plan.spec.centre(plan.register[number].cell)
        return math.hypot(there.x - here.x, there.y - here.y), number

    return min(goals, key=away)
