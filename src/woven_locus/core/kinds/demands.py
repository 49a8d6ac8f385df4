"""What a kind asks of the place where it is to stand. Values only; `placing` judges by them.

Terrain classes and kinds are named by key. A key that the plan does not have (any more) is no error:
nothing answers to it.
"""

from __future__ import annotations

import math
from enum import StrEnum

from woven_locus.core.errors import BadKind
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, force_setattr

# The furthest that a clearance looks, in cells.
LARGEST_CLEARANCE = 64
LARGEST_STEP = 1024
LARGEST_COUNT = 1_000_000


class Thing(StrEnum):
    """What a footprint can touch, or has to stay clear of."""

    TERRAIN = "terrain"
    KIND = "kind"
    ROAD = "road"
    BARRIER = "barrier"
    OBSTACLE = "obstacle"


# Things of which there are several, told apart by a key; a structure may be of any kind (key "").
KEYED = (Thing.TERRAIN, Thing.KIND)


def _check_key(thing: Thing, key: str) -> None:
    if thing is Thing.TERRAIN and not key:
        raise BadKind(phrase("a rule about terrain names a terrain class"))
    if thing not in KEYED and key:
        raise BadKind(
            phrase("a rule about a {thing} takes no key, not {key!r}", thing=thing, key=key)
        )


class Touch(Value):
    """At least `least` outer cell sides have the thing just beyond them.

    sides : of the footprint as it was drawn, 0 north to 3 west; they turn with it.
    """

    thing: Thing
    key: str = ""
    least: int = 1
    sides: tuple[int, ...] = (0, 1, 2, 3)

    def __post_init__(self) -> None:
        _check_key(self.thing, self.key)
        if not 1 <= self.least <= LARGEST_COUNT:
            raise BadKind(
                phrase(
                    "a kind touches at least 1 cell side of a thing, not {least}", least=self.least
                )
            )
        if not self.sides or not set(self.sides) <= {0, 1, 2, 3}:
            raise BadKind(phrase("a rule of touching needs one side or more, each 0 to 3"))
        force_setattr(self, "sides", tuple(sorted(set(self.sides))))


class Clear(Value):
    """None of the thing within `cells` cells of the footprint, slantwise too. Between structures it
    holds both ways: what has a clearance is not crowded by what comes later."""

    thing: Thing
    key: str = ""
    cells: int = 1

    def __post_init__(self) -> None:
        _check_key(self.thing, self.key)
        if not 1 <= self.cells <= LARGEST_CLEARANCE:
            raise BadKind(
                phrase(
                    "a clearance is 1 to {largest_clearance} cells, not {cells}",
                    largest_clearance=LARGEST_CLEARANCE,
                    cells=self.cells,
                )
            )


class Stand(Value):
    """At least `least` of the cells lie on one of the terrain classes; 0 means every cell."""

    terrain: tuple[str, ...]
    least: int = 0

    def __post_init__(self) -> None:
        if not self.terrain:
            raise BadKind(phrase("a rule of standing on names a terrain class or more"))
        if self.least < 0:
            raise BadKind(
                phrase(
                    "a kind stands on 0 cells of a terrain or more, not {least}", least=self.least
                )
            )


class Lattice(Value):
    """The lowest cell is one of every `cols` columns and `rows` rows, counted from cell (col, row)."""

    cols: int = 1
    rows: int = 1
    col: int = 0
    row: int = 0

    def __post_init__(self) -> None:
        if not (1 <= self.cols <= LARGEST_STEP and 1 <= self.rows <= LARGEST_STEP):
            raise BadKind(
                phrase(
                    "a lattice steps by 1 to {largest_step} cells, not {cols}x{rows}",
                    largest_step=LARGEST_STEP,
                    cols=self.cols,
                    rows=self.rows,
                )
            )


class Demands(Value):
    """All that a kind may ask. The defaults ask nothing.

    terrain : the classes that may be under it, whether they may be built on otherwise or not; None is
    all that may.  slope : degrees, the steepest cell that it stands on.  reach : world units from the
    actor to the middle of the footprint's bounding box.  least : how many a finished plan needs.
    most : how many there may be.  access : a door (or any outer side, without doors) is on a road.
    Raises BadKind.
    """

    terrain: tuple[str, ...] | None = None
    slope: float | None = None
    stand: Stand | None = None
    touch: tuple[Touch, ...] = ()
    clear: tuple[Clear, ...] = ()
    lattice: Lattice | None = None
    reach: float | None = None
    least: int = 0
    most: int | None = None
    access: bool = False

    def __post_init__(self) -> None:
        if self.terrain is not None and not self.terrain:
            raise BadKind(phrase("the allowed terrain is one class or more, or not limited"))
        if self.slope is not None and not 0 <= self.slope < 90:
            raise BadKind(
                phrase("the greatest slope is 0 up to 90 degrees, not {slope:g}", slope=self.slope)
            )
        if self.reach is not None and not (math.isfinite(self.reach) and self.reach > 0):
            raise BadKind(phrase("a reach is a number above 0, not {reach:g}", reach=self.reach))
        if not 0 <= self.least <= LARGEST_COUNT:
            raise BadKind(
                phrase(
                    "the least number is 0 to {largest_count:,}, not {least:,}",
                    largest_count=LARGEST_COUNT,
                    least=self.least,
                )
            )
        if self.most is not None and not max(1, self.least) <= self.most <= LARGEST_COUNT:
            raise BadKind(
                phrase(
                    "the most that there may be is {max:,} to {largest_count:,}, not {most:,}",
                    max=max(1, self.least),
                    largest_count=LARGEST_COUNT,
                    most=self.most,
                )
            )


NO_DEMANDS = Demands()
