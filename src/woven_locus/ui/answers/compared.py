"""The open plan held against another one, kept current while it is edited."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QTimer

from woven_locus.core.compare import compare
from woven_locus.core.compare.effects import Effects, effects
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.files.compare_json import differences_json
from woven_locus.files.compare_lines import Line, lines_of
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.session.session import Session

# After the last edit, before the two are compared again.
SOON_MSEC = 300


class ComparedKeeper(OneJob):
    """path : of the other plan, which is the older one; None while nothing is compared.  lines : what is another in the
    open one, None until it is known."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._forget()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MSEC)
        self._soon.timeout.connect(self._ask)
        session.changed.connect(lambda _notice: self._edited())
        session.settled.connect(self._edited)

    def _forget(self) -> None:
        self.path: Path | None = None
        self.lines: tuple[Line, ...] | None = None
        self._other: Plan | None = None

    def hold_against(self, path: Path) -> None:
        """Compare with another plan, from now on. What cannot be read is said, and nothing is compared."""
        self._stop()
        self._forget()
        self.path = path
        self._ask()
        self.changed.emit()

    def end(self) -> None:
        """Compare no longer."""
        self._stop()
        self._soon.stop()
        self._forget()
        self.changed.emit()

    def _edited(self) -> None:
        if self.path is not None:
            self._soon.start()

    def _ask(self) -> None:
        path, known = self.path, self._other
        if path is None:
            return

        def work(plan: Plan, _control: Control) -> tuple[Plan, tuple[Line, ...]]:
            other = known if known is not None else plan_json.load(path)
            found = compare(other, plan)
            whole = differences_json(found, effects(other, plan) if found else Effects())
            return other, tuple(lines_of(whole))

        def done(answer: tuple[Plan, tuple[Line, ...]]) -> None:
            self._other, self.lines = answer
            self.changed.emit()

        # Of a plan that moved on: once more.
        self._work_out(
            "Comparing plans",
            work,
            done,
            at_once=False,
            ended=self._failed,
            dropped=self._soon.start,
        )

    def _failed(self) -> None:
        if self.lines is None:
            self._forget()
        self.changed.emit()
