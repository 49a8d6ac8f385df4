"""What whole runs of the waves say: whether they will be held, and what they bring in."""

from __future__ import annotations

from woven_locus.core.editing import Notice
from woven_locus.core.plan import Plan
from woven_locus.core.waves.trials import Held, Strength, rewards, strengths, will_hold
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

# Seeds over which it is asked whether the waves are held.
SEEDS = 10


class HoldKeeper(OneJob):
    """found : whether the waves will be held, None while it was not asked or the plan is another since.
    strong : wave by wave, what comes against what could be dealt."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._forget()
        session.changed.connect(self._edited)

    def _forget(self) -> None:
        self.found: list[Held] | None = None
        self.strong: list[Strength] = []

    def _edited(self, notice: Notice) -> None:
        if notice.layers and (self.found is not None or self.working):
            self._stop()
            self._forget()
            self.changed.emit()

    def ask(self) -> None:
        """Let all waves come over several seeds, in a worker."""
        session = self._session
        if not session.plan.waves.waves or not session.plan.waves.entries:
            session.say(tr("There are no waves to try: add one in the sheet Waves"), "no")
            return
        self._forget()

        def work(plan: Plan, control: Control) -> tuple[list[Held], list[Strength]]:
            return will_hold(plan, SEEDS, control.tell, control), strengths(plan)

        def done(found: tuple[list[Held], list[Strength]]) -> None:
            self.found, self.strong = found
            self.changed.emit()

        self._work_out(tr("Will it hold?"), work, done, at_once=False)
        self.changed.emit()


class RewardKeeper(OneJob):
    """found : what the waves bring in, see `trials.rewards`; None while that is not known.  stopped : whether it will not
    be known, since the user stopped it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._forget()
        session.changed.connect(self._edited)

    def _forget(self) -> None:
        self.found: list[tuple[int, int]] | None = None
        self.stopped = False

    def _edited(self, notice: Notice) -> None:
        # It is asked again by who shows it, once no stroke is in hand.
        if notice.layers:
            self._stop()
            self._forget()

    def want(self) -> None:
        """Have it worked out, unless it is known, on its way, or was stopped."""
        in_gesture = self._session.document.history.in_gesture
        if self.found is not None or self.working or self.stopped or in_gesture:
            return

        def work(plan: Plan, control: Control) -> list[tuple[int, int]]:
            return rewards(plan, stopped=control)

        def done(found: list[tuple[int, int]]) -> None:
            self.found = found
            self.changed.emit()

        def ended() -> None:
            self.stopped = True
            self.changed.emit()

        self._work_out(
            tr("Rewards of the waves"),
            work,
            done,
            at_once=False,
            ended=ended,
            dropped=self.changed.emit,
        )

    def again(self) -> None:
        """Have it worked out even if it was stopped."""
        self.stopped = False
        self.want()
