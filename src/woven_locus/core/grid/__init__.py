"""The grid: world <-> cell <-> index, and the snapping rules with their written working."""

from woven_locus.core.grid.snapping import (
    Holding,
    Rule,
    Snapped,
    SnapSettings,
    low_cell,
    snap,
    snap_many,
)
from woven_locus.core.grid.spec import GridSpec
from woven_locus.core.grid.window import BuildWindow

__all__ = [
    "BuildWindow",
    "GridSpec",
    "Holding",
    "Rule",
    "SnapSettings",
    "Snapped",
    "low_cell",
    "snap",
    "snap_many",
]
