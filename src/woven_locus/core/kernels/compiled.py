"""The kernels through Numba. Importing this module costs about half a second: import it late."""

from __future__ import annotations

from collections.abc import Callable
from types import FunctionType
from typing import Any

import numba
import numpy as np

from woven_locus.core.kernels import (
    GROUPS,
    astar,
    buckets,
    cells,
    chords,
    cuts,
    detours,
    driving,
    exploring,
    groups,
    journeys,
    junctions,
    lanes,
    laying,
    lowlinks,
    moves,
    right_of_way,
    room,
    sealing,
    setting_off,
    slopes,
    tracks,
    traffic_state,
    trip_ways,
)
from woven_locus.core.kernels import graph as arrays
from woven_locus.core.kernels.graph import empty_arrays

# Functions that make arrays. The others need no counting of references, without which they are compiled in two thirds
# of the time.
_MAKE_ARRAYS = {
    *("bends", "chains", "dijkstra", "distinct", "explore", "lay", "leg_cells", "lost_ranges"),
    *("number_tree", "parting", "parts", "regroup", "roomier", "runs_to", "search"),
    *(
        "search_around",
        "search_graph",
        "search_lanes",
        "split_parts",
        "twice",
        "update_graph",
    ),
    *("reach", "ways_from", "way_back"),
}
# Functions that Python calls. The others need no door to it, which takes longer to compile than many a function: each of its
# arrays is taken out of its object there.
_CALLED = {name for names in GROUPS.values() for name in names}

spread = numba.njit(cache=True, nogil=True, error_model="numpy")(buckets.spread)
derive = numba.njit(cache=True, nogil=True, error_model="numpy")(cells.derive)

steep = numba.njit(cache=True, nogil=True, error_model="numpy")(slopes.steep)


def _through(*functions: Callable[..., Any], doors: bool = False) -> dict[str, Any]:
    """Functions that call one another, compiled in order: each calls the compiled ones before it.

    doors : for all of them, not only for those that Python calls.
    """
    made: dict[str, Any] = {}
    for plain in functions:
        assert isinstance(plain, FunctionType)
        bound = FunctionType(plain.__code__, {**plain.__globals__, **made}, plain.__name__)
        bound.__module__, bound.__qualname__ = plain.__module__, plain.__qualname__
        options: dict[str, Any] = {
            "_nrt": plain.__name__ in _MAKE_ARRAYS,
            "no_cpython_wrapper": not doors and plain.__name__ not in _CALLED,
        }
        made[plain.__name__] = numba.njit(cache=True, nogil=True, error_model="numpy", **options)(
            bound
        )
    return made


search = _through(room.twice, moves.may_step, moves.way_back, astar.search)["search"]

_graph = _through(
    arrays.take_number,
    moves.may_step,
    *(groups.sift, groups.distinct, groups.place_of),
    *(groups.root_of, groups.free_group, groups.relabel, groups.renumber),
    *(groups.search_parts, groups.split_parts, groups.regroup),
    *(junctions.beyond, junctions.joins, junctions.is_node, junctions.trace),
    *(junctions.free_node, junctions.new_node, junctions.trace_run, junctions.keep_groups),
    *(junctions.update_graph, junctions.cost_runs),
)
update_graph, trace, cost_runs = (_graph[name] for name in ("update_graph", "trace", "cost_runs"))

_travelled = _through(
    *(junctions.beyond, junctions.joins, room.twice),
    *(journeys.push, journeys.pop, journeys.roomier),
    *(journeys.bound, journeys.first_bucket),
    *(
        journeys.search_graph,
        journeys.dijkstra,
        journeys.runs_to,
        journeys.leg_cells,
        journeys.add_load,
    ),
    *(moves.may_step, moves.step_of, moves.way_back),
    *(lowlinks.low_links, exploring.estimate, exploring.explore, laying.lay),
    lanes.search_lanes,
    *(detours.number_tree, detours.lost_ranges, detours.is_lost),
    *(detours.go_on, detours.search_around),
)
number_tree, lost_ranges, search_around = (
    _travelled[name] for name in ("number_tree", "lost_ranges", "search_around")
)
search_graph, dijkstra, runs_to, leg_cells = (
    _travelled[name] for name in ("search_graph", "dijkstra", "runs_to", "leg_cells")
)
add_load, low_links, explore, lay = (
    _travelled[name] for name in ("add_load", "low_links", "explore", "lay")
)
search_lanes = _travelled["search_lanes"]

