"""Named things that stand on the ground and block building and movement."""

from __future__ import annotations

from dataclasses import dataclass

from woven_locus.core.geometry import Cell


@dataclass(frozen=True, slots=True)
class Obstacle:
    """A tree, a boulder. number : from 1, its own count.  look : "boulder" or "rowan"."""

    number: int
    name: str
    look: str
    cells: tuple[Cell, ...]


LOOKS = ("boulder", "rowan")
LARGEST_OBSTACLE = 256
