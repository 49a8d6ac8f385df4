"""Where would a tower, or a piece of a maze, gain most? Every spot of the map at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.lines import turning_points
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.ways import EntryWay, find_ways

Floats = npt.NDArray[np.float64]
# Spots that are listed.
BEST = 10


@dataclass(frozen=True, slots=True, eq=False)
class Gains:
    """seconds : (rows, cols), by lowest cell: for how long one of the first kind that comes by each way is in range, or how
    much longer its way takes, all ways together; NaN where the kind may not stand.  best : spots with most, ties by row and column.
    turn : as it was asked for."""

    kind: str
    turn: int
    seconds: Floats
    best: tuple[tuple[Cell, float], ...]


Legal = npt.NDArray[np.bool_]


def gains(
    plan: Plan,
    kind: Kind,
    turn: int,
    legal: Legal,
    told: Callable[[float], object] = lambda _share: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Gains:
    """For every legal spot of a tower the seconds of all ways in its range; for a kind that is none the seconds by which it
    makes the ways over the ground longer, for the first that come by each.

    legal : (rows, cols), see `feasible_map`.  told : called with the share that is done.
    O(steps of the ways x cells in range); for a maze piece O(spots on a way x a search).
    Source of the lengths: a straight step through two circles around each spot, as in `ranges`, for all spots around
    a step at once.
    """
    tower = kind.tower
    seconds = np.zeros(legal.shape)
    if tower is None:
        _add_growth(plan, kind, turn, legal, seconds, told, stopped)
    else:
        ways = [way for way in find_ways(plan) if way.found]
        for at, way in enumerate(ways):
            if tower.can_hit(way.moves is Moves.AIR) and not stopped():
                _add_way(plan, kind, turn, tower, way, seconds)
            told((at + 1) / len(ways))
    seconds[~legal] = np.nan
    some = np.flatnonzero(seconds.ravel() > 0)
    # Ties by row and column: the sort is stable.
    order = some[np.argsort(-seconds.ravel()[some], kind="stable")][:BEST]
    best = [
        (plan.spec.cell_of_slot(divmod(int(at), legal.shape[1])), float(seconds.ravel()[at]))
        for at in order
    ]
    return Gains(kind.key, turn, seconds, tuple(best))


def _add_growth(
    plan: Plan,
    kind: Kind,
    turn: int,
    legal: Legal,
    seconds: Floats,
    told: Callable[[float], object],
    stopped: Callable[[], bool],
) -> None:
    """Off all ways a piece changes nothing: only spots on one are searched."""
    footprint, spec = plan.footprint(kind, turn), plan.spec
    ways = [way for way in find_ways(plan) if way.found and way.moves is Moves.GROUND]
    hits: dict[tuple[int, int], list[EntryWay]] = {}
    for way in ways:
        spots = {(row - r, col - c) for row, col in way.slots.tolist() for c, r in footprint.cells}
        for row, col in spots:
            inside = 0 <= row < legal.shape[0] and 0 <= col < legal.shape[1]
            if inside and legal[row, col]:
                hits.setdefault((row, col), []).append(way)
    around = Around(plan)
    for done, (spot, hit) in enumerate(sorted(hits.items(), key=lambda item: item[0])):
        if stopped():
            return
        cells = footprint.at(spec.cell_of_slot(spot))
        for way in hit:
            after = around.find(way, cells)
            if after.found:
                seconds[spot] += (after.length - way.length) / pace(plan, way)
        told((done + 1) / len(hits))


def pace(plan: Plan, way: EntryWay) -> float:
    """World units a second of the first kind of attacker that comes by a way; 1 where none does."""
    for wave in plan.waves.waves:
        for group in wave.groups:
            kind = plan.waves.kind(group.kind)
            if group.entry == way.entry and kind is not None and kind.moves is way.moves:
                return kind.speed
    found: Sequence[float] = [
        kind.speed for kind in plan.waves.attackers if kind.moves is way.moves
    ]
    return found[0] if found else 1.0


def _add_way(
    plan: Plan, kind: Kind, turn: int, tower: Tower, way: EntryWay, seconds: Floats
) -> None:
    spec = plan.spec
    # Of the first spot, from which the others are so many cells away.
    middle = plan.middle_at(plan.footprint(kind, turn), spec.first)
    kernels.add_chords(
        np.ascontiguousarray(turning_points(way.points)),
        *middle,
        spec.cell_w,
        spec.cell_h,
        tower.least,
        tower.most,
        pace(plan, way),
        seconds,
    )
