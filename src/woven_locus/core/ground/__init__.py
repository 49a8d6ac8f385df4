"""The ground: terrain classes and the obstacles that stand on it."""

from woven_locus.core.ground.obstacles import Obstacle
from woven_locus.core.ground.terrain import PATTERNS, TerrainClass, TerrainTable

__all__ = ["PATTERNS", "Obstacle", "TerrainClass", "TerrainTable"]
