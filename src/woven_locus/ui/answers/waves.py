"""Runs the core's waves on the plan as it is."""

from __future__ import annotations

import numpy as np

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Point
from woven_locus.core.waves.run import WaveRun
from woven_locus.core.waves.timeline import WaveTimeline
from woven_locus.ui.answers.run_clock import RunClock
from woven_locus.ui.language import counted, tr
from woven_locus.ui.session.session import Session

# What a run cannot go on over, once it is another.
_GROUND = frozenset({"grid", "waves"})
# What leads attackers another way, or makes other towers.
_LEADS = frozenset({"terrain", "structures", "obstacles", "barrier", "road", "heights", "kinds"})


class WaveKeeper(RunClock[WaveRun]):
    """shots : what flew since the last frame: a tower, and from where to where."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        session.changed.connect(self._edited)
        session.settled.connect(self._settled)

    def _forget(self) -> None:
        super()._forget()
        self.shots: list[tuple[int, Point, Point]] = []
        self._flew: list[tuple[int, int]] = []
        self._session.plan.account.earned = 0

    # --- beginning and ending -----------------------------------------------------------------------

    def begin(self, go: bool) -> None:
        """Make a run of the plan's waves, and let it go or do its first step. Said where nobody would come."""
        plan = self._session.plan
        why = ""
        if not plan.waves.entries or not plan.waves.goals:
            why = tr("set an entry and a goal first")
        elif not any(wave.groups for wave in plan.waves.waves):
            why = tr("there are no waves yet: add one in the sheet Waves")
        if why:
            self._session.say(tr("No wave was begun: {why}", why=why), "no")
            self.changed.emit()
            return
        self.run = WaveRun(plan, self.seed)
        self.timeline = WaveTimeline(self.run)
        self._stale = False
        if self.run.no_way:
            self._session.say(
                tr(
                    counted(
                        self.run.no_way,
                        "{n:,} attacker has no way to a goal",
                        "{n:,} attackers have no way to a goal",
                    )
                ),
                "no",
            )
        if go:
            self.set_running(True)
        else:
            self.step()
            self.changed.emit()

    def set_running(self, on: bool) -> None:
        """See `RunClock.set_running`; what is over begins again."""
        if on and self._at_end():
            self._forget()
        super().set_running(on)
        self.moved.emit()

    def clear(self) -> None:
        """Take all attackers away; the next run begins at 0."""
        self._forget()
        self._session.hand.judge()  # of what the run had brought in
        self.changed.emit()
        self.moved.emit()

    def _at_end(self) -> bool:
        return self.run is not None and self.run.over

    # --- time ---------------------------------------------------------------------------------------

    def _steps(self, wanted: int) -> int:
        self._flew = []
        done = super()._steps(wanted)
        assert self.run is not None
        self.shots = self._drawn(self.run)
        self._count_money()
        return done

    def _did_step(self) -> None:
        assert self.run is not None
        self._flew += self.run.shots

    def _drawn(self, run: WaveRun) -> list[tuple[int, Point, Point]]:
        """The shots as lines from a tower to who was hit."""
        if not self._flew:
            return []
        rows = np.array([number - 1 for _tower, number in self._flew], np.int64)
        ends = run.points(rows).tolist()
        centres = {placed.number: placed.centre for placed in run.towers}
        return [
            (tower, centres[tower], Point(*end))
            for (tower, _number), end in zip(self._flew, ends, strict=True)
        ]

    def _count_money(self) -> None:
        """What the run has brought in can be built with: it counts for the ghost in hand, too."""
        account, run = self._session.plan.account, self.run
        if run is None or self._session.plan.funds is None:
            return
        before, account.earned = account.earned, run.funds - account.balance
        if account.earned != before:
            self._session.hand.judge()

    def _turned_back(self) -> None:
        self._count_money()

    def _looked(self) -> None:
        run = self.run
        assert run is not None
        if not (run.over and self.running):
            return
        self._timer.stop()
        if run.lost:
            at = max(n for n, tally in enumerate(run.waves) if tally.lives)
            name = run.plan_waves.waves[at].name or tr("wave {at}", at=at + 1)
            self._session.say(tr("Lost in {name}: no life is left", name=name), "no")
        else:
            self._session.say(
                tr(
                    "Held: {lives:,} of {lives2:,} lives are left",
                    lives=run.lives,
                    lives2=run.plan_waves.lives,
                )
            )
        self.changed.emit()

    # --- a plan that changes meanwhile ----------------------------------------------------------------

    def _edited(self, notice: Notice) -> None:
        if self.run is None:
            return
        if notice.layers & _GROUND or notice.reformed:
            self.clear()
            self._session.say(
                tr("The waves were taken off the map: the plan's waves or grid changed"), "no"
            )
        elif notice.layers & _LEADS:
            self._wait()
            self._settled()

    def _settled(self) -> None:
        """The run is led on as soon as no stroke is in hand; the time of a stroke does not count."""
        run = self.run
        if run is None or not self._stale or self._session.document.history.in_gesture:
            return
        assert self.timeline is not None
        self._stale = False
        run.rebuild(self._session.plan)
        # What was before would have gone another way.
        self.timeline.begin()
        self._count_money()
        if self._resume:
            super().set_running(True)
        self.changed.emit()
        self.moved.emit()
