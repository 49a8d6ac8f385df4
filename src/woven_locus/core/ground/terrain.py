"""Terrain classes: data of the plan, not constants of the program."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import overload

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadPlan, Unknown
from woven_locus.core.names import key_problem, name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

# Engraved patterns that the renderer knows; a class names one, so that ground reads without colour.
PATTERNS = ("plain", "tufts", "steps", "reeds", "waves", "stipple", "cracks")

# The terrain layer is uint8, and the movement layer keeps 0 and 255 for itself.
MOST_CLASSES = 52


class TerrainClass(Value):
    """One class of ground.

    key : short name used in files.  mark : the one letter that stands for it in terrain rows.
    cost : factor on the length of a step, above 0.  dye : "#RRGGBB".  pattern : one of PATTERNS.
    bridge : road may cross it, though nothing else may be built on it.
    """

    key: str
    name: str
    mark: str
    buildable: bool
    passable: bool
    cost: float
    dye: str
    pattern: str
    bridge: bool = False


class TerrainTable(Sequence[TerrainClass]):
    """The classes of a plan; a class's place in the table is its code in the terrain layer."""

    def __init__(self, classes: Sequence[TerrainClass]) -> None:
        """Raises BadPlan for no class, too many, a name twice, or a value that makes no sense."""
        if not 1 <= len(classes) <= MOST_CLASSES:
            raise BadPlan(
                "terrain",
                phrase(
                    "a plan needs 1 to {most_classes} terrain classes, not {count}",
                    most_classes=MOST_CLASSES,
                    count=len(classes),
                ),
            )
        for at, item in enumerate(classes):
            where = f"terrain[{at}]"
            if problem := name_problem(item.name) or key_problem(item.key):
                raise BadPlan(where, problem)
            if not (len(item.mark) == 1 and item.mark.isascii() and item.mark.isalpha()):
                raise BadPlan(
                    where,
                    phrase("mark must be one letter a-z or A-Z, not {mark!r}", mark=item.mark),
                )
            if not (math.isfinite(item.cost) and item.cost > 0):
                raise BadPlan(
                    where, phrase("cost must be a number above 0, not {cost:g}", cost=item.cost)
                )
            if item.pattern not in PATTERNS:
                raise BadPlan(
                    where,
                    phrase(
                        "pattern {pattern!r} is not one of {names}",
                        pattern=item.pattern,
                        names=", ".join(PATTERNS),
                    ),
                )
        for what in ("key", "mark"):
            seen = [getattr(item, what) for item in classes]
            for value in seen:
                if seen.count(value) > 1:
                    raise BadPlan(
                        "terrain", phrase("{what} {value!r} is used twice", what=what, value=value)
                    )
        self._classes = tuple(classes)
        self.buildable: npt.NDArray[np.bool_] = self._table("buildable")
        self.passable: npt.NDArray[np.bool_] = self._table("passable")
        self.bridge: npt.NDArray[np.bool_] = self._table("bridge")

    def _table(self, what: str) -> npt.NDArray[np.bool_]:
        # 256 long, so that any byte may index it.
        table = np.zeros(256, bool)
        table[: len(self._classes)] = [getattr(item, what) for item in self._classes]
        return table

    def __len__(self) -> int:
        return len(self._classes)

    @overload
    def __getitem__(self, at: int) -> TerrainClass: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[TerrainClass]: ...
    def __getitem__(self, at: int | slice) -> TerrainClass | Sequence[TerrainClass]:
        return self._classes[at]

    def __iter__(self) -> Iterator[TerrainClass]:
        return iter(self._classes)

    def code(self, key: str) -> int:
        """The code of a class. Raises Unknown."""
        for at, item in enumerate(self._classes):
            if item.key == key:
                return at
        raise Unknown(
            phrase(
                "no terrain class {key!r}; the plan has {names}",
                key=key,
                names=", ".join(c.key for c in self._classes),
            )
        )
