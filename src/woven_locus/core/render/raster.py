"""The raster of a block of the plan.

Rows of the raster are rows of the screen: where y grows upwards, the last row of the plan comes first.
All layers are looked at through `_on_screen`, so that nothing else here has to know.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.rules import BIT, Reason
from woven_locus.core.distinct import distinct
from woven_locus.core.geometry import Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.plan import Plan
from woven_locus.core.register import alike
from woven_locus.core.render import ink
from woven_locus.core.render.ground_view import GroundOverlay, GroundView
from woven_locus.core.render.palette import Palette
from woven_locus.core.render.scale import Scale
from woven_locus.core.render.stamps import (
    BARRIER,
    DOORS,
    EDGES,
    KIND,
    LOOK,
    OVERLAY,
    RESERVED,
    ROAD,
    TERRAIN,
    WAY,
    Pixels,
    Stamps,
)
from woven_locus.core.ways.roads import resigned
from woven_locus.core.ways.shapes import neighbour_masks

# Doors are drawn one structure at a time; below this size nobody could see them.
DOORS_FROM = 8


class Raster:
    """Shades blocks of one plan in one palette; composed cells are kept per zoom step.

    view : what is shown of the ground besides the terrain.
    """

    def __init__(self, plan: Plan, palette: Palette, view: GroundView | None = None) -> None:
        self._plan, self._palette = plan, palette
        self.view = view or GroundView()
        self._stamps: dict[tuple[int, int], Stamps] = {}
        self._kind_at = {kind.key: at + 1 for at, kind in enumerate(plan.kinds)}
        self._kind_of = np.zeros(1, np.uint8)
        self._known = 0
        # The bytes of road cells with their signs as they are on screen.
        turned = [resigned(byte, lambda side: (2 - side) % 4) for byte in range(256)]
        self._as_seen = np.array(turned if plan.spec.y_up else range(256), np.int64)

    @property
    def spec(self) -> GridSpec:
        """The grid of the plan."""
        return self._plan.spec

    def learn(self, numbers: list[int] | frozenset[int]) -> None:
        """The register rows of these structures are new or changed."""
        register = self._plan.register
        if len(self._kind_of) <= register.next_number:
            grown = np.zeros(2 * register.next_number + 16, np.uint8)
            grown[: len(self._kind_of)] = self._kind_of
            self._kind_of = grown
        # As quick as to look for more than a few in it.
        all_of_it = 4 * len(numbers) > len(register)
        for group in register.alike() if all_of_it else alike(register.those_of(numbers)):
            self._kind_of[group.numbers] = self._kind_at[group.kind]

    def stamps(self, scale: Scale) -> Stamps:
        """The pictures of cells for the scale in use."""
        key = (scale.pw, scale.ph)
        if key not in self._stamps:
            plan = self._plan
            self._stamps[key] = Stamps(
                *key,
                self._palette,
                plan.terrain_table,
                plan.kinds,
                self.view.overlay,
                plan.road_table,
            )
        return self._stamps[key]

    def prepare(self, scale: Scale) -> bool:
        """Do a little of what a zoom step will need; False when there is nothing left to do."""
        return self.stamps(scale).prepare()

    def shade(self, box: Box, scale: Scale) -> Pixels:
        """The pixels of a block.

        box : rows of the screen and columns, within the grid; its edges are multiples of
        `scale.skip`, or the grid's own end.
        Returns (rows * ph, cols * pw) uint32 RGB32; with cells skipped, one pixel for skip x skip.
        """
        if self._known == 0 and len(self._plan.register):
            self.learn(self._plan.register.numbers())
            self._known = 1
        stamps = self.stamps(scale)
        keys = self._skipped(box, scale.skip) if scale.skip > 1 else self._keys(box, scale, stamps)
        pixels = stamps.look_up(keys)
        if self.view.shade and self._plan.heights is not None:
            self._light(pixels, box, scale)
        return pixels

    def _on_screen(self, layer: npt.NDArray[Any]) -> npt.NDArray[Any]:
        return layer[::-1] if self._plan.spec.y_up else layer

    def _ground(self, box: Box, skip: int) -> npt.NDArray[np.int64]:
        """The part of the keys that says what the ground is."""
        plan = self._plan
        if self.view.overlay is not GroundOverlay.NONE:
            codes = self.view.codes(plan, self._array_box(box), skip)
            return (codes.astype(np.int64) + 1) << OVERLAY
        every = (slice(box.r0, box.r1, skip), slice(box.c0, box.c1, skip))
        keys = self._on_screen(plan.terrain)[every].astype(np.int64) << TERRAIN
        keys |= self._on_screen(plan.reserved)[every].astype(np.int64) << RESERVED
        return keys

    def _array_box(self, box: Box) -> Box:
        """A block of the screen as a block of the layers, or the other way round."""
        return self._plan.spec.mirrored(box)

    def _light(self, pixels: Pixels, box: Box, scale: Scale) -> None:
        """Hill shade, in place; what is built keeps its own colours."""
        plan, skip = self._plan, scale.skip
        lit = self.view.light(plan, self._array_box(box), skip)
        factor = np.rint(self._on_screen(lit) * 128).astype(np.uint16)
        if skip == 1:
            factor[self._on_screen(plan.occupant)[box.slices] > 0] = 128
        factor = np.repeat(np.repeat(factor, scale.ph, axis=0), scale.pw, axis=1)
        bytes_ = pixels.view(np.uint8).reshape(*pixels.shape, 4)
        lighter = bytes_[..., :3] * factor[..., None] >> 7
        bytes_[..., :3] = np.minimum(lighter, 255)

    def _keys(self, box: Box, scale: Scale, stamps: Stamps) -> npt.NDArray[np.int64]:
        plan = self._plan
        keys = self._ground(box, 1)
        if stamps.patterned:
            rows = np.arange(box.r0, box.r1) % ink.PERIOD * ink.PERIOD
            keys |= rows[:, None] + np.arange(box.c0, box.c1) % ink.PERIOD
        ways = self._on_screen(plan.road)
        road = ways[box.slices] != 0
        if road.any():
            masks = neighbour_masks(ways, box).astype(np.int64) + 1
            keys[road] |= masks[road] << ROAD
            keys[road] |= self._as_seen[ways[box.slices][road]] << WAY
        walls = self._on_screen(plan.barrier)
        wall = walls[box.slices] != 0
        if wall.any():
            masks = neighbour_masks(walls, box).astype(np.int64) + 1
            keys[wall] |= masks[wall] << BARRIER
        whose = self._on_screen(plan.occupant)
        occupant = whose[box.slices]
        built = occupant > 0
        if built.any():
            looks = self._kind_of[np.where(built, occupant, 0)].astype(np.int64) << KIND
            looks |= _edge_masks(whose, box).astype(np.int64) << EDGES
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
        for number in distinct(numbers).tolist():
            structure = plan.register[number]
            # As drawn on the screen, from the top of the structure on.
            footprint = plan.kinds[structure.kind].footprint.turned(structure.turn)
            top = self._array_box(plan.box_of(structure))
            for door in footprint.doors:
                row, col = top.r0 + door.row - box.r0, top.c0 + door.col - box.c0
                if 0 <= row < bits.shape[0] and 0 <= col < bits.shape[1]:
                    bits[row, col] |= 1 << door.side
        return bits

    def _skipped(self, box: Box, skip: int) -> npt.NDArray[np.int64]:
        """One key for skip x skip cells: the low cell's ground, but anything built there shows."""
        plan = self._plan
        keys = self._ground(box, skip)
        whose = self._on_screen(plan.occupant)
        found = _any(self._on_screen(plan.blocks)[box.slices] & _SHOWN, skip)
        keys[found & BIT[Reason.ROAD] > 0] |= 16 << ROAD
        keys[found & BIT[Reason.BARRIER] > 0] |= 16 << BARRIER
        built = np.argwhere(found & BIT[Reason.OCCUPIED] > 0)
        if len(built):
            # Whose it is has to be asked only of the few blocks where something stands.
            numbers = np.zeros(len(built), np.int32)
            rows, cols = box.r0 + built[:, 0] * skip, box.c0 + built[:, 1] * skip
            for r in range(skip):
                for c in range(skip):
                    at = np.minimum(rows + r, box.r1 - 1), np.minimum(cols + c, box.c1 - 1)
                    np.maximum(numbers, whose[at], out=numbers)
            keys[built[:, 0], built[:, 1]] = self._kind_of[numbers].astype(np.int64) << KIND
        return keys


