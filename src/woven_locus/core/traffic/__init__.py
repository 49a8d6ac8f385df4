"""Vehicles on the roads: tracks and conflicts from the lane graph, and the stepped simulation."""

from woven_locus.core.traffic.run import STEP, Counts, TrafficRun

__all__ = ["STEP", "Counts", "TrafficRun"]
