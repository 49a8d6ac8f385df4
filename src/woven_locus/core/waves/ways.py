"""The ways of attackers: from each entry to the goal that is reached at the least cost."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.cells import BLOCKED, movement_costs
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.lines import step_lengths, turns
from woven_locus.core.plan import Plan
from woven_locus.core.routing.search import Path, find_path
from woven_locus.core.value import Value
from woven_locus.core.wave_plan import Entry, Goal, Moves

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class Strokes(NamedTuple):
    """points : (N, 2) world points.  slow : (N - 1,) by how much the ground divides the speed along each step.
    efforts : (N,) seconds until each point at a speed of one world unit a second."""

    points: Floats
    slow: Floats
    efforts: Floats


class EntryWay(Value, eq=False, dict=True):
    """The way of those that come from an entry over roads, ground or through the air.

    goal : id of the one that it leads to, empty where no way leads to any.  slots : (N, 2) int64, none in the air.
    points : (N, 2) world points.  length : world units.  cost : as of a route; in the air its length.
    slow : (N - 1,) by how much the ground divides the speed along each step.
    """

    entry: str
    moves: Moves
    goal: str
    slots: Ints
    points: Floats
    length: float
    cost: float
    slow: Floats

    @property
    def found(self) -> bool:
        """Whether there is one."""
        return bool(self.goal)

    @cached_property
    def effort(self) -> float:
        """Seconds that it takes at a speed of one world unit a second."""
        return float((step_lengths(self.points) * self.slow).sum())

    @cached_property
    def strokes(self) -> Strokes:
        """The way as few steps: those that go straight on over the same ground are one."""
        if len(self.points) < 2:
            return Strokes(self.points, self.slow, np.zeros(len(self.points)))
        keep = turns(self.points)
        keep[1:-1] |= self.slow[1:] != self.slow[:-1]
        points, slow = self.points[keep], self.slow[keep[:-1]]
        efforts = np.concatenate(([0.0], np.cumsum(step_lengths(points) * slow)))
        return Strokes(np.ascontiguousarray(points), np.ascontiguousarray(slow), efforts)


def slots_of(plan: Plan, places: Sequence[Entry | Goal]) -> list[Slot]:
    """The slots of entries or goals, in order."""
    return [plan.spec.slot(cell) for place in places for cell in place.cells]


def find_ways(plan: Plan, closed: Sequence[Cell] = ()) -> tuple[EntryWay, ...]:
    """The ways of all entries, in order, as they would be with some cells closed. Cells outside count for nothing. Those of
    the plan as it is are kept until it is written to."""
    return _find_ways(plan, closed) if closed else plan.worked_out("ways", _find_ways)


def _find_ways(plan: Plan, closed: Sequence[Cell] = ()) -> tuple[EntryWay, ...]:
    ground, costs = ground_of(plan, closed)
    return tuple(
        find_way(plan, entry, moves, ground, costs)
        for entry in plan.waves.entries
        for moves in plan.waves.moves_from(entry)
    )


def ground_of(
    plan: Plan, closed: Sequence[Cell] = (), lifted: int = 0
) -> tuple[npt.NDArray[np.uint8], Floats]:
    """The movement layer with some cells closed, and what its codes cost. lifted : number of a structure that is taken as
    gone. A copy if anything is changed."""
    layer, costs = plan.movement, movement_costs(plan)
    if not closed and not lifted:
        return layer, costs
    layer = layer.copy()
    if lifted:
        under = plan.occupant == lifted
        codes = plan.terrain[under]
        passable = plan.terrain_table.passable[codes]
        layer[under] = np.where(passable, codes + np.uint8(1), BLOCKED)
    for cell in closed:
        if plan.spec.contains(cell):
            layer[plan.spec.slot(cell)] = BLOCKED
    return layer, costs


def find_way(
    plan: Plan, entry: Entry, moves: Moves, ground: npt.NDArray[np.uint8], costs: Floats
) -> EntryWay:
    """The way of one entry. ground, costs : see `ground_of`."""
    if moves is Moves.AIR:
        return _flight(plan, entry, plan.waves.goals_of(entry))
    path = walk(plan, entry, moves, slots_of(plan, [entry]), ground, costs)
    return way_of(plan, entry, moves, path.slots, path.cost, ground, costs)


def walk(
    plan: Plan,
    entry: Entry,
    moves: Moves,
    starts: Sequence[Slot],
    ground: npt.NDArray[np.uint8],
    costs: Floats,
    goals: Sequence[Goal] = (),
) -> Path:
    """The cheapest path from some slots to a goal of an entry, over roads or ground. ground, costs : see `ground_of`.
    goals : in place of all that the entry may go to."""
    layer, directions, exits = ground, plan.waves.moves, None
    if moves is Moves.ROADS:
        layer, costs, directions = plan.road, plan.road_table.costs, 4
        exits = plan.road_table.exits if plan.road_table.exits.any() else None
    return find_path(
        layer,
        costs,
        starts,
        slots_of(plan, goals or plan.waves.goals_of(entry)),
        moves=directions,
        cell=(plan.spec.cell_w, plan.spec.cell_h),
        exits=exits,
    )


def slowness(
    plan: Plan, moves: Moves, slots: Ints, ground: npt.NDArray[np.uint8], costs: Floats
) -> Floats:
    """(N - 1,) by how much what lies under a way divides the speed along each step: half of it at either cell.
    slots : (N, 2).  ground, costs : see `ground_of`."""
    if not plan.waves.terrain_slows:
        return np.ones(max(0, len(slots) - 1))
    if moves is Moves.ROADS:
        ground, costs = plan.road, plan.road_table.costs
    found: Floats = costs[ground[slots[:, 0], slots[:, 1]]]
    return (found[1:] + found[:-1]) / 2


def way_of(
    plan: Plan,
    entry: Entry,
    moves: Moves,
    slots: Ints,
    cost: float,
    ground: npt.NDArray[np.uint8],
    costs: Floats,
) -> EntryWay:
    """A way from its cells, none for no way. ground, costs : see `ground_of`."""
    points = plan.spec.centres(slots)
    if not len(slots):
        return EntryWay(entry.id, moves, "", slots, points, 0.0, np.inf, np.zeros(0))
    last = plan.spec.cell_of_slot(slots[-1].tolist())
    goal = next(goal.id for goal in plan.waves.goals_of(entry) if last in goal.cells)
    slow = slowness(plan, moves, slots, ground, costs)
    length = float(step_lengths(points).sum())
    return EntryWay(entry.id, moves, goal, slots, points, length, cost, slow)


def _flight(plan: Plan, entry: Entry, goals: Sequence[Goal]) -> EntryWay:
    """Straight from the cell of an entry to that of a goal that is nearest to it."""
    none = np.empty((0, 2), np.int64)
    if not goals:
        return EntryWay(entry.id, Moves.AIR, "", none, none.astype(float), 0.0, np.inf, np.zeros(0))
    starts = plan.spec.centres(np.array(slots_of(plan, [entry])))
    slots = slots_of(plan, goals)
    ends = plan.spec.centres(np.array(slots))
    far = np.hypot(*(starts[:, None] - ends).transpose(2, 0, 1))
    at, to = np.unravel_index(int(far.argmin()), far.shape)
    cell = plan.spec.cell_of_slot(slots[int(to)])
    goal = next(goal.id for goal in goals if cell in goal.cells)
    points = np.stack([starts[at], ends[to]])
    length = float(far[at, to])
    return EntryWay(entry.id, Moves.AIR, goal, none, points, length, length, np.ones(1))


def over_sides(slots: Ints, is_open: npt.NDArray[np.bool_]) -> Ints:
    """(M, 2) the cells of a way that goes over sides only, without a cell twice: at a diagonal step it goes by one of the
    two cells that are squeezed between, both of which are open."""
    found: list[tuple[int, int]] = []
    at: dict[tuple[int, int], int] = {}

    def add(slot: tuple[int, int]) -> None:
        if slot in at:
            # A loop is left out.
            for gone in found[at[slot] + 1 :]:
                del at[gone]
            del found[at[slot] + 1 :]
            return
        at[slot] = len(found)
        found.append(slot)

    rows = [(row, col) for row, col in slots.tolist()]
    for first, second in itertools.pairwise(rows):
        add(first)
        if first[0] != second[0] and first[1] != second[1]:
            between = (first[0], second[1])
            add(between if is_open[between] else (second[0], first[1]))
    if rows:
        add(rows[-1])
    return np.array(found, np.int64).reshape(-1, 2)
