"""What the user has chosen on the bench, stage by stage: plain values, changed through the session."""

from __future__ import annotations

from woven_locus.core.edits.ground import Coat
from woven_locus.core.edits.heights import Sculpt
from woven_locus.core.grid.art import Art
from woven_locus.core.grid.probe import Actor
from woven_locus.core.lines import Brush
from woven_locus.core.render import GroundView
from woven_locus.core.strokes.ways import Drawing
from woven_locus.core.traffic.maps import Measure
from woven_locus.core.value import Value, field
from woven_locus.core.ways.roads import Sign
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import (
    Filling,
    GroundTool,
    SurveyTool,
    Trips,
    VehicleDyes,
    WaveTool,
    WaysOverlay,
    WayTool,
    WhereShown,
)


class GroundSettings(Value):
    """amount : units by which a sculpting stroke raises or lowers.
    obstacle_*: what the obstacle tool puts down."""

    tool: GroundTool = GroundTool.BRUSH
    coat: Coat = field(default_factory=lambda: Coat("terrain", 0))
    brush: Brush = field(default_factory=Brush)
    sculpt: Sculpt = Sculpt.RAISE
    amount: float = 4.0
    obstacle_name: str = tr("Boulder")
    obstacle_look: str = "boulder"
    obstacle_cols: int = 1
    obstacle_rows: int = 1
    view: GroundView = field(default_factory=GroundView)


class BuildSettings(Value):
    """stay : the kind stays in hand after it was placed.  filling : what a drag does.
    gap_cols, gap_rows : free cells between neighbours in rows.  where : what is shown of the spots."""

    stay: bool = True
    filling: Filling = Filling.FREE
    gap_cols: int = 0
    gap_rows: int = 0
    where: WhereShown = WhereShown.OFF


class WaysSettings(Value):
    """tool : in the pointer's hand.  drawing : how lines run.  block : erasing takes rectangles.  sign : what the sign tool puts up,
    NORTH for one way along the drag.  shown : what lies over the map.  band : seconds of a band of travel
    time.  trips : whose make the load."""

    tool: WayTool = WayTool.ROAD
    drawing: Drawing = field(default_factory=Drawing)
    block: bool = False
    sign: Sign = Sign.NORTH
    shown: WaysOverlay = WaysOverlay.NOTHING
    band: float = 30.0
    trips: Trips = Trips.ALL


class TrafficSettings(Value):
    """shown : what of the run lies over the map, None for nothing.  dyes : what the colour of a vehicle says."""

    shown: Measure | None = None
    dyes: VehicleDyes = VehicleDyes.KIND


class WavesSettings(Value):
    """tool : in the pointer's hand.  ranges : whether the ranges of all towers are shown, not only of those looked at."""

    tool: WaveTool = WaveTool.SELECT
    ranges: bool = True


class SurveySettings(Value):
    """actor : where it stands, None before it is placed.  art : what is checked against the cells, None
    while it is not shown."""

    tool: SurveyTool = SurveyTool.SELECT
    actor: Actor | None = None
    art: Art | None = None
