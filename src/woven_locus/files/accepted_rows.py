"""Accepted findings as rows of the plan document."""

from __future__ import annotations

import re

from woven_locus.core.accepted import Accepted
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import phrase
from woven_locus.core.register import structure_id
from woven_locus.files.row_values import Pair, Strict


class AcceptedRow(Strict, omit_defaults=True):
    """A finding that is taken as it is, at a cell, or of a structure (`S12`), or of the whole plan. From version 8 on."""

    code: str
    reason: str
    cell: Pair | None = None
    structure: str | int | None = None

    @classmethod
    def of(cls, item: Accepted) -> AcceptedRow:
        """The row of a value."""
        cell = (item.cell.col, item.cell.row) if item.cell is not None else None
        number = structure_id(item.structure) if item.structure else None
        return cls(item.code, item.reason, cell, number)

    def made(self, where: str) -> Accepted:
        """The value of the row. Raises BadPlan."""
        cell = Cell(*self.cell) if self.cell is not None else None
        found = re.fullmatch(r"S?([1-9]\d{0,8})", str(self.structure))
        if self.structure is not None and found is None:
            raise BadPlan(
                where,
                phrase(
                    "a structure is written as S12, not {structure!r}", structure=self.structure
                ),
            )
        number = int(found[1]) if self.structure is not None and found is not None else 0
        try:
            return Accepted(self.code, self.reason, cell, number)
        except BadPlan as err:
            raise BadPlan(where, err.what) from err