# What must be seen from afar even where it is smaller than a pixel.
_SHOWN = np.uint8(BIT[Reason.ROAD] | BIT[Reason.OCCUPIED] | BIT[Reason.BARRIER])


def _any(bits: npt.NDArray[np.uint8], skip: int) -> npt.NDArray[np.uint8]:
    """All bits found in each skip x skip block; ragged ends count as blocks."""
    h, w = bits.shape
    tall, wide = -(-h // skip), -(-w // skip)
    if (tall * skip, wide * skip) != (h, w):
        whole = np.zeros((tall * skip, wide * skip), np.uint8)
        whole[:h, :w] = bits
        bits = whole
    bits = np.ascontiguousarray(bits)
    # Twice along memory, turned in between: several times quicker than across it.
    rows = np.bitwise_or.reduce(bits.reshape(tall, skip, wide * skip), axis=1)
    turned = np.ascontiguousarray(rows.T).reshape(wide, skip, tall)
    out: npt.NDArray[np.uint8] = np.bitwise_or.reduce(turned, axis=1).T
    return out


def _edge_masks(occupant: npt.NDArray[np.int32], box: Box) -> npt.NDArray[np.uint8]:
    """On which sides a cell's neighbour belongs to somebody else: 1 N, 2 E, 4 S, 8 W."""
    around = box.grown(1).clipped(occupant.shape)
    padded = np.zeros((box.shape[0] + 2, box.shape[1] + 2), np.int32)
    padded[around.seen_from(box.grown(1)).slices] = occupant[around.slices]
    mine = padded[1:-1, 1:-1]
    mask = (padded[:-2, 1:-1] != mine) * np.uint8(1)
    mask |= (padded[1:-1, 2:] != mine) * np.uint8(2)
    mask |= (padded[2:, 1:-1] != mine) * np.uint8(4)
    mask |= (padded[1:-1, :-2] != mine) * np.uint8(8)
    bits: npt.NDArray[np.uint8] = mask.astype(np.uint8)
    return bits
