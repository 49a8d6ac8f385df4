"""The tools of Ground."""

from __future__ import annotations

from collections.abc import Callable

from woven_locus.core.editing import Edit
from woven_locus.core.edits import ground, obstacles
from woven_locus.core.edits.ground import Coat
from woven_locus.core.edits.heights import Sculpt
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import low_cell
from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.lines import swept
from woven_locus.core.placing import Verdict, judge_ground
from woven_locus.core.plan import Plan
from woven_locus.core.strokes.base import Stroke
from woven_locus.core.strokes.ground import (
    BoxStroke,
    BrushLineStroke,
    ClearStroke,
    PaintStroke,
    ProfileStroke,
    SculptStroke,
    ShapeStroke,
)
from woven_locus.ui.language import inside, tr
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import GroundTool
from woven_locus.ui.tools.base import Cover, StrokeTool, Tool

# Maps up to this many cells show what a fill would take while the pointer moves.
PREVIEW_CELLS = 192 * 192


class BrushTool(StrokeTool):
    """The coat under the brush."""

    hint = tr("Drag to paint; the coat and the brush are on the bench, Esc drops the stroke")

    def begin(self) -> Stroke:
        chosen, document = self.session.choices.ground, self.session.document
        return PaintStroke(document.plan, document.history, chosen.coat, chosen.brush)

    def cover(self) -> Cover | None:
        hover = self.session.pointer.hover
        if hover is None:
            return None
        return swept([self.session.plan.spec.slot(hover.cell)], self.session.choices.ground.brush)


class SculptTool(BrushTool):
    """Heights under the brush."""

    @property
    def hint(self) -> str:  # type: ignore[override]
        chosen = self.session.choices.ground
        if chosen.sculpt is Sculpt.LEVEL:
            return tr("Drag to level the ground to the height at which the stroke begins")
        if chosen.sculpt is Sculpt.SMOOTH:
            return tr("Drag to smooth the ground; each stroke takes every cell once")
        return tr(
            "Drag to {sculpt} the ground by {amount:g} once a stroke",
            sculpt=inside(tr(chosen.sculpt.value)),
            amount=chosen.amount,
        )

    def press(self, at: Hover, held: bool) -> None:
        super().press(at, held)
        view = self.session.choices.ground.view
        if not (view.shade or view.contours or view.overlay.needs_heights):
            # Who sculpts wants to see it.
            self.session.choices.set_view(shade=True)

    def begin(self) -> Stroke:
        chosen, document = self.session.choices.ground, self.session.document
        return SculptStroke(
            document.plan, document.history, chosen.sculpt, chosen.amount, chosen.brush
        )


class ShapeTool(StrokeTool):
    """A shape that is shown before it acts."""

    def cover(self) -> Cover | None:
        if isinstance(self.stroke, ShapeStroke):
            return self.stroke.cover()
        hover = self.session.pointer.hover
        if hover is None:
            return None
        idle = self.begin()
        assert isinstance(idle, ShapeStroke)
        idle.start(hover.cell)
        return idle.cover()


class LineTool(ShapeTool):
    hint = tr("Drag a line; Shift keeps it to one axis, Esc drops it")

    def begin(self) -> Stroke:
        chosen, document = self.session.choices.ground, self.session.document
        return BrushLineStroke(document.plan, document.history, chosen.coat, chosen.brush)


class BoxTool(ShapeTool):
    hint = tr("Drag a rectangle; Shift makes it a square, Esc drops it")

    def begin(self) -> Stroke:
        document = self.session.document
        return BoxStroke(document.plan, document.history, self.session.choices.ground.coat)


class ClearTool(ShapeTool):
    hint = tr("Click an obstacle to clear it, or drag a rectangle over many")

    def begin(self) -> Stroke:
        return ClearStroke(self.session.plan, self.session.document.history)

    def after(self, stroke: Stroke) -> None:
        assert isinstance(stroke, ClearStroke)
        if not stroke.cleared:
            self.session.say(tr("There is no obstacle to clear there"), "no")


class ProfileTool(ShapeTool):
    """Reads heights along a line."""

    hint = tr("Drag a line to see its heights under Charts; Shift keeps it to one axis")

    def begin(self) -> Stroke:
        return ProfileStroke(self.session.plan, self.session.document.history)

    def drag(self, at: Hover, held: bool) -> None:
        super().drag(at, held)
        if isinstance(self.stroke, ProfileStroke):
            self.session.choices.set_profile(self.stroke.ends)

    def after(self, stroke: Stroke) -> None:
        assert isinstance(stroke, ProfileStroke)
        if self.session.plan.heights is None:
            self.session.say(tr("This plan has no heights yet: import or sculpt some"), "no")
        self.session.choices.set_profile(stroke.ends)


