"""Where trips enter and leave the road, and the pieces of their ways."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from functools import cached_property

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lanes.graph import sums_along
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import alike, structure_id
from woven_locus.core.routing.lane_ways import nodes_of
from woven_locus.core.routing.route import End, ends_of
from woven_locus.core.side_by_side import never, nobody
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.traffic.way_search import NO_WAY, THERE, Found, WaySearch
from woven_locus.core.value import Value
from woven_locus.core.vehicles import VehicleKind
from woven_locus.core.ways.doors import approaches_alike

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

# Structures from which on their ends are looked up in array passes.
_MANY = 32


class TripWay(Value, eq=False):
    """pieces : of `Tracks`, in order, int32.  x, goal_x : where along them a vehicle's front is when it sets off, and where it
    stops for good, world units.  seconds : that an empty road would take."""

    pieces: Shorts
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
    """Finds ways for trips over one lane graph."""

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

    @cached_property
    def _search(self) -> WaySearch:
        return WaySearch(self._tracks)

    def find_all(
        self,
        asked: Sequence[tuple[End, End, VehicleKind]],
        stopped: Callable[[], bool] = never,
        progress: Callable[[float], object] = nobody,
    ) -> list[TripWay | str]:
        """The way of each of many trips, or why it has none: one search an end. The same way is laid once.
        stopped, progress : see `WaySearch.search`. Raises Stopped."""
        found = self._why_not_each(dict.fromkeys((start, goal) for start, goal, _ in asked))
        pairs = [pair for pair, why in found.items() if not why]
        starts = {start: at for at, start in enumerate(dict.fromkeys(start for start, _ in pairs))}
        goals = {goal: at for at, goal in enumerate(dict.fromkeys(goal for _, goal in pairs))}
        ways = self._search.search(
            [self._dense[self._nodes(start, True)[0]] for start in starts],
            [self._dense[self._nodes(goal, False)[0]] for goal in goals],
            np.array([(starts[start], goals[goal]) for start, goal in pairs], np.int64).reshape(
                -1, 2
            ),
            stopped,
            progress,
        )
        place = {pair: at for at, pair in enumerate(pairs)}
        wanted: dict[str, tuple[VehicleKind, dict[int, None]]] = {}
        for start, goal, kind in asked:
            if (at := place.get((start, goal))) is not None:
                wanted.setdefault(kind.key, (kind, {}))[1][at] = None
        laid = {
            (key, at): way
            for key, (kind, some) in wanted.items()
            for at, way in zip(some, self._laid(ways, np.array(list(some)), kind), strict=True)
        }
        return [
            found[start, goal] or laid[kind.key, place[start, goal]] for start, goal, kind in asked
        ]

    def goals(self, end: End) -> Ints:
        """The dense nodes at which a vehicle may come to an end, none where that is gone or not to be reached."""
        if not_there(self._plan, end):
            return np.zeros(0, np.int64)
        return self._dense[self._nodes(end, False)[0]]

    def _why_not_each(self, pairs: Collection[tuple[End, End]]) -> dict[tuple[End, End], str]:
        """Why there is nothing to look for between two ends, or nothing."""
        starts = dict.fromkeys(start for start, _ in pairs)
        goals = dict.fromkeys(goal for _, goal in pairs)
        gone = {end: not_there(self._plan, end) for end in (*starts, *goals)}
        why: dict[bool, dict[End, str]] = {}
        for sets_off, ends in ((True, starts), (False, goals)):
            there = [end for end in ends if not gone[end]]
            self._look_up_many(there, sets_off)
            why[sets_off] = {end: self._nodes(end, sets_off)[1] for end in there}
        found = {}
        for start, goal in pairs:
            found[start, goal] = (
                no_trip(self._plan, start, goal)
                if gone[start] or gone[goal] or start == goal
                else why[True][start] or why[False][goal]
            )
        return found

    def _look_up_many(self, ends: Iterable[End], sets_off: bool) -> None:
        """`_look_up` for all structures among some ends, in array passes; those that join nowhere are left to it, for its
        words."""
        known, plan = self._ends, self._plan
        numbers = [end for end in ends if isinstance(end, int) and (end, sets_off) not in known]
        if len(numbers) < _MANY:
            return
        good = self._sets_off if sets_off else self._stops
        is_open = np.isfinite(plan.road_table.costs)
        for group in alike(plan.register.those_of(numbers)):
            slots = approaches_alike(plan, group)
            joins = (slots >= 0) & is_open[plan.road.ravel()[slots]]
            whose, side = np.nonzero(joins)
            nodes, sizes = self._graph.nodes_in(slots[whose, side])
            whose = np.repeat(whose, sizes)
            fit = good[self._dense[nodes]]
            nodes, whose = nodes[fit], whose[fit]
            order = np.lexsort((nodes, whose))
            nodes, whose = nodes[order], whose[order]
            some, begins = np.unique(whose, return_index=True)
            parts = np.split(nodes, begins)[1:]
            for number, mine in zip(group.numbers[some].tolist(), parts, strict=True):
                known[number, sets_off] = mine, ""

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

    def _laid(self, ways: Found, some: Ints, kind: VehicleKind) -> Iterator[TripWay | str]:
        """The ways of some pairs as a vehicle drives them, or why it does not."""
        tracks, begins = self._tracks, ways.begins
        why = {
            NO_WAY: phrase("no lane leads there"),
            THERE: phrase("it begins where it ends"),
        }
        there = some[ways.first[some] >= 0]
        first, last = ways.first[there], ways.last[there]
        heads, tails = ways.pieces[begins[there]], ways.pieces[begins[there + 1] - 1]
        # Whoever stands before that piece has its front where it begins.
        rear, most = tracks.room_on(heads)
        x = np.maximum(tracks.began(first), kind.length + np.maximum(kind.gap, rear))
        short = x > most + 1e-9
        before, whole = self._before(ways, there, kind)
        goal = np.minimum(before + tracks.end[last], before + tracks.room_on(tails)[1])
        seconds = self._seconds(heads, x, last, kind, whole)
        columns = (x.tolist(), np.maximum(goal, x).tolist(), seconds.tolist(), short.tolist())
        rows = zip(*columns, strict=True)
        for at, none in zip(some.tolist(), ways.first[some].tolist(), strict=True):
            if none < 0:
                yield why[none]
                continue
            x_at, goal_x, took, is_short = next(rows)
            if is_short:
                yield phrase(
                    "the lane on which it would set off is shorter than {kind}", kind=kind.name
                )
            else:
                yield TripWay(ways.pieces[begins[at] : begins[at + 1]], x_at, goal_x, took)

    def _before(self, ways: Found, some: Ints, kind: VehicleKind) -> tuple[Floats, Floats]:
        """How far along each way its last piece begins, and how long one drives to there. A piece of a ring may be come to
        again."""
        begins, ends = ways.begins[some], ways.begins[some + 1] - 1
        length, took = np.zeros(len(some)), np.zeros(len(some))
        more = np.flatnonzero(ends > begins)
        if len(more):
            # All but the last of each; what lies between them is summed as well, and left out.
            bounds = np.stack((begins[more], ends[more]), axis=1).ravel()
            pieces = ways.pieces[: bounds.max() + 1]
            length[more] = np.add.reduceat(self._tracks.length[pieces], bounds)[::2]
            took[more] = np.add.reduceat(self._clock(kind)[1][pieces], bounds)[::2]
        return length, took

    def _seconds(self, heads: Shorts, x: Floats, last: Ints, kind: VehicleKind, before: Floats) -> Floats:  # fmt: skip
        """From `x` on to the end of the edge at a place, at the speed of road, bend and kind, without speeding up and
        slowing down. before : seconds of the pieces before the last."""
        tracks, (took, _whole) = self._tracks, self._clock(kind)
        at = tracks.places_at(heads, x)
        began = tracks.began(at)
        done = np.where(at > tracks.begins[heads], took[at - 1], 0.0)
        share = (x - began) / (tracks.end[at] - began)
        spent = done + (took[at] - done) * share
        return np.maximum(0.0, before + took[last] - spent)

    def _clock(self, kind: VehicleKind) -> tuple[Floats, Floats]:
        """Seconds from the beginning of its piece to the end of each place, and of each piece."""
        if kind.key not in self._clocks:
            tracks = self._tracks
            way = np.diff(tracks.end, prepend=0.0)
            heads = tracks.begins[:-1]
            way[heads] = tracks.end[heads]
            took = sums_along(way / np.minimum(tracks.speed, kind.speed), tracks.begins)
            self._clocks[kind.key] = took, took[tracks.begins[1:] - 1]
        return self._clocks[kind.key]
