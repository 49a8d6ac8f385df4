"""Kinds of structures: footprint, turns, what they ask, and the catalogue that holds them."""

from woven_locus.core.kinds.demands import (
    NO_DEMANDS,
    Clear,
    Demands,
    Lattice,
    Stand,
    Thing,
    Touch,
)
from woven_locus.core.kinds.footprint import Door, Footprint
from woven_locus.core.kinds.kind import Catalogue, Kind
from woven_locus.core.kinds.turns import MIRRORED

__all__ = [
    "MIRRORED",
    "NO_DEMANDS",
    "Catalogue",
    "Clear",
    "Demands",
    "Door",
    "Footprint",
    "Kind",
    "Lattice",
    "Stand",
    "Thing",
    "Touch",
]
