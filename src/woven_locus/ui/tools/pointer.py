"""The tools of Build and Ways, and the one that selects."""

from __future__ import annotations

from typing import TYPE_CHECKING

from woven_locus.core.geometry import Cell
from woven_locus.core.placing import Verdict, judge_road
from woven_locus.core.tools import edits
from woven_locus.core.tools.strokes import EraseRoadStroke, PlaceStroke, RoadStroke
from woven_locus.core.tools.strokes import Stroke as CoreStroke
from woven_locus.ui.tools.base import StrokeTool, Tool

if TYPE_CHECKING:
    from woven_locus.ui.session import Hover, Session


class SelectTool(Tool):
    """Click selects; dragging a structure picks it up and puts it down."""

    hint = "Click a structure to select it, drag it to move it"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._pressed: Cell | None = None

    def press(self, at: Hover, held: bool) -> None:
        who = self.session.plan.occupant_at(at.cell)
        self.session.select(max(0, who))
        self._pressed = at.cell if who > 0 else None
        if who < 0:
            self.session.say(f"{self.session.plan.title_of(who)} stands here; it blocks building")

    def drag(self, at: Hover, held: bool) -> None:
        if self._pressed is not None and at.cell != self._pressed and self.session.selection:
            self._pressed = None
            self.session.lift(self.session.selection)
            self.session.pulled = True


class BuildTool(StrokeTool):
    """With a kind in hand: click places, drag places many. With a lifted one: click puts down."""

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self.session.lifted:
            return "Click to put it down, T turns, Esc leaves it where it was"
        return "Click places, drag places many, T turns, Esc puts the kind back"

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        if session.ghost is None:
            return
        if session.lifted:
            self._put_down()
            return
        self.stroke = self.begin()
        self.stroke.start(session.ghost.cell)
        self._say_refusal()

    def begin(self) -> PlaceStroke:
        session, document = self.session, self.session.document
        assert session.armed is not None
        return PlaceStroke(
            document.plan, document.history, session.armed, session.turn, document.now()
        )

    def drag(self, at: Hover, held: bool) -> None:
        if self.stroke is not None and self.session.ghost is not None:
            self.stroke.to(self.session.ghost.cell)

    def release(self, at: Hover | None, held: bool) -> None:
        if self.session.pulled:
            self.session.pulled = False
            if self.session.lifted and self.session.ghost is not None:
                self._put_down()
            self.session.disarm()
            return
        super().release(at, held)

    def _put_down(self) -> None:
        session, ghost = self.session, self.session.ghost
        assert ghost is not None
        if session.attempt(edits.move, session.plan, ghost.lifted, ghost.cell, ghost.turn):
            session.disarm()

    def _say_refusal(self) -> None:
        if isinstance(self.stroke, PlaceStroke) and self.stroke.first_refusal:
            self.session.say(self.stroke.first_refusal, "no")


class RoadTool(StrokeTool):
    """Draws road; what it proposes is judged before the button comes up."""

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
                f"Road left out on {count} cell{'s' * (count != 1)}: {stroke.verdict.sentence()}",
                "no",
            )


class EraseTool(StrokeTool):
    hint = "Drag over road to erase it"

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
