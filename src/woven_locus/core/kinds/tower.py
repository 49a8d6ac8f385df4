"""What makes a kind of structure a tower."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from woven_locus.core.errors import BadKind

# Nobody waits longer for a shot, seconds.
LONGEST_SHOT = 3600.0
LARGEST_NUMBER = 1e9


class Takes(StrEnum):
    """Whom a tower takes first, of those in its range."""

    FURTHEST = "furthest"
    NEAREST = "nearest"
    STRONGEST = "strongest"
    WEAKEST = "weakest"


class Hits(StrEnum):
    """Which attackers a tower can hit."""

    ALL = "all"
    WALKERS = "walkers"
    FLIERS = "fliers"


@dataclass(frozen=True, slots=True)
class Tower:
    """least, most : range from the middle of the structure, world units.  damage : of a hit, before armour.
    interval : seconds from shot to shot.  splash : radius around the one that is hit within which all others are hit
    too, world units, 0 for none.  slowing : share of its speed that who was hit loses, for `slow_for` seconds.

    Raises BadKind.
    """

    least: float
    most: float
    damage: float
    interval: float
    splash: float = 0.0
    slowing: float = 0.0
    slow_for: float = 0.0
    hits: Hits = Hits.ALL
    takes: Takes = Takes.FURTHEST

    def __post_init__(self) -> None:
        for name in ("least", "most", "damage", "splash", "slow_for"):
            value = getattr(self, name)
            if not (math.isfinite(value) and 0 <= value <= LARGEST_NUMBER):
                raise BadKind(f"tower: {name} must be 0 to {LARGEST_NUMBER:,.0f}, not {value:g}")
        if not self.least < self.most:
            raise BadKind(
                f"tower: the range must be more than its least, {self.least:g}; it is {self.most:g}"
            )
        if not (math.isfinite(self.interval) and 0.01 <= self.interval <= LONGEST_SHOT):
            raise BadKind(
                f"tower: the interval must be 0.01 to {LONGEST_SHOT:,.0f} seconds, not {self.interval:g}"
            )
        if not 0 <= self.slowing < 1:
            raise BadKind(f"tower: slowing must be 0 to below 1, not {self.slowing:g}")

    def can_hit(self, flies: bool) -> bool:
        """Whether it can hit those that fly, or those that do not."""
        return self.hits is Hits.ALL or (self.hits is Hits.FLIERS) == flies
