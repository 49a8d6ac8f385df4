"""The tool of Survey that is no selection: an actor, and the cell ahead of it."""

from __future__ import annotations

from woven_locus.core.errors import WovenError
from woven_locus.core.grid.probe import Actor
from woven_locus.core.placing import Verdict, judge_cells
from woven_locus.core.value import replace
from woven_locus.ui.language import tr
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.tools.base import Tool

# Degrees of one turn by Shift and an arrow key.
TURN = 15


class ActorTool(Tool):
    """A click puts the actor down; a drag from there faces it; the arrow keys walk it."""

    hint = tr(
        "Click to place the actor, drag to face it, arrow keys walk it, Shift+arrows turn it, Del takes it away"
    )

    def press(self, at: Hover, held: bool) -> None:
        actor = self.session.choices.survey.actor
        if actor is None:
            spec = self.session.plan.spec
            actor = Actor(at.point, distance=max(spec.cell_w, spec.cell_h))
        self.session.set_actor(replace(actor, at=at.point))

    def drag(self, at: Hover, held: bool) -> None:
        actor = self.session.choices.survey.actor
        if actor is not None and at.point != actor.at:
            self.session.set_actor(actor.facing_to(at.point))

    def walk(self, cols: int, rows: int, far: bool) -> bool:
        actor, spec = self.session.choices.survey.actor, self.session.plan.spec
        if actor is None:
            return False
        try:
            moved = actor.turned(TURN * (cols or rows)) if far else actor.walked(spec, cols, rows)
            moved.low(spec)
        except WovenError as err:
            self.session.say(tr(err), "no")
            return True
        self.session.set_actor(moved)
        self.session.reveal.emit(spec.locate_virtual(*moved.at))
        return True

    def marks(self) -> Verdict | None:
        actor = self.session.choices.survey.actor
        if actor is None:
            return None
        return judge_cells(self.session.plan, actor.cells(self.session.plan.spec))
