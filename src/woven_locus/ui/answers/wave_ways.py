"""The ways of attackers: as they are, as they would be with the ghost in hand, and where a tower would gain most."""

from __future__ import annotations

import numpy as np

from woven_locus.core.kinds import Kind
from woven_locus.core.placing import feasible_map
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.cut import Cut, least_cut
from woven_locus.core.waves.gain import Gains, Measure, gains, pace
from woven_locus.core.waves.narrow import Narrow, narrow_places
from woven_locus.core.waves.ways import EntryWay, find_way, find_ways, ground_of
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage


class Growth(Value):
    """What the ghost does to one way. longer : world units; seconds : for the first kind that comes by it."""

    before: EntryWay
    after: EntryWay
    longer: float
    seconds: float

    @property
    def words(self) -> str:
        """``E1: +12.5, +18%, +6.2 s``."""
        return f"{self.before.entry}: {self.change}"

    @property
    def change(self) -> str:
        """The same without the entry."""
        if not self.after.found:
            return tr("sealed")
        if not self.changed:
            return tr("as it is")
        if abs(self.longer) < 0.05:
            return tr("another way, as long")
        share = self.longer / self.before.length if self.before.length else 0.0
        return f"{self.longer:+.1f}, {share:+.0%}, {self.seconds:+.1f} s"

    @property
    def changed(self) -> bool:
        """Whether it leads elsewhere."""
        return self.before is not self.after


def _growth(plan: Plan, before: EntryWay, after: EntryWay) -> Growth:
    both = before.found and after.found
    longer = after.length - before.length if both else 0.0
    seconds = (after.effort - before.effort) / pace(plan, before) if both else 0.0
    return Growth(before, after, longer, seconds)


