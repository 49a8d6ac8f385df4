"""What would help most: other rules and one more cell of road tried in a worker, one after the other."""

from __future__ import annotations

from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.remedies import (
    Outcome,
    Remedy,
    ranked,
    remedies,
    try_out,
    worst_junction,
)
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session


class RemedyKeeper(OneJob):
    """cell : the junction that it is about.  found : what each would save, best first; None before it was asked.
    seconds : that each was tried for.  Void once the plan is another."""

    def __init__(self, session: Session, traffic: TrafficKeeper) -> None:
        super().__init__(session)
        self._traffic = traffic
        self._forget()
        session.changed.connect(lambda _notice: self._edited())

    def _forget(self) -> None:
        self.cell: Cell | None = None
        self.found: list[Outcome] | None = None
        self.seconds = 0.0

    def _edited(self) -> None:
        if self.found is not None:
            self._forget()
            self.changed.emit()

    def ask(self) -> None:
        """Try what may help at the junction where most time is lost."""
        run, session = self._traffic.run, self._session
        if run is None or self.working:
            return
        cell = worst_junction(run)
        if cell is None:
            session.say(
                tr("No time was lost at any junction so far: let traffic run for a while"), "no"
            )
            return
        some = remedies(run, session.plan, cell)
        steps, step, seed = run.steps, run.step, run.seed

        def work(plan: Plan, control: Control) -> list[Outcome]:
            asis: TrafficRun | str = ""
            tried: list[tuple[Remedy, TrafficRun | str]] = []
            for at, remedy in enumerate((None, *some)):

                def tell(share: float, at: int = at) -> None:
                    control.tell((at + share) / (len(some) + 1))

                found = try_out(plan.twin(), remedy, steps, step, seed, tell, control)
                if remedy is None:
                    asis = found
                else:
                    tried.append((remedy, found))
            return ranked(asis, tried) if isinstance(asis, TrafficRun) else []

        def done(found: list[Outcome]) -> None:
            self.cell, self.found, self.seconds = cell, found, steps * step
            self.changed.emit()

        self._work_out(tr("Trying what would help"), work, done, at_once=False)
        self.changed.emit()

    def do(self, outcome: Outcome) -> bool:
        """Make a remedy part of the plan."""
        return self._session.attempt(outcome.remedy.make, self._session.plan)
