"""Structures that stand where they could not be placed now, kept current from edited boxes."""

from __future__ import annotations

import numpy as np

from woven_locus.core.editing import Notice
from woven_locus.core.placing import Reason, judge
from woven_locus.core.placing.rules import ALL_BITS, BIT
from woven_locus.core.plan import Plan

# Being outside the window is no fault: the window moves, what stands stays.
_CARE = ALL_BITS & ~BIT[Reason.OCCUPIED] & ~BIT[Reason.OUTSIDE]
# Edits of more cells than this are looked at as a whole.
MANY_CELLS = 1 << 16


class Soundness:
    """unsound : numbers of the structures that the judge would refuse where they stand. After an edit of
    very many cells they are worked out when next asked for."""

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
        who = self._plan.occupant.ravel()
        at = np.flatnonzero(who > 0)
        bad = self._plan.blocks.ravel()[at] & _CARE != 0
        return set(np.unique(who[at[bad]]).tolist())

    def update(self, notice: Notice) -> None:
        """Judge again what an edit touched."""
        if self._all:
            return
        numbers = set(notice.structures)
        if sum(box.shape[0] * box.shape[1] for box in notice.boxes) > MANY_CELLS:
            self._all = True
            return
        for box in notice.boxes:
            numbers.update(np.unique(self._plan.occupant[box.slices]).tolist())
        for number in numbers:
            self._unsound.discard(number)
            if number > 0 and number in self._plan.register:
                row = self._plan.register[number]
                kind = self._plan.kinds[row.kind]
                if not judge(self._plan, kind, row.cell, row.turn, lifted=number, care=_CARE):
                    self._unsound.add(number)
