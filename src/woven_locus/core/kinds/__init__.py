"""What can be built: footprints, kinds, and the catalogue of a plan."""

from woven_locus.core.kinds.footprint import Door, Footprint
from woven_locus.core.kinds.kind import Catalogue, Kind

__all__ = ["Catalogue", "Door", "Footprint", "Kind"]