class WaysKeeper(OneJob):
    """Kept for the stage Waves; elsewhere nothing is worked out. On a large plan what is needed to answer within a frame is
    worked out beside, once for each state of the plan; until then nothing is said of the ghost."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._forget()
        session.changed.connect(lambda _notice: self._edited())
        session.settled.connect(self._edited)
        session.replaced.connect(self._edited)
        session.choices.stage_changed.connect(self._edited)
        session.hand.judged.connect(self._judged)

    def _forget(self) -> None:
        self._around: tuple[int, Around | None] = (-1, None)
        self.growth: tuple[Growth, ...] = ()

    @property
    def active(self) -> bool:
        """Whether anybody looks."""
        return self._session.choices.stage is Stage.WAVES

    @property
    def ways(self) -> tuple[EntryWay, ...]:
        """Of all entries, as the plan is; none in another stage."""
        plan = self._session.plan
        if not self.active or not plan.waves.entries:
            return ()
        return find_ways(plan)

    def _edited(self) -> None:
        if self.active:
            self._judged()
            self.changed.emit()

    def _judged(self) -> None:
        ghost, before = self._session.hand.ghost, self.growth
        self.growth = ()
        if ghost is not None and self.active and self.ways:
            self.growth = self._lifted_growth() if ghost.lifted else self._growth()
        if before or self.growth:
            self.changed.emit()

    def _ready(self) -> Around | None:
        """What answers for a ghost on a way; None while it is worked out."""
        plan = self._session.plan
        if self._around[0] != plan.revision:
            self._around = plan.revision, None

            def work(twin: Plan, _control: Control) -> Around:
                return Around(twin)

            def done(found: Around) -> None:
                self._around = self._session.plan.revision, found
                self._judged()

            self._work_out(tr("Ways of attackers"), work, done)
        return self._around[1]

    def _growth(self) -> tuple[Growth, ...]:
        plan, ghost = self._session.plan, self._session.hand.ghost
        assert ghost is not None
        cells = plan.footprint(ghost.kind, ghost.turn).at(ghost.cell)
        closed = {plan.spec.slot(cell) for cell in cells if plan.spec.contains(cell)}
        hit = {
            way.entry
            for way in self.ways
            if way.moves is Moves.GROUND and not closed.isdisjoint(map(tuple, way.slots.tolist()))
        }
        if not hit:
            # Closing cells off a way does not make another one shorter.
            return tuple(_growth(plan, way, way) for way in self.ways if way.moves is Moves.GROUND)
        around = self._ready()
        if around is None:
            return ()
        found = []
        for way in self.ways:
            if way.moves is not Moves.GROUND:
                continue
            new = around.find(way, cells) if way.entry in hit else way
            found.append(_growth(plan, way, new))
        return tuple(found)

    def _lifted_growth(self) -> tuple[Growth, ...]:
        """While a structure is moved the place that it leaves is open."""
        plan, ghost = self._session.plan, self._session.hand.ghost
        assert ghost is not None
        cells = plan.footprint(ghost.kind, ghost.turn).at(ghost.cell)
        ground, costs = ground_of(plan, cells, ghost.lifted)
        found = []
        for way in self.ways:
            entry = plan.waves.entry(way.entry)
            if way.moves is Moves.GROUND and entry is not None:
                new = find_way(plan, entry, way.moves, ground, costs)
                same = np.array_equal(new.slots, way.slots)
                found.append(_growth(plan, way, way if same else new))
        return tuple(found)


class WhileShown(OneJob):
    """An answer that is worked out for as long as it is asked for in the stage Waves, anew for each state of the plan."""

    def __init__(self, session: Session, ways: WaysKeeper) -> None:
        super().__init__(session)
        self._ways = ways
        self.shown = False
        self._forget()
        session.changed.connect(lambda _notice: self._again())
        session.choices.stage_changed.connect(self._again)

    def _forget(self) -> None:
        self._key: object = None

    def _asked(self) -> object:
        """What is asked besides the plan; None for nothing."""
        raise NotImplementedError

    def _ask(self) -> None:
        """Have it worked out."""
        raise NotImplementedError

    def show(self, on: bool) -> None:
        """Whether it is asked for."""
        self.shown = on
        self._again()

    def _again(self) -> None:
        plan = self._session.plan
        asked = self._asked() if self.shown and self._ways.active and plan.waves.entries else None
        if asked is None:
            if self._key is not None:
                self._stop()
                self._forget()
                self.changed.emit()
        elif (key := (asked, plan.revision)) != self._key:
            self._key = key
            self._ask()
            self.changed.emit()


class GainKeeper(WhileShown):
    """found : where the tower or maze piece in hand would gain most, None while it is not known or not asked for.
    measure : by what the spots are ranked."""

    def __init__(self, session: Session, ways: WaysKeeper) -> None:
        super().__init__(session, ways)
        self.measure = Measure.SECONDS
        session.hand.changed.connect(self._again)

    def _forget(self) -> None:
        super()._forget()
        self.found: Gains | None = None

    def rank_by(self, measure: Measure) -> None:
        """By what the spots are ranked from now on."""
        self.measure = measure
        self.changed.emit()

    def _asked(self) -> tuple[Kind, int] | None:
        hand, kinds = self._session.hand, self._session.plan.kinds
        if hand.kind is None or hand.kind not in kinds:
            return None
        return kinds[hand.kind], hand.turn

    def _ask(self) -> None:
        asked = self._asked()
        assert asked is not None
        kind, turn = asked

        def work(twin: Plan, control: Control) -> Gains:
            return gains(twin, kind, turn, feasible_map(twin, kind, turn), control.tell, control)

        def done(found: Gains) -> None:
            self.found = found
            self.changed.emit()

        self._work_out(tr("Where it would gain most"), work, done, at_once=False)


class CutKeeper(WhileShown):
    """found : the fewest cells that close each entry, None while it is not known or not asked for."""

    def _forget(self) -> None:
        super()._forget()
        self.found: tuple[Cut, ...] | None = None

    def _asked(self) -> bool:
        return True

    def _ask(self) -> None:
        def work(twin: Plan, _control: Control) -> tuple[Cut, ...]:
            return tuple(
                least_cut(twin, entry, moves)
                for entry in twin.waves.entries
                for moves in twin.waves.moves_from(entry)
                if moves is not Moves.AIR
            )

        def done(found: tuple[Cut, ...]) -> None:
            self.found = found
            self.changed.emit()

        self._work_out(tr("The least cut"), work, done, at_once=False)


class NarrowKeeper(WhileShown):
    """found : where the ways are narrow, None while it is not known or not asked for."""

    def _forget(self) -> None:
        super()._forget()
        self.found: tuple[Narrow, ...] | None = None

    def _asked(self) -> bool:
        return True

    def _ask(self) -> None:
        def done(found: tuple[Narrow, ...]) -> None:
            self.found = found
            self.changed.emit()

        self._work_out(tr("Narrow places"), lambda twin, _control: narrow_places(twin), done)
