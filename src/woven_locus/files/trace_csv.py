"""The trace of a run as CSV: where everybody is, at every look. Written as it runs, so that hours take no memory."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Callable

import numpy as np

from woven_locus.core.kernels.traffic_state import ARRIVING, BEHIND, FREELY
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.waiting import waits_for
from woven_locus.core.traffic.walkers import WAITING

COLUMNS = (
    *("time", "agent", "kind", "x", "y", "heading", "speed", "length", "width"),
    *("state", "waits_for"),
)
# Below this speed somebody stands, world units a second.
_STANDS = 1e-2


class Trace:
    """Writes a row for each agent on the map whenever it is due."""

    def __init__(self, put: Callable[[bytes], None], every: float | None) -> None:
        """put : takes what is written.  every : seconds between two looks; each step with None."""
        self._put, self._every, self._next = put, every, 0.0
        self._write([COLUMNS])

    def look(self, run: TrafficRun) -> None:
        """Write how things are now, if it is time to."""
        if self._every is not None:
            if run.seconds < self._next - 1e-9:
                return
            self._next += self._every
        self._write(rows_now(run))

    def _write(self, rows: object) -> None:
        out = io.StringIO()
        csv.writer(out, lineterminator="\n").writerows(rows)  # type: ignore[arg-type]
        self._put(out.getvalue().encode())


def rows_now(run: TrafficRun) -> list[tuple[object, ...]]:
    """A row of COLUMNS for each agent on the map."""
    return _vehicles(run) + _people(run)


def _people(run: TrafficRun) -> list[tuple[object, ...]]:
    walkers = run.walkers
    rows = walkers.under_way()
    found: list[tuple[object, ...]] = []
    places, headings = walkers.places(rows), walkers.headings(rows)
    for at, row in enumerate(rows.tolist()):
        kind, state = walkers.kinds[int(walkers.kind[row])], int(walkers.state[row])
        found.append(
            (
                round(run.seconds, 9),
                f"P{walkers.number[row]}",
                kind.key,
                *(round(float(value), 6) for value in places[at]),
                round(float(headings[at]), 6),
                0.0 if state == WAITING else kind.speed,
                kind.size,
                kind.size,
                ("walking", "yielding", "crossing")[state],
                "",
            )
        )
    return found


def _vehicles(run: TrafficRun) -> list[tuple[object, ...]]:
    fleet = run.fleet
    rows = fleet.under_way()
    if not len(rows):
        return []
    front, rear = fleet.poses(rows)
    middle = (front + rear) / 2
    ahead = front - rear
    heading = np.degrees(np.arctan2(ahead[:, 1], ahead[:, 0])) % 360.0
    cars, waits = fleet.cars, waits_for(run)
    found: list[tuple[object, ...]] = []
    for at, row in enumerate(rows.tolist()):
        kind = run.kinds[int(cars.kind[row])]
        speed, who = float(cars.v[row]), int(waits[row])
        found.append(
            (
                round(run.seconds, 9),
                f"V{fleet.number[row]}",
                kind.key,
                *(round(float(value), 6) for value in middle[at]),
                round(float(heading[at]), 6),
                round(speed, 6),
                kind.length,
                kind.width,
                _state(int(cars.why[row]), speed),
                f"V{fleet.number[who]}" if who >= 0 else "",
            )
        )
    return found


def _state(why: int, speed: float) -> str:
    """driving, queueing behind somebody, or yielding at a line."""
    if why in (FREELY, ARRIVING) or not math.isfinite(speed) or speed > _STANDS:
        return "driving"
    return "queueing" if why == BEHIND else "yielding"
