"""Agents that walk routes."""

from woven_locus.core.traffic.walkers import Gait, Walkers

__all__ = ["Gait", "Walkers"]
