"""Vehicles on the roads: tracks and conflicts from the lane graph, and the stepped simulation."""

from woven_locus.core.traffic.run import Counts, TrafficRun

__all__ = ["Counts", "TrafficRun"]
