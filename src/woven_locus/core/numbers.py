"""Numbers as people and files write them: the one parser for all of them.

A whole number is ASCII digits with a sign, a number may have a decimal part and an exponent. What Python
itself would read beyond that (``1_0``, digits of other scripts, ``nan``) is none.
"""

from __future__ import annotations

import math
import re

from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import phrase

MINUS = "\N{MINUS SIGN}"
# Beyond this a float no longer tells whole numbers apart.
LARGEST_WHOLE = 2**53
_WHOLE = re.compile(r"[+-]?[0-9]{1,18}", re.ASCII)
_NUMBER = re.compile(r"[+-]?(?:[0-9]+(?:[.][0-9]*)?|[.][0-9]+)(?:[eE][+-]?[0-9]{1,4})?", re.ASCII)


def parse_whole(text: str) -> int:
    """Raises ValueError, in words, for what is no whole number of at most LARGEST_WHOLE."""
    text = text.strip().replace(MINUS, "-")
    if not _WHOLE.fullmatch(text) or abs(int(text)) > LARGEST_WHOLE:
        raise ValueError(phrase("{shown} is no whole number", shown=shown(text)))
    return int(text)


def parse_number(text: str, *, comma: bool = False) -> float:
    """Raises ValueError, in words, for what is no finite number.  comma : a decimal comma is read too, as
    where somebody types; a file has a point."""
    text = text.strip().replace(MINUS, "-")
    if comma and "." not in text and text.count(",") == 1:
        text = text.replace(",", ".")
    if not _NUMBER.fullmatch(text):
        if "," in text and not comma:
            raise ValueError(
                phrase(
                    "{shown} is no number: decimals are written with a point, not a comma",
                    shown=shown(text),
                )
            )
        if text.lower().lstrip("+-") in ("inf", "infinity", "nan"):
            raise ValueError(phrase("{text} is not a finite number", text=text))
        raise ValueError(phrase("{shown} is no number", shown=shown(text)))
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(phrase("{shown} is too large a number", shown=shown(text)))
    return value


def shown(text: str) -> str:
    """What was written, short enough for a message."""
    return repr(text if len(text) <= 40 else f"{text[:40]}…")


def parse_cell(text: str) -> Cell | None:
    """``14, 9`` with any minus sign; None for what is no cell."""
    try:
        col, row = map(parse_whole, text.split(","))
    except ValueError:
        return None
    return Cell(col, row) if max(abs(col), abs(row)) < 2**31 else None
