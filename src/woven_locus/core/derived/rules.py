"""The rules of a cell, one small function each, in one table.

Each rule has a bit; the plan keeps, per cell, the bits of the rules that forbid building there (the
*blocks* layer). The ghost, the click, the feasibility map and the command line all read that one
layer, so a rule added here works in all of them.
"""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box
from woven_locus.core.layers import Cells
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

Mask = npt.NDArray[np.bool_]


class Reason(StrEnum):
    """Why not. The values are part of the command line's fixed output, but for TURN: there, a turn
    that a kind does not take is bad usage."""

    OUTSIDE = "outside"
    TERRAIN = "terrain"
    RESERVED = "reserved"
    OBSTACLE = "obstacle"
    OCCUPIED = "occupied"
    ROAD = "road"
    BARRIER = "barrier"
    SLOPE = "slope"
    SUPPORT = "support"
    CLEARANCE = "clearance"
    LATTICE = "lattice"
    REACH = "reach"
    ACCESS = "access"
    SEALS = "seals"
    LIMIT = "limit"
    FUNDS = "funds"
    TURN = "turn"


class CellRule(Value):
    """One rule. mask(plan, box) -> (box rows, box cols) bool, True where the rule forbids."""

    reason: Reason
    bit: int
    title: str
    mask: Callable[[Cells, Box], Mask]


def _outside(plan: Cells, box: Box) -> Mask:
    mask = np.zeros(box.shape, bool)
    if plan.window is not None:
        inside = plan.window.box(plan.spec)
        rows, cols = np.arange(box.r0, box.r1)[:, None], np.arange(box.c0, box.c1)
        mask |= (rows < inside.r0) | (rows >= inside.r1)
        mask |= (cols < inside.c0) | (cols >= inside.c1)
    return mask


def _terrain(plan: Cells, box: Box) -> Mask:
    return np.logical_not(plan.terrain_table.buildable[plan.terrain[box.slices]])


def _reserved(plan: Cells, box: Box) -> Mask:
    return np.not_equal(plan.reserved[box.slices], 0)


def _obstacle(plan: Cells, box: Box) -> Mask:
    return np.less(plan.occupant[box.slices], 0)


def _occupied(plan: Cells, box: Box) -> Mask:
    return np.greater(plan.occupant[box.slices], 0)


def _road(plan: Cells, box: Box) -> Mask:
    return np.not_equal(plan.road[box.slices], 0)


def _barrier(plan: Cells, box: Box) -> Mask:
    return np.not_equal(plan.barrier[box.slices], 0)


CELL_RULES: tuple[CellRule, ...] = (
    CellRule(Reason.OUTSIDE, 32, phrase("Inside the grid"), _outside),
    CellRule(Reason.TERRAIN, 1, phrase("Terrain may be built on"), _terrain),
    CellRule(Reason.RESERVED, 2, phrase("Not reserved"), _reserved),
    CellRule(Reason.OBSTACLE, 4, phrase("No obstacle"), _obstacle),
    CellRule(Reason.OCCUPIED, 8, phrase("Not occupied"), _occupied),
    CellRule(Reason.ROAD, 16, phrase("No road"), _road),
    CellRule(Reason.BARRIER, 64, phrase("No barrier"), _barrier),
)
BIT: dict[Reason, int] = {rule.reason: rule.bit for rule in CELL_RULES}
ALL_BITS = sum(BIT.values())

# REASONS_OF[bits] -> tuple of reasons; looked up per cell, so that a judgement allocates little.
REASONS_OF: tuple[tuple[Reason, ...], ...] = tuple(
    tuple(rule.reason for rule in CELL_RULES if bits & rule.bit) for bits in range(ALL_BITS + 1)
)


def way_bars(plan: Cells, box: Box, what: str) -> npt.NDArray[np.uint8]:
    """(box rows, box cols) uint8: the bits of the rules that forbid road (or, for `what` "barrier", a
    barrier) on each cell, as `judge_road` and `judge_barrier` ask them."""
    own = Reason.ROAD if what == "road" else Reason.BARRIER
    bars = plan.blocks[box.slices] & np.uint8(ALL_BITS & ~BIT[own])
    if own is Reason.ROAD and plan.terrain_table.bridge.any():
        bridged = plan.terrain_table.bridge[plan.terrain[box.slices]]
        bars[bridged] &= np.uint8(ALL_BITS & ~BIT[Reason.TERRAIN])
    return bars
