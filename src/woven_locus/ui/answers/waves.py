"""Runs the core's waves on the plan as it is, and asks whether they will be held."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal

from woven_locus.core.clock import Clock
from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Point
from woven_locus.core.plan import Plan
from woven_locus.core.waves.run import STEP, WaveRun
from woven_locus.core.waves.trials import Held, Strength, strengths, will_hold
from woven_locus.ui.answers.one_job import OneJob
from woven_locus.ui.answers.run_clock import FRAME_MSEC
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.session.session import Session

# A frame that comes later than this, seconds, does not throw attackers far ahead.
_LATEST = 0.1
# Seconds of a frame that steps may take.
_BUDGET = 0.010
# Seeds over which it is asked whether the waves are held.
SEEDS = 10
# What a run cannot go on over, once it is another.
_GROUND = frozenset({"grid", "waves"})
# What leads attackers another way, or makes other towers.
_LEADS = frozenset({"terrain", "structures", "obstacles", "barrier", "road", "heights", "kinds"})


class WaveKeeper(OneJob):
    """run : None before one was begun.  chosen : number of the attacker that is looked at, 0 for none.  speed : simulated
    seconds in one that passes.  behind : whether steps take longer than the time they stand for."""

    moved = pyqtSignal()  # positions are new

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MSEC)
        self._timer.timeout.connect(self._frame)
        self.speed = 1
        self._last = 0.0
        self._forget()
        session.changed.connect(self._edited)
        session.settled.connect(self._settled)

    def _forget(self) -> None:
        self._timer.stop()
        self.run: WaveRun | None = None
        self.clock = Clock(STEP, self.speed)
        self.chosen = 0
        self.behind = False
        # The plan changed under the run, which is led on before its next step.
        self._stale = False
        # What flew since the last frame: (tower, attacker), and when.
        self.shots: list[tuple[int, Point, Point]] = []

    # --- time ---------------------------------------------------------------------------------------

    @property
    def running(self) -> bool:
        """Whether time goes by."""
        return self._timer.isActive()

    def begin(self) -> bool:
        """Make a run. False, and said, where nobody would come."""
        plan = self._session.plan
        why = ""
        if not plan.waves.entries or not plan.waves.goals:
            why = "set an entry and a goal first"
        elif not any(wave.groups for wave in plan.waves.waves):
            why = "there are no waves yet: add one in the sheet Waves"
        if why:
            self._session.say(f"No wave was begun: {why}", "no")
            self.changed.emit()
            return False
        self.run = WaveRun(plan)
        self._stale = False
        if self.run.no_way:
            self._session.say(f"{self.run.no_way:,} attackers have no way to a goal", "no")
        self.clock.forget()
        return True

    def set_running(self, on: bool) -> None:
        """Let time go by, or stop it."""
        if on and (self.run is None or self.run.over) and not self.begin():
            return
        if on:
            self._last = time.monotonic()
            self._timer.start()
        else:
            self._timer.stop()
        self.changed.emit()
        self.moved.emit()

    def set_speed(self, speed: int) -> None:
        """Simulated seconds in one that passes."""
        self.speed = self.clock.speed = speed
        self.changed.emit()

    def step(self) -> None:
        """One step of the simulation."""
        if self.run is not None or self.begin():
            self._steps(1)
            self._shown()
            self.changed.emit()

    def clear(self) -> None:
        """Take all attackers away; the next run begins at 0."""
        self._forget()
        self.changed.emit()
        self.moved.emit()

    def advance(self, seconds: float) -> None:
        """So much time has passed; as many steps are done as a frame has room for."""
        owed = self.clock.passed(seconds)
        self.behind = self._steps(owed) < owed
        self._shown()

    def _frame(self) -> None:
        now = time.monotonic()
        passed, self._last = min(now - self._last, _LATEST), now
        self.advance(passed)

    def _steps(self, wanted: int) -> int:
        run = self.run
        assert run is not None
        if self._stale:
            if self._session.document.history.in_gesture:
                return wanted  # the time of a stroke does not count
            run.rebuild(self._session.plan)
            self._stale = False
        began, done = time.monotonic(), 0
        shots: list[tuple[int, int]] = []
        while done < wanted and not run.over and time.monotonic() - began < _BUDGET:
            run.advance()
            shots += run.shots
            done += 1
        self.shots = self._drawn(run, shots)
        return wanted if run.over else done

    def _drawn(self, run: WaveRun, shots: list[tuple[int, int]]) -> list[tuple[int, Point, Point]]:
        """The shots as lines from a tower to who was hit."""
        if not shots:
            return []
        rows = np.array([number - 1 for _tower, number in shots], np.int64)
        ends = run.points(rows).tolist()
        centres = {placed.number: placed.centre for placed in run.towers}
        return [
            (tower, centres[tower], Point(*end))
            for (tower, _number), end in zip(shots, ends, strict=True)
        ]

    def _shown(self) -> None:
        run = self.run
        if run is not None and run.over and self.running:
            self._timer.stop()
            if run.lost:
                at = max(n for n, tally in enumerate(run.waves) if tally.lives)
                name = run.plan_waves.waves[at].name or f"wave {at + 1}"
                self._session.say(f"Lost in {name}: no life is left", "no")
            else:
                self._session.say(f"Held: {run.lives:,} of {run.plan_waves.lives:,} lives are left")
            self.changed.emit()
        self.moved.emit()

    # --- a plan that changes meanwhile ----------------------------------------------------------------

    def _edited(self, notice: Notice) -> None:
        if self.run is None:
            return
        if notice.layers & _GROUND or notice.reformed:
            self.clear()
            self._session.say(
                "The waves were taken off the map: the plan's waves or grid changed", "no"
            )
        elif notice.layers & _LEADS:
            self._stale = True
            self._settled()

    def _settled(self) -> None:
        """A run that stands still is led on at once, so that what is shown is true."""
        if (
            self.run is not None
            and self._stale
            and not self.running
            and not self._session.document.history.in_gesture
        ):
            self.run.rebuild(self._session.plan)
            self._stale = False
            self.moved.emit()

    # --- what is looked at ----------------------------------------------------------------------------

    def choose(self, at: Point, reach: float) -> bool:
        """Look at the attacker nearest to a world point, within `reach`; False when there is none."""
        number = self.run.nearest(at, reach) if self.run is not None else 0
        if number != self.chosen:
            self.chosen = number
            self.moved.emit()
        return number != 0


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
            session.say("There are no waves to try: add one in the sheet Waves", "no")
            return
        self._forget()

        def work(plan: Plan, control: Control) -> tuple[list[Held], list[Strength]]:
            return will_hold(plan, SEEDS, control.tell, control), strengths(plan)

        def done(found: tuple[list[Held], list[Strength]]) -> None:
            self.found, self.strong = found
            self.changed.emit()

        self._work_out("Will it hold?", work, done, at_once=False)
        self.changed.emit()
