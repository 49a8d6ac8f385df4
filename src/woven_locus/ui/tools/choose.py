"""Which tool the pointer has, from the stage and what is in hand."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.strokes.ways import LineStroke
from woven_locus.ui.answers.junctions import JunctionKeeper
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.answers.waves import WaveKeeper
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage, SurveyTool, WaveTool, WayTool
from woven_locus.ui.tools.base import Tool
from woven_locus.ui.tools.build import BlockTool, PlaceTool, SelectTool
from woven_locus.ui.tools.ground import ground_tools
from woven_locus.ui.tools.survey import ActorTool
from woven_locus.ui.tools.traffic import VehicleTool
from woven_locus.ui.tools.waves import AttackerTool, PlaceMarkTool
from woven_locus.ui.tools.ways import (
    BarrierTool,
    EraseTool,
    PushTool,
    RoadTool,
    RouteTool,
    SignTool,
)


class ToolBox(QObject):
    """One of each tool, made anew for each document: a stroke belongs to its plan."""

    stroked = pyqtSignal()  # what the tool in use shows is another

    def __init__(
        self,
        session: Session,
        routes: RouteKeeper,
        traffic: TrafficKeeper,
        junctions: JunctionKeeper,
        waves: WaveKeeper,
    ) -> None:
        super().__init__(session)
        self._session, self._routes, self._keeper = session, routes, traffic
        self._junctions, self._waves_run = junctions, waves
        self._make()
        session.replaced.connect(self._make)
        session.ending.connect(lambda: self.current.cancel())
        session.choices.changed.connect(self._chosen)

    def _make(self) -> None:
        session, told = self._session, self.stroked.emit
        self._select = SelectTool(session, told)
        self._place = PlaceTool(session, told)
        self._block = BlockTool(session, told)
        self._ground = ground_tools(session, told)
        self._actor = ActorTool(session, told)
        self._traffic = VehicleTool(session, told, self._keeper, self._junctions)
        self._waves: dict[WaveTool, Tool] = {
            WaveTool.SELECT: AttackerTool(session, told, self._waves_run),
            WaveTool.ENTRY: PlaceMarkTool(session, told, "entry"),
            WaveTool.GOAL: PlaceMarkTool(session, told, "goal"),
            WaveTool.CLEAR: PlaceMarkTool(session, told, "none"),
        }
        self._ways: dict[WayTool, Tool] = {
            WayTool.SELECT: self._select,
            WayTool.ROAD: RoadTool(session, told),
            WayTool.BARRIER: BarrierTool(session, told),
            WayTool.ERASE: EraseTool(session, told),
            WayTool.PUSH: PushTool(session, told),
            WayTool.SIGN: SignTool(session, told),
            WayTool.ROUTE: RouteTool(session, told, self._routes),
        }

    @property
    def current(self) -> Tool:
        hand, choices = self._session.hand, self._session.choices
        if hand.kind is not None:
            return self._place
        if hand.block is not None:
            return self._block
        if choices.stage is Stage.GROUND:
            return self._ground[choices.ground.tool]
        if choices.stage is Stage.SURVEY and choices.survey.tool is SurveyTool.ACTOR:
            return self._actor
        if choices.stage is Stage.WAYS:
            return self._ways[choices.ways.tool]
        if choices.stage is Stage.WAVES:
            return self._waves[choices.waves.tool]
        return self._traffic if choices.stage is Stage.TRAFFIC else self._select

    def _chosen(self, which: str) -> None:
        """A line in hand runs the new way at once."""
        stroke, drawing = self.current.stroke, self._session.choices.ways.drawing
        if which != "ways" or not isinstance(stroke, LineStroke) or stroke.first is None:
            return
        if stroke.drawing != drawing:
            stroke.drawing = drawing
            stroke.again()
