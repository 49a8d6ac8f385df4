"""Agents that walk routes."""

from woven_locus.core.traffic.simulation import STEP, Simulation
from woven_locus.core.traffic.walkers import Gait, Walkers

__all__ = ["STEP", "Gait", "Simulation", "Walkers"]
