"""Vehicles that are under way when the roads change: they stay where they are if their lane does, and find a new way where
the old one is gone. Who stands on a lane that is no more leaves the road, by number.

The run goes on as another one, made for the plan as it is now.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels import driving, right_of_way
from woven_locus.core.kernels.traffic_state import FREELY, KEPT
from woven_locus.core.plan import Plan
from woven_locus.core.routing.lane_ways import search
from woven_locus.core.traffic.fleet import Fleet
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.traffic.ways import WayFinder
from woven_locus.core.vehicles import Trip

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]

# The plain twins of kernels, for single vehicles.
_stopping: Any = driving.stopping
_leader_of: Any = driving.leader
_take_away: Any = driving.take_away
_next_line: Any = right_of_way.next_line
_ask: Any = right_of_way.ask
# A vehicle may be moved by so much, as a share of a cell: from the chord of an arc to the lane beside it.
_NEAR = 0.02


def carried_over(old: TrafficRun, plan: Plan) -> TrafficRun:
    """The run as it goes on over a plan whose roads, structures or trips have changed; `old` stays as it is.

    Vehicles keep their numbers, speeds and places (within a fiftieth of a cell). Who had leave to drive on keeps it as far as its way is the old one;
    who then could not stop before its line, or behind the one ahead, is slowed down at once. Those that lost
    their lane or have no way any more are in `taken_off`. Raises Refused, Unknown as the making of a run does.
    """
    trips, trip_of = _trips(old, plan)
    new = TrafficRun(plan, trips, old.kinds, old.step, old.seed)
    _carry_counts(old, new, trip_of)
    mapped = _mapped(old.streets.keys, new.streets.keys)
    _carry_record(old, new, mapped)
    mover = _Mover(old, new, plan, mapped, trip_of)
    rows = old.fleet.under_way().tolist()
    kept = [seat for row in rows if (seat := mover.seat(row)) is not None]
    _Seating(old, new, kept, trip_of).seat()
    while pairs := new.fleet.overlaps():
        _take_off(new, max(pairs[0]))
    there = set(new.fleet.number[new.fleet.under_way()].tolist())
    gone = [number for number in old.fleet.number[rows].tolist() if number not in there]
    new.taken_off = [*old.taken_off, *gone]
    new.log.update(f"changed {old.steps} {gone};".encode())
    return new


def _trips(old: TrafficRun, plan: Plan) -> tuple[tuple[Trip, ...], list[int]]:
    """The trips of the plan, then those of the old run that are no more and have sent somebody; and where each old one
    has come to, -1 for nowhere."""
    trips = list(all_trips(plan, old.seed))
    places: dict[Trip, list[int]] = {}
    for at, trip in enumerate(trips):
        places.setdefault(trip, []).append(at)
    sent = old.sent_by_trip()
    found = []
    for at, trip in enumerate(old.trips):
        if places.get(trip):
            found.append(places[trip].pop(0))
        elif sent[at]:
            found.append(len(trips))
            trips.append(replace(trip, count=int(sent[at])))
        else:
            found.append(-1)
    return tuple(trips), found


def _carry_counts(old: TrafficRun, new: TrafficRun, trip_of: Sequence[int]) -> None:
    new.steps = old.steps
    new.log = old.log.copy()
    sent = old.sent_by_trip()
    for at, to in enumerate(trip_of):
        if to >= 0:
            trip = new.trips[to]
            new.plans.left[to] = trip.count - sent[at]
            if not new.no_way[to]:
                due = float(old.plans.due[at])
                new.plans.due[to] = due if np.isfinite(due) else trip.depart + trip.every * sent[at]
    arrivals = old.arrivals
    columns = (arrivals.at, arrivals.took, arrivals.delay)
    for which, at_second, took, delay in zip(arrivals.trip, *columns, strict=True):
        new.arrivals.add(trip_of[which], at_second, took, delay)


def _mapped(old: Ints, new: Ints) -> Ints:
    """By old node, its place among the new ones; -1 for one that is no more. Both ascending."""
    if not len(new):
        return np.full(len(old), -1, np.int64)
    at = np.minimum(np.searchsorted(new, old), len(new) - 1)
    return np.where(new[at] == old, at, -1)


def _carry_record(old: TrafficRun, new: TrafficRun, mapped: Ints) -> None:
    """What was recorded of nodes that are still there, and of movements that begin and end where they did."""
    was, is_ = old.streets.tracks, new.streets.tracks
    record, before = new.record, old.record
    record.take_moments(before)
    stays = np.flatnonzero(mapped >= 0)
    for name in ("time", "way", "lost", "stood"):
        getattr(record, name)[mapped[stays]] = getattr(before, name)[stays]
    pieces = _same_pieces(was, is_, mapped)
    mine = np.flatnonzero(pieces >= 0)
    there = pieces[mine]
    moves = (was.area[mine] >= 0) & (is_.area[there] >= 0)
    a, b = mine[moves], there[moves]
    a_move = was.mask_at[was.area[a]] + was.movement[a]
    b_move = is_.mask_at[is_.area[b]] + is_.movement[b]
    record.delay[b_move] = before.delay[a_move]
    for name in ("passed", "waited"):
        getattr(new.streets.road, name)[b_move] = getattr(old.streets.road, name)[a_move]
    record.queue[is_.area[b]] = before.queue[was.area[a]]


def _same_pieces(was: Tracks, is_: Tracks, mapped: Ints) -> Ints:
    """By old piece, the new one that begins and ends at the same nodes with as many edges; -1 for none."""

    def ends(tracks: Tracks) -> tuple[Ints, Ints]:
        first, last = tracks.edges[tracks.begins[:-1]], tracks.edges[tracks.begins[1:] - 1]
        return tracks.edge_start[first], tracks.edge_to[last]

    (a, b), (c, d) = ends(was), ends(is_)
    a, b = mapped[a], mapped[b]
    size = max(1, len(is_.nodes))
    keys = c * size + d
    order = np.argsort(keys, kind="stable")
    wanted = np.where((a >= 0) & (b >= 0), a * size + b, -1)
    if not len(keys):
        return np.full(len(was), -1, np.int64)
    at = order[np.minimum(np.searchsorted(keys[order], wanted), len(keys) - 1)]
    same = (keys[at] == wanted) & (np.diff(is_.begins)[at] == np.diff(was.begins))
    same &= np.abs(is_.length[at] - was.length) < 1e-6
    return np.where(same, at, -1)


@dataclass(frozen=True, slots=True, eq=False)
class _Seat:
    """Where a vehicle goes on. row : of the old fleet.  pieces : of its new way.  x, goal_x, line_x : along that; the last,
    up to where it has leave."""

    row: int
    pieces: Ints
    x: float
    goal_x: float
    line_x: float


class _Mover:
    """Finds where vehicles go on."""

    def __init__(
        self, old: TrafficRun, new: TrafficRun, plan: Plan, mapped: Ints, trip_of: Sequence[int]
    ) -> None:
        self._old, self._new, self._plan, self._mapped = old, new, plan, mapped
        self._trip_of = trip_of
        self._was, self._is = old.streets.tracks, new.streets.tracks
        self._finder = WayFinder(plan, new.streets.graph, self._is)
        self._dense = new.streets.graph.numbers()
        unit = min(plan.spec.cell_w, plan.spec.cell_h)
        self._near = _NEAR * unit
        self._edges, self._count = self._is.keys, len(self._is.nodes)

    def _leads(self, a: int, b: int) -> bool:
        wanted = a * self._count + b
        at = int(np.searchsorted(self._edges, wanted))
        return at < len(self._edges) and int(self._edges[at]) == wanted

    def seat(self, row: int) -> _Seat | None:
        """Where a vehicle goes on, None where it has lost its lane or its way."""
        fleet = self._old.fleet
        cars = fleet.cars
        begin = max(int(cars.way[row]), int(cars.tail[row]) - 2)
        nodes, at_x = self._path(row, begin)
        x = float(cars.x[row])
        rear = x - float(self._old.streets.kinds.length[cars.kind[row]])
        new = self._mapped[nodes]
        first = self._anchor(new, at_x, rear)
        if first < 0:
            return None
        ahead = int(np.searchsorted(at_x, x))
        body = self._body(nodes, new, at_x, first, ahead)
        if body is None:
            return None
        path, last = body
        if not self._same_place(row, path, x - float(at_x[first]), x - rear):
            return None
        goals = self._goals(row)
        rest = self._rest(new, last, goals)
        same_until = float("inf") if rest is not None else float(at_x[last])
        if rest is None:
            rest = self._anew(path[-1], goals)
            if rest is None:
                return None
        return self._laid(row, path + rest, x - float(at_x[first]), same_until - float(at_x[first]))

    def _path(self, row: int, begin: int) -> tuple[Ints, Floats]:
        """The nodes of a vehicle's way from piece `begin` on, and how far along its way they lie."""
        fleet, was = self._old.fleet, self._was
        cars = fleet.cars
        # How far along its way the piece at `begin` begins.
        x = float(cars.x[row] - cars.s[row])
        x -= float(was.length[fleet.pieces[begin : int(cars.at[row])]].sum())
        pieces = fleet.pieces[begin : int(cars.way_end[row])].tolist()
        nodes = [int(was.edge_start[was.edges[was.begins[pieces[0]]]])]
        at = [x]
        for piece in pieces:
            some = slice(int(was.begins[piece]), int(was.begins[piece + 1]))
            nodes += was.edge_to[was.edges[some]].tolist()
            at += (x + was.end[some]).tolist()
            x += float(was.length[piece])
        found, where = np.array(nodes), np.array(at)
        # Beyond its goal the last piece is not driven.
        stop = int(np.searchsorted(where, float(cars.goal_x[row]) - 1e-9))
        return found[: stop + 1], where[: stop + 1]

    @staticmethod
    def _anchor(new: Ints, at_x: Floats, rear: float) -> int:
        """The last node at or behind a vehicle's rear that is still there, -1 for none."""
        behind = np.flatnonzero((new >= 0) & (at_x <= rear + 1e-9))
        return int(behind[-1]) if len(behind) else -1

    def _body(
        self, nodes: Ints, new: Ints, at_x: Floats, first: int, ahead: int
    ) -> tuple[list[int], int] | None:
        """The new nodes from the anchor to the first one at or beyond its front that is still there, and which of the old
        ones that is; None where the lane under it has another form."""
        path, here = [int(new[first])], first
        while here < ahead:
            after = here + 1
            while after < len(nodes) and new[after] < 0:
                after += 1
            if after >= len(nodes):
                return None
            if after == here + 1 and self._leads(path[-1], int(new[after])):
                path.append(int(new[after]))
            else:
                between = self._between(path[-1], int(new[after]))
                if between is None:
                    return None
                length = self._length([path[-1], *between])
                if abs(length - float(at_x[after] - at_x[here])) > self._near:
                    return None
                path += between
            here = after
        return path, here

    def _between(self, a: int, b: int) -> list[int] | None:
        """The new nodes after `a` up to `b`."""
        numbers = self._is.nodes
        found, _ = search(
            self._new.streets.graph, self._plan, numbers[a : a + 1], numbers[b : b + 1]
        )
        return self._dense[found[1:]].tolist() if len(found) > 1 else None

    def _length(self, path: Sequence[int]) -> float:
        at = self._new.streets.places[list(path)]
        return float(np.hypot(*np.diff(at, axis=0).T).sum())

    def _same_place(self, row: int, path: Sequence[int], along: float, length: float) -> bool:
        """Whether a vehicle with its front so far along new nodes stands where it stood. One lane may be as long as
        another."""
        places = self._new.streets.places[list(path)]
        steps = np.hypot(*np.diff(places, axis=0).T)
        at = np.concatenate(([0.0], np.cumsum(steps)))
        for pose, where in zip(
            self._old.fleet.poses(np.array([row])), (along, along - length), strict=True
        ):
            now = [float(np.interp(where, at, places[:, axis])) for axis in (0, 1)]
            if np.abs(pose[0] - now).max() > self._near:
                return False
        return True

    def _goals(self, row: int) -> Ints:
        """The new nodes at which its trip may end, none for an end that is gone."""
        trip = self._new.trips[self._trip_of[int(self._old.fleet.trip[row])]]
        return self._finder.goals(trip.goal)

    def _rest(self, new: Ints, last: int, goals: Ints) -> list[int] | None:
        """The rest of its old way, None where it is gone or leads elsewhere than its trip does now."""
        rest = new[last:].tolist()
        if min(rest) < 0 or not all(map(self._leads, rest, rest[1:])):
            return None
        return rest[1:] if len(goals) and (goals == rest[-1]).any() else None

    def _anew(self, start: int, goals: Ints) -> list[int] | None:
        if not len(goals):
            return None
        numbers = self._is.nodes
        found, _ = search(
            self._new.streets.graph, self._plan, numbers[start : start + 1], numbers[goals]
        )
        return self._dense[found[1:]].tolist() if len(found) else None

    def _laid(self, row: int, path: list[int], along: float, same: float) -> _Seat | None:
        """along : how far its front is from the first node; same : up to where its way is the old one."""
        if len(path) < 2:
            return None
        nodes = np.array(path)
        edges = self._is.edges_between(nodes[:-1], nodes[1:])
        pieces = self._is.pieces_of(edges)
        first, last = self._is.place_of(int(edges[0])), self._is.place_of(int(edges[-1]))
        shift = self._is.began(first)
        goal = float(self._is.length[pieces[:-1]].sum()) + float(self._is.end[last])
        cars = self._old.fleet.cars
        x = shift + along
        if x > goal + 1e-9:
            return None
        held = float(cars.line_x[row] - cars.x[row]) + x
        return _Seat(row, pieces, x, max(goal, x), min(held, shift + same))


