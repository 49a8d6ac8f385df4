"""What makes a kind of structure a tower."""

from __future__ import annotations

import math
from enum import StrEnum

from woven_locus.core.errors import BadKind
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

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


class Tower(Value):
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
                raise BadKind(
                    phrase(
                        "tower: {name} must be 0 to {largest_number:,.0f}, not {value:g}",
                        name=name,
                        largest_number=LARGEST_NUMBER,
                        value=value,
                    )
                )
        if not self.least < self.most:
            raise BadKind(
                phrase(
                    "tower: the range must be more than its least, {least:g}; it is {most:g}",
                    least=self.least,
                    most=self.most,
                )
            )
        if not (math.isfinite(self.interval) and 0.01 <= self.interval <= LONGEST_SHOT):
            raise BadKind(
                phrase(
                    "tower: the interval must be 0.01 to {longest_shot:,.0f} seconds, not {interval:g}",
                    longest_shot=LONGEST_SHOT,
                    interval=self.interval,
                )
            )
        if not 0 <= self.slowing < 1:
            raise BadKind(
                phrase("tower: slowing must be 0 to below 1, not {slowing:g}", slowing=self.slowing)
            )

    def can_hit(self, flies: bool) -> bool:
        """Whether it can hit those that fly, or those that do not."""
        return self.hits is Hits.ALL or (self.hits is Hits.FLIERS) == flies
