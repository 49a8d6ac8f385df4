"""The junction that is looked at: its rule in the plan, and signals worked out for it."""

from __future__ import annotations

from woven_locus.core.edits.traffic import set_rule
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.junction_rules import JunctionRule, Rule, Turn
from woven_locus.core.plan import Plan
from woven_locus.core.traffic import TrafficRun, signals
from woven_locus.core.value import replace
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session


class JunctionKeeper(OneJob):
    """Another rule is an edit of the plan; the run follows it."""

    def __init__(self, session: Session, traffic: TrafficKeeper) -> None:
        super().__init__(session)
        self._traffic = traffic

    def _forget(self) -> None:
        self._traffic.choose_junction(None)

    @property
    def cell(self) -> Cell | None:
        """Where it is, None while none is looked at or none is there any more."""
        cell = self._traffic.junction
        return cell if cell is not None and self.is_one(cell) else None

    def is_one(self, cell: Cell) -> bool:
        """Whether the road branches at a cell; False as long as the lanes of a large plan are not laid out."""
        plan = self._session.plan
        if not plan.spec.contains(cell):
            return False
        if not (plan.lanes.made or self._session.asking.is_small()):
            return False
        graph = plan.lanes.graph
        return bool(graph.forms.branches[graph.pattern[plan.spec.index(cell)]])

    def turns(self, cell: Cell) -> list[Turn]:
        """The turns that lead through a junction."""
        plan = self._session.plan
        if not self.is_one(cell):
            return []
        graph = plan.lanes.graph
        return graph.forms.of(int(graph.pattern[plan.spec.index(cell)])).turns()

    @property
    def rule(self) -> JunctionRule | None:
        """Its rule, None for first come, first served."""
        cell = self._traffic.junction
        return self._session.plan.traffic.rule_at(cell) if cell is not None else None

    def set_rule(self, rule: Rule) -> None:
        """Another rule; signals are worked out from what came in the run so far."""
        cell = self.cell
        if cell is None:
            return
        now = self.rule
        if rule is (now.rule if now is not None else Rule.FIRST):
            return
        if rule is Rule.SIGNALS:
            self.propose()
        else:
            made = None if rule is Rule.FIRST else JunctionRule(cell, rule)
            self.change(made)

    def change(self, rule: JunctionRule | None) -> bool:
        """Make this the rule of the junction."""
        cell = self.cell
        return cell is not None and self._session.attempt(set_rule, self._session.plan, cell, rule)

    def propose(self) -> None:
        """Signals for it by Webster's method, from what came in the run so far; of equal times without a run."""
        cell, session, run = self.cell, self._session, self._traffic.run
        if cell is None or self.working:
            return
        before = self.rule
        offset = before.offset if before is not None else 0.0

        def work(plan: Plan, _control: object) -> JunctionRule | None:
            of = run or TrafficRun(plan, (), plan.traffic.vehicles)
            junction = of.streets.junctions.find(cell)
            return signals.propose(of, junction, offset) if junction is not None else None

        def done(found: JunctionRule | None) -> None:
            if found is None:
                session.say(tr("No junction is at {cell} any more", cell=cell_text(cell)), "no")
            else:
                self.change(replace(found, cell=cell))
            self.changed.emit()

        self._work_out(tr("Working out signals"), work, done, of=Plan.snapshot)
        self.changed.emit()
