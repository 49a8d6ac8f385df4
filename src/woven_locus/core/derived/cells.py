"""What follows, cell by cell, from the recorded layers: the blocks and the movement layer.

blocks : the bits of the cell rules that forbid building.  movement : what a walker finds.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.derived.rules import BIT, CELL_RULES, Reason
from woven_locus.core.geometry import Box
from woven_locus.core.layers import Cells, Tables
from woven_locus.core.side_by_side import each
from woven_locus.core.ways.roads import CLASS_BITS

# Codes of the movement layer besides 1 + terrain class: ON_ROAD minus the class of road.
BLOCKED, ON_ROAD = 0, 255

Codes = npt.NDArray[np.integer]

# Boxes from this many cells on are worth the compiled pass, and two threads.
LARGE, VERY_LARGE = 4096, 1 << 20


def derive_cells(plan: Cells, box: Box) -> None:
    """Work out the blocks and the movement layer afresh within a box."""
    if box.shape[0] * box.shape[1] < LARGE or not kernels.compiled_ready():
        plan.blocks[box.slices] = block_bits(plan, box)
        plan.movement[box.slices] = movement_codes(plan, box)
        return
    table = plan.terrain_table
    inside = plan.window.box(plan.spec) if plan.window is not None else plan.spec.box

    def part(r0: int, r1: int) -> None:
        kernels.derive(
            plan.terrain,
            plan.reserved,
            plan.road,
            plan.barrier,
            plan.occupant,
            np.array([inside.r0, inside.c0, inside.r1, inside.c1], np.int64),
            np.uint8(BIT[Reason.OUTSIDE]),
            np.array([r0, box.c0, r1, box.c1], np.int64),
            np.where(table.buildable, 0, BIT[Reason.TERRAIN]).astype(np.uint8),
            np.where(table.passable, np.arange(1, 257), 0).astype(np.uint8),
            road_movement(plan),
            np.array([BIT[r] for r in _DERIVED], np.uint8),
            plan.blocks,
            plan.movement,
        )

    middle = (box.r0 + box.r1) // 2
    if box.shape[0] * box.shape[1] < VERY_LARGE:
        part(box.r0, box.r1)
        return
    each([(box.r0, middle), (middle, box.r1)], lambda: lambda rows: part(*rows))


def derive_occupied(plan: Cells, slots: npt.NDArray[np.int64]) -> None:
    """Work out the blocks and the movement layer afresh at flat slots of which only the occupant changed."""
    who, blocks = plan.occupant.ravel()[slots], plan.blocks.ravel()
    obstacle, occupied = np.uint8(BIT[Reason.OBSTACLE]), np.uint8(BIT[Reason.OCCUPIED])
    bits = blocks[slots] & ~(obstacle | occupied)
    blocks[slots] = bits | (who < 0) * obstacle | (who > 0) * occupied
    at = (layer.ravel()[slots] for layer in (plan.terrain, plan.barrier, plan.road))
    plan.movement.ravel()[slots] = _movement(plan, who, *at)


# The order in which the compiled pass takes the bits of the other layers.
_DERIVED = (Reason.RESERVED, Reason.OBSTACLE, Reason.OCCUPIED, Reason.ROAD, Reason.BARRIER)


def block_bits(plan: Cells, box: Box) -> npt.NDArray[np.uint8]:
    """The blocks layer worked out afresh for a box: (box rows, box cols) uint8."""
    bits = np.zeros(box.shape, np.uint8)
    for rule in CELL_RULES:
        bits |= rule.mask(plan, box).view(np.uint8) * np.uint8(rule.bit)
    return bits


def movement_costs(plan: Tables) -> npt.NDArray[np.float64]:
    """(256,) float64: move cost of each movement code, inf where nobody enters."""
    table = np.full(256, np.inf)
    for code, item in enumerate(plan.terrain_table):
        if item.passable:
            table[1 + code] = item.cost
    for code, road in enumerate(plan.road_table):
        table[ON_ROAD - code] = road.cost
    return table


def road_movement(plan: Tables) -> npt.NDArray[np.uint8]:
    """(256,) uint8: movement code of each byte of the road layer; BLOCKED for none, or closed."""
    table = np.full(256, BLOCKED, np.uint8)
    some = np.isfinite(plan.road_table.costs)
    table[some] = ON_ROAD + 1 - (np.arange(256)[some] & CLASS_BITS)
    return table


def movement_codes(plan: Cells, box: Box) -> npt.NDArray[np.uint8]:
    """The movement layer worked out afresh for a box: (box rows, box cols) uint8."""
    layers = (plan.occupant, plan.terrain, plan.barrier, plan.road)
    return _movement(plan, *(layer[box.slices] for layer in layers))


def _movement(
    plan: Tables, who: Codes, terrain: Codes, barrier: Codes, way: Codes
) -> npt.NDArray[np.uint8]:
    codes = np.asarray(terrain + np.uint8(1), np.uint8)
    codes[~plan.terrain_table.passable[terrain]] = BLOCKED
    codes[who != 0] = BLOCKED
    codes[barrier != 0] = BLOCKED
    return np.where(way != 0, road_movement(plan)[way], codes)
