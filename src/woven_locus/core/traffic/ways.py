"""Where trips enter and leave the road, and the pieces of their ways."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from functools import cached_property
from typing import TypeVar

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
Name = TypeVar("Name", bound=Hashable)

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


def _numbered(names: Sequence[Name]) -> tuple[list[Name], Ints]:
    """Each of some names once, in the order in which they come first; and which of those each is."""
    place = {name: at for at, name in enumerate(dict.fromkeys(names))}
    return list(place), np.array([place[name] for name in names], np.int64)


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
        starts, from_ = _numbered([start for start, _, _ in asked])
        goals, to = _numbered([goal for _, goal, _ in asked])
        keys, of_kind = _numbered([kind.key for *_, kind in asked])
        kinds = {kind.key: kind for *_, kind in asked}
        # Each pair of ends once.
        both, pair = np.unique(from_ * len(goals) + to, return_inverse=True)
        pairs = np.stack(np.divmod(both, max(len(goals), 1)), axis=1)
        why = self._why_not_each(starts, goals, pairs)
        is_open = np.ones(len(pairs), bool)
        is_open[list(why)] = False
        ways = self._search.search(
            [self._dense[self._nodes(start, True)[0]] for start in starts],
            [self._dense[self._nodes(goal, False)[0]] for goal in goals],
            pairs[is_open],
            stopped,
            progress,
        )
        place = np.cumsum(is_open) - 1
        answers: list[TripWay | str] = [why.get(at, "") for at in pair.tolist()]
        for number, key in enumerate(keys):
            rows = np.flatnonzero((of_kind == number) & is_open[pair])
            some, back = np.unique(place[pair[rows]], return_inverse=True)
            laid = list(self._laid(ways, some, kinds[key]))
            for row, at in zip(rows.tolist(), back.tolist(), strict=True):
                answers[row] = laid[at]
        return answers

    def goals(self, end: End) -> Ints:
        """The dense nodes at which a vehicle may come to an end, none where that is gone or not to be reached."""
        if not_there(self._plan, end):
            return np.zeros(0, np.int64)
        return self._dense[self._nodes(end, False)[0]]

    def _why_not_each(
        self, starts: Sequence[End], goals: Sequence[End], pairs: Ints
    ) -> dict[int, str]:
        """Why there is nothing to look for between two ends, by the place of their pair, if there is a reason. pairs : (N, 2)
        places in both. The nodes of all ends that there are, are known then; of others there are none."""
        has_none = []
        for sets_off, ends in ((True, starts), (False, goals)):
            gone = {end for end in ends if not_there(self._plan, end)}
            self._ends |= {(end, sets_off): (np.zeros(0, np.int64), "") for end in gone}
            self._look_up_many([end for end in ends if end not in gone], sets_off)
            has_none.append([end in gone or not len(self._nodes(end, sets_off)[0]) for end in ends])
        place = {start: at for at, start in enumerate(starts)}
        same = np.array([place.get(goal, -1) for goal in goals], np.int64)
        from_, to = pairs.T
        no_start, no_goal = (np.array(each, bool) for each in has_none)
        found = {}
        for at in np.flatnonzero(no_start[from_] | no_goal[to] | (same[to] == from_)).tolist():
            start, goal = starts[from_[at]], goals[to[at]]
            found[at] = (
                no_trip(self._plan, start, goal)
                or self._nodes(start, True)[1]
                or self._nodes(goal, False)[1]
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
        tracks = self._tracks
        why = {
            NO_WAY: phrase("no lane leads there"),
            THERE: phrase("it begins where it ends"),
        }
        there = some[ways.first[some] >= 0]
        first, last = ways.first[there], ways.last[there]
        before, whole, heads, tails = self._along(ways, there, kind)
        # Whoever stands before that piece has its front where it begins.
        rear, most = tracks.room_on(heads)
        x = np.maximum(tracks.began(first), kind.length + np.maximum(kind.gap, rear))
        short = x > most + 1e-9
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
                yield TripWay(ways.pieces_of(at), x_at, goal_x, took)

    def _along(
        self, ways: Found, some: Ints, kind: VehicleKind
    ) -> tuple[Floats, Floats, Shorts, Shorts]:
        """How far along each way its last piece begins, how long one drives to there, its first piece, and its last. A piece
        of a ring may be come to again."""
        clock = self._clock(kind)[1]
        length, took = np.zeros(len(some)), np.zeros(len(some))
        heads, tails = np.zeros(len(some), np.int32), np.zeros(len(some), np.int32)
        # As they lie there: what lies between two ways is summed as well, and left out.
        order = np.lexsort((ways.begins[some], ways.part[some]))
        parts, begins = np.unique(ways.part[some[order]], return_index=True)
        # One part at a time, of which all that is looked up stays in the cache.
        for part, rows in zip(parts.tolist(), np.split(order, begins[1:]), strict=False):
            pieces, first, last = (
                ways.parts[part],
                ways.begins[some[rows]],
                ways.ends[some[rows]] - 1,
            )
            heads[rows], tails[rows] = pieces[first], pieces[last]
            more = last > first
            # All but the last of each.
            bounds = np.stack((first[more], last[more]), axis=1).ravel()
            if len(bounds):
                length[rows[more]] = np.add.reduceat(self._tracks.length.take(pieces), bounds)[::2]
                took[rows[more]] = np.add.reduceat(clock.take(pieces), bounds)[::2]
        return length, took, heads, tails

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
