"""The ways of attackers: as they are, as they would be with the ghost in hand, and where a tower would gain most."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from woven_locus.core.placing import feasible_map
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.cut import Cut, least_cut
from woven_locus.core.waves.gain import Gains, gains, pace
from woven_locus.core.waves.ways import EntryWay, find_way, find_ways, ground_of
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage


@dataclass(frozen=True, slots=True)
class Growth:
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
            return "sealed"
        if not self.changed:
            return "as it is"
        if abs(self.longer) < 0.05:
            return "another way, as long"
        share = self.longer / self.before.length if self.before.length else 0.0
        return f"{self.longer:+.1f}, {share:+.0%}, {self.seconds:+.1f} s"

    @property
    def changed(self) -> bool:
        """Whether it leads elsewhere."""
        return self.before is not self.after


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
        self._of: tuple[int, int] | None = None
        self._ways: tuple[EntryWay, ...] = ()
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
        key = id(plan), plan.version
        if self._of != key:
            self._of, self._ways = key, find_ways(plan)
        return self._ways

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

            self._work_out("Ways of attackers", work, done)
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
            return tuple(
                Growth(way, way, 0.0, 0.0) for way in self.ways if way.moves is Moves.GROUND
            )
        around = self._ready()
        if around is None:
            return ()
        found = []
        for way in self.ways:
            if way.moves is not Moves.GROUND:
                continue
            new = around.find(way, cells) if way.entry in hit else way
            longer = new.length - way.length if new.found and way.found else 0.0
            found.append(Growth(way, new, longer, longer / pace(plan, way)))
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
                longer = new.length - way.length if new.found and way.found else 0.0
                found.append(Growth(way, way if same else new, longer, longer / pace(plan, way)))
        return tuple(found)


class GainKeeper(OneJob):
    """found : where the tower or maze piece in hand would gain most, None while it is not known or not asked for."""

    def __init__(self, session: Session, ways: WaysKeeper) -> None:
        super().__init__(session)
        self._ways = ways
        self.shown = False
        self._forget()
        session.changed.connect(lambda _notice: self._again())
        session.hand.changed.connect(self._again)
        session.choices.stage_changed.connect(self._again)

    def _forget(self) -> None:
        self.found: Gains | None = None
        self._key: object = None

    def show_gains(self, on: bool) -> None:
        """Whether it is asked for whenever a tower is in hand."""
        self.shown = on
        self._key = None
        self._again()

    def _again(self) -> None:
        session, hand = self._session, self._session.hand
        plan = session.plan
        key_ = hand.kind if self.shown and self._ways.active else None
        kind = plan.kinds[key_] if key_ is not None and key_ in plan.kinds else None
        if kind is None or not plan.waves.entries:
            if self.found is not None or self.working:
                self._stop()
                self._forget()
                self.changed.emit()
            return
        key = kind, hand.turn, plan.revision
        if key == self._key:
            return
        self._key = key
        turn = hand.turn

        def work(twin: Plan, control: Control) -> Gains:
            return gains(twin, kind, turn, feasible_map(twin, kind, turn), control.tell, control)

        def done(found: Gains) -> None:
            self.found = found
            self.changed.emit()

        self._work_out("Where it would gain most", work, done, at_once=False)
        self.changed.emit()


class CutKeeper(OneJob):
    """found : the fewest cells that close each entry, None while it is not known or not asked for."""

    def __init__(self, session: Session, ways: WaysKeeper) -> None:
        super().__init__(session)
        self._ways = ways
        self.shown = False
        self._forget()
        session.changed.connect(lambda _notice: self._again())
        session.choices.stage_changed.connect(self._again)

    def _forget(self) -> None:
        self.found: tuple[Cut, ...] | None = None
        self._key: object = None

    def show_cuts(self, on: bool) -> None:
        """Whether they are asked for."""
        self.shown = on
        self._again()

    def _again(self) -> None:
        plan = self._session.plan
        if not (self.shown and self._ways.active and plan.waves.entries):
            if self.found is not None or self.working:
                self._stop()
                self._forget()
                self.changed.emit()
            return
        if self._key == plan.revision:
            return
        self._key = plan.revision

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

        self._work_out("The least cut", work, done, at_once=False)
        self.changed.emit()
