"""Structures that stand where they could not be placed now, kept current from edited boxes."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from woven_locus.core.editing import Notice
from woven_locus.core.placing import KIND_RULES, judge
from woven_locus.core.placing.feasibility import margin
from woven_locus.core.placing.judge import PASSING
from woven_locus.core.placing.rules import ALL_BITS, BIT, Reason
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure

_CARE = np.uint8(ALL_BITS & ~sum(BIT[reason] for reason in PASSING & BIT.keys()))
# Rules that need no look at the map.
_ELSEWHERE = PASSING | {Reason.TURN}
# Edits of more cells than this are looked at as a whole.
MANY_CELLS = 1 << 16


class Soundness:
    """unsound : numbers of the structures that the judge would refuse where they stand. After an edit of
    very many cells they are worked out when next asked for. See `judge.PASSING` for what is no fault."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._unsound: set[int] = set()
        self._all = True  # all of it has to be looked at again

    @property
    def unsound(self) -> set[int]:
        if self._all:
            self._unsound, self._all = self._all_unsound(), False
        return self._unsound

    def _all_unsound(self) -> set[int]:
        plan = self._plan
        who = plan.occupant.ravel()
        at = np.flatnonzero(who > 0)
        bad = plan.blocks.ravel()[at] & _CARE != 0
        found = set(np.unique(who[at[bad]]).tolist())
        # Most kinds ask nothing of their own: for those the layer says all.
        asking = {
            kind.key
            for kind in plan.kinds
            if kind.demands.terrain is not None
            or any(r.asked(plan, kind) for r in KIND_RULES if r.reason not in _ELSEWHERE)
        }
        for row in plan.register:
            if row.kind in asking:
                found.discard(row.number)
                if not self._is_sound(row):
                    found.add(row.number)
            elif not plan.kinds[row.kind].may_turn(row.turn):
                found.add(row.number)
        return found

    def _is_sound(self, row: Structure) -> bool:
        kind = self._plan.kinds[row.kind]
        return bool(judge(self._plan, kind, row.cell, row.turn, row.number, PASSING))

    def update(self, notice: Notice) -> None:
        """Judge again what an edit touched, and what stands near enough to mind."""
        if self._all:
            return
        plan = self._plan
        numbers = set(notice.structures)
        if sum(box.shape[0] * box.shape[1] for box in notice.boxes) > MANY_CELLS:
            self._all = True
            return
        more = max((margin(plan, kind) for kind in plan.kinds), default=1)
        for box in notice.boxes:
            around = box.grown(more).clipped(plan.spec.shape)
            numbers.update(np.unique(plan.occupant[around.slices]).tolist())
        if notice.structures:
            numbers.update(self._counted())
        for number in numbers:
            self._unsound.discard(number)
            if number > 0 and number in plan.register and not self._is_sound(plan.register[number]):
                self._unsound.add(number)

    def _counted(self) -> Iterable[int]:
        """The structures of kinds of which there may be only so many, where there are more."""
        register = self._plan.register
        bad = {register[n].kind for n in self._unsound if n in register}
        over = {
            kind.key
            for kind in self._plan.kinds
            if kind.demands.most is not None
            and (kind.key in bad or register.count(kind.key) > kind.demands.most)
        }
        return [row.number for row in register if row.kind in over] if over else ()
