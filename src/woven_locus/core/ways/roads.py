"""Road classes, and what a byte of the road layer says: a class and a sign.

Both stand in one byte, so that no sign can be where no road is, and whatever takes road away takes its
sign with it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from enum import IntEnum
from typing import overload

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadPlan, Unknown
from woven_locus.core.geometry import SIDE_NAMES
from woven_locus.core.names import key_problem, name_problem
from woven_locus.core.phrase import joined, phrase
from woven_locus.core.value import Value

# The low bits hold 1 + the class, the high ones the sign.
CLASS_BITS, SIGN_SHIFT = 31, 5
MOST_CLASSES = 31
MOST_LANES = 6
# Half the width of a road of so many lanes, in shorter sides of a cell.
HALF_WIDTHS = (0.24, 0.24, 0.31, 0.35, 0.38, 0.41, 0.44)


class Sign(IntEnum):
    """What holds on a road cell. A one-way cell is left by its own side alone and never entered by it:
    NORTH goes on to the row before in the array, SOUTH to the next one. At a CROSSING people on foot may cross."""

    NONE = 0
    NORTH = 1
    EAST = 2
    SOUTH = 3
    WEST = 4
    CLOSED = 5
    CROSSING = 6


class RoadClass(Value):
    """One class of road.

    key : short name used in files.  mark : the one letter that stands for it in road rows.
    speed : world units a second, above 0.  cost : factor on the length of a step, above 0.
    lanes : its width, 1 to MOST_LANES.  dye : "#RRGGBB".
    """

    key: str
    name: str
    mark: str
    speed: float
    cost: float
    lanes: int
    dye: str


class RoadTable(Sequence[RoadClass]):
    """The road classes of a plan; a class's place in the table is its code.

    costs : (256,) float64, move cost of each byte, inf where nobody enters: no road, closed road.
    speeds : (256,) float64, world units a second, 0 where nobody enters.
    exits : (256,) uint8, the side by which a one-way cell is left (as in `Sign`), else 0.
    """

    def __init__(self, classes: Sequence[RoadClass]) -> None:
        """Raises BadPlan for no class, too many, a key or mark twice, or a value that makes no sense."""
        if not 1 <= len(classes) <= MOST_CLASSES:
            raise BadPlan(
                "road_classes",
                phrase(
                    "a plan needs 1 to {most_classes} road classes, not {count}",
                    most_classes=MOST_CLASSES,
                    count=len(classes),
                ),
            )
        for at, item in enumerate(classes):
            _check(item, f"road_classes[{at}]")
        for what in ("key", "mark"):
            seen = [getattr(item, what) for item in classes]
            for value in seen:
                if seen.count(value) > 1:
                    raise BadPlan(
                        "road_classes",
                        phrase("{what} {value!r} is used twice", what=what, value=value),
                    )
        self._classes = tuple(classes)
        self.costs: npt.NDArray[np.float64] = np.full(256, np.inf)
        self.speeds: npt.NDArray[np.float64] = np.zeros(256)
        self.exits: npt.NDArray[np.uint8] = np.zeros(256, np.uint8)
        for code, item in enumerate(classes):
            for sign in Sign:
                byte = road_byte(code, sign)
                if sign is not Sign.CLOSED:
                    self.costs[byte], self.speeds[byte] = item.cost, item.speed
                    self.exits[byte] = sign if sign is not Sign.CROSSING else Sign.NONE

    @property
    def known(self) -> npt.NDArray[np.bool_]:
        """(256,) bool: the bytes that mean something, 0 for no road among them."""
        table = np.zeros(256, bool)
        table[0] = True
        for code in range(len(self)):
            for sign in Sign:
                table[road_byte(code, sign)] = True
        return table

    def __len__(self) -> int:
        return len(self._classes)

    @overload
    def __getitem__(self, at: int) -> RoadClass: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[RoadClass]: ...
    def __getitem__(self, at: int | slice) -> RoadClass | Sequence[RoadClass]:
        return self._classes[at]

    def __iter__(self) -> Iterator[RoadClass]:
        return iter(self._classes)

    def code(self, key: str) -> int:
        """The code of a class. Raises Unknown."""
        for at, item in enumerate(self._classes):
            if item.key == key:
                return at
        names = ", ".join(item.key for item in self._classes)
        raise Unknown(phrase("no road class {key!r}; the plan has {names}", key=key, names=names))


def _check(item: RoadClass, where: str) -> None:
    if not item.name.strip():
        raise BadPlan(where, phrase("a road class needs a name"))
    if problem := name_problem(item.name) or key_problem(item.key):
        raise BadPlan(where, problem)
    if not (len(item.mark) == 1 and item.mark.isascii() and item.mark.isalpha()):
        raise BadPlan(
            where, phrase("mark must be one letter a-z or A-Z, not {mark!r}", mark=item.mark)
        )
    for what, value in (("cost", item.cost), ("speed", item.speed)):
        if not (math.isfinite(value) and value > 0):
            raise BadPlan(
                where,
                phrase("{what} must be a number above 0, not {value:g}", what=what, value=value),
            )
    if not 1 <= item.lanes <= MOST_LANES:
        raise BadPlan(
            where,
            phrase(
                "lanes must be 1 to {most_lanes}, not {lanes}",
                most_lanes=MOST_LANES,
                lanes=item.lanes,
            ),
        )


def road_byte(code: int, sign: int = Sign.NONE) -> int:
    """The byte of a road cell of a class."""
    return (code + 1) | (sign << SIGN_SHIFT)


def class_of(byte: int) -> int:
    """The class of a road cell; -1 for no road."""
    return (byte & CLASS_BITS) - 1


def sign_of(byte: int) -> Sign:
    """The sign on a cell."""
    return Sign(byte >> SIGN_SHIFT)


# What a plan has that says nothing of road classes.
PLAIN = RoadTable([RoadClass("road", "Road", "w", 4.0, 1.0, 2, "#EFE3C8")])


def resigned(byte: int, side: Callable[[int], int]) -> int:
    """A cell's byte with a one-way sign that points elsewhere. side : of sides 0 (north) to 3 (west)."""
    sign = byte >> SIGN_SHIFT
    if not Sign.NORTH <= sign <= Sign.WEST:
        return byte
    return (byte & CLASS_BITS) | (side(sign - 1) + 1) << SIGN_SHIFT


def road_words(table: RoadTable, byte: int, y_up: bool = False) -> str:
    """A road cell in words: ``Cart road, one way north``."""
    name = table[class_of(byte)].name
    sign = sign_of(byte)
    if sign is Sign.NONE:
        return name
    return joined(", ", [name, sign_words(sign, y_up)])


_PLAIN_WORDS = {Sign.NONE: "", Sign.CLOSED: phrase("closed"), Sign.CROSSING: phrase("crossing")}


def sign_words(sign: Sign, y_up: bool = False) -> str:
    """A sign in words, as it is on screen: ``one way north``, ``closed``, ``crossing``, or nothing."""
    if sign in _PLAIN_WORDS:
        return _PLAIN_WORDS[sign]
    side = sign - 1
    side_name = SIDE_NAMES[(2 - side) % 4 if y_up else side]
    return phrase("one way {side}", side=phrase(side_name))
