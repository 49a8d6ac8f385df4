"""Vehicles on the roads: tracks and conflicts from the lane graph, and the stepped simulation."""

from woven_locus.core.traffic.run import Counts, TrafficRun

__all__ = ["Counts", "TrafficRun"]

# Seconds of a run at most: a week; at 30 steps a second nobody waits for more.
LONGEST_RUN = 604_800.0
