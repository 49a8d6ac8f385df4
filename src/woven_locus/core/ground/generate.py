"""Made-up ground for tests: seeded heights, classes by height and slope, a river.

The same seed and settings give the same ground on any machine.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import Stopped, WovenError
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground.relief import slope
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

Floats = npt.NDArray[np.float32]


class Recipe(Value):
    """What ground to make. Codes are those of the plan's terrain table.

    relief : height between the lowest and the highest cell, world units.  feature : size of the
    largest hills, in cells.  roughness : 0 smooth to 1 broken.
    low, middle, high, steep, river : terrain codes; `river` None for no river.
    low_share, high_share : parts of the map, by area, that are low and high.
    steep_from : rise per unit of way from which ground is steep.  river_width : cells.
    Raises WovenError.
    """

    seed: int
    relief: float
    feature: int
    roughness: float
    low: int
    middle: int
    high: int
    steep: int
    river: int | None
    low_share: float = 0.2
    high_share: float = 0.25
    steep_from: float = 0.6
    river_width: int = 3

    def __post_init__(self) -> None:
        if self.feature < 2:
            raise WovenError(
                phrase(
                    "the largest hills are 2 cells or more wide, not {feature}",
                    feature=self.feature,
                )
            )
        if not 0 <= self.roughness <= 1:
            raise WovenError(
                phrase("roughness goes from 0 to 1, not {roughness:g}", roughness=self.roughness)
            )
        if min(self.low_share, self.high_share) < 0 or self.low_share + self.high_share > 1:
            raise WovenError(phrase("the low and the high part together are at most the whole map"))


def generate(
    spec: GridSpec, recipe: Recipe, stopped: Callable[[], bool] = lambda: False
) -> tuple[npt.NDArray[np.uint8], Floats]:
    """(terrain codes, heights) for a grid. `stopped` is asked now and then. Raises Stopped."""
    heights = _noise(spec.shape, recipe, stopped)
    lowest, highest = float(heights.min()), float(heights.max())
    heights -= np.float32(lowest)
    heights *= np.float32(recipe.relief / max(highest - lowest, 1e-9))
    river = None
    if recipe.river is not None:
        river = _river(heights, recipe.river_width)
    sample = heights.ravel()[:: max(1, heights.size // 200_000)]
    low_line, high_line = np.quantile(sample, (recipe.low_share, 1 - recipe.high_share))
    terrain = np.full(spec.shape, recipe.middle, np.uint8)
    terrain[heights < low_line] = recipe.low
    terrain[heights >= high_line] = recipe.high
    _check(stopped)
    terrain[slope(heights, spec.cell_w, spec.cell_h) >= recipe.steep_from] = recipe.steep
    if river is not None:
        assert recipe.river is not None
        terrain[river] = recipe.river
    return terrain, heights


def _check(stopped: Callable[[], bool]) -> None:
    if stopped():
        raise Stopped


def _noise(shape: tuple[int, int], recipe: Recipe, stopped: Callable[[], bool]) -> Floats:
    """Value noise in octaves, each half as large and weaker by the roughness.

    Source: K. Perlin, "An Image Synthesizer", SIGGRAPH 1985 (octaves, smooth blend of a lattice).
    """
    rng = np.random.default_rng(recipe.seed)
    total = np.zeros(shape, np.float32)
    size, strength = float(recipe.feature), 1.0
    while size >= 2 and strength > 0.002:
        _check(stopped)
        lattice = rng.random(
            (int(shape[0] / size) + 2, int(shape[1] / size) + 2), np.float32
        ) * np.float32(strength)
        r0, r_share = _places(shape[0], size)
        c0, c_share = _places(shape[1], size)
        # Along the columns first, for the few rows of the lattice; then down, row by row.
        across = lattice[:, c0] * (1 - c_share) + lattice[:, c0 + 1] * c_share
        for row in range(shape[0]):
            at, share = r0[row], r_share[row]
            total[row] += across[at] * (1 - share) + across[at + 1] * share
        size /= 2
        strength *= 0.3 + 0.4 * recipe.roughness
    return total


def _places(count: int, size: float) -> tuple[npt.NDArray[np.intp], Floats]:
    """For each cell: the lattice point before it, and how far it is on to the next (smoothed)."""
    at = (np.arange(count) + 0.5) / size
    low = at.astype(np.intp)
    part = (at - low).astype(np.float32)
    return low, part * part * (3 - 2 * part)


def _river(heights: Floats, width: int) -> npt.NDArray[np.bool_]:
    """A river from the left edge to the right along the lowest way, cut into the heights in place so
    that it only ever falls. Source: dynamic programming by columns, as for a shortest path in a
    layered graph (R. Bellman, "Dynamic Programming", 1957)."""
    rows, cols = heights.shape
    lowest = float(heights.min())
    scale = float(heights.max()) - lowest or 1.0
    # Column by column along memory.
    columns = np.ascontiguousarray(heights.T)
    cost = np.zeros(rows)
    came = np.zeros((cols, rows), np.int8)
    for col in range(cols):
        here = np.exp(3 * (columns[col].astype(np.float64) - lowest) / scale)
        best = cost.copy()
        for step, moved in ((-1, _shifted(cost, 1)), (1, _shifted(cost, -1))):
            # A bend costs a little, so that a flat valley has no saw teeth.
            nearer = moved + 0.3 < best
            best[nearer] = moved[nearer] + 0.3
            came[col][nearer] = step
        cost = best + here
    row = int(np.argmin(cost))
    mask = np.zeros((rows, cols), bool)
    line = []
    for col in range(cols - 1, -1, -1):
        line.append(row)
        row = min(rows - 1, max(0, row + int(came[col][row])))
    line.reverse()
    bed = float(heights[line[0], 0])
    for col, middle in enumerate(line):
        r0, r1 = max(0, middle - width // 2), min(rows, middle - width // 2 + width)
        r1 = max(r1, r0 + 1)
        bed = min(bed, float(heights[r0:r1, col].min()))
        mask[r0:r1, col] = True
        heights[r0:r1, col] = bed
    return mask


def _shifted(values: npt.NDArray[np.float64], by: int) -> npt.NDArray[np.float64]:
    """values[k - by], infinite beyond the ends."""
    out = np.full_like(values, np.inf)
    if by > 0:
        out[by:] = values[:-by]
    else:
        out[:by] = values[-by:]
    return out
