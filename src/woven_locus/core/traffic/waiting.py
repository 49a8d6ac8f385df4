"""Who waits for whom, and rings of those who wait for one another."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels.traffic_state import AT_RED, BEHIND, FOR_PEOPLE, GIVES_WAY
from woven_locus.core.traffic.fleet import asking
from woven_locus.core.traffic.run import TrafficRun

Ints = npt.NDArray[np.int64]
# Vehicles of a ring that are named.
_MOST_NAMES = 6


def stuck(run: TrafficRun) -> list[list[int]]:
    """Rings of vehicles that wait for one another and so will never move: the numbers of each ring's vehicles.

    O(vehicles): each waits for one other at most.
    """
    fleet = run.fleet
    rows = fleet.under_way()
    waits = waits_for(run)
    stands = fleet.cars.v < 1e-3
    seen = np.zeros(fleet.room, np.int64)
    rings = []
    for walk, row in enumerate(rows.tolist(), 1):
        here, path = row, []
        while here >= 0 and stands[here] and not seen[here]:
            seen[here] = walk
            path.append(here)
            here = int(waits[here])
        if here >= 0 and stands[here] and seen[here] == walk:
            ring = path[path.index(here) :]
            rings.append(sorted(fleet.number[ring].tolist()))
    return rings


def ring_names(ring: Sequence[int]) -> str:
    """``V3, V7 …``: the first vehicles of a ring."""
    names = ", ".join(f"V{number}" for number in ring[:_MOST_NAMES])
    return names + (" …" if len(ring) > _MOST_NAMES else "")


def waits_for(run: TrafficRun, some: Ints | None = None) -> Ints:
    """By row of the fleet: the row of the vehicle that each waits for, -1 for nobody. Who waits for leave waits for one
    that has it for a movement in conflict with its own, or for one that goes first. At a red signal, and for people,
    no vehicle is waited for.
    some : rows that are asked about; all on the road by default."""
    fleet, cars = run.fleet, run.fleet.cars
    found = np.full(fleet.room, -1, np.int64)
    rows = fleet.under_way() if some is None else some
    named = rows[cars.for_[rows] >= 0]
    found[named] = cars.for_[named]
    asks = rows[(cars.asked[rows] >= 0) & (found[rows] < 0)]
    asks = asks[~np.isin(cars.why[asks], (BEHIND, AT_RED, FOR_PEOPLE))]
    holders = _holders(run, fleet.under_way()) if len(asks) else {}
    for row in asks.tolist():
        found[row] = _in_the_way(run, row, holders)
    return found


def _holders(run: TrafficRun, rows: Ints) -> dict[int, list[tuple[int, int]]]:
    """By area: (movement, row) of those that have leave there."""
    fleet, tracks = run.fleet, run.streets.tracks
    cars = fleet.cars
    found: dict[int, list[tuple[int, int]]] = {}
    for row in rows.tolist():
        until = int(cars.line[row]) if cars.line[row] >= 0 else int(cars.way_end[row])
        for piece in fleet.pieces[int(cars.tail[row]) : until].tolist():
            if (area := int(tracks.area[piece])) >= 0:
                found.setdefault(area, []).append((int(tracks.movement[piece]), row))
    return found


def _in_the_way(run: TrafficRun, row: int, holders: dict[int, list[tuple[int, int]]]) -> int:
    """The row of who has leave, or asked before, for what conflicts with a vehicle's next movement; -1 for nobody."""
    fleet, tracks, road = run.fleet, run.streets.tracks, run.streets.road
    cars = fleet.cars
    at = int(cars.line[row])
    # Leave is given for a movement and those that follow it without room to wait between them.
    while at < cars.way_end[row] and (area := int(tracks.area[fleet.pieces[at]])) >= 0:
        piece = int(fleet.pieces[at])
        mask = int(tracks.mask[tracks.mask_at[area] + tracks.movement[piece]])
        for movement, other in holders.get(area, ()):
            if other != row and mask >> movement & 1:
                return other
        at += 1
    piece = int(fleet.pieces[cars.line[row]])
    area = int(tracks.area[piece])
    mask = int(tracks.mask[tracks.mask_at[area] + tracks.movement[piece]])
    mask |= 1 << int(tracks.movement[piece])
    # Who gives way may have come before the other.
    gives_way, rank = int(cars.why[row]) == GIVES_WAY, run.rules.rank
    mine = int(rank[tracks.mask_at[area] + tracks.movement[piece]])
    for other in asking(road, cars, area):
        if other == row:
            if gives_way:
                continue
            break
        movement = int(tracks.movement[fleet.pieces[cars.line[other]]])
        larger = not gives_way or int(rank[tracks.mask_at[area] + movement]) > mine
        if larger and mask >> movement & 1:
            return other
    return -1
