"""The tools of Ways."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell
from woven_locus.core.lines import rectangle
from woven_locus.core.placing import Verdict, judge_barrier, judge_road
from woven_locus.core.routing import End, cannot_end, end_name
from woven_locus.core.strokes.base import Stroke as CoreStroke
from woven_locus.core.strokes.ends import caught
from woven_locus.core.strokes.ways import (
    BarrierStroke,
    Course,
    EraseBlockStroke,
    EraseRoadStroke,
    LineStroke,
    PushStroke,
    RoadStroke,
    SignStroke,
)
from woven_locus.core.ways.roads import Sign
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.language import counted, inside, tr
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session
from woven_locus.ui.tools.base import Cover, StrokeTool, Tool


class RoadTool(StrokeTool):
    """Draws road; what it proposes is judged before the button comes up. A line that is laid by A* stays
    in hand after that, so that it can be bent first."""

    what, thing = tr("Road"), "road"

    def __init__(self, session: Session, told: Callable[[], None]) -> None:
        super().__init__(session, told)
        self.waiting = False  # a laid line is shown, and its button is up
        self._bending: int | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        course = self.session.choices.ways.drawing.course
        if self.waiting:
            return tr(
                "Drag the line to bend it; Ctrl+Enter or a click beside it lays it, Esc drops it"
            )
        if course is Course.LAID:
            return tr(
                "Drag from where the {what} starts to where it ends; A* lays it",
                what=inside(self.what),
            )
        return tr(
            "Drag to draw a {what}, Shift keeps it straight, Esc drops the stroke",
            what=inside(self.what),
        )

    @property
    def line(self) -> LineStroke | None:
        """What is being drawn, or waits to be laid."""
        return self.stroke if isinstance(self.stroke, LineStroke) else None

    def begin(self) -> LineStroke:
        session = self.session
        return RoadStroke(session.plan, session.document.history, session.choices.ways.drawing)

    def press(self, at: Hover, held: bool) -> None:
        line = self.line
        if not self.waiting or line is None:
            super().press(at, held)
            return
        if at.cell in line.vias:
            self._bending = line.vias.index(at.cell)
        elif at.cell in line.cells:
            self._bending = len(line.vias)
        else:
            self.lay()

    def drag(self, at: Hover, held: bool) -> None:
        line = self.line
        if not self.waiting or line is None:
            super().drag(at, held)
        elif self._bending is not None and at.inside:
            line.bend(self._bending, at.cell)
            self._bending = line.vias.index(at.cell)
            self.told()

    def release(self, at: Hover | None, held: bool) -> None:
        line = self.line
        if self.waiting:
            self._bending = None
        elif line is not None and line.drawing.course is Course.LAID and len(line.cells) != 1:
            if line.lost:
                ends = self._judged(
                    [end.cell for end in (line.first, line.last) if end is not None]
                )
                why = tr("no way was found near there; draw around what is in the way")
                if not ends:
                    why = tr("it cannot start or end there: {sentence}", sentence=ends.sentence())
                self.cancel()
                self.session.say(
                    tr("No {what} was laid: {why}", what=inside(self.what), why=why), "no"
                )
                return
            self.waiting = True
            self.told()
        else:
            super().release(at, held)

    def lay(self) -> bool:
        """Lay the line that waits; False when none does."""
        if not self.waiting:
            return False
        self.waiting, self._bending = False, None
        super().release(None, False)
        return True

    def cancel(self) -> bool:
        self.waiting, self._bending = False, None
        return super().cancel()

    def marks(self) -> Verdict | None:
        if self.line is not None:
            return self.line.verdict
        hover = self.session.pointer.hover
        return self._judged([self._caught(hover.cell)]) if hover is not None else None

    def _caught(self, cell: Cell) -> Cell:
        """Where a line that starts here would start."""
        reach = self.session.choices.ways.drawing.reach
        return caught(self.session.plan, cell, reach, self.thing).cell

    def _judged(self, cells: list[Cell]) -> Verdict:
        return judge_road(self.session.plan, cells)

    def after(self, stroke: CoreStroke) -> None:
        if stroke.refused:
            assert isinstance(stroke, LineStroke)
            count = stroke.refused
            self.session.say(
                tr(
                    "{what} left out on {cells}: {sentence}",
                    what=self.what,
                    cells=counted(count, "{n} cell", "{n} cells"),
                    sentence=stroke.verdict.sentence(),
                ),
                "no",
            )


class BarrierTool(RoadTool):
    """Draws a barrier, in the same way."""

    what, thing = tr("Barrier"), "barrier"

    def begin(self) -> LineStroke:
        session = self.session
        return BarrierStroke(session.plan, session.document.history, session.choices.ways.drawing)

    def _judged(self, cells: list[Cell]) -> Verdict:
        return judge_barrier(self.session.plan, cells)


class EraseTool(StrokeTool):
    """Takes roads and barriers away, along the drag or in a rectangle."""

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self.session.choices.ways.block:
            return tr("Drag a rectangle: all roads and barriers in it go when you let go")
        return tr("Drag over roads and barriers to erase them")

    def begin(self) -> CoreStroke:
        session = self.session
        make = EraseBlockStroke if session.choices.ways.block else EraseRoadStroke
        return make(session.plan, session.document.history)

    def cover(self) -> Cover | None:
        if not isinstance(self.stroke, EraseBlockStroke):
            return None
        spec = self.session.plan.spec
        box = rectangle(spec.slot(self.stroke.corner), spec.slot(self.stroke.end))
        return box, np.ones(box.shape, bool)


class SignTool(StrokeTool):
    """Makes roads one way, closes and opens them."""

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self.session.choices.ways.sign is Sign.CLOSED:
            return tr("Drag over road to close it")
        if self.session.choices.ways.sign is Sign.CROSSING:
            return tr("Drag over road where people on foot may cross")
        if self.session.choices.ways.sign is Sign.NONE:
            return tr("Drag over road to open it, both ways")
        return tr("Drag along a road in the direction in which traffic may go; junctions stay open")

    def begin(self) -> SignStroke:
        session = self.session
        return SignStroke(session.plan, session.document.history, session.choices.ways.sign)

    def after(self, stroke: CoreStroke) -> None:
        assert isinstance(stroke, SignStroke)
        if not stroke.signs():
            self.session.say(tr("No sign stands there: drag along two cells of road or more"), "no")


class PushTool(StrokeTool):
    """Picks up a straight run of road or barrier and pushes it aside."""

    hint = tr("Drag a straight piece of road or barrier aside; its joints come along")

    def begin(self) -> PushStroke:
        return PushStroke(self.session.plan, self.session.document.history)

    def press(self, at: Hover, held: bool) -> None:
        super().press(at, held)
        if isinstance(self.stroke, PushStroke) and self.stroke.push is None:
            self.stroke = None
            self.session.say(
                tr("Nothing to push there: take hold of a straight piece of road"), "no"
            )

    def release(self, at: Hover | None, held: bool) -> None:
        stroke, self.stroke = self.stroke, None
        if stroke is None:
            return
        try:
            stroke.finish()
        except WovenError as err:
            self.session.say(tr(err), "no")
        self.told()

    def marks(self) -> Verdict | None:
        if isinstance(self.stroke, PushStroke) and self.stroke.push is not None:
            push = self.stroke.push
            if not push.by:
                return judge_road(self.session.plan, push.run.cells)
            return push.verdict
        return None


class RouteTool(Tool):
    """Two clicks, or one drag, from the start to the goal: a structure each, or a cell that one can go on."""

    def __init__(self, session: Session, told: Callable[[], None], routes: RouteKeeper) -> None:
        super().__init__(session, told)
        self._routes = routes
        self._start: End | None = None
        self._fresh = False  # the press that is held chose the start

    @property
    def start(self) -> End | None:
        """What was clicked first; None once it is gone, or nothing was."""
        start, plan = self._start, self.session.plan
        there = plan.spec.contains(start) if isinstance(start, Cell) else start in plan.register
        return start if there else None

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self.start is not None:
            name = end_name(self.session.plan, self.start)
            return tr("From {name}: now click where the route ends", name=name)
        return tr(
            "Click where the route starts, or drag to where it ends: a structure, or a cell of road (of ground, over ground)"
        )

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        who = session.plan.occupant_at(at.cell)
        end: End = who if who > 0 else at.cell
        if isinstance(end, Cell) and (why := cannot_end(session.plan, end, self._routes.manner)):
            session.say(tr("A route cannot end there: {why}", why=why), "no")
            return
        if isinstance(end, int):
            session.select(end)
        start = self.start
        self._fresh = start is None
        if start is None:
            self._start = end
        else:
            self._start = None
            self._routes.ask(start, end)
        self.told()

    def release(self, at: Hover | None, held: bool) -> None:
        fresh, self._fresh = self._fresh, False
        if not fresh or at is None or self.start is None:
            return
        who = self.session.plan.occupant_at(at.cell)
        if (who if who > 0 else at.cell) != self.start:
            self.press(at, held)

    def cancel(self) -> bool:
        if self.start is None:
            return False
        self._start = None
        self.told()
        return True
