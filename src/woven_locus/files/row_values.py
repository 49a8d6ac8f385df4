"""What the rows of a plan document share: strictness, numbers, colours."""

from __future__ import annotations

import msgspec

from woven_locus.core.errors import BadPlan
from woven_locus.core.phrase import phrase

Pair = tuple[int, int]
World = tuple[float, float]


class Strict(msgspec.Struct, forbid_unknown_fields=True):
    """An unknown key is refused: saving would lose it."""


def num(value: float) -> float | int:
    """A whole number without its point, as long as that loses nothing."""
    value = float(value)
    return int(value) if value.is_integer() and abs(value) < 1e15 else value


def dye(text: str, where: str) -> str:
    """A colour as it stands in a file. Raises BadPlan, naming `where`, for what is none."""
    if len(text) == 7 and text[0] == "#" and all(c in "0123456789abcdefABCDEF" for c in text[1:]):
        return text
    raise BadPlan(where, phrase("dye must be #RRGGBB, not {text!r}", text=text))
