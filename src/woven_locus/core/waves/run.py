"""The stepped waves: the same plan, seed and step give the same run, whoever runs it."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.clock import STEP
from woven_locus.core.errors import Refused
from woven_locus.core.plan import Plan
from woven_locus.core.value import Record
from woven_locus.core.waves.attackers import Attackers
from woven_locus.core.waves.due import due_list
from woven_locus.core.waves.income import Income
from woven_locus.core.waves.on_the_way import OnTheWay
from woven_locus.core.waves.towers import Placed, Targets, in_reach, towers_of, whom
from woven_locus.core.waves.tracks import Lines

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# Nobody is waited for longer than this, simulated seconds after the last was due.
PATIENCE = 86_400.0


class WaveTally(Record):
    """What came of a wave. sent, stopped, through : attackers.  lives : that it cost.  earned : in rewards."""

    sent: int = 0
    stopped: int = 0
    through: int = 0
    lives: int = 0
    earned: int = 0


class TowerTally(Record):
    """What a tower did. shots, stopped.  dealt : damage that was taken; wasted : beyond the health that was left.
    idle : seconds that it could have shot and had nobody, while attackers were there; there : seconds of that."""

    shots: int = 0
    stopped: int = 0
    dealt: float = 0.0
    wasted: float = 0.0
    idle: float = 0.0
    there: float = 0.0
    ready: float = 0.0
    # The number of the attacker that it shot at last, and of how many in its range.
    aim: int = 0
    of: int = 0


class Fall(NamedTuple):
    """An attacker that was stopped. x : how far along its way, world units; share : of the way.  seconds : when.
    reward : what was paid for it."""

    x: float
    share: float
    seconds: float
    reward: int


class Account(NamedTuple):
    """How it stood when funds or lives changed."""

    seconds: float
    funds: int
    lives: int


class WaveRun(OnTheWay):
    """Attackers on their ways and the towers of a plan.

    step : seconds.  steps : done so far.  towers : of the plan, by number.  attackers : those that came so far.
    lives, funds : now.  waves, tallies : what came of each wave and each tower (by structure number).
    no_way : how many could not come since no way leads from their entry.  falls : who was stopped, in order.
    account : funds and lives since the beginning.  sent : how many have come.  income : what structures pay meanwhile.
    shots : of the last step, each a tower and an attacker by number.  log : hash of who fell, or came through, when.
    """

    def __init__(
        self, plan: Plan, seed: int = 0, step: float = STEP, only: int | None = None
    ) -> None:
        """only : the one wave that comes, from its own beginning; None for all. Raises Refused for a step that is too long or
        too short."""
        if not (math.isfinite(step) and 0.001 <= step <= 0.5):
            raise Refused(f"a step must be 0.001 to 0.5 seconds, not {step:g}")
        super().__init__(plan)
        self.step, self.steps, self.seed = step, 0, seed
        self.plan_waves = plan.waves
        self.kinds = plan.waves.attackers
        self.lives = plan.waves.lives
        self.funds = plan.account.balance if plan.funds is not None else 0
        self.income, self._spent = Income(plan), plan.account.spent
        self.due = due_list(plan.waves, self._lines, seed, only)
        self.no_way = self.due.no_way
        self.waves = [WaveTally() for _ in plan.waves.waves]
        self.attackers = Attackers(len(self.due), self.kinds)
        self.sent = 0
        self.towers: tuple[Placed, ...] = ()
        self.tallies: dict[int, TowerTally] = {}
        self.falls: list[Fall] = []
        self.account = [Account(0.0, self.funds, self.lives)]
        self.log = hashlib.blake2b(digest_size=16)
        self.shots: list[tuple[int, int]] = []
        self._take_towers(plan)

    def _take_towers(self, plan: Plan) -> None:
        self.towers = towers_of(plan)
        for placed in self.towers:
            self.tallies.setdefault(placed.number, TowerTally(ready=self.seconds))
        # Worked out when it is asked for: the lines may be laid anew too.
        self._reaches: Floats | None = None

    def rebuild(self, plan: Plan) -> None:
        """Go on with a plan that was built on: other towers, and for all who are under way the way from where they are.
        Its waves must be those that the run was made with."""
        self._take_towers(plan)
        self._take_heights(plan)
        # What was built is paid, what was demolished brings back what it does.
        paid, self._spent = plan.account.spent - self._spent, plan.account.spent
        self.income.take(plan, self.seconds)
        if plan.funds is not None and paid:
            self.funds -= paid
            self._note()
        lines = Lines(plan)
        rows = self.attackers.there()
        lines.take_over(self._lines, plan, self.attackers, rows)
        self.due = lines.renew(self.due, self.sent, self._lines)
        self._lines = lines
        self._reaches = None

    # --- running it ---------------------------------------------------------------------------------

    @property
    def seconds(self) -> float:
        """Simulated time since the beginning."""
        return self.steps * self.step

    @property
    def over(self) -> bool:
        """Whether all have come and gone, or no life is left."""
        return self.lost or (self.sent >= len(self.due) and not self.attackers.count_there)

    @property
    def lost(self) -> bool:
        """Whether no life is left."""
        return self.lives <= 0

    @property
    def held(self) -> bool:
        """Whether all have come and gone and a life is left."""
        return self.over and not self.lost

    def advance(self, steps: int = 1) -> None:
        """Do so many steps; once it is over nothing happens any more but the time."""
        for _ in range(steps):
            self._advance()

    def finish(self, stopped: Callable[[], bool] = lambda: False) -> None:
        """Go on until it is over. stopped : ends it early. Gives up PATIENCE after the last was due."""
        most = (float(self.due.time[-1]) if len(self.due) else 0.0) + PATIENCE
        while not self.over and self.seconds < most:
            if not self.attackers.count_there:
                # Nothing happens until the next one comes.
                steps = int((float(self.due.time[self.sent]) - self.seconds) / self.step) - 1
                self.steps += max(0, steps)
            self._advance()
            if self.steps % 64 == 0 and stopped():
                return

    def _advance(self) -> None:
        self.shots = []
        if not self.over:
            if paid := self.income.until(self.seconds):
                self.funds += paid
                self._note()
            self._come()
            if self.attackers.count_there:
                self._shoot()
                self._move()
        self.steps += 1

    def _come(self) -> None:
        first, due = self.sent, self.due
        while self.sent < len(due) and due.time[self.sent] <= self.seconds:
            self.sent += 1
        if self.sent > first:
            some = slice(first, self.sent)
            self.attackers.put(first, due.kind[some], due.wave[some], due.line[some])
            for wave in due.wave[some].tolist():
                self.waves[wave].sent += 1

    def _shoot(self) -> None:
        now = self.seconds
        ready = [
            placed for placed in self.towers if self.tallies[placed.number].ready <= now + 1e-9
        ]
        for placed in self.towers:
            self.tallies[placed.number].there += self.step
        idle = self._has_nobody(ready) if ready else ()
        for placed in idle:
            self.tallies[placed.number].idle += self.step
        ready = [placed for placed in ready if placed not in idle]
        if not ready:
            return
        rows, targets = self.targets()
        for placed in ready:
            tally = self.tallies[placed.number]
            some, far = in_reach(placed, targets, self._height_reach)
            if not len(some):
                tally.idle += self.step
                continue
            first = whom(placed.tower.takes, targets, some, far)
            tally.shots += 1
            # Shots follow one another in the interval, however long a step is.
            late = now - tally.ready
            tally.ready = (now if late > self.step else tally.ready) + placed.tower.interval
            tally.aim, tally.of = int(rows[first]) + 1, len(some)
            self.shots.append((placed.number, int(rows[first]) + 1))
            self._hit(placed, tally, rows, targets, first)

    def _has_nobody(self, ready: list[Placed]) -> set[Placed]:
        """Those of some towers near which nobody is, whatever they can hit: most of them, most of the time."""
        if self._heights is not None or not self.towers:
            return set()
        if self._reaches is None:
            self._reaches = np.stack([self._lines.reaches(placed) for placed in self.towers])
        rows, men = self.attackers.there(), self.attackers
        keys = self._lines.keys(men.line[rows], men.x[rows])
        first = np.searchsorted(keys, self._reaches[:, :, 0], side="left")
        last = np.searchsorted(keys, self._reaches[:, :, 1], side="right")
        near: list[bool] = np.any(last > first, axis=1).tolist()
        some = {placed.number for placed in ready}
        return {
            placed
            for placed, there in zip(self.towers, near, strict=True)
            if not there and placed.number in some
        }

    def _hit(
        self, placed: Placed, tally: TowerTally, rows: Ints, targets: Targets, first: int
    ) -> None:
        tower, men = placed.tower, self.attackers
        hit = np.array([first])
        if tower.splash > 0:
            far = np.hypot(*(targets.at - targets.at[first]).T)
            hit = np.flatnonzero((far <= tower.splash) & targets.hit_by(tower))
        damage = np.maximum(tower.damage - men.armour[rows[hit]], 0.0)
        before = targets.health[hit]
        taken = np.minimum(damage, before)
        tally.dealt += float(taken.sum())
        tally.wasted += float((damage - taken).sum())
        targets.health[hit] = before - taken
        men.health[rows[hit]] = before - taken
        if tower.slowing > 0:
            men.slow(rows[hit], 1 - tower.slowing, self.seconds + tower.slow_for, self.seconds)
        for at in hit[targets.health[hit] <= 0].tolist():
            self._fall(placed, tally, int(rows[at]), targets, at)

    def _fall(self, placed: Placed, tally: TowerTally, row: int, targets: Targets, at: int) -> None:
        men, wave = self.attackers, self.waves[self.attackers.wave[row]]
        men.take_away(row)
        reward = self.kinds[men.kind[row]].reward
        tally.stopped += 1
        wave.stopped += 1
        wave.earned += reward
        self.funds += reward
        length = float(self._lines.length[men.line[row]])
        share = min(1.0, max(0.0, (length - float(targets.left[at])) / length)) if length else 0.0
        self.falls.append(Fall(float(men.x[row]), share, self.seconds, reward))
        self.log.update(f"{row + 1} {self.steps} {placed.number};".encode())
        self._note()

    def _note(self) -> None:
        """Funds or lives are others now."""
        self.account.append(Account(self.seconds, self.funds, self.lives))

    def _move(self) -> None:
        men, lines = self.attackers, self._lines
        rows = men.there()
        speed = men.speed[rows] / lines.slowness(men.line[rows], men.x[rows])
        speed = speed * men.slowed(rows, self.seconds)
        men.x[rows] += speed * self.step
        men.keep_apart(rows)
        through = rows[men.x[rows] >= lines.length[men.line[rows]]]
        for row in through.tolist():
            wave = self.waves[men.wave[row]]
            men.take_away(row)
            lost = min(self.kinds[men.kind[row]].lives, self.lives)
            wave.through += 1
            wave.lives += lost
            self.lives -= lost
            self.log.update(f"{row + 1} {self.steps} through;".encode())
            self._note()

    def digest(self) -> str:
        """A hash of who fell when and by which tower, who came through, and of where the others are."""
        state, rows = self.log.copy(), self.attackers.there()
        for column in (rows, self.attackers.x[rows], self.attackers.health[rows]):
            state.update(column.tobytes())
        state.update(f"{self.lives} {self.funds} {self.sent}".encode())
        return state.hexdigest()
