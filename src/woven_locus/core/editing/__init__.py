"""Edits, their inverse, and the history: the only way in which a plan changes."""

from woven_locus.core.editing.changes import (
    HeightsChange,
    ObstaclesChange,
    Patch,
    StructureChange,
    TableChange,
    WindowChange,
)
from woven_locus.core.editing.edit import Change, Edit, Notice
from woven_locus.core.editing.history import History
from woven_locus.core.editing.regrid import GridChange, Keep, Losses, Regrid

__all__ = [
    "Change",
    "Edit",
    "GridChange",
    "HeightsChange",
    "History",
    "Keep",
    "Losses",
    "Notice",
    "ObstaclesChange",
    "Patch",
    "Regrid",
    "StructureChange",
    "TableChange",
    "WindowChange",
]
