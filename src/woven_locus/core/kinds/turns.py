"""Turns of a footprint: the eight ways in which a tile can lie.

A turn is 0 to 3 quarter turns clockwise on screen; MIRRORED more when left and right were changed
for each other first.
"""

from __future__ import annotations

from woven_locus.core.phrase import phrase

MIRRORED = 4
QUARTERS = (0, 1, 2, 3)
EVERY = tuple(range(8))


def turned_on(turn: int, quarters: int) -> int:
    """A turn after more quarter turns clockwise."""
    return turn // MIRRORED * MIRRORED + (turn + quarters) % MIRRORED


def flipped(turn: int) -> int:
    """What a turn becomes when its picture on screen is mirrored left to right.

    Mirroring after k quarter turns is the same as mirroring first and turning k the other way.
    """
    other = 0 if turn >= MIRRORED else MIRRORED
    return other + (-turn) % MIRRORED


def turn_words(turn: int) -> str:
    """``90°``, ``90° mirrored``."""
    words = f"{turn % MIRRORED * 90}°"
    return phrase("{words} mirrored", words=words) if turn >= MIRRORED else words
