"""Findings that a plan's makers know of and take as they are."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.names import name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.register import LARGEST_NUMBER
from woven_locus.core.value import Value

LONGEST_CODE = 40


# What is accepted: a code, and a cell, or a structure.
Key = tuple[str, Cell | None, int]


class Accepted(Value):
    """A finding that is taken as it is. Raises BadPlan.

    code : its sort.  structure : number of the one that it is about; or cell : where it is; neither of them for one about
    the whole plan.  reason : why, in words.
    """

    code: str
    reason: str
    cell: Cell | None = None
    structure: int = 0

    def __post_init__(self) -> None:
        if not self.code or len(self.code) > LONGEST_CODE or not self.code.isascii():
            raise BadPlan(
                "accepted",
                phrase("the code of a finding is expected, not {code!r}", code=self.code),
            )
        if problem := name_problem(self.code) or name_problem(self.reason):
            raise BadPlan("accepted", problem)
        if self.structure and self.cell is not None:
            raise BadPlan(
                "accepted", phrase("a finding is accepted at a cell or of a structure, not both")
            )
        if not 0 <= self.structure < LARGEST_NUMBER:
            raise BadPlan(
                "accepted",
                phrase("there is no structure number {structure:,}", structure=self.structure),
            )

    @property
    def key(self) -> Key:
        """What it accepts; each once in a plan."""
        return self.code, self.cell, self.structure


def check_accepted(accepted: Iterable[Accepted], inside: Callable[[Cell], bool]) -> None:
    """Raises BadPlan for a finding that is accepted twice, or outside the grid."""
    seen: set[Key] = set()
    for at, item in enumerate(accepted):
        if item.key in seen:
            raise BadPlan(
                f"accepted[{at}]",
                phrase("the finding {code!r} is accepted there twice", code=item.code),
            )
        if item.cell is not None and not inside(item.cell):
            raise BadPlan(
                f"accepted[{at}]",
                phrase("cell {cell} is outside the grid", cell=cell_text(item.cell)),
            )
        seen.add(item.key)
