"""One placed structure, a row of the register."""

from __future__ import annotations

from woven_locus.core.geometry import Cell
from woven_locus.core.value import Value

# Numbers are looked up in tables, so that they must stay within reason.
LARGEST_NUMBER = 2**24


class Structure(Value):
    """One placed structure.

    cell : lowest column and row of the turned footprint's bounding box.  turn : 0 to 7, see
    `kinds.turns`.  price : what was paid.  placed : when, ISO 8601 text, given by the caller.
    since : the plan's clock when it was placed, seconds; its yields are counted from there.
    """

    number: int
    kind: str
    cell: Cell
    turn: int
    price: int
    placed: str
    since: int = 0


def structure_id(number: int) -> str:
    """The name by which the user and the command line call a structure: ``S12``."""
    return f"S{number}"
