"""What is chosen on the bench, stage by stage, and what of the ground is shown."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.edits.ground import Coat
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import SnapSettings
from woven_locus.core.grid.probe import Actor
from woven_locus.core.ground.height_range import HeightRange
from woven_locus.core.lines import LARGEST_BRUSH
from woven_locus.core.plan import Plan
from woven_locus.core.render import GroundOverlay, GroundView
from woven_locus.core.value import replace
from woven_locus.ui.session.settings import (
    BuildSettings,
    GroundSettings,
    SurveySettings,
    TrafficSettings,
    WavesSettings,
    WaysSettings,
)
from woven_locus.ui.session.stages import Stage, SurveyTool, WaveTool, WayTool

Which = Literal["snap", "survey", "ground", "build", "ways", "traffic", "waves"]


class Choices(QObject):
    """profile : the line along which heights are read, or None."""

    leaving = pyqtSignal()  # another tool is about to be taken up: a stroke in progress ends
    stage_changed = pyqtSignal()
    changed = pyqtSignal(str)  # Which
    profiled = pyqtSignal()

    def __init__(self, plan: Callable[[], Plan], parent: QObject) -> None:
        """plan : the open one."""
        super().__init__(parent)
        self._plan = plan
        self.stage = Stage.SURVEY
        self.snap = SnapSettings()
        self.survey = SurveySettings()
        self.ground = GroundSettings()
        self.build = BuildSettings()
        self.ways = WaysSettings()
        self.traffic = TrafficSettings()
        self.waves = WavesSettings()
        self.profile: tuple[Cell, Cell] | None = None
        self._heights = HeightRange()

    def on(self, which: Which, slot: Callable[[], object]) -> None:
        """Call `slot` whenever what is chosen there is another."""
        self.changed.connect(lambda changed: slot() if changed == which else None)

    # --- choosing ---------------------------------------------------------------------------------

    def set_stage(self, stage: Stage) -> None:
        if stage is not self.stage:
            self.leaving.emit()
            self.stage = stage
            self.stage_changed.emit()

    def set_snap(self, settings: SnapSettings) -> None:
        """What belongs to the plan is recorded by `Session.set_snap`."""
        self.snap = settings
        self.changed.emit("snap")

    def follow_snap(self) -> None:
        """Points snap as the plan says; what is held stays so."""
        now = self.snap
        after = replace(
            self._plan().snap,
            hold_x=now.hold_x,
            hold_y=now.hold_y,
            holding=now.holding,
            held=now.held,
        )
        if after.kept != now.kept:
            self.set_snap(after)

    def set_survey(self, **changes: Any) -> None:
        """See `SurveySettings`. Where the actor stands belongs to the plan; see `Session.set_actor`."""
        if "tool" in changes:
            self.leaving.emit()
        self.survey = replace(self.survey, **changes)
        self.changed.emit("survey")

    def set_ground(self, **changes: Any) -> None:
        """See `GroundSettings`."""
        if "tool" in changes and changes["tool"] is not self.ground.tool:
            self.leaving.emit()
        self.ground = replace(self.ground, **changes)
        self.changed.emit("ground")

    def set_view(self, **changes: Any) -> None:
        """Change what is shown of the ground; see `GroundView`."""
        self.ground = replace(self.ground, view=replace(self.ground.view, **changes))
        self._fit_ground()
        self.changed.emit("ground")

    def set_brush(self, code: int | None = None, size: int | None = None) -> None:
        """A terrain class, a size, or both."""
        ground = self.ground
        coat = ground.coat if code is None else Coat("terrain", code)
        brush = ground.brush if size is None else replace(ground.brush, size=size)
        self.set_ground(coat=coat, brush=brush)

    def resize_brush(self, by: int) -> None:
        """One cell larger or smaller, within what a brush can be."""
        self.set_brush(size=min(LARGEST_BRUSH, max(1, self.ground.brush.size + by)))

    def set_build(self, **changes: Any) -> None:
        """See `BuildSettings`."""
        if "filling" in changes:
            self.leaving.emit()
        self.build = replace(self.build, **changes)
        self.changed.emit("build")

    def set_ways(self, **changes: Any) -> None:
        """See `WaysSettings`."""
        self.ways = replace(self.ways, **changes)
        self.changed.emit("ways")

    def set_traffic(self, **changes: Any) -> None:
        """See `TrafficSettings`."""
        self.traffic = replace(self.traffic, **changes)
        self.changed.emit("traffic")

    def set_waves(self, **changes: Any) -> None:
        """See `WavesSettings`."""
        if "tool" in changes:
            self.leaving.emit()
        self.waves = replace(self.waves, **changes)
        self.changed.emit("waves")

    def set_way_tool(self, tool: WayTool) -> None:
        self.leaving.emit()
        self.set_ways(tool=tool)

    def set_profile(self, ends: tuple[Cell, Cell] | None) -> None:
        """Read heights from the centre of one cell to that of another."""
        self.profile = ends
        self.profiled.emit()

    def put_tool_down(self) -> bool:
        """Back to selecting; False where nothing else was taken up."""
        if self.stage is Stage.SURVEY and self.survey.tool is not SurveyTool.SELECT:
            self.set_survey(tool=SurveyTool.SELECT)
            return True
        if self.stage is Stage.WAVES and self.waves.tool is not WaveTool.SELECT:
            self.set_waves(tool=WaveTool.SELECT)
            return True
        return False

    # --- following the plan -----------------------------------------------------------------------

    def heights_moved(self, boxes: Iterable[Box]) -> None:
        """Heights in these blocks of slots are others; `fit` then looks at them."""
        for box in boxes:
            self._heights.touched(box)

    def fit(self) -> None:
        """Keep what is chosen in Ground to what the plan has, the range of its heights too."""
        before = self.ground
        self._fit_ground()
        if self.ground != before:
            self.changed.emit("ground")

    def follow_actor(self) -> None:
        """The actor stands where the plan says."""
        at, spec = self._plan().actor, self._plan().spec
        actor = self.survey.actor
        if at is None:
            actor = None
        elif actor is None:
            actor = Actor(at, distance=max(spec.cell_w, spec.cell_h))
        elif actor.at != at:
            actor = replace(actor, at=at)
        if actor != self.survey.actor:
            self.survey = replace(self.survey, actor=actor)
            self.changed.emit("survey")

    def _fit_ground(self) -> None:
        plan, ground = self._plan(), self.ground
        if ground.coat.layer == "terrain" and ground.coat.code >= len(plan.terrain_table):
            ground = replace(ground, coat=Coat("terrain", 0))
        view = ground.view
        if plan.heights is None:
            view = GroundView(GroundOverlay.NONE if view.overlay.needs_heights else view.overlay)
        else:
            lowest, highest = self._heights.of(plan.heights)
            view = replace(view, lowest=lowest, highest=highest)
        fitted = replace(ground, view=view)
        if fitted != self.ground:
            self.ground = fitted
