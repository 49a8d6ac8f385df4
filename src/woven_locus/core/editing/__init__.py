"""Edits, their inverse, and the history: the only way in which a plan changes."""

from woven_locus.core.editing.change import Change
from woven_locus.core.editing.changes import (
    ActorChange,
    FundsChange,
    KindsChange,
    ObstaclesChange,
    RoadTableChange,
    StructuresChange,
    TableChange,
    WindowChange,
)
from woven_locus.core.editing.edit import Edit, Notice
from woven_locus.core.editing.history import History
from woven_locus.core.editing.patches import LayerChange, Patch
from woven_locus.core.editing.regrid import GridChange, Keep, Losses, Regrid
from woven_locus.core.editing.values import (
    AcceptedChange,
    KeepSideChange,
    MoneyChange,
    NameChange,
    SnapChange,
    TrafficChange,
    WavesChange,
)

__all__ = [
    "AcceptedChange",
    "ActorChange",
    "Change",
    "Edit",
    "FundsChange",
    "GridChange",
    "History",
    "Keep",
    "KeepSideChange",
    "KindsChange",
    "LayerChange",
    "Losses",
    "MoneyChange",
    "NameChange",
    "Notice",
    "ObstaclesChange",
    "Patch",
    "Regrid",
    "RoadTableChange",
    "SnapChange",
    "StructuresChange",
    "TableChange",
    "TrafficChange",
    "WavesChange",
    "WindowChange",
]
