"""What the interface knows besides the document: stage, tool in hand, pointer, selection.

Every part of the window listens to the session's signals; none knows another part.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core import edits
from woven_locus.core.editing import Edit, Notice
from woven_locus.core.edits.blocks import Block
from woven_locus.core.edits.ground import Coat
from woven_locus.core.edits.money import place_actor
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Box, Cell, Point
from woven_locus.core.grid import Snapped, SnapSettings, snap
from woven_locus.core.grid.probe import Actor
from woven_locus.core.kinds.turns import flipped
from woven_locus.core.lines import LARGEST_BRUSH
from woven_locus.core.plan import Plan
from woven_locus.core.render import GroundView, Overlay
from woven_locus.core.render.ground_view import height_range
from woven_locus.core.strokes.ways import LineStroke
from woven_locus.document import Document
from woven_locus.ui.actions.building import Building
from woven_locus.ui.answers.network import WayStudy
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.answers.walk import Walk
from woven_locus.ui.answers.where import WhereKeeper
from woven_locus.ui.jobs.asking import Asking
from woven_locus.ui.jobs.pool import Control, Jobs
from woven_locus.ui.session.hand import BlockGhost, Ghost, Hand
from woven_locus.ui.session.settings import (
    BuildSettings,
    GroundSettings,
    SurveySettings,
    WaysSettings,
)
from woven_locus.ui.session.stages import Stage, SurveyTool, WayTool
from woven_locus.ui.tools.choose import ToolBox
from woven_locus.ui.tools.survey import ActorTool


@dataclass(frozen=True, slots=True)
class Hover:
    """Where the pointer is. cell : of the endless lattice; inside : whether the grid has it."""

    point: Point
    cell: Cell
    inside: bool
    snapped: Snapped


class Session(QObject):
    """One open document and everything about how it is being looked at."""

    replaced = pyqtSignal()  # another document is open
    changed = pyqtSignal(object)  # Notice: the plan changed
    stage_changed = pyqtSignal()
    tool_changed = pyqtSignal()
    hovered = pyqtSignal()
    selected = pyqtSignal()
    said = pyqtSignal(str, str)  # text, level: "note", "no" or "error"
    profiled = pyqtSignal()  # the line along which heights are read
    reveal = pyqtSignal(object)  # Cell to bring into sight
    taken_up = pyqtSignal()  # a tool was chosen by hand: the keys now belong to the sheet

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._bugs: Callable[[Exception], None] | None = None
        self.jobs = Jobs(self)
        self.asking = Asking(self)
        self.stage = Stage.SURVEY
        self.snap_settings = SnapSettings()
        self.ground = GroundSettings()
        self.build = BuildSettings()
        self.clipboard: Block | None = None
        self.survey = SurveySettings()
        self.way_tool = WayTool.ROAD
        self.ways = WaysSettings()
        self._reset(document)
        self.routes = RouteKeeper(self)
        self.walk = Walk(self)
        self.where = WhereKeeper(self)
        self.building = Building(self)
        self.study = WayStudy(self)

    def tell_bugs(self, hook: Callable[[Exception], None]) -> None:
        """What to do with an error of whoever listens to the plan."""
        self._bugs = hook
        self.document.history.on_error = hook

    def _reset(self, document: Document) -> None:
        self.document = document
        document.history.on_error = self._bugs
        self.hand = Hand(self)
        self.chosen: tuple[int, ...] = ()  # all that is selected, the one in front first
        self.area: Box | None = None  # the block that was dragged over to select it
        self.route_start = 0
        self.hover: Hover | None = None
        self._follow_actor()
        self.profile: tuple[Cell, Cell] | None = None
        self._heights_moved = False
        self._range: tuple[float, float] | None = None
        self.tools = ToolBox(self)
        self._fit_ground()
        document.listen(self._changed)

    def open(self, document: Document) -> None:
        """Show another document in place of this one."""
        self._reset(document)
        self.replaced.emit()
        self.selected.emit()
        self.tool_changed.emit()
        self.hovered.emit()

    @property
    def plan(self) -> Plan:
        return self.document.plan

    @property
    def armed(self) -> str | None:
        """Key of the kind in hand, lifted or off the shelf."""
        return self.hand.kind

    @property
    def lifted(self) -> int:
        return self.hand.lifted

    @property
    def turn(self) -> int:
        return self.hand.turn

    @property
    def ghost(self) -> Ghost | None:
        return self.hand.ghost

    @property
    def block_ghost(self) -> BlockGhost | None:
        return self.hand.block_ghost

    @property
    def selection(self) -> int:
        """The structure in front of the selection, or 0."""
        return self.chosen[0] if self.chosen else 0

    def _fit_ground(self) -> None:
        """Keep what is chosen in Ground to what the plan has."""
        plan, ground = self.plan, self.ground
        if ground.coat.layer == "terrain" and ground.coat.code >= len(plan.terrain_table):
            ground = replace(ground, coat=Coat("terrain", 0))
        view = ground.view
        if plan.heights is None:
            overlay = Overlay.NONE if view.overlay.needs_heights else view.overlay
            view = GroundView(overlay)
        else:
            if self._range is None:
                # A look at all heights; once for as long as they stay as they are.
                self._range = height_range(plan)
            view = replace(view, lowest=self._range[0], highest=self._range[1])
        self.ground = replace(ground, view=view)

    def _changed(self, notice: Notice) -> None:
        """First all that is held here is made to fit the plan, then the others hear of it: nobody may find
        something in hand or selected that is no longer there. Never an edit: that would push a step."""
        tools = self._fit(notice)
        chosen = tuple(number for number in self.chosen if number in self.plan.register)
        selection = chosen != self.chosen or (notice.reformed and self.area is not None)
        if selection:
            self.chosen, self.area = chosen, None
        self.hand.judge()
        if selection:
            self.selected.emit()
        if tools:
            self.tool_changed.emit()
        self.changed.emit(notice)
        self.hovered.emit()

    def _fit(self, notice: Notice) -> bool:
        """Whether what is in hand, or set on the bench, is another thing now."""
        tools = False
        if notice.reformed:
            # The pointer's place was worked out on another grid.
            self.hover, self._range = None, None
            self.tools.current.cancel()
            tools = True
        gone = self.armed is not None and self.armed not in self.plan.kinds
        if gone or (self.lifted and self.lifted not in self.plan.register):
            self.tools.current.cancel()
            self.hand.drop()
            tools = True
        if self.route_start and self.route_start not in self.plan.register:
            self.route_start = 0
        if "actor" in notice.layers or "grid" in notice.layers:
            self._follow_actor()
            tools = True
        if "heights" in notice.layers:
            self._heights_moved = True
        if self._heights_moved and not self.document.history.in_gesture:
            # Once a stroke: the range of all heights takes a look at all of them.
            self._heights_moved, self._range = False, None
            tools = True
        if tools:
            self._fit_ground()
        return tools

    # --- words -------------------------------------------------------------------------------

    def say(self, text: str, level: str = "note") -> None:
        """Tell the user; "note" was done, "no" was refused, "error" went wrong."""
        self.said.emit(text, level)

    def attempt(self, edit_of: Callable[..., Edit], *args: object) -> bool:
        """Make an edit and do it; a refusal is said, not raised. False when refused."""
        try:
            edit = edit_of(*args)
        except WovenError as err:
            self.say(str(err), "no")
            return False
        self.document.history.do(edit)
        return True

    def work(
        self,
        label: str,
        make: Callable[[Plan, Control], Edit],
        done: Callable[[], object] | None = None,
    ) -> None:
        """Make an edit that may take long and do it; see `Asking`. A refusal is said; an answer for a plan
        that has changed meanwhile is dropped."""
        document = self.document
        if document.history.in_gesture:
            self.say("Not now: end the stroke in hand first", "no")
            return
        at_once = self.asking.is_small()

        def made(plan: Plan, control: Control) -> Edit:
            edit = make(plan, control)
            if not at_once:
                document.prepare(edit)
            return edit

        def finish(edit: Edit) -> None:
            if document.history.in_gesture:
                self.say(f"{label}: dropped, since a stroke was in hand; do it again", "no")
                return
            document.history.do(edit)
            if not edit.changes:
                self.say("Nothing would change there")
            if done is not None:
                done()

        self.asking.ask(label, made, finish, at_once=at_once)

    # --- stage and tools ---------------------------------------------------------------------

    def set_stage(self, stage: Stage) -> None:
        if stage is not self.stage:
            self.end_stroke()
            self.disarm()
            self.stage = stage
            self.stage_changed.emit()
            self.tool_changed.emit()

    def end_stroke(self) -> None:
        """A stroke belongs to its tool: when another is taken up in the middle of it, it is dropped,
        as Esc would."""
        self.tools.current.cancel()

    def arm(self, kind_key: str) -> None:
        """Take a kind off the shelf."""
        self.end_stroke()
        self.hand.take_kind(kind_key)
        self.select(0)
        self.in_hand()

    def lift(self, number: int) -> None:
        """Take a placed structure in hand, to put it elsewhere."""
        self.end_stroke()
        self.hand.lift(number)
        self.in_hand()

    def in_hand(self) -> None:
        """What is in hand is another thing, or lies another way."""
        self.hand.judge()
        self.tool_changed.emit()
        self.hovered.emit()

    def disarm(self) -> bool:
        """Put down what is in hand; False when nothing was."""
        if self.hand.empty:
            return False
        self.end_stroke()
        self.hand.drop()
        self.in_hand()
        return True

    def put_tool_down(self) -> bool:
        """Back to selecting; False where nothing else was taken up."""
        if self.stage is Stage.SURVEY and self.survey.tool is not SurveyTool.SELECT:
            self.set_survey(tool=SurveyTool.SELECT)
            return True
        return False

    def turn_ghost(self, quarter_turns: int) -> None:
        """Turn what is in hand, or the selected structure where it stands."""
        if not self.hand.empty:
            before = self.turn
            self.hand.turned(quarter_turns)
            if self.armed is not None and self.turn == before:
                self.say(f"{self.plan.kinds[self.armed].name} is not turned", "no")
            self.in_hand()
        elif self.selection:
            row = self.plan.register[self.selection]
            turn = self.plan.kinds[row.kind].next_turn(row.turn, quarter_turns)
            self.attempt(edits.move, self.plan, row.number, row.cell, turn)
        else:
            self.say("Nothing to turn: take a kind off the shelf or select a structure", "no")

    def mirror_ghost(self) -> None:
        """Mirror what is in hand, or the selected structure where it stands."""
        if not self.hand.empty:
            if not self.hand.mirrored() and self.armed is not None:
                name = self.plan.kinds[self.armed].name
                self.say(f"{name} is not mirrored; its kind can be changed to allow it", "no")
            self.in_hand()
        elif self.selection:
            row = self.plan.register[self.selection]
            self.attempt(edits.move, self.plan, row.number, row.cell, flipped(row.turn))
        else:
            self.say("Nothing to mirror: take a kind off the shelf or select a structure", "no")

    def select_all(self, numbers: Sequence[int], area: Box | None = None) -> None:
        """Select structures, the first of them in front. area : the block dragged over for it."""
        chosen = tuple(numbers)
        self.area = area
        if chosen != self.chosen or area is not None:
            self.chosen = chosen
            self.selected.emit()

    def placed(self) -> None:
        """Something was placed: the kind stays in hand, or goes back, as the user prefers."""
        if not self.build.stay:
            self.disarm()

    @property
    def can_demolish(self) -> bool:
        """Whether there is something that `demolish_selection` would take away."""
        actor = isinstance(self.tools.current, ActorTool) and self.survey.actor is not None
        return bool(self.chosen) or actor

    def demolish_selection(self) -> None:
        """Demolish what is selected; the actor goes while its tool is in hand."""
        if self.chosen:
            self.attempt(edits.demolish, self.plan, self.chosen)
        elif isinstance(self.tools.current, ActorTool) and self.survey.actor is not None:
            self.set_survey(actor=None)
        else:
            self.say("Select a structure first, then demolish it", "no")

    def set_build(self, **changes: Any) -> None:
        """Change what is chosen in Build; see `BuildSettings`."""
        if "filling" in changes:
            self.end_stroke()
        self.build = replace(self.build, **changes)
        self.tool_changed.emit()

    def set_way_tool(self, tool: WayTool) -> None:
        self.end_stroke()
        self.way_tool = tool
        self.route_start = 0
        self.tool_changed.emit()

    def set_ways(self, **changes: Any) -> None:
        """Change what is chosen in Ways; see `WaysSettings`. A line in hand runs the new way at once."""
        self.ways = replace(self.ways, **changes)
        stroke = self.tools.current.stroke
        if isinstance(stroke, LineStroke) and "drawing" in changes and stroke.first is not None:
            stroke.drawing = self.ways.drawing
            stroke.again()
        self.tool_changed.emit()

    def set_ground(self, **changes: Any) -> None:
        """Change what is chosen in Ground; see `GroundSettings`."""
        if "tool" in changes and changes["tool"] is not self.ground.tool:
            self.end_stroke()
        self.ground = replace(self.ground, **changes)
        self.tool_changed.emit()

    def set_view(self, **changes: Any) -> None:
        """Change what is shown of the ground; see `GroundView`."""
        self.ground = replace(self.ground, view=replace(self.ground.view, **changes))
        self._fit_ground()
        self.tool_changed.emit()

    def set_survey(self, **changes: Any) -> None:
        """Change what is chosen in Survey; see `SurveySettings`."""
        if "tool" in changes:
            self.end_stroke()
        self.survey = replace(self.survey, **changes)
        if "actor" in changes and not self.document.history.in_gesture:
            # Where it stands belongs to the plan, since kinds may have to be in its reach.
            at = self.survey.actor.at if self.survey.actor is not None else None
            self.document.history.do(place_actor(self.plan, at))
        self.tool_changed.emit()

    def _follow_actor(self) -> None:
        """The actor stands where the plan says."""
        at, spec = self.plan.actor, self.plan.spec
        actor = self.survey.actor
        if at is None:
            actor = None
        elif actor is None:
            actor = Actor(at, distance=max(spec.cell_w, spec.cell_h))
        elif actor.at != at:
            actor = replace(actor, at=at)
        self.survey = replace(self.survey, actor=actor)

    def set_brush(self, code: int | None = None, size: int | None = None) -> None:
        """A terrain class, a size, or both."""
        ground = self.ground
        coat = ground.coat if code is None else Coat("terrain", code)
        brush = ground.brush if size is None else replace(ground.brush, size=size)
        self.set_ground(coat=coat, brush=brush)

    def resize_brush(self, by: int) -> None:
        """One cell larger or smaller, within what a brush can be."""
        size = min(LARGEST_BRUSH, max(1, self.ground.brush.size + by))
        self.set_brush(size=size)

    def set_snap(self, settings: SnapSettings) -> None:
        self.snap_settings = settings
        if self.hover is not None:
            self.set_hover(self.hover.point)
        self.tool_changed.emit()

    def set_profile(self, ends: tuple[Cell, Cell] | None) -> None:
        """Read heights from the centre of one cell to that of another."""
        self.profile = ends
        self.profiled.emit()

    # --- pointer and selection ---------------------------------------------------------------

    def set_hover(self, point: Point | None) -> None:
        """The pointer is at a world point, or has left the sheet."""
        if point is None:
            self.hover = None
        else:
            spec = self.plan.spec
            cell = spec.locate_virtual(*point)
            snapped = snap(spec, self.snap_settings, *point)
            self.hover = Hover(point, cell, spec.contains(cell), snapped)
        self.hand.judge()
        self.hovered.emit()

    def select(self, number: int, reveal: bool = False, more: bool = False) -> None:
        """Select a structure by number; 0 selects nothing. more : beside what is selected, or no more
        if it was."""
        if more and number:
            rest = [n for n in self.chosen if n != number]
            self.select_all(rest if number in self.chosen else [number, *rest])
        else:
            self.select_all([number] if number else ())
        if reveal and number:
            self.reveal.emit(self.plan.register[number].cell)