ways_from = _through(
    room.twice,
    *(
        trip_ways.next_bucket,
        trip_ways.reach,
        trip_ways.nearest,
        trip_ways.seed_of,
        trip_ways.measure_back,
        trip_ways.lay_back,
        trip_ways.ways_from,
    ),
)["ways_from"]

chains = _through(tracks.leaves, tracks.following, tracks.chains)["chains"]

_driven = _through(
    *(
        right_of_way.next_line,
        right_of_way.rear_on,
        right_of_way.may_go,
        right_of_way.give_leave,
        right_of_way.ask,
    ),
    *(right_of_way.show_signals, right_of_way.grant, right_of_way.forget),
    *(driving.stopping, driving.slowing, driving.swing, driving.leader, driving.choose_speeds),
    *(driving.leave, driving.let_go, driving.take_away, driving.move, driving.drive),
    *(setting_off.neighbours_at, setting_off.is_free, setting_off.set_off, setting_off.depart),
    driving.bends,
    # Half the time of compiling them; but a function without one is put into its callers, and a step then takes a third longer.
    doors=True,
)
_sealed = _through(sealing.on_left, sealing.parts, sealing.parting)
parts, parting = _sealed["parts"], _sealed["parting"]
add_chords = numba.njit(cache=True, nogil=True, error_model="numpy")(chords.add_chords)
least_cut = numba.njit(cache=True, nogil=True, error_model="numpy")(cuts.least_cut)

bends = _driven["bends"]


def drive(step: int, dt: float, used: int, net: Any, road: Any, rules: Any, cars: Any, kinds: Any, *more: Any) -> Any:  # fmt: skip
    """See `driving.drive`."""
    return _driven["drive"](
        step, dt, used, *_records(net, road), rules, cars.rows, kinds.rows, *more
    )


def depart(now: float, net: Any, road: Any, cars: Any, kinds: Any, *more: Any) -> Any:
    """See `setting_off.depart`."""
    return _driven["depart"](now, *_records(net, road), cars.rows, kinds.rows, *more)


def _records(net: Any, road: Any) -> tuple[Any, Any]:
    """Records in place of their columns; see `traffic_state`."""
    areas = road.areas.rows
    return net._replace(pieces=net.pieces.rows), road._replace(pieces=road.pieces.rows, areas=areas)


def compile_group(name: str) -> None:
    """Compile the kernels of a group, or load them from the cache, for the types that the fronts pass. name : of
    `kernels.GROUPS`."""
    _COMPILE[name]()


_CODE, _TABLE, _FLAGS = np.ones(4, np.uint8), np.ones(256), np.zeros(256, np.uint8)
_ENDS = np.zeros(1, np.int64)


def _cells() -> None:
    byte, four = _CODE.reshape(2, 2), np.zeros(4, np.int64)
    whose, bits = np.zeros((2, 2), np.int32), np.zeros(5, np.uint8)
    none = np.uint8(0)
    derive(
        *(byte, byte, byte, byte, whose, four, none, four),
        *(_FLAGS, _FLAGS, _FLAGS, bits, byte, byte),
    )
    steep(np.zeros((3, 3)), 1.0, 1.0, 1.0, np.zeros((1, 1), np.bool_))


def _routes() -> None:
    search(_CODE, 2, 2, _TABLE, _FLAGS, 1.0, 1.0, 4, _ENDS, _ENDS, 1.0)


def _reach() -> None:
    asked = (1.0, 0, 1.0, np.inf, np.zeros(4), np.zeros(4, np.uint8))
    steps = np.zeros(4, np.int32)
    explore(_CODE, 2, 2, _TABLE, _FLAGS, 1.0, 1.0, 4, _ENDS, _ENDS, *asked, steps, steps.copy())
    lay(np.ones(4), np.zeros(4), 2, 2, 0.5, 0, 3, 1.0)


def _roads() -> None:
    arms = (empty_arrays(4, 260, 520), _CODE, _TABLE, _FLAGS, _FLAGS[:4], 2, 2, 1.0, 1.0)
    # Once for whole numbers; narrower ones and constants are widened then.
    trace(*arms, 0, 1, 0, -1)
    trace.disable_compile()
    update_graph(*arms, np.arange(4), True)
    cost_runs(*arms, np.zeros(0, np.int64))