class _Seating:
    """Puts vehicles onto the new road with all that belongs to them."""

    def __init__(
        self, old: TrafficRun, new: TrafficRun, seats: list[_Seat], trip_of: Sequence[int]
    ) -> None:
        self._old, self._new, self._seats = old, new, seats
        self._trip_of, self._own = trip_of, len(new.fleet.pieces)

    def seat(self) -> None:
        """All of them, but for those that are in one another's way on lanes that only now meet."""
        while True:
            self._put_all()
            lost = self._settle_leave()
            if not lost:
                break
            self._seats = [seat for row, seat in enumerate(self._seats) if row not in lost]
        self._link()
        self._promise()
        self._queue()
        self._slow_down()

    def _put_all(self) -> None:
        new = self._new
        own = new.fleet.pieces[: self._own]
        begins = len(own) + np.cumsum([0, *(len(seat.pieces) for seat in self._seats)])
        pieces = np.concatenate([own, *(seat.pieces for seat in self._seats)]).astype(np.int64)
        new.fleet = fleet = Fleet(new.streets, new.kinds, pieces)
        fleet.grow(max(self._old.fleet.room, len(new.trips)))
        fleet.sent = self._old.fleet.sent
        for row, seat in enumerate(self._seats):
            self._put(row, seat, int(begins[row]))
        free = np.arange(fleet.room - 1, len(self._seats) - 1, -1)
        fleet.free[: len(free)], fleet.free_count = free, len(free)

    def _settle_leave(self) -> set[int]:
        """Nobody keeps leave that is in the way of somebody else's: first come those who are there, by number, then those
        who were to come. Returns the rows of those who are in the way of others already."""
        fleet, net = self._new.fleet, self._new.streets.net
        cars = fleet.cars
        held: dict[int, int] = {}
        rows = np.argsort(fleet.number[: len(self._seats)]).tolist()

        def free(at: int) -> bool:
            piece = int(fleet.pieces[at])
            area, move = int(net.area[piece]), int(net.movement[piece])
            return area < 0 or not int(net.mask[net.mask_at[area] + move]) & held.get(area, 0)

        def take(first: int, end: int) -> None:
            for at in range(first, end):
                piece = int(fleet.pieces[at])
                if (area := int(net.area[piece])) >= 0:
                    held[area] = held.get(area, 0) | 1 << int(net.movement[piece])

        lost = set()
        for row in rows:
            there = (int(cars.tail[row]), int(cars.at[row]) + 1)
            if all(map(free, range(*there))):
                take(*there)
            else:
                lost.add(row)
        for row in () if lost else rows:
            first = int(cars.at[row]) + 1
            end = int(cars.line[row]) if cars.line[row] >= 0 else int(cars.way_end[row])
            if not all(map(free, range(first, end))):
                end = first
            # Nobody may stop in a junction, where it could be touched: it has leave to get out of it, or is lost.
            out = end
            if net.inner[fleet.pieces[end - 1]]:
                while out < cars.way_end[row] and net.area[fleet.pieces[out]] >= 0:
                    out += 1
            if not all(map(free, range(end, out))):
                lost.add(row)
                continue
            take(first, out)
            x = float(cars.x[row] - cars.s[row])
            x += float(net.length[fleet.pieces[int(cars.at[row]) : out]].sum())
            _next_line(row, out, x, net, cars, fleet.pieces)
        return lost

    def _put(self, row: int, seat: _Seat, begin: int) -> None:
        """The row of one vehicle, but for what it has to do with others."""
        old, fleet = self._old.fleet, self._new.fleet
        cars, was = fleet.cars, old.cars
        length = self._new.streets.tracks.length
        for name in ("number", "born", "least"):
            getattr(fleet, name)[row] = getattr(old, name)[seat.row]
        fleet.trip[row] = self._trip_of[int(old.trip[seat.row])]
        cars.there[row], cars.kind[row] = 1, was.kind[seat.row]
        cars.way[row], cars.way_end[row] = begin, begin + len(seat.pieces)
        cars.x[row], cars.v[row], cars.goal_x[row] = seat.x, was.v[seat.row], seat.goal_x
        cars.gap[row] = was.gap[seat.row]
        ends = np.cumsum(length[seat.pieces])
        starts = ends - length[seat.pieces]
        at = min(int(np.searchsorted(ends, seat.x, side="right")), len(ends) - 1)
        rear = seat.x - float(self._new.streets.kinds.length[cars.kind[row]])
        tail = min(int(np.searchsorted(ends, rear)), at)
        cars.at[row], cars.tail[row] = begin + at, begin + tail
        cars.tail_x[row] = ends[tail]
        piece = int(seat.pieces[at])
        cars.piece[row], cars.s[row] = piece, seat.x - starts[at]
        net = self._new.streets.net
        edge = int(net.begins[piece])
        while net.end[edge] < cars.s[row] and edge + 1 < net.begins[piece + 1]:
            edge += 1
        cars.edge[row] = edge
        # It keeps leave for what begins before its old line.
        first = at + 1
        while first < len(ends) and starts[first] < seat.line_x - 1e-6:
            first += 1
        x = float(starts[first]) if first < len(ends) else float(ends[-1])
        _next_line(row, begin + first, x, net, cars, fleet.pieces)
        cars.room_at[row], cars.asked[row], cars.next[row] = -1, -1, -1
        cars.why[row], cars.for_[row] = FREELY, -1
        cars.ahead[row] = cars.behind[row] = -1

    def _link(self) -> None:
        """Who follows whom on each piece, and whose rear is still on it."""
        fleet, road = self._new.fleet, self._new.streets.road
        cars, length = fleet.cars, self._new.streets.tracks.length
        count = len(self._seats)
        order = np.lexsort((-cars.s[:count], cars.piece[:count])).tolist()
        for row in order:
            piece = int(cars.piece[row])
            ahead = int(road.last[piece])
            cars.ahead[row] = ahead
            if ahead >= 0:
                cars.behind[ahead] = row
            road.last[piece] = row
        # Of several whose rears are on a piece the hindmost left it last.
        hindmost: dict[int, float] = {}
        for row in range(count):
            end = float(cars.tail_x[row])
            for at in range(int(cars.tail[row]), int(cars.at[row])):
                piece = int(fleet.pieces[at])
                over = float(cars.x[row]) - end
                if over < hindmost.get(piece, np.inf):
                    hindmost[piece] = over
                    road.left[piece], road.left_x[piece] = row, end
                end += float(length[fleet.pieces[at + 1]])

    def _promise(self) -> None:
        """Leave that is held, and room beyond it that is promised."""
        fleet, road, net = self._new.fleet, self._new.streets.road, self._new.streets.net
        kinds = self._new.streets.kinds
        for row in range(len(self._seats)):
            cars = fleet.cars
            until = int(cars.line[row]) if cars.line[row] >= 0 else int(cars.way_end[row])
            inner, room_at = False, -1
            for at in range(int(cars.tail[row]), until):
                piece = int(fleet.pieces[at])
                if net.area[piece] >= 0:
                    move = net.mask_at[net.area[piece]] + net.movement[piece]
                    road.held[move] += 1
                    road.bits[net.area[piece]] |= np.int64(1) << net.movement[piece]
                if net.inner[piece]:
                    inner, room_at = at >= cars.at[row], -1
                elif inner and room_at < 0 and at > cars.at[row]:
                    room_at = at
            if room_at >= 0:
                kind = cars.kind[row]
                road.taken[fleet.pieces[room_at]] += kinds.length[kind] + kinds.gap[kind]
            cars.room_at[row] = room_at

    def _queue(self) -> None:
        """Who asked for leave before asks again, in that order."""
        was, fleet = self._old.fleet.cars, self._new.fleet
        asked = [(int(was.asked[seat.row]), row) for row, seat in enumerate(self._seats)]
        for step, row in sorted(asked):
            cars = fleet.cars
            if step >= 0 and cars.line[row] >= 0:
                j = int(cars.ahead[row])
                if j >= 0 and cars.x[row] + self._gap(row, j) < cars.line_x[row]:
                    continue  # somebody is between it and its line
                _ask(row, step, self._new.streets.net, self._new.streets.road, cars, fleet.pieces)

    def _gap(self, row: int, ahead: int) -> float:
        cars = self._new.fleet.cars
        return float(cars.s[ahead] - cars.s[row])

    def _slow_down(self) -> None:
        """Nobody is faster than it can stop before its line and behind the one ahead."""
        new, count = self._new, len(self._seats)
        kinds, cars = new.streets.kinds, new.fleet.cars
        leaders = [self._leader(row) for row in range(count)]
        followers: dict[int, list[int]] = {}
        for row, (j, _) in enumerate(leaders):
            followers.setdefault(j, []).append(row)
        waiting = deque(range(count))
        # On a ring everybody may have to be a little slower for ever: enough is enough.
        for _ in range(20 * count):
            if not waiting:
                return
            row = waiting.popleft()
            hardest = float(kinds.hardest[cars.kind[row]])
            most = float(cars.v[row])
            to_line = float(cars.line_x[row] - cars.x[row])
            if np.isfinite(to_line):
                most = min(most, float(_stopping(to_line, hardest, new.step)))
            j, gap = leaders[row]
            if j >= 0:
                v, b = float(cars.v[j]), float(kinds.hardest[cars.kind[j]])
                moves = max(0.0, v * v / (2 * b) - v * new.step / 2)
                free = gap + moves - KEPT * float(kinds.gap[cars.kind[row]])
                most = min(most, float(_stopping(free, hardest, new.step)))
            if most < cars.v[row] - 1e-12:
                cars.v[row] = most
                waiting.extend(followers.get(row, ()))
        cars.v[:count] = 0.0

    def _leader(self, row: int) -> tuple[int, float]:
        """Who is ahead of a vehicle, -1 for nobody near, and the gap."""
        new = self._new
        cars, kinds = new.fleet.cars, new.streets.kinds
        kind, v = int(cars.kind[row]), float(cars.v[row])
        near = v * v / (2 * float(kinds.hardest[kind])) + 2 * float(kinds.gap[kind]) + v * new.step
        j, gap = _leader_of(
            row, near, new.streets.net, new.streets.road, cars, kinds, new.fleet.pieces
        )
        return int(j), float(gap)


def _take_off(run: TrafficRun, number: int) -> None:
    """Take one vehicle off the road."""
    row = run.fleet.row_of(number)
    assert row is not None
    streets = run.streets
    _take_away(row, streets.net, streets.road, run.fleet.cars, streets.kinds, run.fleet.pieces)
    run.fleet.give_back(np.array([row]))
