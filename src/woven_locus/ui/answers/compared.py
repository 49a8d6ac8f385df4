"""The open plan held against another one, kept current while it is edited."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.editing import Edit
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.files.atomic import Stamp, stamp
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.jobs.watching import PathWatch
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

if TYPE_CHECKING:
    # What compares is imported when something is compared: the first frame has no use for it.
    from woven_locus.files.compare_lines import Line

# After the last edit, of either plan, before the two are compared again.
SOON_MSEC = 300
Lines = tuple["Line", ...]


class ComparedKeeper(OneJob):
    """path : of the other plan, which is the older one; None while nothing is compared. Another program may write it
    meanwhile.  lines : what is another in the open one, None until it is known.  turned : the other plan is shown."""

    turned_round = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._forget()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MSEC)
        self._soon.timeout.connect(self._ask)
        self._files = PathWatch(self)
        self._files.written.connect(self._written)
        session.changed.connect(lambda _notice: self._edited())
        session.settled.connect(self._edited)

    def _forget(self) -> None:
        self.path: Path | None = None
        self.lines: Lines | None = None
        self._other: tuple[Plan, Stamp | None] | None = None
        self.turned = False

    @property
    def other(self) -> Plan | None:
        """The other plan as it was last read. Not to be changed."""
        return self._other[0] if self._other is not None else None

    def turn(self, over: bool) -> None:
        """Show the other plan on the sheet, or the open one again."""
        if over and self.other is None:
            self._session.say(tr("No plan is compared with this one: Plan, Compare with…"), "no")
            return
        if over and self.other is not None and self.other.spec != self._session.plan.spec:
            self._session.say(
                tr("The two plans have different grids: neither covers the other"), "no"
            )
            return
        if over != self.turned:
            self.turned = over
            self.turned_round.emit()

    def take_over(self, line: Line) -> None:
        """Have what a line is about as the other plan has it, as one step. What does not stand is said."""
        other, thing, path = self.other, line.thing, self.path
        if other is None or thing is None or path is None:
            return
        label = tr("Took over from {path}: {words}", path=path.name, words=line.words)

        def make(plan: Plan, _control: Control) -> Edit:
            from woven_locus.core.compare import taken_over
            from woven_locus.core.edits.becoming import becoming

            return becoming(plan, taken_over(plan, other, [thing]), label)

        self._session.work(tr("Taking over"), make)

    def hold_against(self, path: Path) -> None:
        """Compare with another plan, from now on. What cannot be read is said, and nothing is compared."""
        self._stop()
        self.turn(False)
        self._forget()
        self.path = path
        self._watch()
        self._ask()
        self.changed.emit()

    def end(self) -> None:
        """Compare no longer."""
        self._stop()
        self._soon.stop()
        self.turn(False)
        self._forget()
        self._watch()
        self.changed.emit()

    def _replaced(self) -> None:
        self.turn(False)
        super()._replaced()
        self._watch()

    def _watch(self) -> None:
        """The other plan's file, or nothing."""
        self._files.hold(*([self.path] if self.path is not None else []))

    def _written(self) -> None:
        """Something was written where the other plan is."""
        path, known = self.path, self._other
        if path is None or (known is not None and known[1] == stamp(path)):
            return
        self._watch()
        self._soon.start()

    def _edited(self) -> None:
        # Whoever edits wants to see it.
        self.turn(False)
        if self.path is not None:
            self._soon.start()

    def _ask(self) -> None:
        path, known = self.path, self._other
        if path is None:
            return

        def work(plan: Plan, _control: Control) -> tuple[tuple[Plan, Stamp | None], Lines]:
            from woven_locus.core.compare import compare
            from woven_locus.core.compare.effects import Effects, effects
            from woven_locus.files.compare_lines import lines_of

            now = stamp(path)
            # A file that is gone is compared as it was.
            fresh = known if known is not None and now in (known[1], None) else None
            other = fresh or (plan_json.load(path), now)
            found = compare(other[0], plan)
            after_it = effects(other[0], plan) if found else Effects()
            return other, tuple(lines_of(found, after_it, pieces=True))

        def done(answer: tuple[tuple[Plan, Stamp | None], Lines]) -> None:
            fresh = answer[0][0] is not self.other
            self._other, self.lines = answer
            if fresh and self.turned:
                self.turned_round.emit()
            self.changed.emit()

        # Of a plan that moved on: once more.
        self._work_out(
            tr("Comparing plans"),
            work,
            done,
            at_once=False,
            ended=self._failed,
            dropped=self._soon.start,
        )

    def _failed(self) -> None:
        if self.lines is None:
            self.turn(False)
            self._forget()
        self.changed.emit()
