"""How far one comes in a time: bands around a structure or a cell."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.derived.cells import ON_ROAD, movement_costs
from woven_locus.core.geometry import Slot
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.routing.room import reaching, with_room
from woven_locus.core.routing.route import End, Manner, NoRoute, Over, ends_of
from woven_locus.core.routing.search import NO_EXITS, open_ends

# A walker's pace on ground of move cost 1, as a share of the slowest road's speed.
PACE = 0.5


def seconds_a_unit(plan: Plan, manner: Manner) -> npt.NDArray[np.float64]:
    """(256,) float64: seconds for a world unit on each code of the layer that is gone over.

    On a road it is 1 / its speed. Off it, the pace is PACE times that of the slowest road class, and as
    much slower as the ground's move cost says.
    """
    roads = plan.road_table
    if manner.over is Over.ROADS:
        with np.errstate(divide="ignore"):
            return np.asarray(1.0 / roads.speeds)
    pace = PACE * min(item.speed for item in roads)
    table = movement_costs(plan) / pace
    for code, item in enumerate(roads):
        table[ON_ROAD - code] = 1.0 / item.speed
    return table


def times_from(
    plan: Plan, start: End, manner: Manner, most: float = np.inf
) -> npt.NDArray[np.float64] | NoRoute:
    """(H, W) float64: seconds from an end to each cell, inf for what is not reached within `most`."""
    roads = manner.over is Over.ROADS
    layer, table = plan.road if roads else plan.movement, seconds_a_unit(plan, manner)
    slots, why = ends_of(plan, start, roads, table)
    if why:
        return NoRoute(why)
    return _spread(plan, layer, table, slots, manner, most)


def _spread(
    plan: Plan,
    layer: npt.NDArray[np.uint8],
    table: npt.NDArray[np.float64],
    slots: Sequence[Slot],
    manner: Manner,
    most: float,
) -> npt.NDArray[np.float64]:
    room = with_room(layer, table, manner.size)
    rows, cols = room.shape
    starts = slots if manner.size == 1 else reaching(slots, manner.size)
    g = np.full(room.size, np.inf)
    signs = manner.over is Over.ROADS and plan.road_table.exits.any()
    kernels.explore(
        np.ascontiguousarray(room).ravel(),
        cols,
        rows,
        table,
        plan.road_table.exits if signs else NO_EXITS,
        plan.spec.cell_w,
        plan.spec.cell_h,
        manner.moves,
        open_ends(room, table, starts),
        np.empty(0, np.int64),
        1.0,
        0,
        1.0,
        float(most),
        g,
        np.zeros(room.size, np.uint8),
        np.zeros(room.size, np.int32),
        np.zeros(room.size, np.int32),
    )
    return g.reshape(room.shape)


def bands(times: npt.NDArray[np.float64], width: float, most: int) -> npt.NDArray[np.uint8]:
    """Times as bands of `width` seconds: 1 for the first, up to `most`, 0 beyond them."""
    if not width > 0:
        raise ValueError(phrase("a band is more than 0 seconds wide, not {width:g}", width=width))
    reached = times < width * most
    out = np.zeros(times.shape, np.uint8)
    out[reached] = (times[reached] // width).astype(np.uint8) + 1
    return out
