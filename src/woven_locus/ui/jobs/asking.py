"""The one way to ask something of the open plan that may take long: at once, or in a worker on a copy of
the plan, with progress and Stop; and the answer is dropped when the plan is another one by then."""

from __future__ import annotations

from collections.abc import Callable

from woven_locus.core.errors import WovenError
from woven_locus.core.plan import Plan
from woven_locus.document import Document
from woven_locus.ui.jobs.pool import AT_ONCE, Answer, Control, Job, Jobs, nothing, now
from woven_locus.ui.language import mark, tr

_DROPPED = mark("{label}: dropped, since the plan changed meanwhile; do it again")


class Asking:
    """Whoever works beside the document does it through this."""

    def __init__(
        self, jobs: Jobs, document: Callable[[], Document], say: Callable[[str, str], None]
    ) -> None:
        """document : the open one.  say : tell the user something, at a level."""
        self._jobs, self._document, self._say = jobs, document, say
        self._waiting: list[Job] = []

    @property
    def waiting(self) -> bool:
        """Whether an answer is to come that the next edit would make void."""
        self._waiting = [
            job for job in self._waiting if job in self._jobs.running and not job.stopped
        ]
        return bool(self._waiting)

    def is_small(self) -> bool:
        """Whether a look at every cell of the plan fits into a frame."""
        return self._document().plan.terrain.size <= AT_ONCE

    def ask(
        self,
        label: str,
        work: Callable[[Plan, Control], Answer],
        done: Callable[[Answer], object],
        *,
        at_once: bool | None = None,
        of: Callable[[Plan], Plan] = Plan.twin,
        dropped: Callable[[], object] | None = None,
        refused: Callable[[WovenError], object] | None = None,
        stopped: Callable[[], object] = nothing,
    ) -> Job | None:
        """Ask; exactly one of the callbacks is called, now or later.

        work : the question, of a plan that nobody else writes to.  done : with its answer.
        at_once : here and now, on the plan itself; by default for a small plan.
        of : the copy for a worker, made there; `Plan.snapshot` where only what is recorded is read.
        dropped : the plan moved on; by default that is said.  refused : with a WovenError; by default it is
        said.  stopped : by Stop.
        Returns the job, or None when it was done at once.
        """
        document = self._document()
        plan, revision, say = document.plan, document.revision, self._say
        no = refused or (lambda error: say(tr(error), "no"))
        if self.is_small() if at_once is None else at_once:
            now(lambda: work(plan, Control()), done, no)
            return None

        def current() -> bool:
            return self._document() is document and document.revision == revision

        def drop() -> None:
            if dropped is not None:
                dropped()
            else:
                say(tr(_DROPPED, label=label), "no")

        def arrived(answer: Answer) -> None:
            if current():
                done(answer)
            else:
                drop()

        def failed(error: WovenError) -> None:
            # A refusal, too, was of the plan as it was.
            if current():
                no(error)
            else:
                drop()

        job = self._jobs.start(
            label, lambda control: work(of(plan), control), arrived, failed, stopped
        )
        self._waiting.append(job)
        return job
