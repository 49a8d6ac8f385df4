"""The raster of a block of the plan."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box
from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.placing.rules import BIT, Reason
from woven_locus.core.plan import Plan
from woven_locus.core.render import ink
from woven_locus.core.render.palette import Palette
from woven_locus.core.render.scale import Scale
from woven_locus.core.render.stamps import (
    DOORS,
    EDGES,
    KIND,
    LOOK,
    RESERVED,
    ROAD,
    TERRAIN,
    Pixels,
    Stamps,
)
from woven_locus.core.ways.shapes import neighbour_masks

# Doors are drawn one structure at a time; below this size nobody could see them.
DOORS_FROM = 8


class Raster:
    """Shades blocks of one plan in one palette; composed cells are kept per zoom step."""

    def __init__(self, plan: Plan, palette: Palette) -> None:
        self._plan, self._palette = plan, palette
        self._stamps: dict[tuple[int, int], Stamps] = {}
        self._kind_at = {kind.key: at + 1 for at, kind in enumerate(plan.kinds)}
        self._kind_of = np.zeros(1, np.uint8)
        self._known = 0

    def learn(self, numbers: list[int] | frozenset[int]) -> None:
        """The register rows of these structures are new or changed."""
        register = self._plan.register
        if len(self._kind_of) <= register.next_number:
            grown = np.zeros(2 * register.next_number + 16, np.uint8)
            grown[: len(self._kind_of)] = self._kind_of
            self._kind_of = grown
        for number in numbers:
            if number in register:
                self._kind_of[number] = self._kind_at[register[number].kind]

    def stamps(self, scale: Scale) -> Stamps:
        key = (scale.pw, scale.ph)
        if key not in self._stamps:
            plan = self._plan
            self._stamps[key] = Stamps(*key, self._palette, plan.terrain_table, plan.kinds)
        return self._stamps[key]

    def prepare(self, scale: Scale) -> bool:
        """Do a little of what a zoom step will need; False when there is nothing left to do."""
        return self.stamps(scale).prepare()

    def shade(self, box: Box, scale: Scale) -> Pixels:
        """The pixels of a block.

        box : within the grid; its edges are multiples of `scale.skip`, or the grid's own end.
        Returns (rows * ph, cols * pw) uint32 RGB32; with cells skipped, one pixel for skip x skip.
        """
        if self._known == 0 and len(self._plan.register):
            self.learn(self._plan.register.numbers())
            self._known = 1
        stamps = self.stamps(scale)
        keys = self._skipped(box, scale.skip) if scale.skip > 1 else self._keys(box, scale, stamps)
        return stamps.look_up(keys)

    def _keys(self, box: Box, scale: Scale, stamps: Stamps) -> npt.NDArray[np.int64]:
        plan = self._plan
        keys = plan.terrain[box.slices].astype(np.int64) << TERRAIN
        if stamps.patterned:
            rows = np.arange(box.r0, box.r1) % ink.PERIOD * ink.PERIOD
            keys |= rows[:, None] + np.arange(box.c0, box.c1) % ink.PERIOD
        keys |= plan.reserved[box.slices].astype(np.int64) << RESERVED
        road = plan.road[box.slices] != 0
        if road.any():
            masks = neighbour_masks(plan.road, box).astype(np.int64) + 1
            keys[road] |= masks[road] << ROAD
        occupant = plan.occupant[box.slices]
        built = occupant > 0
        if built.any():
            looks = self._kind_of[np.where(built, occupant, 0)].astype(np.int64) << KIND
            looks |= _edge_masks(plan.occupant, box).astype(np.int64) << EDGES
            if min(scale.pw, scale.ph) >= DOORS_FROM:
                looks |= self._doors(box, occupant[built]).astype(np.int64) << DOORS
            # A structure hides the ground: keys without it are far fewer.
            keys[built] = looks[built]
        self._add_obstacles(keys, occupant)
        return keys

    def _add_obstacles(self, keys: npt.NDArray[np.int64], occupant: npt.NDArray[np.int32]) -> None:
        for row, col in np.argwhere(occupant < 0).tolist():
            look = self._plan.obstacles[-int(occupant[row, col])].look
            keys[row, col] |= (LOOKS.index(look) + 1) << LOOK

    def _doors(self, box: Box, numbers: npt.NDArray[np.int32]) -> npt.NDArray[np.uint8]:
        plan = self._plan
        bits = np.zeros(box.shape, np.uint8)
        for number in np.unique(numbers).tolist():
            structure = plan.register[number]
            low = plan.spec.slot(structure.cell)
            footprint = plan.kinds[structure.kind].footprint.turned(structure.turn)
            for door in footprint.doors:
                row, col = low.row + door.row - box.r0, low.col + door.col - box.c0
                if 0 <= row < bits.shape[0] and 0 <= col < bits.shape[1]:
                    bits[row, col] |= 1 << door.side
        return bits

    def _skipped(self, box: Box, skip: int) -> npt.NDArray[np.int64]:
        """One key for skip x skip cells: the low cell's ground, but anything built there shows."""
        plan = self._plan
        keys = plan.terrain[box.slices][::skip, ::skip].astype(np.int64) << TERRAIN
        keys |= plan.reserved[box.slices][::skip, ::skip].astype(np.int64) << RESERVED
        found = _any(plan.blocks[box.slices] & _SHOWN, skip)
        keys[found & BIT[Reason.ROAD] > 0] |= 16 << ROAD
        built = np.argwhere(found & BIT[Reason.OCCUPIED] > 0)
        if len(built):
            # Whose it is has to be asked only of the few blocks where something stands.
            numbers = np.zeros(len(built), np.int32)
            rows, cols = box.r0 + built[:, 0] * skip, box.c0 + built[:, 1] * skip
            for r in range(skip):
                for c in range(skip):
                    at = np.minimum(rows + r, box.r1 - 1), np.minimum(cols + c, box.c1 - 1)
                    np.maximum(numbers, plan.occupant[at], out=numbers)
            keys[built[:, 0], built[:, 1]] = self._kind_of[numbers].astype(np.int64) << KIND
        return keys


