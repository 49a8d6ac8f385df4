"""Vehicles put onto new roads: who follows whom, who has leave, how fast each may be."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from typing import Any

import numpy as np

from woven_locus.core.kernels import driving, right_of_way
from woven_locus.core.kernels.traffic_state import FREELY, KEPT
from woven_locus.core.traffic.fleet import Fleet
from woven_locus.core.traffic.replan.moving import Seat
from woven_locus.core.traffic.run import TrafficRun

# The plain twins of kernels, for single vehicles.
_stopping: Any = driving.stopping
_leader_of: Any = driving.leader
_take_away: Any = driving.take_away
_next_line: Any = right_of_way.next_line
_ask: Any = right_of_way.ask


class Seating:
    """Puts vehicles onto the new road with all that belongs to them."""

    def __init__(
        self, old: TrafficRun, new: TrafficRun, seats: list[Seat], trip_of: Sequence[int]
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
        pieces = np.concatenate([own, *(seat.pieces for seat in self._seats)]).astype(np.int32)
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
        cars, of = fleet.cars, net.pieces
        held: dict[int, int] = {}
        # Who walks across a road keeps others from driving over it.
        crossed: dict[int, int] = {}
        for crossing in self._new.walkers.crossings.values():
            if crossing.on:
                crossed[crossing.area] = crossed.get(crossing.area, 0) | crossing.bits
        rows = np.argsort(fleet.number[: len(self._seats)]).tolist()

        def free(at: int) -> bool:
            piece = int(fleet.pieces[at])
            area, move = int(of.area[piece]), int(of.movement[piece])
            return area < 0 or not int(net.mask[net.mask_at[area] + move]) & held.get(area, 0)

        def take(first: int, end: int) -> None:
            for at in range(first, end):
                piece = int(fleet.pieces[at])
                if (area := int(of.area[piece])) >= 0:
                    held[area] = held.get(area, 0) | 1 << int(of.movement[piece])

        lost = set()
        for row in rows:
            there = (int(cars.tail[row]), int(cars.at[row]) + 1)
            if all(map(free, range(*there))):
                take(*there)
            else:
                lost.add(row)

        def open_(at: int) -> bool:
            piece = int(fleet.pieces[at])
            return (
                free(at) and not crossed.get(int(of.area[piece]), 0) >> int(of.movement[piece]) & 1
            )

        for row in () if lost else rows:
            first = int(cars.at[row]) + 1
            end = int(cars.line[row]) if cars.line[row] >= 0 else int(cars.way_end[row])
            if not all(map(free, range(first, end))):
                end = first
            # Nobody may stop in a junction, nor beyond the line before it, where it could be touched: it has leave to get
            # out of it, or is lost.
            out = end
            if of.inner[fleet.pieces[end - 1]] or self._is_beyond(row, end):
                while out < cars.way_end[row] and of.area[fleet.pieces[out]] >= 0:
                    out += 1
            if not all(map(open_, range(end, out))):
                lost.add(row)
                continue
            take(first, out)
            _next_line(row, out, self._begin_of(row, out), net, cars, fleet.pieces)
        return lost

    def _begin_of(self, row: int, at: int) -> float:
        """Where a place of a vehicle's way begins, ahead of it."""
        fleet, length = self._new.fleet, self._new.streets.net.pieces.length
        cars = fleet.cars
        ahead = fleet.pieces[int(cars.at[row]) : at]
        return float(cars.x[row] - cars.s[row]) + float(length[ahead].sum())

    def _is_beyond(self, row: int, at: int) -> bool:
        """Whether a vehicle is nearer to a place of its way than it may wait for it."""
        fleet = self._new.fleet
        if at >= fleet.cars.way_end[row]:
            return False
        back = float(self._new.streets.net.pieces.back[fleet.pieces[at]])
        return float(fleet.cars.x[row]) > self._begin_of(row, at) - back + 1e-9

    def _put(self, row: int, seat: Seat, begin: int) -> None:
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
        lets_go = ends + self._new.streets.net.pieces.out[seat.pieces]
        tail = min(int(np.argmax(lets_go >= rear)), at)
        cars.at[row], cars.tail[row] = begin + at, begin + tail
        cars.tail_x[row] = lets_go[tail]
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
            ahead = int(road.pieces.last[piece])
            cars.ahead[row] = ahead
            if ahead >= 0:
                cars.behind[ahead] = row
            road.pieces.last[piece] = row
        # Of several whose rears are on a piece the hindmost left it last.
        hindmost: dict[int, float] = {}
        out = self._new.streets.net.pieces.out
        for row in range(count):
            end = float(cars.tail_x[row] - out[fleet.pieces[cars.tail[row]]])
            for at in range(int(cars.tail[row]), int(cars.at[row])):
                piece = int(fleet.pieces[at])
                over = float(cars.x[row]) - end
                if over < hindmost.get(piece, np.inf):
                    hindmost[piece] = over
                    road.pieces.left[piece], road.pieces.left_x[piece] = row, end
                end += float(length[fleet.pieces[at + 1]])

    def _promise(self) -> None:
        """Leave that is held, and room beyond it that is promised."""
        fleet, road, net = self._new.fleet, self._new.streets.road, self._new.streets.net
        kinds, of = self._new.streets.kinds, net.pieces
        for row in range(len(self._seats)):
            cars = fleet.cars
            until = int(cars.line[row]) if cars.line[row] >= 0 else int(cars.way_end[row])
            inner, room_at = False, -1
            for at in range(int(cars.tail[row]), until):
                piece = int(fleet.pieces[at])
                if of.area[piece] >= 0:
                    move = net.mask_at[of.area[piece]] + of.movement[piece]
                    road.held[move] += 1
                    road.areas.bits[of.area[piece]] |= np.int64(1) << of.movement[piece]
                if of.inner[piece]:
                    inner, room_at = at >= cars.at[row], -1
                elif inner and room_at < 0 and at > cars.at[row]:
                    room_at = at
            if room_at >= 0:
                kind = cars.kind[row]
                road.pieces.taken[fleet.pieces[room_at]] += kinds.length[kind] + kinds.gap[kind]
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
        for row, (j, _, _) in enumerate(leaders):
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
            j, free, more = leaders[row]
            if j >= 0:
                v, b = float(cars.v[j]), float(kinds.hardest[cars.kind[j]])
                moves = max(0.0, v * v / (2 * b) - v * new.step / 2 - more)
                free += moves - KEPT * float(kinds.gap[cars.kind[row]])
                most = min(most, float(_stopping(free, hardest, new.step)))
            if most < cars.v[row] - 1e-12:
                cars.v[row] = most
                waiting.extend(followers.get(row, ()))
        cars.v[:count] = 0.0

    def _leader(self, row: int) -> tuple[int, float, float]:
        """Who is ahead of a vehicle, -1 for nobody near, the gap, and how far it may yet swing into that."""
        new = self._new
        cars, kinds = new.fleet.cars, new.streets.kinds
        kind, v = int(cars.kind[row]), float(cars.v[row])
        near = v * v / (2 * float(kinds.hardest[kind])) + 2 * float(kinds.gap[kind]) + v * new.step
        j, gap, swung, more = _leader_of(
            row, near, new.streets.net, new.streets.road, cars, kinds, new.fleet.pieces
        )
        return int(j), float(gap - swung), float(more)


def take_off(run: TrafficRun, number: int) -> None:
    """Take one vehicle off the road."""
    row = run.fleet.row_of(number)
    assert row is not None
    streets = run.streets
    _take_away(row, streets.net, streets.road, run.fleet.cars, streets.kinds, run.fleet.pieces)
    run.fleet.give_back(np.array([row]))
