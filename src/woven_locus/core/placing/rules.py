"""The rules of a cell, one small function each, in one table.

Each rule has a bit; the plan keeps, per cell, the bits of the rules that forbid building there (the
*blocks* layer). The ghost, the click, the feasibility map and the command line all read that one
layer, so a rule added here works in all of them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box

Mask = npt.NDArray[np.bool_]

if TYPE_CHECKING:
    from woven_locus.core.plan import Plan


class Reason(StrEnum):
    """Why not. The values are part of the command line's fixed output."""

    OUTSIDE = "outside"
    TERRAIN = "terrain"
    RESERVED = "reserved"
    OBSTACLE = "obstacle"
    OCCUPIED = "occupied"
    ROAD = "road"


@dataclass(frozen=True, slots=True)
class CellRule:
    """One rule. mask(plan, box) -> (box rows, box cols) bool, True where the rule forbids."""

    reason: Reason
    bit: int
    title: str
    mask: Callable[[Plan, Box], Mask]


def _terrain(plan: Plan, box: Box) -> Mask:
    return np.logical_not(plan.terrain_table.buildable[plan.terrain[box.slices]])


def _reserved(plan: Plan, box: Box) -> Mask:
    return np.not_equal(plan.reserved[box.slices], 0)


def _obstacle(plan: Plan, box: Box) -> Mask:
    return np.less(plan.occupant[box.slices], 0)


def _occupied(plan: Plan, box: Box) -> Mask:
    return np.greater(plan.occupant[box.slices], 0)


def _road(plan: Plan, box: Box) -> Mask:
    return np.not_equal(plan.road[box.slices], 0)


RULES: tuple[CellRule, ...] = (
    CellRule(Reason.TERRAIN, 1, "Terrain may be built on", _terrain),
    CellRule(Reason.RESERVED, 2, "Not reserved", _reserved),
    CellRule(Reason.OBSTACLE, 4, "No obstacle", _obstacle),
    CellRule(Reason.OCCUPIED, 8, "Not occupied", _occupied),
    CellRule(Reason.ROAD, 16, "No road", _road),
)
BIT: dict[Reason, int] = {rule.reason: rule.bit for rule in RULES}
ALL_BITS = sum(BIT.values())

# All reasons in the order in which they are shown; being outside comes before what is inside.
ORDER: tuple[Reason, ...] = (Reason.OUTSIDE, *(rule.reason for rule in RULES))

# REASONS_OF[bits] -> tuple of reasons; looked up per cell, so that a judgement allocates little.
REASONS_OF: tuple[tuple[Reason, ...], ...] = tuple(
    tuple(rule.reason for rule in RULES if bits & rule.bit) for bits in range(ALL_BITS + 1)
)


def block_bits(plan: Plan, box: Box) -> npt.NDArray[np.uint8]:
    """The blocks layer worked out afresh for a box: (box rows, box cols) uint8."""
    bits = np.zeros(box.shape, np.uint8)
    for rule in RULES:
        bits |= rule.mask(plan, box).view(np.uint8) * np.uint8(rule.bit)
    return bits
