"""What came of a run, as CSV: trips, junctions, the road over time, a stretch of it."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.junction_rules import RULE_WORDS
from woven_locus.core.traffic.report import junction_figures, trip_figures
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.stretch import Seen
from woven_locus.files.tables import table
from woven_locus.files.traffic_rows import end_text

Floats = npt.NDArray[np.float64]


def trips_table(run: TrafficRun) -> str:
    """A trip a line, seconds."""
    return table(
        (
            "start",
            "end",
            "kind",
            "wanted",
            "sent",
            "arrived",
            "free",
            "mean",
            "p95",
            "delay",
            "why",
        ),
        (
            (
                *(end_text(trip.start), end_text(trip.goal), trip.kind),
                *(item.wanted, item.sent, item.arrived),
                *(_short(item.free), _short(item.mean), _short(item.p95), _short(item.delay)),
                item.why,
            )
            for trip, item in zip(run.trips, trip_figures(run), strict=True)
        ),
    )


def junctions_table(run: TrafficRun) -> str:
    """A junction a line, seconds."""
    return table(
        ("col", "row", "rule", "passed", "mean_wait", "mean_delay", "longest_queue"),
        (
            (
                *(item.cell.col, item.cell.row, RULE_WORDS[item.rule], item.passed),
                *(_short(item.mean_wait), _short(item.mean_delay), item.longest_queue),
            )
            for item in junction_figures(run)
        ),
    )


def arrivals_table(run: TrafficRun) -> str:
    """An arrival a line, seconds."""
    arrivals = run.arrivals
    columns = (arrivals.trip, arrivals.at, arrivals.took, arrivals.delay)
    return table(
        ("trip", "at", "took", "delay"),
        (
            (trip + 1, _short(at), _short(took), _short(delay))
            for trip, at, took, delay in zip(*columns, strict=True)
        ),
    )


def moments_table(run: TrafficRun) -> str:
    """The road at every look."""
    return table(
        ("seconds", "under_way", "held_back", "standing", "mean_speed"),
        (
            (_short(m.seconds), m.under_way, m.held_back, m.standing, _short(m.mean_speed))
            for m in run.record.moments()
        ),
    )


def seen_table(seen: Seen) -> str:
    """Who was where when on a stretch."""
    columns = (seen.seconds, seen.number, seen.along, seen.speed)
    return table(
        ("seconds", "vehicle", "along", "speed"),
        (
            (_short(at), f"V{number}", _short(along), _short(speed))
            for at, number, along, speed in zip(*(c.tolist() for c in columns), strict=True)
        ),
    )


def flow_table(density: Floats, flow: Floats) -> str:
    """Flow by density of a stretch."""
    both = zip(density.tolist(), flow.tolist(), strict=True)
    return table(("density", "flow"), ((_short(a), _short(b)) for a, b in both))


def _short(value: float) -> float:
    return round(value, 6)
