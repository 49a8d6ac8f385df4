"""One axis of the lattice, exact at its borders.

A border is a float: border k of an axis is ``origin + (k - shift) * step`` as floats compute it, the
same expression that gives a cell's corner. A point belongs to the last border at or below it. Dividing
alone does not find that border: ``(p - origin) / step`` is rounded twice, so that a border, or the
float just below it, can land in the wrong cell. So the quotient is only a guess, and is put right by
comparing with the two borders next to it; see docs/decisions/0007-exact-borders.md.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadGrid
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

Floats = npt.NDArray[np.float64]

# Beyond this many steps from the origin floats cannot count by ones any more.
FARTHEST_STEP = 2.0**52


class Axis(Value):
    """A rule on one axis: ``origin + (floor((p - origin) / step + before) + after) * step``.

    before, after : parts of a step, each between -64 and 64.
    """

    origin: float
    step: float
    before: float = 0.0
    after: float = 0.0

    def border(self, k: int) -> float:
        """The lowest float that belongs to step k."""
        return self.origin + (k - self.before) * self.step

    def value(self, k: int) -> float:
        """The snapped place of step k."""
        return self.origin + (k + self.after) * self.step

    def index(self, p: float) -> int:
        """The step that a point belongs to. Raises BadGrid for a point too far out to count."""
        guess = (p - self.origin) / self.step + self.before
        if not abs(guess) < FARTHEST_STEP:
            raise BadGrid(too_far(p))
        k = math.floor(guess)
        if self.border(k) > p:
            k -= 1
        elif self.border(k + 1) <= p:
            k += 1
        return k

    def indices(self, points: Floats) -> Floats:
        """`index` of many points: (N,) float64 -> (N,) float64 of whole numbers."""
        k = points - self.origin
        k /= self.step
        if self.before:
            k += self.before
        if len(k) and not np.abs(k).max() < FARTHEST_STEP:
            at = int(np.argmin(np.abs(k) < FARTHEST_STEP))
            raise BadGrid(
                phrase("points[{at}]: {too_far}", at=at, too_far=too_far(float(points[at])))
            )
        np.floor(k, out=k)
        k -= self.borders(k) > points
        k += self.borders(k + 1) <= points
        return k

    def borders(self, k: Floats) -> Floats:
        """`border` of many steps."""
        out = k - self.before if self.before else k.copy()
        out *= self.step
        out += self.origin
        return out

    def values(self, k: Floats) -> Floats:
        """`value` of many steps."""
        out = k + self.after if self.after else k.copy()
        out *= self.step
        out += self.origin
        return out


def too_far(p: float) -> str:
    """The error for a place whose cell a float cannot tell."""
    if not math.isfinite(p):
        return phrase("{p:g} is no place; expected a finite number", p=p)
    return phrase("{p:g} is too far from the origin to tell one cell from the next", p=p)
