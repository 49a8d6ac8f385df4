"""The open plan brought together with what somebody else made of it, for as long as the question stands."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QTimer

from woven_locus.core.compare import Conflict, Thing, compare, merge
from woven_locus.core.compare.effects import Effects, came
from woven_locus.core.editing import Edit
from woven_locus.core.edits.becoming import becoming
from woven_locus.core.errors import WovenError
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Finding
from woven_locus.core.proof.table import prove
from woven_locus.core.value import Value
from woven_locus.files import plan_json
from woven_locus.files.atomic import Stamp, stamp
from woven_locus.files.compare_lines import Line, lines_of
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.jobs.watching import PathWatch
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

Findings = tuple[Finding, ...]
# After the last write to one of the files, before they are read anew.
SOON_MSEC = 300


class Outcome(Value):
    """conflicts : still open, ours is kept for these.  lines : what would be another in the open plan.  findings : that
    come with it.  edit : that does it.  revision : of the open plan, for which all this is true."""

    conflicts: tuple[Conflict, ...]
    lines: tuple[Line, ...]
    findings: tuple[Finding, ...]
    edit: Edit
    revision: int


class MergeKeeper(OneJob):
    """theirs, base : the files; base is what both began with.  outcome : None until it is known.  problem : why there is
    none.  solved : conflicts for which theirs is taken."""

    def __init__(self, session: Session, theirs: Path) -> None:
        super().__init__(session)
        self.theirs, self.base = theirs, None
        # What is wrong with the open plan, and the revision that it is of.
        self._mine: tuple[int, Findings] | None = None
        self._files = PathWatch(self)
        self._files.written.connect(self._written)
        # A file that is being written is another several times in a row.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MSEC)
        self._soon.timeout.connect(self.ask)
        self._forget()
        self._watch()

    base: Path | None

    def _forget(self) -> None:
        self.outcome: Outcome | None = None
        self.problem = ""
        self.solved: dict[tuple[Thing, ...], Conflict] = {}
        self._read: tuple[Plan, Plan] | None = None
        self._stamps: tuple[Stamp | None, ...] = ()

    def _watch(self) -> None:
        self._files.hold(self.theirs, *([self.base] if self.base is not None else []))

    def _stamps_now(self) -> tuple[Stamp | None, ...]:
        return tuple(stamp(path) for path in (self.base, self.theirs) if path is not None)

    def _written(self) -> None:
        """Something was written where the files are. What is another is read anew, and nothing is merged before; what was
        chosen before is void. A file that is gone is merged as it was read."""
        now = self._stamps_now()
        if not self._stamps or None in now or now == self._stamps:
            return
        self._stop()
        self._forget()
        self._watch()
        self._soon.start()
        self.changed.emit()

    def take(self, theirs: Path | None = None, base: Path | None = None) -> None:
        """Other files; what was chosen before is void."""
        self._stop()
        self.theirs, self.base = theirs or self.theirs, base or self.base
        self._forget()
        self._watch()
        self.ask()

    def solve(self, conflict: Conflict, theirs: bool) -> None:
        """Take theirs for a conflict, or ours again."""
        if theirs:
            self.solved[conflict.things] = conflict
        else:
            self.solved.pop(conflict.things, None)
        self.ask()

    def ask(self) -> None:
        """Work it out, for what is chosen now."""
        base = self.base
        if base is None:
            self.problem = tr("Choose the plan that both began with")
            self.changed.emit()
            return
        read, theirs, revision = self._read, self.theirs, self._session.document.revision
        if read is None:
            # Before they are read: what is written meanwhile is seen to be another.
            self._stamps = self._stamps_now()
        things = [thing for each in self.solved for thing in each]
        label = tr("Merged {theirs}", theirs=theirs.name)

        mine = self._mine[1] if self._mine is not None and self._mine[0] == revision else None

        def work(
            plan: Plan, control: Control
        ) -> tuple[tuple[Plan, Plan], Findings | None, Outcome]:
            old, other = read or (plan_json.load(base), plan_json.load(theirs))
            control.tell(0.2)
            merged = merge(old, plan, other, things)
            control.tell(0.5)
            found = compare(plan, merged.plan)
            # The open plan stands still under the sheet: it is proved once, whatever is chosen.
            known = prove(plan).findings if mine is None and found else mine
            new = came(merged.plan, known or ()) if found else ()
            control.tell(0.9)
            edit = becoming(plan, merged.plan, label)
            self._session.document.prepare(edit)
            lines = tuple(lines_of(found, Effects(), pieces=True))
            outcome = Outcome(merged.conflicts, lines, new, edit, revision)
            return (old, other), known, outcome

        def done(answer: tuple[tuple[Plan, Plan], Findings | None, Outcome]) -> None:
            self._read, known, self.outcome = answer
            self._mine = (revision, known) if known is not None else None
            self.problem = ""
            self.changed.emit()

        def refused(error: WovenError) -> None:
            self.outcome, self.problem = None, tr(error)
            self.changed.emit()

        def stopped() -> None:
            if self.outcome is None:
                self.problem = tr("Stopped; choose a plan to begin again")
            self.changed.emit()

        self.problem = ""
        self._work_out(
            tr("Merging"),
            work,
            done,
            at_once=False,
            ended=stopped,
            dropped=self.ask,
            refused=refused,
        )
        self.changed.emit()

    def end(self) -> None:
        """The question stands no longer."""
        self._soon.stop()
        self._files.hold()
        self._stop()
