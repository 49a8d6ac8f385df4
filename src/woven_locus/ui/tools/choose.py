"""Which tool the pointer has, from the session's stage and what is in hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

from woven_locus.ui.session.stages import Stage, SurveyTool, WayTool
from woven_locus.ui.tools.base import Tool
from woven_locus.ui.tools.build import BlockTool, PlaceTool, SelectTool
from woven_locus.ui.tools.ground import ground_tools
from woven_locus.ui.tools.survey import ActorTool
from woven_locus.ui.tools.ways import (
    BarrierTool,
    EraseTool,
    PushTool,
    RoadTool,
    RouteTool,
    SignTool,
)

if TYPE_CHECKING:
    from woven_locus.ui.session.session import Session


class ToolBox:
    """One of each tool, made once."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._select = SelectTool(session)
        self._place = PlaceTool(session)
        self._block = BlockTool(session)
        self._ground = ground_tools(session)
        self._actor = ActorTool(session)
        self._ways: dict[WayTool, Tool] = {
            WayTool.SELECT: self._select,
            WayTool.ROAD: RoadTool(session),
            WayTool.BARRIER: BarrierTool(session),
            WayTool.ERASE: EraseTool(session),
            WayTool.PUSH: PushTool(session),
            WayTool.SIGN: SignTool(session),
            WayTool.ROUTE: RouteTool(session),
        }

    @property
    def current(self) -> Tool:
        if self._session.armed is not None:
            return self._place
        if self._session.hand.block is not None:
            return self._block
        if self._session.stage is Stage.GROUND:
            return self._ground[self._session.ground.tool]
        if self._session.stage is Stage.SURVEY and self._session.survey.tool is SurveyTool.ACTOR:
            return self._actor
        if self._session.stage is Stage.WAYS:
            return self._ways[self._session.way_tool]
        return self._select
