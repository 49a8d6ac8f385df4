"""What must hold of a run of traffic at every step."""

from __future__ import annotations

import numpy as np

from woven_locus.core.traffic.record import Record
from woven_locus.core.traffic.run import TrafficRun


def checked(run: TrafficRun) -> None:
    """All that is held and promised adds up, and everybody is accounted for."""
    fleet, tracks, road = run.fleet, run.streets.tracks, run.streets.road
    need = run.streets.kinds.length + run.streets.kinds.gap
    held, taken = np.zeros_like(road.held), np.zeros_like(road.pieces.taken)
    cars = fleet.cars
    for row in fleet.under_way().tolist():
        until = cars.line[row] if cars.line[row] >= 0 else cars.way_end[row]
        for piece in fleet.pieces[cars.tail[row] : until].tolist():
            if tracks.area[piece] >= 0:
                held[tracks.mask_at[tracks.area[piece]] + tracks.movement[piece]] += 1
        if cars.room_at[row] >= 0:
            taken[fleet.pieces[cars.room_at[row]]] += need[cars.kind[row]]
    np.testing.assert_array_equal(held, road.held)
    np.testing.assert_allclose(taken, road.pieces.taken, atol=1e-9)
    counts = run.counts()
    assert counts.wanted == counts.sent + counts.held_back + counts.no_way
    assert counts.held_back >= 0
    assert counts.under_way == len(fleet.under_way())
    assert counts.sent == counts.arrived + counts.under_way + counts.taken_off
    assert fleet.overlaps() == []


RECORDED = ("time", "way", "lost", "stood", "delay", "queue")


def recorded_sums(record: Record) -> dict[str, np.ndarray]:
    """A copy of all sums of a record, by name."""
    return {name: getattr(record, name).copy() for name in RECORDED}


def assert_keeps_all(record: Record) -> None:
    """Nothing is lost when it is kept and goes on from there."""
    again = record.kept().record()
    for name, column in recorded_sums(record).items():
        np.testing.assert_array_equal(getattr(again, name), column, name)
    assert again.seconds == record.seconds
    assert again.moments() == record.moments()
