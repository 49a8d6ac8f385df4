"""Where the kind in hand could go, kept current: at once on a small plan and after small edits, in a
worker otherwise."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.editing import Notice
from woven_locus.core.placing import Feasibility
from woven_locus.core.placing.feasibility import looked_at
from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import WhereShown

# Cells of edited blocks up to which the map is mended within the frame.
MEND = 1 << 15


class WhereKeeper(QObject):
    """map : the newest answer, or None while nothing is asked or it is being worked out."""

    changed = pyqtSignal()  # another map, or none
    mended = pyqtSignal(object)  # list of boxes of shown cells that look different

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.map: Feasibility | None = None
        self._asked: tuple[object, ...] | None = None
        self._job: Job | None = None
        session.choices.on("build", self.refresh)
        session.hand.changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.changed.connect(self._edited)

    @property
    def working(self) -> bool:
        """Whether an answer is on its way."""
        return self._asked is not None and self.map is None

    def refresh(self) -> None:
        """Look whether what is asked is still what is shown."""
        session = self._session
        hand = session.hand
        asked: tuple[object, ...] | None = None
        if session.choices.build.where is not WhereShown.OFF and hand.kind is not None:
            kind = session.plan.kinds[hand.kind]
            asked = (session.plan, kind, hand.turn, hand.lifted)
        if asked != self._asked:
            self._begin(asked)

    def _begin(self, asked: tuple[object, ...] | None) -> None:
        if self._job is not None:
            self._job.stop()
            self._job = None
        self._asked, had, self.map = asked, self.map is not None, None
        if asked is None:
            if had:
                self.changed.emit()
            return
        session = self._session
        hand = session.hand
        assert hand.kind is not None
        kind, turn, lifted = session.plan.kinds[hand.kind], hand.turn, hand.lifted

        def arrived(found: Feasibility) -> None:
            self._job = None
            if self._asked == asked:
                found.now_of(session.plan)
                self.map = found
                self.changed.emit()

        def dropped() -> None:
            self._job = None
            if self._asked == asked:
                self._begin(asked)

        def stopped() -> None:
            # By the user's Stop, not by another question: the next edit or move asks again.
            if self._asked == asked and self._job is job:
                self._job = self._asked = None
                self.changed.emit()

        job = self._job = session.asking.ask(
            tr("Looking where it could go"),
            lambda plan, control: Feasibility(plan, kind, turn, lifted, control),
            arrived,
            dropped=dropped,
            stopped=stopped,
        )
        if self.map is None:
            self.changed.emit()

    def _edited(self, notice: Notice) -> None:
        if self._asked is None:
            return
        looked = looked_at(notice.boxes)
        size = sum(box.shape[0] * box.shape[1] for box in looked)
        if size > MEND or (self.map.is_void(notice) if self.map is not None else notice.reformed):
            self._asked = ()
            self.refresh()
        elif self.map is not None:
            always = self.map.always
            boxes = [self.map.shown(box) for box in self.map.update(notice)]
            if always != self.map.always:
                boxes = [self._session.plan.spec.box]
            if boxes:
                self.mended.emit(boxes)
