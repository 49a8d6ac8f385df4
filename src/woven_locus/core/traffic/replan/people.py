"""People on foot when the roads change: they stay where they are, and find a new way where the old one is gone."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.core.traffic.footways import Footway, Footways
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.walkers import ON_CROSSING, WAITING
from woven_locus.core.value import replace


def carry_people(old: TrafficRun, new: TrafficRun, plan: Plan, trip_of: Sequence[int]) -> list[str]:
    """Put the people of a run into another one; returns the names of those who have lost their way, or the crossing
    that they were on. Counts of crossings that are still there go on."""
    walkers = old.walkers
    new.walkers.sent = walkers.sent
    rows = walkers.under_way()
    mover = _Mover(old, new, plan) if len(rows) or walkers.crossings else None
    gone = []
    for row in rows.tolist():
        assert mover is not None
        if not mover.move(row, trip_of[int(walkers.trip[row])]):
            gone.append(f"P{walkers.number[row]}")
    for (junction, side), crossing in walkers.crossings.items():
        assert mover is not None
        there = mover.junction(junction)
        if there is not None and side in new.streets.junctions.arms_crossed(there):
            mine = new.walkers.crossing(there, side)
            mine.people, mine.waited = crossing.people, mine.waited + crossing.waited
            mine.since = crossing.since
    return gone


class _Mover:
    def __init__(self, old: TrafficRun, new: TrafficRun, plan: Plan) -> None:
        self._old, self._new = old, new
        self._ways = Footways(plan, new.streets.junctions)

    def junction(self, before: int) -> int | None:
        """Which junction of the new streets an old one is."""
        return self._new.streets.junctions.find(self._old.streets.junctions.cell(before))

    def move(self, row: int, trip: int) -> bool:
        """Let somebody go on; False for one who cannot."""
        walkers, people = self._old.walkers, self._new.walkers
        x, at, state = float(walkers.x[row]), int(walkers.next[row]), int(walkers.state[row])
        way = self._same(walkers.ways[row])
        if way is None:
            way, x, at = self._anew(row, trip), 0.0, 0
            if way is None:
                return False
            state = ON_CROSSING if state == ON_CROSSING else 0
        who = int(walkers.number[row]), trip, int(walkers.kind[row])
        mine = people.put(*who, way, float(walkers.born[row]))
        people.x[mine] = x
        people.next[mine], people.state[mine] = at, state
        if at < len(way.crossings):
            junction, side, begin, end = way.crossings[at]
            people.stop[mine] = end if state == ON_CROSSING else begin
            crossing = people.crossing(junction, side)
            if state == ON_CROSSING:
                crossing.on += 1
            elif state == WAITING:
                crossing.waiting.append(mine)
                crossing.arrived[mine] = self._new.seconds
        else:
            people.stop[mine] = np.inf
        return True

    def _same(self, way: Footway) -> Footway | None:
        """The old way, where all that it leads over is as it was."""
        if not self._ways.leads_as_before(way):
            return None
        crossings = []
        for junction, side, begin, end in way.crossings:
            there = self.junction(junction)
            if there is None:
                return None
            crossings.append((there, side, begin, end))
        return replace(way, crossings=tuple(crossings))

    def _anew(self, row: int, trip: int) -> Footway | None:
        """Another way from where somebody is; from a crossing first to its end."""
        walkers = self._old.walkers
        (x, y), goal = walkers.places(np.array([row]))[0].tolist(), self._new.trips[trip].goal
        if walkers.state[row] != ON_CROSSING:
            found = self._ways.from_place(x, y, goal)
            return None if isinstance(found, str) else _from(found, (x, y), ())
        before, side, _, end = walkers.ways[row].crossings[int(walkers.next[row])]
        junction = self.junction(before)
        if junction is None or side not in self._new.streets.junctions.arms_crossed(junction):
            return None
        way = walkers.ways[row]
        far = tuple(float(np.interp(end, way.at, way.points[:, axis])) for axis in (0, 1))
        found = self._ways.from_place(far[0], far[1], goal)
        if isinstance(found, str):
            return None
        length = float(np.hypot(far[0] - x, far[1] - y))
        over = (junction, side, 0.0, max(length, 1e-9))
        return _from(_from(found, (far[0], far[1]), ()), (x, y), (over,))


def _from(
    way: Footway, place: tuple[float, float], over: tuple[tuple[int, int, float, float], ...]
) -> Footway:
    """A way that begins at a place. over : a crossing that leads from there to its beginning."""
    points = np.concatenate((np.array([place]), way.points))
    more = max(float(np.hypot(*(way.points[0] - place))), 1e-9)
    at = np.concatenate(([0.0], way.at + more))
    later = tuple((j, side, a + more, b + more) for j, side, a, b in way.crossings)
    return replace(way, points=points, at=at, crossings=(*over, *later))
