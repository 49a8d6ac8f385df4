"""Edits, their inverse, and the history: the only way in which a plan changes."""

from woven_locus.core.editing.changes import (
    ActorChange,
    FundsChange,
    HeightsChange,
    KindsChange,
    ObstaclesChange,
    Patch,
    RoadTableChange,
    StructuresChange,
    TableChange,
    WindowChange,
)
from woven_locus.core.editing.edit import Change, Edit, Notice
from woven_locus.core.editing.history import History
from woven_locus.core.editing.regrid import GridChange, Keep, Losses, Regrid

__all__ = [
    "ActorChange",
    "Change",
    "Edit",
    "FundsChange",
    "GridChange",
    "HeightsChange",
    "History",
    "Keep",
    "KindsChange",
    "Losses",
    "Notice",
    "ObstaclesChange",
    "Patch",
    "Regrid",
    "RoadTableChange",
    "StructuresChange",
    "TableChange",
    "WindowChange",
]
