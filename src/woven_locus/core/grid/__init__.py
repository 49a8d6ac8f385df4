"""The grid: world <-> cell <-> index, and the snapping rules with their written working."""

from woven_locus.core.grid.snapping import Rule, Snapped, SnapSettings, low_cell, snap, snap_many
from woven_locus.core.grid.spec import GridSpec

__all__ = ["GridSpec", "Rule", "SnapSettings", "Snapped", "low_cell", "snap", "snap_many"]