class WideTool(Tool):
    """A click that may change very many cells, worked out where it holds nobody up."""

    doing = ""

    def edit(self, plan: Plan, cell: Cell, coat: Coat) -> Edit:
        raise NotImplementedError

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        if not at.inside:
            session.say(tr("There is no ground outside the grid"), "no")
            return
        # What is chosen now: the bench may have changed by the time that the worker gets to it.
        coat = session.choices.ground.coat
        session.work(
            f"{self.doing} {coat.name(session.plan)}",
            lambda plan, _stopped: self.edit(plan, at.cell, coat),
        )


class FillTool(WideTool):
    """Fills the piece of equal ground under the pointer."""

    hint = tr("Click to fill the piece of equal ground under the pointer")
    doing = tr("Filling with")

    def __init__(self, session: Session, told: Callable[[], None]) -> None:
        super().__init__(session, told)
        self._shown: tuple[object, ...] = ()
        self._cover: Cover | None = None

    def edit(self, plan: Plan, cell: Cell, coat: Coat) -> Edit:
        return ground.fill(plan, cell, coat)

    def cover(self) -> Cover | None:
        hover, plan = self.session.pointer.hover, self.session.plan
        if hover is None or not hover.inside or plan.terrain.size > PREVIEW_CELLS:
            return None
        layer = self.session.choices.ground.coat.layer
        key = (plan.spec, hover.cell, layer, self.session.document.revision)
        if key != self._shown:
            self._shown = key
            self._cover = ground.piece_at(getattr(plan, layer), plan.spec.slot(hover.cell))
        return self._cover


class ReplaceTool(WideTool):
    """Puts one coat in place of another all over the map."""

    hint = tr("Click a coat: all of it on the map is replaced by the one on the bench")
    doing = tr("Replacing by")

    def edit(self, plan: Plan, cell: Cell, coat: Coat) -> Edit:
        return ground.replace_all(plan, cell, coat)


class PickTool(Tool):
    """Takes the coat under the pointer, and with it the brush."""

    hint = tr("Click to take up the terrain under the pointer")

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        if not at.inside:
            session.say(tr("There is no ground outside the grid"), "no")
            return
        code = int(session.plan.terrain[session.plan.spec.slot(at.cell)])
        session.choices.set_ground(coat=ground.Coat("terrain", code), tool=GroundTool.BRUSH)


class ObstacleTool(Tool):
    """Puts an obstacle down, named and sized on the bench."""

    hint = tr("Click to put the obstacle down; its name and size are on the bench")

    def _cells(self, at: Hover) -> tuple[Cell, ...]:
        chosen, spec = self.session.choices.ground, self.session.plan.spec
        cols, rows = chosen.obstacle_cols, chosen.obstacle_rows
        return obstacles.block_of(low_cell(spec, *at.point, cols, rows), cols, rows)

    def press(self, at: Hover, held: bool) -> None:
        session, chosen = self.session, self.session.choices.ground
        wished = chosen.obstacle_name.strip() or tr(LOOKS[0].capitalize())
        name = obstacles.fresh_name(session.plan, wished)
        session.attempt(
            obstacles.place_obstacle, session.plan, name, chosen.obstacle_look, self._cells(at)
        )

    def marks(self) -> Verdict | None:
        hover = self.session.pointer.hover
        return judge_ground(self.session.plan, self._cells(hover)) if hover is not None else None


def ground_tools(session: Session, told: Callable[[], None]) -> dict[GroundTool, Tool]:
    """One of each."""
    return {
        GroundTool.BRUSH: BrushTool(session, told),
        GroundTool.LINE: LineTool(session, told),
        GroundTool.BOX: BoxTool(session, told),
        GroundTool.FILL: FillTool(session, told),
        GroundTool.REPLACE: ReplaceTool(session, told),
        GroundTool.PICK: PickTool(session, told),
        GroundTool.SCULPT: SculptTool(session, told),
        GroundTool.PROFILE: ProfileTool(session, told),
        GroundTool.OBSTACLE: ObstacleTool(session, told),
        GroundTool.CLEAR: ClearTool(session, told),
    }
