"""The tools of Waves: marking entries and goals, and picking attackers."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from woven_locus.core.edits.waves import clear_places, mark_place
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.lines import rectangle
from woven_locus.ui.answers.waves import WaveKeeper
from woven_locus.ui.language import tr
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session
from woven_locus.ui.tools.base import Cover, Tool
from woven_locus.ui.tools.build import SelectTool

# Cells that one place may be given in one go.
_MOST = 4096


class AttackerTool(SelectTool):
    """A click takes the attacker there, if there is one, else the structure."""

    def __init__(self, session: Session, told: Callable[[], None], waves: WaveKeeper) -> None:
        super().__init__(session, told)
        self._waves = waves

    def press(self, at: Hover, held: bool) -> None:
        """See `Tool.press`."""
        spec = self.session.plan.spec
        if not self._waves.choose(at.point, 0.6 * min(spec.cell_w, spec.cell_h)):
            super().press(at, held)


class PlaceMarkTool(Tool):
    """A drag marks the cells of a rectangle: as an entry, a goal, or as neither. With Shift they go to the place that was
    made last."""

    def __init__(self, session: Session, told: Callable[[], None], what: str) -> None:
        """what : entry, goal or none."""
        super().__init__(session, told)
        self._what = what
        self._corner: Cell | None = None
        self._end: Cell | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self._what == "none":
            return tr("Click or drag over cells of entries and goals to clear them")
        what = tr("a goal") if self._what == "goal" else tr("an entry")
        return tr(
            "Click a cell, or drag over some, to set {what}; with Shift they are added to the last one",
            what=what,
        )

    def press(self, at: Hover, held: bool) -> None:
        """See `Tool.press`."""
        self._corner = self._end = at.cell
        self.told()

    def drag(self, at: Hover, held: bool) -> None:
        """See `Tool.drag`."""
        if self._corner is not None:
            self._end = at.cell
            self.told()

    def cancel(self) -> bool:
        """See `Tool.cancel`."""
        had = self._corner is not None
        self._corner = self._end = None
        if had:
            self.told()
        return had

    def release(self, at: Hover | None, held: bool) -> None:
        """See `Tool.release`."""
        corner, end = self._corner, self._end
        self._corner = self._end = None
        if corner is None or end is None:
            return
        self.told()
        plan = self.session.plan
        spec = plan.spec
        box = self._box(corner, end).clipped(spec.shape)
        if box.empty:
            self.session.say(tr("Nothing was marked: that is outside the grid"), "no")
            return
        if box.shape[0] * box.shape[1] > _MOST:
            self.session.say(
                tr("Nothing was marked: at most {most:,} cells at once", most=_MOST), "no"
            )
            return
        cells = [
            spec.cell_of_slot((row, col))
            for row in range(box.r0, box.r1)
            for col in range(box.c0, box.c1)
        ]
        if self._what == "none":
            if plan.waves.cells().isdisjoint(cells):
                self.session.say(tr("No entry or goal is there"))
                return
            self.session.attempt(clear_places, plan, cells)
            return
        is_goal = self._what == "goal"
        places = plan.waves.goals if is_goal else plan.waves.entries
        last = places[-1].id if held and places else ""
        self.session.attempt(mark_place, plan, cells, is_goal, last)

    def _box(self, corner: Cell, end: Cell) -> Box:
        spec = self.session.plan.spec
        return rectangle(spec.slot(corner), spec.slot(end))

    def cover(self) -> Cover | None:
        """See `Tool.cover`."""
        hover = self.session.pointer.hover
        first = self._corner or (hover.cell if hover is not None else None)
        if first is None:
            return None
        box = self._box(first, self._end or first)
        return box, np.ones(box.shape, bool)
