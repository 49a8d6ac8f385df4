"""Where trips enter and leave the road, and the pieces of their ways."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.routing.lane_chains import ChainSearch
from woven_locus.core.routing.lane_ways import nodes_of
from woven_locus.core.routing.route import End, ends_of
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.vehicles import VehicleKind

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class TripWay:
    """pieces : of `Tracks`, in order.  x, goal_x : where along them a vehicle's front is when it sets off, and where it
    stops for good, world units.  seconds : that an empty road would take."""

    pieces: Ints
    x: float
    goal_x: float
    seconds: float


def not_there(plan: Plan, end: End) -> str:
    """That an end is a structure that is no more, in words; or nothing."""
    if isinstance(end, Cell) or end in plan.register:
        return ""
    return phrase("{structure_id} is not there", structure_id=structure_id(end))


def no_trip(plan: Plan, start: End, goal: End) -> str:
    """Why there is nothing to look for between two ends, or nothing."""
    why = not_there(plan, start) or not_there(plan, goal)
    return why or (phrase("it begins where it ends") if start == goal else "")


class WayFinder:
    """Finds ways for trips over one lane graph; the same question is searched once."""

    def __init__(self, plan: Plan, graph: LaneGraph, tracks: Tracks) -> None:
        self._plan, self._graph, self._tracks = plan, graph, tracks
        self._dense = graph.numbers()
        count = len(tracks.nodes)
        inner_edge = np.zeros(len(tracks.edges), bool)
        inner_edge[tracks.edges] = np.repeat(tracks.inner, np.diff(tracks.begins))
        # Where one may set off: an edge leaves that is no turn. Where one may stop: one comes that is none.
        self._sets_off, self._stops = np.zeros(count, bool), np.zeros(count, bool)
        self._sets_off[tracks.edge_start[~inner_edge]] = True
        self._stops[tracks.edge_to[~inner_edge]] = True
        self._ends: dict[tuple[End, bool], tuple[Ints, str]] = {}
        self._clocks: dict[str, tuple[Floats, Floats]] = {}
        self._found: dict[tuple[End, End], Ints | str] = {}

    @cached_property
    def _chains(self) -> ChainSearch:
        return ChainSearch(self._graph)

    def find(self, start: End, goal: End, kind: VehicleKind) -> TripWay | str:
        """The way of a trip, or why it has none."""
        nodes = self._found.get((start, goal))
        if nodes is None:
            nodes = self._found[start, goal] = self._search(start, goal)
        return nodes if isinstance(nodes, str) else self._laid(nodes, kind)

    def goals(self, end: End) -> Ints:
        """The dense nodes at which a vehicle may come to an end, none where that is gone or not to be reached."""
        if not_there(self._plan, end):
            return np.zeros(0, np.int64)
        return self._dense[self._nodes(end, False)[0]]

    def _search(self, start: End, goal: End) -> Ints | str:
        if why := no_trip(self._plan, start, goal):
            return why
        starts, why = self._nodes(start, True)
        goals, why_not = self._nodes(goal, False)
        if why or why_not:
            return why or why_not
        nodes, _ = self._chains.search(self._dense[starts], self._dense[goals])
        if not len(nodes):
            return phrase("no lane leads there")
        if len(nodes) == 1:
            return phrase("it begins where it ends")
        return nodes

    def _nodes(self, end: End, sets_off: bool) -> tuple[Ints, str]:
        """Where an end may be left, or come to; beyond the cell where one only turns in it."""
        if (end, sets_off) not in self._ends:
            self._ends[end, sets_off] = self._look_up(end, sets_off)
        return self._ends[end, sets_off]

    def _look_up(self, end: End, sets_off: bool) -> tuple[Ints, str]:
        slots, why = ends_of(self._plan, end, True, self._plan.road_table.costs)
        if why:
            return np.zeros(0, np.int64), why
        nodes = nodes_of(self._graph, slots)
        good = self._sets_off if sets_off else self._stops
        nodes = nodes[good[self._dense[nodes]]]
        if not len(nodes):
            return nodes, phrase("one can only turn at its end of the way, not set off or stop")
        return nodes, ""

    def _laid(self, nodes: Ints, kind: VehicleKind) -> TripWay | str:
        tracks = self._tracks
        edges = tracks.edges_between(nodes[:-1], nodes[1:])
        pieces = tracks.pieces_of(edges)
        first, last = tracks.place_of(int(edges[0])), tracks.place_of(int(edges[-1]))
        # A piece of a ring may be come to again.
        begins = float(tracks.length[pieces[:-1]].sum())
        goal = begins + float(tracks.end[last])
        # Whoever stands before that piece has its front where it begins.
        rear, most = tracks.room_on(int(pieces[0]))
        x = max(tracks.began_at(first), kind.length + max(kind.gap, rear))
        if x > most + 1e-9:
            return phrase(
                "the lane on which it would set off is shorter than {kind}", kind=kind.name
            )
        goal = min(goal, begins + tracks.room_on(int(pieces[-1]))[1])
        return TripWay(pieces, x, max(goal, x), self._seconds(pieces, x, last, kind))

    def _seconds(self, pieces: Ints, x: float, last: int, kind: VehicleKind) -> float:
        """From `x` on to the end of the edge at a place, at the speed of road, bend and kind, without speeding up and
        slowing down."""
        tracks = self._tracks
        if kind.key not in self._clocks:
            self._clocks[kind.key] = self._clock(kind)
        took, whole = self._clocks[kind.key]
        piece = int(pieces[0])
        begin, end = int(tracks.begins[piece]), int(tracks.begins[piece + 1])
        at = min(end - 1, begin + int(np.searchsorted(tracks.end[begin:end], x)))
        before = float(took[at - 1]) if at > begin else 0.0
        began = tracks.began_at(at)
        share = (x - began) / (float(tracks.end[at]) - began)
        spent = before + (float(took[at]) - before) * share
        return max(0.0, float(whole[pieces[:-1]].sum()) + float(took[last]) - spent)

    def _clock(self, kind: VehicleKind) -> tuple[Floats, Floats]:
        """Seconds from the beginning of its piece to the end of each place, and of each piece."""
        tracks = self._tracks
        way = np.diff(tracks.end, prepend=0.0)
        heads = tracks.begins[:-1]
        way[heads] = tracks.end[heads]
        total = np.cumsum(way / np.minimum(tracks.speed, kind.speed))
        before = np.concatenate(([0.0], total))[heads]
        return total - np.repeat(before, np.diff(tracks.begins)), total[
            tracks.begins[1:] - 1
        ] - before
