"""Where the ways are narrow: few cells in a straight line across would close the passage there."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.lines import distances
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.ways import EntryWay, find_ways, ground_of

Ints = npt.NDArray[np.int64]
# More cells across are not narrow.
WIDEST = 24
# Places that are given for each way.
MOST_PLACES = 12
# Lines across: along a row, a column, and the two diagonals.
_ACROSS = ((0, 1), (1, 0), (1, 1), (1, -1))


class Narrow(NamedTuple):
    """cells : in a straight line from one closed cell to the next, with the way through one of them; none is of an entry or
    a goal.  at : that one.  far : how far along the way it lies, world units."""

    entry: str
    at: Cell
    cells: tuple[Cell, ...]
    far: float


def narrow_places(plan: Plan) -> tuple[Narrow, ...]:
    """The places where the ways over the ground are narrower than before and after, the narrowest of each way first, then
    those nearer to its entry. A corner is not cut, so that a diagonal line closes as well as a straight one.
    O(cells of the ways x WIDEST)."""
    ground, costs = ground_of(plan)
    is_open = np.isfinite(costs)[ground]
    places = np.zeros(is_open.shape, bool)
    for cell in plan.waves.cells():
        places[plan.spec.slot(cell)] = True
    found: list[Narrow] = []
    for way in find_ways(plan):
        if way.found and way.moves is Moves.GROUND:
            found += _along(plan, way, is_open, places)
    return tuple(found)


def _along(
    plan: Plan, way: EntryWay, is_open: npt.NDArray[np.bool_], places: npt.NDArray[np.bool_]
) -> list[Narrow]:
    sides = [_side(way.slots, step, sign, is_open, places) for step in _ACROSS for sign in (-1, 1)]
    # (4, N): cells on either side, and the one between.
    back, on = np.stack(sides[::2]), np.stack(sides[1::2])
    across = back + on + 1
    best = np.argmin(across, axis=0)
    width = across[best, np.arange(len(best))]
    far, spec = distances(way.points), plan.spec
    found = []
    for k in _lowest(width):
        step = _ACROSS[best[k]]
        row, col = way.slots[k].tolist()
        line = range(-int(back[best[k], k]), int(on[best[k], k]) + 1)
        cells = tuple(spec.cell_of_slot((row + n * step[0], col + n * step[1])) for n in line)
        found.append(Narrow(way.entry, spec.cell_of_slot((row, col)), cells, float(far[k])))
    return sorted(found, key=lambda item: len(item.cells))[:MOST_PLACES]


def _side(
    slots: Ints,
    step: tuple[int, int],
    sign: int,
    is_open: npt.NDArray[np.bool_],
    places: npt.NDArray[np.bool_],
) -> Ints:
    """(N,) how many open cells follow each in one direction; WIDEST where there are more, or one of an entry or a goal."""
    count = np.where(places[slots[:, 0], slots[:, 1]], WIDEST, 0)
    going = count == 0
    rows, cols = is_open.shape
    for n in range(1, WIDEST + 1):
        row, col = slots[:, 0] + sign * n * step[0], slots[:, 1] + sign * n * step[1]
        inside = (row >= 0) & (row < rows) & (col >= 0) & (col < cols)
        row, col = row.clip(0, rows - 1), col.clip(0, cols - 1)
        going &= inside & is_open[row, col]
        if not going.any():
            break
        count[going] = n
        count[going & places[row, col]] = WIDEST
        going &= count < WIDEST
    return count


def _lowest(width: Ints) -> list[int]:
    """The middle of each stretch of one width that is narrower than what comes before and after it."""
    change = np.flatnonzero(np.diff(width)) + 1
    begins, ends = np.concatenate(([0], change)), np.append(change, len(width))
    values = np.concatenate(([WIDEST + 1], width[begins], [WIDEST + 1]))
    low = (values[1:-1] < values[:-2]) & (values[1:-1] < values[2:]) & (values[1:-1] <= WIDEST)
    return ((begins[low] + ends[low] - 1) // 2).tolist()  # type: ignore[no-any-return]
