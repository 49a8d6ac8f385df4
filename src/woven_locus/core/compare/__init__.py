"""What differs between two plans, and three of them brought together."""

from woven_locus.core.compare.differ import Differences, compare
from woven_locus.core.compare.draft import Conflict
from woven_locus.core.compare.merge import Merged, merge
from woven_locus.core.compare.parts import Thing
from woven_locus.core.compare.taking import taken_over

__all__ = ["Conflict", "Differences", "Merged", "Thing", "compare", "merge", "taken_over"]
