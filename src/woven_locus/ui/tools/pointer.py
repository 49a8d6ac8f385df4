"""The tools of Ways."""

from __future__ import annotations

from typing import TYPE_CHECKING

from woven_locus.core.placing import Verdict, judge_barrier, judge_road
from woven_locus.core.tools.strokes import Stroke as CoreStroke
from woven_locus.core.tools.way_strokes import BarrierStroke, EraseRoadStroke, RoadStroke
from woven_locus.ui.tools.base import StrokeTool, Tool

if TYPE_CHECKING:
    from woven_locus.ui.session import Hover


class RoadTool(StrokeTool):
    """Draws road; what it proposes is judged before the button comes up."""

    what = "Road"
    hint = "Drag to draw road, Shift keeps it straight, Esc drops the stroke"

    def begin(self) -> RoadStroke:
        return RoadStroke(self.session.plan, self.session.document.history)

    def marks(self) -> Verdict | None:
        if isinstance(self.stroke, RoadStroke):
            return self.stroke.verdict
        hover = self.session.hover
        return judge_road(self.session.plan, [hover.cell]) if hover is not None else None

    def after(self, stroke: CoreStroke) -> None:
        if stroke.refused:
            assert isinstance(stroke, RoadStroke)
            count = stroke.refused
            self.session.say(
                f"{self.what} left out on {count} cell{'s' * (count != 1)}: {stroke.verdict.sentence()}",
                "no",
            )


class BarrierTool(RoadTool):
    """Draws a barrier, in the same way."""

    what = "Barrier"
    hint = "Drag to draw a barrier, Shift keeps it straight, Esc drops the stroke"

    def begin(self) -> RoadStroke:
        return BarrierStroke(self.session.plan, self.session.document.history)

    def marks(self) -> Verdict | None:
        if isinstance(self.stroke, RoadStroke):
            return self.stroke.verdict
        hover = self.session.hover
        return judge_barrier(self.session.plan, [hover.cell]) if hover is not None else None


class EraseTool(StrokeTool):
    hint = "Drag over roads and barriers to erase them"

    def begin(self) -> EraseRoadStroke:
        return EraseRoadStroke(self.session.plan, self.session.document.history)


class RouteTool(Tool):
    """First click chooses the start, the second the goal."""

    @property
    def hint(self) -> str:  # type: ignore[override]
        start = self.session.route_start
        if start:
            return f"From {self.session.plan.title_of(start)}: now click where the route ends"
        return "Click the structure at which the route starts"

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        who = session.plan.occupant_at(at.cell)
        if who <= 0:
            session.say("A route joins two structures: click a structure", "no")
            return
        session.select(who)
        if not session.route_start:
            session.route_start = who
        else:
            start, session.route_start = session.route_start, 0
            session.routes.ask(start, who)
        session.tool_changed.emit()

    def cancel(self) -> bool:
        if not self.session.route_start:
            return False
        self.session.route_start = 0
        self.session.tool_changed.emit()
        return True
