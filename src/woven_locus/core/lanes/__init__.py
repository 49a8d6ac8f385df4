"""The lane graph: the points along which traffic moves, by direction of travel."""

from woven_locus.core.lanes.graph import LaneGraph
from woven_locus.core.lanes.keep_side import KeepSide
from woven_locus.core.lanes.network import LaneNetwork

__all__ = ["KeepSide", "LaneGraph", "LaneNetwork"]
