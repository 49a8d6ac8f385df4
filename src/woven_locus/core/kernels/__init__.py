"""The few hot loops. Each is written once as plain Python over arrays and numbers (`astar`,
`cells`, `exploring`, `groups`, `journeys`, `junctions`, `lanes`, `laying`, `lowlinks`, `slopes`).

`compiled` is the same source put through Numba; until `install` has been called the plain twin is
used, so that nothing ever waits for a compiler. The twin is also the tests' oracle.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from functools import partial
from typing import Any

from woven_locus.core.kernels import astar as _astar
from woven_locus.core.kernels import buckets as _buckets
from woven_locus.core.kernels import cells as _cells
from woven_locus.core.kernels import chords as _chords
from woven_locus.core.kernels import cuts as _cuts
from woven_locus.core.kernels import detours as _detours
from woven_locus.core.kernels import driving as _driving
from woven_locus.core.kernels import exploring as _exploring
from woven_locus.core.kernels import journeys as _journeys
from woven_locus.core.kernels import junctions as _junctions
from woven_locus.core.kernels import lanes as _lanes
from woven_locus.core.kernels import laying as _laying
from woven_locus.core.kernels import lowlinks as _lowlinks
from woven_locus.core.kernels import sealing as _sealing
from woven_locus.core.kernels import setting_off as _setting_off
from woven_locus.core.kernels import slopes as _slopes
from woven_locus.core.kernels import tracks as _tracks
from woven_locus.core.kernels import trip_ways as _trip_ways

_TWINS: dict[str, Callable[..., Any]] = {
    "search": _astar.search,
    "derive": _cells.derive,
    "steep": _slopes.steep,
    "update_graph": _junctions.update_graph,
    "cost_runs": _junctions.cost_runs,
    "trace": _junctions.trace,
    "search_graph": _journeys.search_graph,
    "dijkstra": _journeys.dijkstra,
    "spread": _buckets.spread,
    "runs_to": _journeys.runs_to,
    "leg_cells": _journeys.leg_cells,
    "add_load": _journeys.add_load,
    "low_links": _lowlinks.low_links,
    "explore": _exploring.explore,
    "lay": _laying.lay,
    "search_lanes": _lanes.search_lanes,
    "ways_from": _trip_ways.ways_from,
    "chains": _tracks.chains,
    "bends": _driving.bends,
    "depart": _setting_off.depart,
    "drive": _driving.drive,
    "parts": _sealing.parts,
    "parting": _sealing.parting,
    "least_cut": _cuts.least_cut,
    "add_chords": _chords.add_chords,
    "number_tree": _detours.number_tree,
    "lost_ranges": _detours.lost_ranges,
    "search_around": _detours.search_around,
}
# What is compiled together: whoever needs one of a group soon needs the others, too.
GROUPS: dict[str, tuple[str, ...]] = {
    "cells": ("derive", "steep"),
    "routes": ("search",),
    "reach": ("explore", "lay"),
    "roads": ("update_graph", "cost_runs", "trace"),
    "journeys": (
        *("search_graph", "dijkstra", "spread", "add_load", "low_links", "runs_to", "leg_cells"),
    ),
    "lanes": ("search_lanes",),
    "trips": ("chains", "ways_from"),
    "waves": (
        *("parts", "parting", "least_cut", "number_tree", "lost_ranges", "search_around"),
        "add_chords",
    ),
    "traffic": ("drive", "depart", "bends"),
}
_GROUP_OF = {name: group for group, names in GROUPS.items() for name in names}
_active = dict(_TWINS)
_ready: set[str] = set()
# Two threads may need the same group at once.
_installing = threading.Lock()


def install(groups: Iterable[str] = GROUPS) -> None:
    """Use the compiled kernels of some groups from now on; compiles them if Numba's cache does not hold them.

    Takes seconds on a cold cache: never call it on the interface's thread.
    """
    from woven_locus.core.kernels import compiled

    for group in groups:
        compiled.compile_group(group)
        _active.update({name: getattr(compiled, name) for name in GROUPS[group]})
        _ready.add(group)


def install_when_needed(bring_in: Callable[[str], object]) -> None:
    """Use the compiled kernels of each group from its first use on. bring_in(group) : installs it; it is called at that
    use, on its thread."""
    for name, group in _GROUP_OF.items():
        if group not in _ready:
            _active[name] = partial(_first_use, name, bring_in)


def _first_use(name: str, bring_in: Callable[[str], object], *args: Any) -> Any:
    with _installing:
        if _GROUP_OF[name] not in _ready:
            bring_in(_GROUP_OF[name])
    return _active[name](*args)


def use_twins() -> None:
    """Back to the plain twins."""
    _active.update(_TWINS)
    _ready.clear()


def compiled_ready(groups: Iterable[str] = GROUPS) -> bool:
    """Whether the compiled kernels of these groups are in use, not their plain twins."""
    return _ready.issuperset(groups)


def search(*args: Any) -> Any:
    """See `astar.search`."""
    return _active["search"](*args)


def derive(*args: Any) -> Any:
    """See `cells.derive`."""
    return _active["derive"](*args)


def steep(*args: Any) -> Any:
    """See `slopes.steep`."""
    return _active["steep"](*args)


def update_graph(*args: Any) -> Any:
    """See `junctions.update_graph`."""
    return _active["update_graph"](*args)


def cost_runs(*args: Any) -> Any:
    """See `junctions.cost_runs`."""
    return _active["cost_runs"](*args)


def trace(*args: Any) -> Any:
    """See `junctions.trace`."""
    return _active["trace"](*args)


def search_graph(*args: Any) -> Any:
    """See `journeys.search_graph`."""
    return _active["search_graph"](*args)


def dijkstra(*args: Any) -> Any:
    """See `journeys.dijkstra`."""
    return _active["dijkstra"](*args)


def leg_cells(*args: Any) -> Any:
    """See `journeys.leg_cells`."""
    return _active["leg_cells"](*args)


def add_load(*args: Any) -> Any:
    """See `journeys.add_load`."""
    return _active["add_load"](*args)


def low_links(*args: Any) -> Any:
    """See `lowlinks.low_links`."""
    return _active["low_links"](*args)


def explore(*args: Any) -> Any:
    """See `exploring.explore`."""
    return _active["explore"](*args)


def lay(*args: Any) -> Any:
    """See `laying.lay`."""
    return _active["lay"](*args)


def spread(*args: Any) -> Any:
    """See `buckets.spread`."""
    return _active["spread"](*args)


def search_lanes(*args: Any) -> Any:
    """See `lanes.search_lanes`."""
    return _active["search_lanes"](*args)


def ways_from(*args: Any) -> Any:
    """See `trip_ways.ways_from`."""
    return _active["ways_from"](*args)


def bends(*args: Any) -> Any:
    """See `driving.bends`."""
    return _active["bends"](*args)


def depart(*args: Any) -> Any:
    """See `setting_off.depart`."""
    return _active["depart"](*args)


def drive(*args: Any) -> Any:
    """See `driving.drive`."""
    return _active["drive"](*args)


def chains(*args: Any) -> Any:
    """See `tracks.chains`."""
    return _active["chains"](*args)


def runs_to(*args: Any) -> Any:
    """See `journeys.runs_to`."""
    return _active["runs_to"](*args)


def parts(*args: Any) -> Any:
    """See `sealing.parts`."""
    return _active["parts"](*args)


def parting(*args: Any) -> Any:
    """See `sealing.parting`."""
    return _active["parting"](*args)


def least_cut(*args: Any) -> Any:
    """See `cuts.least_cut`."""
    return _active["least_cut"](*args)


def add_chords(*args: Any) -> Any:
    """See `chords.add_chords`."""
    return _active["add_chords"](*args)


def number_tree(*args: Any) -> Any:
    """See `detours.number_tree`."""
    return _active["number_tree"](*args)


def lost_ranges(*args: Any) -> Any:
    """See `detours.lost_ranges`."""
    return _active["lost_ranges"](*args)


def search_around(*args: Any) -> Any:
    """See `detours.search_around`."""
    return _active["search_around"](*args)
