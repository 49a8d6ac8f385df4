"""Cells in, edits out: one module a trade. The edits of single structures, roads and barriers, which most
callers need, are at hand here."""

from woven_locus.core.edits.roads import (
    erase_block,
    erase_road,
    join_nearest,
    lay_road,
    put_signs,
    raise_barrier,
    split,
)
from woven_locus.core.edits.structures import (
    cannot_stand,
    demolish,
    move,
    new_row,
    place,
    replace_with,
    taken_off,
)

__all__ = [
    "cannot_stand",
    "demolish",
    "erase_block",
    "erase_road",
    "join_nearest",
    "lay_road",
    "move",
    "new_row",
    "place",
    "put_signs",
    "raise_barrier",
    "replace_with",
    "split",
    "taken_off",
]
