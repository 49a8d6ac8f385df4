"""Answers that are worked out by one job at a time."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.session.session import Session


class OneJob(QObject):
    """An answer of the open plan, or the job that works it out. Another plan forgets both."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._job: Job | None = None
        session.replaced.connect(self._replaced)

    @property
    def working(self) -> bool:
        """Whether an answer is on its way."""
        return self._job is not None

    def _forget(self) -> None:
        """There is no answer."""
        raise NotImplementedError

    def _replaced(self) -> None:
        self._stop()
        self._forget()
        self.changed.emit()

    def _stop(self) -> None:
        if self._job is not None:
            self._job.stop()
            self._job = None
