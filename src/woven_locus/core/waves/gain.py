"""Where would a tower, or a piece of a maze, gain most? Every spot of the map at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value, field
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.reach import per_shot, reach_of_towers, who_comes
from woven_locus.core.waves.ways import EntryWay, find_ways

Floats = npt.NDArray[np.float64]
Legal = npt.NDArray[np.bool_]
# Spots that are listed.
BEST = 10


class Measure(Enum):
    """What is to be gained."""

    SECONDS = "seconds"
    DAMAGE = "damage"


class Gains(Value, eq=False):
    """(rows, cols) by lowest cell, NaN where the kind may not stand. turn : as it was asked for.  first : the cell of [0, 0].

    seconds : for how long one of the first kind that comes by each way is in range, or how much longer its way takes, all
    ways together.  damage : that could be dealt beyond what the towers there can deal, over all attackers of all
    waves, each as if it came alone; None for a kind that is no tower.
    """

    kind: str
    turn: int
    first: Cell
    seconds: Floats
    damage: Floats | None
    _best: dict[Measure, tuple[Cell, ...]] = field(default_factory=dict)

    def of(self, measure: Measure) -> Floats:
        """What is gained by a measure; seconds where there is no damage."""
        by_damage = measure is Measure.DAMAGE and self.damage is not None
        return self.damage if by_damage and self.damage is not None else self.seconds

    def at(self, cell: Cell, measure: Measure = Measure.SECONDS) -> float:
        """What is gained on one spot; NaN where the kind may not stand."""
        return float(self.of(measure)[cell.row - self.first.row, cell.col - self.first.col])

    def best(self, measure: Measure = Measure.SECONDS) -> tuple[Cell, ...]:
        """The spots with most; of equals those with more seconds, then by row and column."""
        if measure not in self._best:
            flat = self.of(measure).ravel()
            some = np.flatnonzero(flat > 0)
            if len(some) > BEST:
                least = np.partition(flat[some], len(some) - BEST)[len(some) - BEST]
                some = some[flat[some] >= least]
            order = some[np.lexsort((some, -self.seconds.ravel()[some], -flat[some]))][:BEST]
            slots = (divmod(int(at), self.seconds.shape[1]) for at in order)
            self._best[measure] = tuple(self.first.moved(col, row) for row, col in slots)
        return self._best[measure]


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
    seconds, damage = np.zeros(legal.shape), None
    if tower is None:
        _add_growth(plan, kind, turn, legal, seconds, told, stopped)
    else:
        damage = np.zeros(legal.shape)
        ways = [way for way in find_ways(plan) if way.found]
        for at, way in enumerate(ways):
            if tower.can_hit(way.moves is Moves.AIR) and not stopped():
                effort = _effort(plan, kind, turn, tower, way)
                seconds += effort / pace(plan, way)
                _add_damage(plan, tower, way, effort, damage)
            told((at + 1) / len(ways))
        damage[~legal] = np.nan
    seconds[~legal] = np.nan
    return Gains(kind.key, turn, plan.spec.first, seconds, damage)


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
                seconds[spot] += (after.effort - way.effort) / pace(plan, way)
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


def _add_damage(plan: Plan, tower: Tower, way: EntryWay, effort: Floats, damage: Floats) -> None:
    """What a tower on each spot could deal to those who come by a way, as far as the towers there leave them health.
    effort : (rows, cols), see `effort_in_range`."""
    at = np.flatnonzero(effort)
    some = effort.ravel()[at]
    for attacker, count in who_comes(plan, way):
        dealt = sum(
            reach.damage
            for reach in reach_of_towers(plan)
            if reach.entry == way.entry and reach.kind is attacker
        )
        left, hit = attacker.health - dealt, per_shot(tower, attacker)
        if left > 0 and hit:
            shots = np.floor(some / (attacker.speed * tower.interval) + 1e-9) + 1
            damage.ravel()[at] += count * np.minimum(left, shots * hit)


def _effort(plan: Plan, kind: Kind, turn: int, tower: Tower, way: EntryWay) -> Floats:
    """(rows, cols) see `effort_in_range`, of a tower on each spot."""
    spec, found = plan.spec, np.zeros(plan.spec.shape)
    # Of the first spot, from which the others are so many cells away.
    middle = plan.middle_at(plan.footprint(kind, turn), spec.first)
    line = way.strokes
    kernels.add_chords(
        *(line.points, line.slow, *middle, spec.cell_w, spec.cell_h),
        *(tower.least, tower.most, found),
    )
    return found