def _journeys() -> None:
    graph = empty_arrays(4, 260, 520)
    count = len(graph.at)
    costs, runs, box = np.zeros(count), np.zeros(count, np.int64), np.zeros(4, np.int64)
    one, free = _ENDS + 1, np.zeros(1)
    search_graph(graph, 2, 1.0, 1.0, 1.0, one, free, one, free, box, costs, runs, runs.copy(), 2)
    order = dijkstra(graph, one, free, costs, runs)
    links = np.zeros((2, count), np.int32)
    spread(graph, one, 0.5, costs, runs, np.zeros(8, np.int32), links[0], links[1])
    add_load(graph, order, runs, np.zeros(count), np.zeros(count), np.zeros(len(graph.ends)))
    low_links(graph, 1, *(np.zeros(count, np.int32) for _ in range(5)))
    runs_to(graph, runs, 1)
    leg_cells(graph.owner, _CODE, _TABLE, 2, 2, _ENDS, one, one)


def _lanes() -> None:
    one = _ENDS + 1
    nodes, form = np.zeros((2, 3), np.int32), np.zeros(2, np.int32)
    places = (form, form, np.zeros(1), np.zeros(1), np.zeros(1), _CODE, _TABLE)
    search_lanes(nodes, *places, 2, 1.0, 1.0, one, one, 1.0)


def _trips() -> None:
    one, four = _ENDS + 1, np.zeros(4, np.int64)
    short, real = np.zeros(1, np.int32), np.zeros(1)
    net = trip_ways.PieceNet(np.zeros(2, np.int32), short, short, real)
    joins = trip_ways.Joins(short, real, short, real)
    pair = np.zeros((1, 2), np.int32)
    reached = trip_ways.Reached(real, pair, _CODE[:1].copy(), pair.astype(np.int64))
    ways_from(net, joins, joins, one, False, 1.0, reached)
    chains(four[:1], four[:0], four[:0], _CODE[:0])


def _waves() -> None:
    add_chords(np.zeros((1, 2)), np.zeros(0), 0.0, 0.0, 1.0, 1.0, 0.0, 1.0, np.zeros((1, 1)))
    ends, steps, whose = _ENDS, np.zeros(4, np.int32), np.zeros(4, np.int32)
    way = (whose, whose, np.zeros(1, np.int8), np.zeros(1, np.int8), 2)
    parting(ends[:0], ends, *way, np.zeros(0, np.bool_))
    parts(ends[:0], *way)
    least_cut(np.ones(4, np.bool_), 2, 2, ends, ends + 3, 9)
    number_tree(steps, 0, 2, _CODE.copy(), steps.copy(), steps.copy())
    cut = lost_ranges(ends, 2, 2, _CODE, steps, steps)
    # Every cell is a start: whoever follows a way back has arrived.
    begun = np.full(4, moves.START, np.uint8)
    tree = (np.zeros(4), begun, steps)
    search_around(
        *(_CODE, 2, 2, _TABLE, 1.0, 1.0, 4, ends, np.zeros(4), tree, np.zeros(4, np.bool_)),
        *(ends[:0], cut, np.zeros(4), begun.copy()),
    )


def _traffic() -> None:
    """For an empty road."""
    whole, real, short = np.zeros(1, np.int64), np.zeros(1), np.zeros(1, np.int32)
    none = np.zeros(0, np.int32)
    bends(np.zeros(2, np.int64), real, real + 1, 1.0)
    state = traffic_state
    net = state.Net(
        state.empty(state.NetPieces, 1), np.zeros(2, np.int64), real, real, real, whole, whole
    )
    road = state.Road(
        state.empty(state.RoadPieces, 1), state.empty(state.Areas, 0), none, whole[:0], whole[:0]
    )
    none_of, byte = whole[:0], np.zeros(0, np.uint8)
    rules = state.Rules(
        *(byte, byte, none_of, none_of, whole, real[:0], real[:0], real[:0], real[:0], none_of)
    )
    cars = state.empty(state.Cars, 1)
    kinds = state.made(state.Kinds, **dict.fromkeys(state.Kinds._fields[:-1], real + 1))
    plans = state.Plans(whole, whole, real, real, short, real, real, whole)
    drive(0, 0.1, 1, net, road, rules, cars, kinds, short, whole)
    depart(0.0, net, road, cars, kinds, short, plans, real, whole, whole, 0)


_COMPILE: dict[str, Callable[[], None]] = {
    "cells": _cells,
    "routes": _routes,
    "reach": _reach,
    "roads": _roads,
    "journeys": _journeys,
    "lanes": _lanes,
    "trips": _trips,
    "waves": _waves,
    "traffic": _traffic,
}
