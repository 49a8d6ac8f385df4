"""Where the things are that a rule can be about: terrain, structures of a kind, roads, barriers,
obstacles."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from itertools import starmap

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.rules import Mask
from woven_locus.core.distinct import distinct
from woven_locus.core.geometry import Box
from woven_locus.core.kinds import Thing
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan

_WORDS = {
    Thing.ROAD: phrase("a road"),
    Thing.BARRIER: phrase("a barrier"),
    Thing.OBSTACLE: phrase("an obstacle"),
}
# Cells of a block from which on a table of all numbers is quicker than a look at those that are there.
MANY = 1 << 16


def numbers_in(plan: Plan, box: Box) -> npt.NDArray[np.int32]:
    """The structures of which a cell lies in a block within the grid, ascending."""
    found = distinct(plan.occupant[box.slices])
    return found[found > 0]


def count_at(
    plan: Plan, thing: Thing, key: str, slots: Iterable[tuple[int, int]], lifted: int = 0
) -> int:
    """At how many slots the thing is; nothing is outside the grid. lifted : a structure that is taken as gone."""
    rows, cols = plan.blocks.shape
    inside = [slot for slot in slots if 0 <= slot[0] < rows and 0 <= slot[1] < cols]
    if thing is Thing.TERRAIN:
        table = plan.terrain_table
        return sum(table[code].key == key for code in starmap(plan.terrain.item, inside))
    if thing is Thing.ROAD:
        return sum(map(bool, starmap(plan.road.item, inside)))
    if thing is Thing.BARRIER:
        return sum(map(bool, starmap(plan.barrier.item, inside)))
    there = starmap(plan.occupant.item, inside)
    if thing is Thing.OBSTACLE:
        return sum(who < 0 for who in there)
    kept = plan.register
    return sum(who > 0 and who != lifted and (not key or kept[who].kind == key) for who in there)


def stand_at(plan: Plan, thing: Thing, key: str, slots: npt.NDArray[np.int64]) -> Mask:
    """Whether the thing is at flat slots within the grid, of any shape."""
    if thing is Thing.TERRAIN:
        return are_terrain(plan, (key,), slots)
    if thing is Thing.ROAD:
        return np.not_equal(plan.road.ravel()[slots], 0)
    if thing is Thing.BARRIER:
        return np.not_equal(plan.barrier.ravel()[slots], 0)
    who = plan.occupant.ravel()[slots]
    if thing is Thing.OBSTACLE:
        return np.less(who, 0)
    return _table_of(plan, key)[np.maximum(who, 0)] if key else np.greater(who, 0)


def mask_of(plan: Plan, thing: Thing, key: str, box: Box, lifted: int = 0) -> Mask:
    """Where the thing is in a block within the grid: (box rows, box cols) bool."""
    if thing is Thing.TERRAIN:
        return is_terrain(plan, (key,), box)
    if thing is Thing.ROAD:
        return np.not_equal(plan.road[box.slices], 0)
    if thing is Thing.BARRIER:
        return np.not_equal(plan.barrier[box.slices], 0)
    who = plan.occupant[box.slices]
    if thing is Thing.OBSTACLE:
        return np.less(who, 0)
    built: Mask = who > 0
    if lifted:
        built &= who != lifted
    return built & of_kind(plan, box, key) if key else built


def is_terrain(plan: Plan, keys: Collection[str], box: Box) -> Mask:
    """Where the ground is of one of some classes."""
    part = plan.terrain[box.slices]
    out = np.zeros(part.shape, bool)
    for code, item in enumerate(plan.terrain_table):
        if item.key in keys:
            out |= part == code
    return out


def are_terrain(plan: Plan, keys: Collection[str], slots: npt.NDArray[np.int64]) -> Mask:
    """`is_terrain` for flat slots within the grid, of any shape."""
    among: Mask = np.array([item.key in keys for item in plan.terrain_table], bool)
    found: Mask = among[plan.terrain.ravel()[slots]]
    return found


def of_kind(plan: Plan, box: Box, key: str) -> Mask:
    """Where a structure of one kind stands, lifted or not."""
    who = plan.occupant[box.slices]
    if not plan.register.count(key):
        return np.zeros(box.shape, bool)
    if who.size < MANY:
        there = numbers_in(plan, box).tolist()
        return np.isin(who, [number for number in there if plan.register[number].kind == key])
    return _table_of(plan, key)[np.maximum(who, 0)]


def _table_of(plan: Plan, key: str) -> Mask:
    """For every number whether that structure is of a kind."""
    table = np.zeros(plan.register.next_number, bool)
    table[[row.number for row in plan.register if row.kind == key]] = True
    return table


def thing_words(plan: Plan, thing: Thing, key: str) -> str:
    """The thing by its name in this plan."""
    if thing is Thing.TERRAIN:
        names = [item.name for item in plan.terrain_table if item.key == key]
        return names[0] if names else phrase("{key} (not in this plan)", key=key)
    if thing is Thing.KIND:
        if not key:
            return phrase("any structure")
        return (
            plan.kinds[key].name
            if key in plan.kinds
            else phrase("{key} (not in this plan)", key=key)
        )
    return _WORDS[thing]