# What must be seen from afar even where it is smaller than a pixel.
_SHOWN = np.uint8(BIT[Reason.ROAD] | BIT[Reason.OCCUPIED])


def _any(bits: npt.NDArray[np.uint8], skip: int) -> npt.NDArray[np.uint8]:
    """All bits found in each skip x skip block; ragged ends count as blocks."""
    h, w = bits.shape
    tall, wide = -(-h // skip), -(-w // skip)
    if (tall * skip, wide * skip) != (h, w):
        whole = np.zeros((tall * skip, wide * skip), np.uint8)
        whole[:h, :w] = bits
        bits = whole
    # Twice along memory, turned in between: several times quicker than across it.
    rows = np.bitwise_or.reduce(bits.reshape(tall, skip, wide * skip), axis=1)
    turned = np.ascontiguousarray(rows.T).reshape(wide, skip, tall)
    out: npt.NDArray[np.uint8] = np.bitwise_or.reduce(turned, axis=1).T
    return out


def _edge_masks(occupant: npt.NDArray[np.int32], box: Box) -> npt.NDArray[np.uint8]:
    """On which sides a cell's neighbour belongs to somebody else: 1 N, 2 E, 4 S, 8 W."""
    around = box.grown(1).clipped(occupant.shape)
    padded = np.zeros((box.shape[0] + 2, box.shape[1] + 2), np.int32)
    padded[
        around.r0 - box.r0 + 1 : around.r1 - box.r0 + 1,
        around.c0 - box.c0 + 1 : around.c1 - box.c0 + 1,
    ] = occupant[around.slices]
    mine = padded[1:-1, 1:-1]
    mask = (padded[:-2, 1:-1] != mine) * np.uint8(1)
    mask |= (padded[1:-1, 2:] != mine) * np.uint8(2)
    mask |= (padded[2:, 1:-1] != mine) * np.uint8(4)
    mask |= (padded[1:-1, :-2] != mine) * np.uint8(8)
    bits: npt.NDArray[np.uint8] = mask.astype(np.uint8)
    return bits
