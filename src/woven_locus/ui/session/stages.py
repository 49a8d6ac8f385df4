"""The stages of the work, and the tools of some of them."""

from __future__ import annotations

from enum import Enum

from woven_locus.ui.language import mark


class Stage(Enum):
    """The stages in working order."""

    SURVEY = mark("Survey")
    GROUND = mark("Ground")
    BUILD = mark("Build")
    WAYS = mark("Ways")
    TRAFFIC = mark("Traffic")
    WAVES = mark("Waves")
    PROOF = mark("Proof")


class SurveyTool(Enum):
    """What the pointer does in Survey."""

    SELECT = mark("Select")
    ACTOR = mark("Place the actor")


class GroundTool(Enum):
    """What the pointer does in Ground."""

    BRUSH = mark("Brush")
    LINE = mark("Line")
    BOX = mark("Rectangle")
    FILL = mark("Fill")
    REPLACE = mark("Replace")
    PICK = mark("Pick")
    SCULPT = mark("Sculpt")
    PROFILE = mark("Profile")
    OBSTACLE = mark("Obstacle")
    CLEAR = mark("Clear")


class Filling(Enum):
    """What a drag with a kind in hand does."""

    FREE = mark("Along the drag")
    ROWS = mark("In rows")


class WhereShown(Enum):
    """What is shown of where the kind in hand could go."""

    OFF = mark("Off")
    TURN = mark("As it is turned")
    ANY = mark("In any turn")


class WayTool(Enum):
    """What the pointer does in Ways."""

    SELECT = mark("Select")
    ROAD = mark("Road")
    BARRIER = mark("Barrier")
    ERASE = mark("Erase")
    PUSH = mark("Push")
    SIGN = mark("Sign")
    ROUTE = mark("Route")


class WaveTool(Enum):
    """What the pointer does in Waves."""

    SELECT = mark("Select")
    ENTRY = mark("Entry")
    GOAL = mark("Goal")
    CLEAR = mark("Clear")


class Trips(Enum):
    """Whose trips make the load."""

    ALL = mark("Between all structures")
    CHOSEN = mark("Between those selected")
    PINNED = mark("Those of the routes asked for")


class VehicleDyes(Enum):
    """What the colour of a vehicle says."""

    KIND = mark("By kind")
    SPEED = mark("By speed")
    WAITING = mark("By waiting")


class WaysOverlay(Enum):
    """What Ways lays over the map."""

    NOTHING = mark("Nothing")
    GROUPS = mark("What is joined")
    TIME = mark("Travel time")
    LOAD = mark("Load of trips")
    WEAK = mark("Weak points")
