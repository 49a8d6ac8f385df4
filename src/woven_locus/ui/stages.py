"""The stages of the work, and the tools of Ways."""

from __future__ import annotations

from enum import Enum


class Stage(Enum):
    """The stages in working order; those that are not built yet are not here."""

    SURVEY = "Survey"
    GROUND = "Ground"
    BUILD = "Build"
    WAYS = "Ways"
    TRAFFIC = "Traffic"


class WayTool(Enum):
    """What the pointer does in Ways."""

    SELECT = "Select"
    ROAD = "Draw road"
    ERASE = "Erase road"
    ROUTE = "Find a route"
