"""Answers about ways as JSON, in the fixed form of the command line."""

from __future__ import annotations

from typing import Any

from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.routing import Links, NoRoute, Route
from woven_locus.core.routing.lane_ways import LaneWay
from woven_locus.files.lane_rows import lane_numbers


def route_json(found: Route | NoRoute) -> dict[str, Any]:
    """A route, or why there is none."""
    if isinstance(found, NoRoute):
        return {"found": False, "why": found.why}
    return {
        "found": True,
        "cost": found.cost,
        "length": found.length,
        "cells": [[cell.col, cell.row] for cell in found.cells],
        "points": found.points.tolist(),
        "explored": found.explored,
    }


def links_json(links: Links) -> dict[str, Any]:
    """Which structures are joined by road."""
    return {
        "groups": [
            {
                "structures": [structure_id(number) for number in group.structures],
                "road_cells": group.road_cells,
            }
            for group in links.groups
        ],
        "cut_off": [structure_id(number) for number in links.cut_off],
    }


def lane_way_json(plan: Plan, way: LaneWay | NoRoute) -> dict[str, Any]:
    """A way through the lane graph, or why there is none."""
    if isinstance(way, NoRoute):
        return {"found": False, "why": way.why}
    return {
        "found": True,
        "seconds": way.seconds,
        "length": way.length,
        "nodes": lane_numbers(plan, way.nodes),
        "points": way.points.tolist(),
    }
