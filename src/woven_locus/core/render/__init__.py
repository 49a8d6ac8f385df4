"""Arrays in, pixels out: the raster of the ground and what stands on it."""

from woven_locus.core.render.ground_view import GroundOverlay, GroundView
from woven_locus.core.render.palette import DARK, LIGHT, Palette
from woven_locus.core.render.raster import Raster
from woven_locus.core.render.scale import Scale

__all__ = ["DARK", "LIGHT", "GroundOverlay", "GroundView", "Palette", "Raster", "Scale"]
