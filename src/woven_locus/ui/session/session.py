"""One open document and how it is being looked at: the hub that every part of the window listens to.

It holds four things, each with signals of its own: what is chosen on the bench (`choices`), what is in hand
(`hand`), what is selected (`selection`), and where the pointer is (`pointer`). None of them knows another
part of the window, nor what is worked out about the plan (`ui.answers`), nor the tools (`ui.tools`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.editing import Edit, Notice
from woven_locus.core.edits.grid import set_snap
from woven_locus.core.edits.money import place_actor
from woven_locus.core.errors import WovenError
from woven_locus.core.grid import SnapSettings
from woven_locus.core.grid.probe import Actor
from woven_locus.core.plan import Plan
from woven_locus.document import Document
from woven_locus.ui.jobs.asking import Asking
from woven_locus.ui.jobs.pool import Control, Jobs
from woven_locus.ui.language import tr
from woven_locus.ui.session.bunch import Bunch
from woven_locus.ui.session.choices import Choices
from woven_locus.ui.session.hand import Hand
from woven_locus.ui.session.pointer import Pointer
from woven_locus.ui.session.selection import Selection
from woven_locus.ui.session.stages import Stage


class Session(QObject):
    """See the module."""

    replaced = pyqtSignal()  # another document is open
    changed = pyqtSignal(object)  # Notice: the plan changed
    reformed = pyqtSignal()  # the grid, the classes or the kinds are others; `changed` follows
    settled = pyqtSignal()  # a gesture has ended, of which every part was told already
    ending = pyqtSignal()  # a stroke in progress is to be dropped, as Esc would
    saved = pyqtSignal()  # the plan was written to its file
    said = pyqtSignal(str, str)  # text, level: "note", "no" or "error"
    reveal = pyqtSignal(object)  # Cell to bring into sight
    taken_up = pyqtSignal()  # a tool was chosen by hand: the keys now belong to the sheet

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._bugs: Callable[[Exception], None] | None = None
        self.document = document
        self.jobs = Jobs(self)
        self.asking = Asking(self.jobs, lambda: self.document, self.say)
        self.choices = Choices(lambda: self.plan, self)
        self.selection = Selection(self)
        self.pointer = Pointer(lambda: self.plan.spec, lambda: self.choices.snap, self)
        self.hand = Hand(lambda: self.plan, lambda: self.pointer.hover, self)
        self.choices.leaving.connect(self.ending)
        self.hand.leaving.connect(self.ending)
        self.choices.stage_changed.connect(self.hand.drop)
        self.choices.changed.connect(
            lambda which: self.pointer.again() if which == "snap" else None
        )
        self.pointer.moved.connect(self.hand.judge)
        self.hand.judged.connect(self._say_refusal)
        self._heights_moved = False
        self.bunch = Bunch(self._changed)
        self._take(document)

    def tell_bugs(self, hook: Callable[[Exception], None]) -> None:
        """What to do with an error of whoever listens to the plan."""
        self._bugs = self.bunch.on_error = hook
        self.document.history.on_error = hook

    def _take(self, document: Document) -> None:
        self.document = document
        document.history.on_error = self._bugs
        self._heights_moved = False
        document.listen(self._changed)
        self.choices.follow_actor()
        self.choices.follow_snap()
        self.choices.fit()

    def open(self, document: Document) -> None:
        """Show another document in place of this one."""
        # Whoever listens to a part may look at the plan, and must have heard of the other one first.
        with self._silent():
            self.document = document
            self.pointer.forget()
            self.hand.drop()
            self.selection.select_all(())
            self.choices.set_profile(None)
            self._take(document)
        self.replaced.emit()
        self.selection.changed.emit()
        self.hand.changed.emit()
        self.choices.profiled.emit()
        self.pointer.moved.emit()

    @property
    def plan(self) -> Plan:
        return self.document.plan

    # --- following the plan ---------------------------------------------------------------------

    def _changed(self, notice: Notice) -> None:
        """First all that is held here is made to fit the plan, then the others hear of it: nobody may find
        something in hand or selected that is no longer there. Never an edit: that would push a step."""
        if self.bunch.takes(notice):
            return
        if not notice.layers:
            self._settle()
            self.settled.emit()
            return
        self._fit(notice)
        if notice.reformed:
            self.reformed.emit()
        self.changed.emit(notice)

    def _fit(self, notice: Notice) -> None:
        """All parts first, and then their signals: a listener of one may look at any other."""
        plan, hand, choices = self.plan, self.hand, self.choices
        gone = hand.kind is not None and hand.kind not in plan.kinds
        gone = gone or (hand.lifted > 0 and hand.lifted not in plan.register)
        if notice.reformed or gone:
            self.ending.emit()
        held = (self.selection.numbers, self.selection.area)
        hover, survey, ground = self.pointer.hover, choices.survey, choices.ground
        snap = choices.snap
        judged = not hand.empty
        with self._silent():
            if notice.reformed:
                # The pointer's place was worked out on another grid.
                self.pointer.forget()
            self.selection.fit(plan.register, notice.reformed)
            if gone:
                hand.drop()
            else:
                hand.judge()
            if "snap" in notice.layers:
                choices.follow_snap()
            if notice.layers & {"actor", "grid"}:
                choices.follow_actor()
            if "heights" in notice.layers:
                self._heights_moved = True
                choices.heights_moved((plan.spec.box,) if notice.reformed else notice.boxes)
            if notice.reformed or (self._heights_moved and not plan.in_gesture):
                choices.fit()
                self._heights_moved = False
        if held != (self.selection.numbers, self.selection.area):
            self.selection.changed.emit()
        if gone:
            hand.changed.emit()
        for which, before, after in (
            ("snap", snap, choices.snap),
            ("survey", survey, choices.survey),
            ("ground", ground, choices.ground),
        ):
            if before is not after:
                choices.changed.emit(which)
        moved = hover is not self.pointer.hover
        if moved:
            # What is in hand is judged with that, and tells so.
            self.pointer.moved.emit()
        if judged and (not moved or hand.empty):
            hand.judged.emit()

    @contextmanager
    def _silent(self) -> Iterator[None]:
        parts = (self.pointer, self.hand, self.selection, self.choices)
        for part in parts:
            part.blockSignals(True)
        try:
            yield
        finally:
            for part in parts:
                part.blockSignals(False)

    def _settle(self) -> None:
        """Once a stroke: another range of heights has all of the map coloured anew."""
        if self._heights_moved:
            self._heights_moved = False
            self.choices.fit()

    # --- words and work -------------------------------------------------------------------------

    def say(self, text: str, level: str = "note") -> None:
        """Tell the user; "note" was done, "no" was refused, "error" went wrong."""
        self.said.emit(text, level)

    def _say_refusal(self) -> None:
        if words := self.hand.refusal():
            self.say(words, "no")
            self.hand.changed.emit()

    def attempt(self, edit_of: Callable[..., Edit], *args: object) -> bool:
        """Make an edit and do it; a refusal is said, not raised. False when refused."""
        try:
            edit = edit_of(*args)
        except WovenError as err:
            self.say(tr(err), "no")
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
            self.say(tr("Not now: end the stroke in hand first"), "no")
            return
        at_once = self.asking.is_small()

        def made(plan: Plan, control: Control) -> Edit:
            edit = make(plan, control)
            if not at_once:
                document.prepare(edit)
            return edit

        def finish(edit: Edit) -> None:
            if document.history.in_gesture:
                self.say(
                    tr("{label}: dropped, since a stroke was in hand; do it again", label=label),
                    "no",
                )
                return
            document.history.do(edit)
            if not edit.changes:
                self.say(tr("Nothing would change there"))
            if done is not None:
                done()

        self.asking.ask(label, made, finish, at_once=at_once)

    # --- in hand and selected -------------------------------------------------------------------

    def arm(self, kind_key: str) -> None:
        """Take a kind off the shelf."""
        self.ending.emit()  # while what it is done to is still selected
        self.selection.select(0)
        self.hand.take_kind(kind_key)

    def lift(self, number: int) -> None:
        """Take a placed structure in hand, to put it elsewhere."""
        self.hand.lift(number)

    def disarm(self) -> bool:
        """Put down what is in hand; False when nothing was."""
        return self.hand.drop()

    def placed(self) -> None:
        """Something was placed: the kind stays in hand, or goes back, as the user prefers."""
        if not self.choices.build.stay:
            self.disarm()

    def set_snap(self, settings: SnapSettings) -> None:
        """Let points snap in another way: the plan records the rule, not what is held."""
        self.choices.set_snap(settings)
        self.attempt(set_snap, self.plan, settings)

    def select(self, number: int, reveal: bool = False) -> None:
        """Select a structure by number, and perhaps bring it into sight; 0 selects nothing."""
        self.selection.select(number)
        if reveal and number:
            self.reveal.emit(self.plan.register[number].cell)

    def set_stage(self, stage: Stage) -> None:
        """Turn to another stage of the work; what is in hand goes back."""
        self.choices.set_stage(stage)

    def set_actor(self, actor: Actor | None) -> None:
        """Where the actor stands belongs to the plan, since kinds may have to be in its reach; how it looks
        about does not."""
        self.choices.set_survey(actor=actor)
        if not self.document.history.in_gesture:
            at = actor.at if actor is not None else None
            self.document.history.do(place_actor(self.plan, at))
