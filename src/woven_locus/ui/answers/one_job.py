"""Answers that are worked out by one job at a time."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.errors import WovenError
from woven_locus.core.plan import Plan
from woven_locus.ui.jobs.pool import Answer, Control, Job
from woven_locus.ui.language import tr
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

    def _work_out(
        self,
        label: str,
        work: Callable[[Plan, Control], Answer],
        done: Callable[[Answer], object],
        *,
        at_once: bool | None = None,
        of: Callable[[Plan], Plan] = Plan.twin,
        ended: Callable[[], object] | None = None,
        dropped: Callable[[], object] | None = None,
        refused: Callable[[WovenError], object] | None = None,
    ) -> None:
        """Have an answer worked out, as with `Asking.ask`; nothing works any more when one of these is called.

        done : with the answer.  ended : it will not come, since it was stopped, the plan moved on, or it was refused,
        which is said; by default `changed` is told.  dropped, refused : in place of that. It takes the place of a job
        that runs, which is no news any more.
        """
        self._stop()
        session = self._session
        over = ended or self.changed.emit
        job: Job | None = None

        def say(error: WovenError) -> None:
            session.say(tr(error), "no")
            over()

        def came(answer: Answer) -> None:
            self._job = None
            done(answer)

        def unless_replaced(then: Callable[..., object]) -> Callable[..., None]:
            def call(*of_it: WovenError) -> None:
                if job is self._job:
                    self._job = None
                    then(*of_it)

            return call

        found = session.asking.ask(
            label,
            work,
            came,
            at_once=at_once,
            of=of,
            dropped=unless_replaced(dropped or over),
            refused=unless_replaced(refused or say),
            stopped=unless_replaced(over),
        )
        if found is not None:
            job = self._job = found

    def _stop(self) -> None:
        if self._job is not None:
            self._job.stop()
            self._job = None
