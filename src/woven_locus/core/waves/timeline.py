"""Key frames of a run of waves."""

from __future__ import annotations

from copy import copy
from typing import Any, NamedTuple

from woven_locus.core.timeline import Timeline
from woven_locus.core.value import replace
from woven_locus.core.waves.attackers import Attackers
from woven_locus.core.waves.income import Income
from woven_locus.core.waves.run import Account, Fall, TowerTally, WaveRun, WaveTally

# Bytes of a row of what happened.
_ROW = 80


class _Frame(NamedTuple):
    """All of a run that changes as it goes; the lines that are walked along change with the plan only."""

    steps: int
    sent: int
    lives: int
    funds: int
    attackers: Attackers
    income: Income
    waves: list[WaveTally]
    tallies: dict[int, TowerTally]
    falls: list[Fall]
    account: list[Account]
    shots: list[tuple[int, int]]
    log: Any

    @property
    def size(self) -> int:
        """Bytes."""
        return self.attackers.size + _ROW * (len(self.falls) + len(self.account))


class WaveTimeline(Timeline[WaveRun, _Frame]):
    """See `Timeline`."""

    def _taken(self) -> _Frame:
        run = self.run
        return _copied(
            _Frame(
                *(run.steps, run.sent, run.lives, run.funds),
                *(run.attackers, run.income, run.waves, run.tallies),
                *(run.falls, run.account, run.shots, run.log),
            )
        )

    def _put_back(self, frame: _Frame) -> None:
        run, held = self.run, _copied(frame)
        run.steps, run.sent, run.lives, run.funds = held[:4]
        run.attackers, run.income, run.waves, run.tallies = held[4:8]
        run.falls, run.account, run.shots, run.log = held[8:]


def _copied(frame: _Frame) -> _Frame:
    return frame._replace(
        attackers=frame.attackers.copied(),
        income=copy(frame.income),
        waves=[replace(tally) for tally in frame.waves],
        tallies={number: replace(tally) for number, tally in frame.tallies.items()},
        falls=list(frame.falls),
        account=list(frame.account),
        log=frame.log.copy(),
    )
