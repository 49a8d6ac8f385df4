"""What is wrong with the open plan, kept current: at once what costs nothing, in a worker the rest."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QTimer

from woven_locus.core.edits.findings import mend_finding
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Finding, Part, Severity
from woven_locus.core.proof.misses import NearMiss
from woven_locus.core.proof.subject import Subject
from woven_locus.core.proof.table import (
    CHECKS,
    MOST_OF_A_CODE,
    MOTION,
    Check,
    Collected,
    Proof,
    collect,
    sorted_out,
)
from woven_locus.core.routing import Links
from woven_locus.core.value import Record, field
from woven_locus.document import Document
from woven_locus.ui.answers.network import NetworkStudy
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage

# After an edit the checks that take a while wait so long for the next one.
SOON_MSEC = 300
# Structures that are judged again for their reasons within a turn of the event loop.
MOST_JUDGED = 20
_KEPT = tuple(check for check in CHECKS if check.kept)
# Those that are named at once are given their reasons later.
_REASONED = frozenset({"unsound"})
_LATER = tuple(
    check for check in CHECKS if check not in MOTION and (not check.kept or check.code in _REASONED)
)
_NOTHING = Collected((), {})


class _Known(Subject):
    """The open plan, of which some is kept current."""

    def __init__(self, document: Document, study: NetworkStudy) -> None:
        super().__init__(document.plan)
        self._document, self._study = document, study

    def is_brief(self, count: int) -> bool:
        return count > MOST_JUDGED

    @property
    def misses(self) -> list[NearMiss]:
        return self._study.misses()

    @property
    def unsound(self) -> Iterable[int]:
        return sorted(self._document.known_unsound()[0])

    @property
    def links(self) -> Links:
        return self._document.links()


class _Copy(Subject):
    """A copy, in a worker: it holds the interpreter, so that it does not judge without end either."""

    def is_brief(self, count: int) -> bool:
        return count > MOST_OF_A_CODE


class Filter(Record):
    """Which findings are listed: severities, whether accepted ones too, those of one stage, those that hold a word."""

    severities: set[Severity] = field(default_factory=lambda: {Severity.ERROR, Severity.WARNING})
    accepted: bool = False
    part: Part | None = None
    word: str = ""

    def takes(self, item: Finding) -> bool:
        """Whether one is listed; accepted ones are asked about apart."""
        word = self.word.casefold()
        return (
            item.severity in self.severities
            and self.part in (None, item.part)
            and (word in item.message.casefold() or word in item.code)
        )


class ProofKeeper(OneJob):
    """filter : which findings are listed.  seconds : of traffic that was let pass, 0 for none since the last edit."""

    def __init__(self, session: Session, study: NetworkStudy) -> None:
        super().__init__(session)
        self._study, self._seen, self._begun = study, False, False
        self.filter = Filter()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SOON_MSEC)
        self._timer.timeout.connect(self._ask)
        self._forget()
        session.changed.connect(lambda _notice: self._edited())
        session.settled.connect(self._edited)
        session.choices.stage_changed.connect(self._edited)
        study.changed.connect(self.renew)

    def _forget(self) -> None:
        self._later, self._of = _NOTHING, -1
        self._motion, self.seconds = _NOTHING, 0.0
        self._proof: Proof | None = None
        self._soon()

    def begin(self) -> None:
        """Check for the first time, once the window has been drawn."""
        self._begun = True
        self._soon()

    def _soon(self) -> None:
        if self._begun:
            self._timer.start()

    # --- what is known --------------------------------------------------------------------------------

    @property
    def proof(self) -> Proof:
        """All that is known; put together anew once something of it is another."""
        if self._proof is None:
            self._proof = self._put_together()
        return self._proof

    def _put_together(self) -> Proof:
        session = self._session
        now = collect(_Known(session.document, self._study), _KEPT)
        later = self._later
        if self.current:
            now = now.apart(_REASONED)[1]
        else:
            later = later.apart(_REASONED)[1]
        parts = (now, later, self._motion)
        found = [item for part in parts for item in part.found]
        there = session.plan.register
        found = [item for item in found if not item.structure or item.structure in there]
        more = {code: count for part in parts for code, count in part.more.items()}
        # What was accepted is missed only once all was looked at; what only traffic shows, never here.
        looked = {check.code for check in (*_KEPT, *_LATER)} if self.current else set()
        return sorted_out(session.plan, found, more, looked)

    @property
    def current(self) -> bool:
        """Whether all of it is of the plan as it is."""
        return self._of == self._session.plan.revision

    def listed(self) -> list[Finding]:
        """Those that the filter takes, accepted ones last."""
        proof, takes = self.proof, self.filter.takes
        found = [item for item in proof.findings if takes(item)]
        return found + [item for item in proof.accepted if self.filter.accepted and takes(item)]

    def renew(self) -> None:
        """Something of it is another."""
        self._proof = None
        self.changed.emit()

    def set_filter(self, **changes: object) -> None:
        """List others."""
        for name, value in changes.items():
            setattr(self.filter, name, value)
        self.changed.emit()

    def show_severity(self, severity: Severity, on: bool) -> None:
        """List a severity, or not."""
        (self.filter.severities.add if on else self.filter.severities.discard)(severity)
        self.changed.emit()

    # --- finding it out -------------------------------------------------------------------------------

    def watch(self, on: bool) -> None:
        """Whether somebody looks at the list."""
        self._seen = on
        if on and not self.current:
            self._soon()

    def _edited(self) -> None:
        if self._of != self._session.plan.revision:
            self._motion, self.seconds = _NOTHING, 0.0
            if self.working:
                self._stop()
            self._soon()
        self.renew()

    def _ask(self) -> None:
        session = self._session
        looked_at = self._seen or session.choices.stage is Stage.PROOF or session.asking.is_small()
        if self.current or not looked_at or session.document.history.in_gesture:
            return
        self._check(_LATER, 0.0)

    def let_pass(self, seconds: float) -> None:
        """Let traffic pass for so long, and look for what only shows then."""
        self._check((*_LATER, *MOTION), seconds)

    def _check(self, checks: tuple[Check, ...], seconds: float) -> None:
        def work(plan: Plan, control: Control) -> Collected:
            return collect(_Copy(plan, seconds), checks, control.tell, control)

        def done(found: Collected) -> None:
            self._of = self._session.plan.revision
            if seconds:
                self.seconds = seconds
                self._motion, found = found.apart({check.code for check in MOTION})
            self._later = found
            self.renew()

        self._work_out(tr("Checking the plan"), work, done, at_once=False, dropped=self._soon)
        self.changed.emit()

    # --- mending --------------------------------------------------------------------------------------

    def mend(self, item: Finding) -> None:
        """Mend a finding, if it can be."""
        self._session.attempt(mend_finding, self._session.plan, item)

    def mend_all(self) -> None:
        """All that are listed, one after the other, since one mend may make another needless; one step of the history."""
        session, tried = self._session, set[object]()
        with session.document.history.gesture(tr("Mended findings")):
            while True:
                # Only what is kept current says what is left; all of it has been looked at then.
                session.document.unsound()
                now = collect(_Known(session.document, self._study), _KEPT)
                left = [
                    item
                    for item in now.found
                    if item.can_mend and self.filter.takes(item) and item.mend not in tried
                ]
                if not left:
                    break
                tried.add(left[0].mend)
                self.mend(left[0])
        self.renew()
