"""The tools of Build: selecting, placing what is in hand, and putting a block down."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from woven_locus.core import edits
from woven_locus.core.editing import Edit
from woven_locus.core.edits import blocks, many
from woven_locus.core.geometry import Box, Cell, cell_text
from woven_locus.core.lines import rectangle
from woven_locus.core.placing import Verdict
from woven_locus.core.strokes.base import PlaceStroke, RowsStroke
from woven_locus.core.strokes.base import Stroke as CoreStroke
from woven_locus.ui.language import counted, tr
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Filling, Stage
from woven_locus.ui.tools.base import Cover, StrokeTool, Tool


class SelectTool(Tool):
    """Click selects, with Shift more of them; dragging a structure picks it up and puts it down. In
    Build, dragging over ground selects what lies in the rectangle."""

    def __init__(self, session: Session, told: Callable[[], None]) -> None:
        super().__init__(session, told)
        self._pressed: Cell | None = None  # on a structure, before it is dragged
        self._corner: Cell | None = None  # of a rectangle
        self._end: Cell | None = None
        self._moving: Cell | None = None  # where the group was taken hold of
        self._verdict: Verdict | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self.session.choices.stage is Stage.BUILD:
            return tr(
                "Click to select, drag over ground to select many, drag a structure to move it"
            )
        return tr("Click a structure to select it, drag it to move it")

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        who = session.plan.occupant_at(at.cell)
        if who > 0:
            if held:
                session.selection.select(who, more=True)
            elif who not in session.selection.numbers or len(session.selection.numbers) == 1:
                session.select(who)
            self._pressed = at.cell if not held else None
            return
        if not held:
            session.select(0)
        if session.choices.stage is Stage.BUILD:
            self._corner = self._end = at.cell
        if who < 0:
            session.say(
                tr(
                    "{title_of} stands here; it blocks building",
                    title_of=session.plan.title_of(who),
                )
            )

    def drag(self, at: Hover, held: bool) -> None:
        session = self.session
        if self._corner is not None:
            self._end = at.cell
            self.told()
        elif self._moving is not None:
            self._end = at.cell
            self._judge_group()
        elif self._pressed is not None and at.cell != self._pressed and session.selection.front:
            if len(session.selection.numbers) == 1:
                session.lift(session.selection.front)
                session.hand.pulled = True
            else:
                self._moving, self._end = self._pressed, at.cell
                self._judge_group()
            self._pressed = None

    def _shift(self) -> tuple[int, int]:
        assert self._moving is not None
        assert self._end is not None
        return self._end.col - self._moving.col, self._end.row - self._moving.row

    def _judge_group(self) -> None:
        plan, (cols, rows) = self.session.plan, self._shift()
        before = [plan.register[number] for number in self.session.selection.numbers]
        after = many.moved(before, cols, rows)
        self._verdict = many.judge_all(plan, after, gone=before)
        self.told()

    def release(self, at: Hover | None, held: bool) -> None:
        session = self.session
        corner, end, moving = self._corner, self._end, self._moving
        shift = self._shift() if moving is not None else (0, 0)
        self.cancel()
        if moving is not None:
            session.attempt(many.move_by, session.plan, session.selection.numbers, *shift)
        elif corner is not None and end is not None and corner != end:
            box = self._box(corner, end)
            found = many.within(session.plan, box)
            if held:
                found = [*found, *(n for n in session.selection.numbers if n not in found)]
            session.selection.select_all(found, box)
            session.say(
                tr(
                    "Selected {structures}",
                    structures=counted(len(found), "{n:,} structure", "{n:,} structures"),
                )
            )

    def _box(self, a: Cell, b: Cell) -> Box:
        spec = self.session.plan.spec
        return rectangle(spec.slot(a), spec.slot(b)).clipped(spec.shape)

    def cancel(self) -> bool:
        busy = self._corner is not None or self._moving is not None
        self._pressed = self._corner = self._end = self._moving = self._verdict = None
        if busy:
            self.told()
        return busy

    def cover(self) -> Cover | None:
        if self._corner is None or self._end is None or self._corner == self._end:
            return None
        box = self._box(self._corner, self._end)
        return box, np.ones(box.shape, bool)

    def marks(self) -> Verdict | None:
        return self._verdict


class PlaceTool(StrokeTool):
    """With a kind in hand: click places, drag places many. With a lifted one: click puts down."""

    @property
    def hint(self) -> str:  # type: ignore[override]
        session = self.session
        if session.hand.lifted:
            return tr("Click to put it down, T turns, Esc leaves it where it was")
        if isinstance(self.stroke, RowsStroke):
            good = len(self.stroke.spots) - self.stroke.refused
            cost = f"{self.stroke.price:,} {session.plan.money}"
            return tr(
                "Let go to place {good} of {count} for {cost}; Shift keeps one row",
                good=good,
                count=len(self.stroke.spots),
                cost=cost,
            )
        if session.choices.build.filling is Filling.ROWS:
            return tr("Drag a rectangle to fill it with rows, T turns, Esc puts the kind back")
        return tr(
            "Click places, drag places many, Shift keeps a line, T turns, Esc puts the kind back"
        )

    def press(self, at: Hover, held: bool) -> None:
        session = self.session
        if session.hand.ghost is None:
            return
        if session.hand.lifted:
            self._put_down()
            return
        self.stroke = self.begin()
        self.stroke.start(session.hand.ghost.cell)
        self._say_refusal()
        if isinstance(self.stroke, RowsStroke):
            self.told()

    def begin(self) -> CoreStroke:
        session, document = self.session, self.session.document
        assert session.hand.kind is not None
        plan, history, when = document.plan, document.history, document.now()
        if session.choices.build.filling is Filling.ROWS and not session.hand.pulled:
            gaps = (session.choices.build.gap_cols, session.choices.build.gap_rows)
            return RowsStroke(plan, history, session.hand.kind, session.hand.turn, when, gaps)
        hand = session.hand
        verdict = hand.ghost.verdict if hand.ghost is not None else None
        return PlaceStroke(plan, history, session.hand.kind, hand.turn, when, verdict)

    def drag(self, at: Hover, held: bool) -> None:
        ghost = self.session.hand.ghost
        if self.stroke is None or ghost is None:
            return
        # Rows reach to the pointer itself; others follow the ghost.
        rows = isinstance(self.stroke, RowsStroke)
        cell = at.cell if rows else ghost.cell
        # A quick drag places many at one move of the pointer; the window hears of them once.
        with self.session.bunch.held():
            self.stroke.to(cell, held)
        if rows:
            self.told()

    def release(self, at: Hover | None, held: bool) -> None:
        session = self.session
        if session.hand.pulled:
            session.hand.pulled = False
            if session.hand.lifted and session.hand.ghost is not None:
                self._put_down()
            session.disarm()
            return
        super().release(at, held)

    def after(self, stroke: CoreStroke) -> None:
        session = self.session
        if isinstance(stroke, RowsStroke):
            left = stroke.refused + len(stroke.refusals)
            words = tr("Placed {placed} {kind}", placed=stroke.placed, kind=stroke.kind.name)
            if left:
                words += tr("; {left} left out", left=left)
                why = stroke.why
                why = why or (stroke.refusals[0].partition(": ")[2] if stroke.refusals else "")
                words += f": {why}" if why else ""
            session.say(words, "no" if left else "note")
            placed = stroke.placed
        else:
            assert isinstance(stroke, PlaceStroke)
            placed = len(stroke.placed)
        if placed:
            session.placed()

    def marks(self) -> Verdict | None:
        return self.stroke.verdict if isinstance(self.stroke, RowsStroke) else None

    def _put_down(self) -> None:
        session, ghost = self.session, self.session.hand.ghost
        assert ghost is not None
        if session.attempt(edits.move, session.plan, ghost.lifted, ghost.cell, ghost.turn):
            session.disarm()

    def _say_refusal(self) -> None:
        if isinstance(self.stroke, PlaceStroke) and self.stroke.first_refusal:
            words = self.stroke.first_refusal
            near = self.session.hand.near()
            if near is not None:
                words += tr(". The nearest spot is {near}: N goes there", near=cell_text(near))
            self.session.say(words, "no")


class BlockTool(Tool):
    """With a copied block in hand: click puts all of it down, or says why not."""

    hint = tr("Click puts the block down, T turns it, V mirrors it, Esc puts it away")

    def press(self, at: Hover, held: bool) -> None:
        session, ghost = self.session, self.session.hand.block_ghost
        if ghost is None:
            return

        def make() -> Edit:
            return blocks.paste(session.plan, ghost.block, ghost.cell, session.document.now())

        if session.attempt(make):
            session.placed()

    def marks(self) -> Verdict | None:
        ghost = self.session.hand.block_ghost
        return ghost.verdict if ghost is not None else None
