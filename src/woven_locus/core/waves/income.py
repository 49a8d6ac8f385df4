"""What structures pay while waves run."""

from __future__ import annotations

import math
from collections import Counter

from woven_locus.core.books.forecast import Stream, paid_between
from woven_locus.core.plan import Plan


class Income:
    """The yields of what stands, in the time of a run: it begins at the plan's clock, and goes on from there. What was
    placed while it ran pays from then on."""

    def __init__(self, plan: Plan) -> None:
        self._began = self._until = plan.funds.clock if plan.funds is not None else 0
        self._since = {row.number: row.since for row in plan.register}
        self._streams: list[Stream] = []
        self._pending = 0  # that was paid before the plan changed, and not yet asked for
        self.take(plan, 0.0)

    def take(self, plan: Plan, seconds: float) -> None:
        """A plan that was built on, so many seconds after the run began."""
        self._pending = self.until(seconds)
        if plan.funds is None:
            self._streams = []
            return
        now = self._until
        since = self._since
        self._since = {row.number: since.get(row.number, now) for row in plan.register}
        pays: Counter[tuple[int, int]] = Counter()
        for row in plan.register:
            kind = plan.kinds[row.kind]
            if kind.every and kind.pays:
                pays[kind.every, self._since[row.number] % kind.every] += kind.pays
        self._streams = [Stream(*phase, money) for phase, money in sorted(pays.items())]

    def until(self, seconds: float) -> int:
        """What was paid since this was last asked."""
        now = max(self._began + math.floor(seconds + 1e-9), self._until)
        found = self._pending + paid_between(self._streams, self._until, now)
        self._until, self._pending = now, 0
        return found
