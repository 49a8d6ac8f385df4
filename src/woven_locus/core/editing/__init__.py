"""Edits, their inverse, and the history: the only way in which a plan changes."""

from woven_locus.core.editing.edit import Edit, Notice, Patch, StructureChange
from woven_locus.core.editing.history import History

__all__ = ["Edit", "History", "Notice", "Patch", "StructureChange"]
