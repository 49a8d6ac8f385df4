"""Structures that stand where they could not be placed now, kept current from edited boxes."""

from __future__ import annotations

import numpy as np

from woven_locus.core.editing import Notice
from woven_locus.core.placing import Reason, judge
from woven_locus.core.placing.rules import ALL_BITS, BIT
from woven_locus.core.plan import Plan


class Soundness:
    """unsound : numbers of the structures that the judge would refuse where they stand."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        bad = (plan.blocks & (ALL_BITS & ~BIT[Reason.OCCUPIED])) != 0
        self.unsound: set[int] = set(np.unique(plan.occupant[bad & (plan.occupant > 0)]).tolist())

    def update(self, notice: Notice) -> None:
        """Judge again what an edit touched."""
        numbers = set(notice.structures)
        for box in notice.boxes:
            numbers.update(np.unique(self._plan.occupant[box.slices]).tolist())
        for number in numbers:
            self.unsound.discard(number)
            if number > 0 and number in self._plan.register:
                row = self._plan.register[number]
                kind = self._plan.kinds[row.kind]
                if not judge(self._plan, kind, row.cell, row.turn, lifted=number):
                    self.unsound.add(number)
