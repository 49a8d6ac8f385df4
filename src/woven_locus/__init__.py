"""Woven Locus: snap, judge, place, record and route on a grid, with the working shown."""

__version__ = "0.2.0"
