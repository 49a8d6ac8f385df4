"""A run that goes on over a plan that has changed."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.plan import Plan
from woven_locus.core.side_by_side import never
from woven_locus.core.traffic.replan.moving import Mover
from woven_locus.core.traffic.replan.people import carry_people
from woven_locus.core.traffic.replan.seating import Seating, take_off
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.value import replace
from woven_locus.core.vehicles import Trip

Ints = npt.NDArray[np.int64]


def carried_over(old: TrafficRun, plan: Plan, stopped: Callable[[], bool] = never) -> TrafficRun:
    """The run as it goes on over a plan whose roads, structures or trips have changed; `old` stays as it is.

    Vehicles keep their numbers, speeds and places (within a fiftieth of a cell). Who had leave to drive on keeps it
    as far as its way is the old one; who then could not stop before its line, or behind the one ahead, is slowed
    down at once. Those that lost their lane or have no way any more are in `taken_off`. Raises Refused, Unknown as
    the making of a run does, and Stopped.
    """
    trips, trip_of = _trips(old, plan)
    new = TrafficRun(plan, trips, old.kinds, old.step, old.seed, stopped)
    _carry_counts(old, new, trip_of)
    mapped = _mapped(old.streets.keys, new.streets.keys)
    _carry_record(old, new, mapped)
    lost = carry_people(old, new, plan, trip_of)
    mover = Mover(old, new, plan, mapped, trip_of)
    rows = old.fleet.under_way().tolist()
    kept = [seat for row in rows if (seat := mover.seat(row)) is not None]
    Seating(old, new, kept, trip_of).seat()
    while pairs := new.fleet.overlaps():
        take_off(new, max(pairs[0]))
    there = set(new.fleet.number[new.fleet.under_way()].tolist())
    gone = [f"V{number}" for number in old.fleet.number[rows].tolist() if number not in there]
    gone += lost
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
                was, now = old.plans.due, new.plans.due
                if new.on_foot[to]:
                    was, now = old.foot_due, new.foot_due
                due = float(was[at])
                now[to] = due if np.isfinite(due) else trip.depart + trip.every * sent[at]
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
    written = before.nodes
    stays = written[mapped[written] >= 0]
    for column, old_column in zip(record.sums, before.sums, strict=True):
        column[mapped[stays]] = old_column[stays]
    pieces = _same_pieces(was, is_, mapped)
    mine = np.flatnonzero(pieces >= 0)
    there = pieces[mine]
    moves = (was.area[mine] >= 0) & (is_.area[there] >= 0)
    a, b = mine[moves], there[moves]
    a_move, b_move = was.moves(a), is_.moves(b)
    delay = before.delay[a_move]
    record.delay[b_move] = delay
    record.note(mapped[stays], b_move[delay != 0])
    for name in ("passed", "waited"):
        getattr(new.streets.road, name)[b_move] = getattr(old.streets.road, name)[a_move]
    record.queue[is_.area[b]] = before.queue[was.area[a]]


def _same_pieces(was: Tracks, is_: Tracks, mapped: Ints) -> Ints:
    """By old piece, the new one that begins and ends at the same nodes with as many edges; -1 for none."""

    def ends(tracks: Tracks) -> tuple[Ints, Ints]:
        every = np.arange(len(tracks))
        return tracks.starts_of(every), tracks.ends_of(every)

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
