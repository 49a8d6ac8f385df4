"""Where each vehicle goes on: its lane and its way on the new roads."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.lines import distances, step_lengths
from woven_locus.core.plan import Plan
from woven_locus.core.routing.lane_ways import search
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.ways import WayFinder
from woven_locus.core.value import Value

Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]
Floats = npt.NDArray[np.float64]

# A vehicle may be moved by so much, as a share of a cell: from the chord of an arc to the lane beside it.
_NEAR = 0.02


class Seat(Value, eq=False):
    """Where a vehicle goes on. row : of the old fleet.  pieces : of its new way.  x, goal_x, line_x : along that; the
    last, up to where it has leave."""

    row: int
    pieces: Shorts
    x: float
    goal_x: float
    line_x: float


class Mover:
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

    def seat(self, row: int) -> Seat | None:
        """Where a vehicle goes on, None where it has lost its lane or its way."""
        fleet = self._old.fleet
        cars = fleet.cars
        begin = max(int(cars.way[row]), int(cars.tail[row]) - 2)
        nodes, at_x = self._path(row, begin)
        x = float(cars.x[row])
        rear = x - float(self._old.streets.kinds.length[cars.kind[row]])
        new = self._mapped[nodes]
        ahead = int(np.searchsorted(at_x, x))
        for first in self._anchors(row, new, at_x, rear):
            body = self._body(nodes, new, at_x, first, ahead)
            if body and self._same_place(row, body[0], x - float(at_x[first]), x - rear):
                break
        else:
            return None
        path, last = body
        goals = self._goals(row)
        rest = self._rest(new, last, goals)
        same_until = float("inf") if rest is not None else float(at_x[last])
        if rest is None:
            rest = self._found(path[-1], goals)
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
        pieces = fleet.pieces[begin : int(cars.way_end[row])]
        at = [x]
        for piece in pieces.tolist():
            at += (x + was.end[was.begins[piece] : was.begins[piece + 1]]).tolist()
            x += float(was.length[piece])
        found, where = np.array(was.nodes_along(pieces)), np.array(at)
        # Beyond its goal the last piece is not driven.
        stop = int(np.searchsorted(where, float(cars.goal_x[row]) - 1e-9))
        return found[: stop + 1], where[: stop + 1]

    def _anchors(self, row: int, new: Ints, at_x: Floats, rear: float) -> list[int]:
        """The nodes that are still there from which a vehicle's way may begin anew: where the last piece begins that it
        has not let go of, if it can keep that, else the last one at or behind its rear."""
        fleet = self._old.fleet
        cars = fleet.cars
        held = fleet.pieces[int(cars.tail[row]) : int(cars.at[row])]
        holds_from = float(cars.x[row] - cars.s[row] - self._was.length[held].sum())
        behind = np.flatnonzero((new >= 0) & (at_x <= rear + 1e-9))
        if not len(behind):
            return []
        holding = behind[at_x[behind] >= holds_from - 1e-9]
        return sorted({int(holding[0]) if len(holding) else int(behind[-1]), int(behind[-1])})

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
            if after == here + 1 and self._is.leads(path[-1], int(new[after])):
                path.append(int(new[after]))
            else:
                between = self._found(path[-1], new[after : after + 1])
                if not between:
                    return None
                length = float(step_lengths(self._places([path[-1], *between])).sum())
                if abs(length - float(at_x[after] - at_x[here])) > self._near:
                    return None
                path += between
            here = after
        return path, here

    def _places(self, path: Sequence[int]) -> Floats:
        """(N, 2) world points of new nodes."""
        return self._new.streets.places[list(path)]

    def _same_place(self, row: int, path: Sequence[int], along: float, length: float) -> bool:
        """Whether a vehicle with its front so far along new nodes stands where it stood. One lane may be as long as
        another."""
        places = self._places(path)
        at = distances(places)
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
        if min(rest) < 0 or not all(map(self._is.leads, rest, rest[1:])):
            return None
        return rest[1:] if len(goals) and (goals == rest[-1]).any() else None

    def _found(self, start: int, goals: Ints) -> list[int] | None:
        """The new nodes after `start` up to the one of some goals that is reached first, None where none is."""
        if not len(goals):
            return None
        numbers = self._is.nodes
        found, _ = search(
            self._new.streets.graph, self._plan, numbers[start : start + 1], numbers[goals]
        )
        return self._dense[found[1:]].tolist() if len(found) else None

    def _laid(self, row: int, path: list[int], along: float, same: float) -> Seat | None:
        """along : how far its front is from the first node; same : up to where its way is the old one."""
        if len(path) < 2:
            return None
        nodes = np.array(path)
        edges = self._is.edges_between(nodes[:-1], nodes[1:])
        pieces = self._is.pieces_of(edges).astype(np.int32)
        first, last = self._is.place_of(int(edges[0])), self._is.place_of(int(edges[-1]))
        shift = self._is.began_at(first)
        begins = float(self._is.length[pieces[:-1]].sum())
        goal = begins + float(self._is.end[last])
        cars = self._old.fleet.cars
        x = shift + along
        if x > goal + 1e-9:
            return None
        goal = min(goal, begins + float(self._is.room_on(pieces[-1:])[1][0]))
        line = int(cars.line[row])
        before = (
            float(self._old.streets.net.pieces.back[self._old.fleet.pieces[line]])
            if line >= 0
            else 0.0
        )
        held = float(cars.line_x[row] - cars.x[row]) + before + x
        return Seat(row, pieces, x, max(goal, x), min(held, shift + same))
