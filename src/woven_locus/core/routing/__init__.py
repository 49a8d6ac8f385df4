"""Routes: A* over cells, ends at structures' doors, and the reason when there is none."""

from woven_locus.core.routing.lane_ways import LaneWay, find_lane_way
from woven_locus.core.routing.links import Connections, Group, Links, find_links
from woven_locus.core.routing.route import (
    BY_ROAD,
    ON_FOOT,
    End,
    Manner,
    NoRoute,
    Over,
    Route,
    RouteQuery,
    cannot_end,
    end_name,
    find_route,
    finish_route,
    parse_end,
    prepare_route,
)

__all__ = [
    "BY_ROAD",
    "ON_FOOT",
    "Connections",
    "End",
    "Group",
    "LaneWay",
    "Links",
    "Manner",
    "NoRoute",
    "Over",
    "Route",
    "RouteQuery",
    "cannot_end",
    "end_name",
    "find_lane_way",
    "find_links",
    "find_route",
    "finish_route",
    "parse_end",
    "prepare_route",
]
