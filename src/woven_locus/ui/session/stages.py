"""The stages of the work, and the tools of some of them."""

from __future__ import annotations

from enum import Enum


class Stage(Enum):
    """The stages in working order."""

    SURVEY = "Survey"
    GROUND = "Ground"
    BUILD = "Build"
    WAYS = "Ways"
    TRAFFIC = "Traffic"
    WAVES = "Waves"
    PROOF = "Proof"


class SurveyTool(Enum):
    """What the pointer does in Survey."""

    SELECT = "Select"
    ACTOR = "Place the actor"


class GroundTool(Enum):
    """What the pointer does in Ground."""

    BRUSH = "Brush"
    LINE = "Line"
    BOX = "Rectangle"
    FILL = "Fill"
    REPLACE = "Replace"
    PICK = "Pick"
    SCULPT = "Sculpt"
    PROFILE = "Profile"
    OBSTACLE = "Obstacle"
    CLEAR = "Clear"


class Filling(Enum):
    """What a drag with a kind in hand does."""

    FREE = "Along the drag"
    ROWS = "In rows"


class WhereShown(Enum):
    """What is shown of where the kind in hand could go."""

    OFF = "Off"
    TURN = "As it is turned"
    ANY = "In any turn"


class WayTool(Enum):
    """What the pointer does in Ways."""

    SELECT = "Select"
    ROAD = "Road"
    BARRIER = "Barrier"
    ERASE = "Erase"
    PUSH = "Push"
    SIGN = "Sign"
    ROUTE = "Route"


class WaveTool(Enum):
    """What the pointer does in Waves."""

    SELECT = "Select"
    ENTRY = "Entry"
    GOAL = "Goal"
    CLEAR = "Clear"


class Trips(Enum):
    """Whose trips make the load."""

    ALL = "Between all structures"
    CHOSEN = "Between those selected"
    PINNED = "Those of the routes asked for"


class VehicleDyes(Enum):
    """What the colour of a vehicle says."""

    KIND = "By kind"
    SPEED = "By speed"
    WAITING = "By waiting"


class WaysOverlay(Enum):
    """What Ways lays over the map."""

    NOTHING = "Nothing"
    GROUPS = "What is joined"
    TIME = "Travel time"
    LOAD = "Load of trips"
    WEAK = "Weak points"
