"""Named things that stand on the ground and block building and movement."""

from __future__ import annotations

from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.names import name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value


class Obstacle(Value):
    """A tree, a boulder. number : from 1, its own count.  look : "boulder" or "rowan".
    Raises BadPlan for a name that cannot be seen, or for no cell."""

    number: int
    name: str
    look: str
    cells: tuple[Cell, ...]

    def __post_init__(self) -> None:
        if problem := name_problem(self.name):
            raise BadPlan(phrase("obstacle {number}", number=self.number), problem)
        if not self.cells:
            raise BadPlan(
                phrase("obstacle {number}", number=self.number),
                phrase("an obstacle stands on one cell or more"),
            )


LOOKS = ("boulder", "rowan")
LARGEST_OBSTACLE = 256
