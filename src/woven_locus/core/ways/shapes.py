"""A road cell takes its shape and turn from its four neighbours."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box

# Bits of a neighbour mask, clockwise from the top of the screen.
NORTH, EAST, SOUTH, WEST = 1, 2, 4, 8


class Shape(NamedTuple):
    """name : single, end, straight, bend, three-way or crossing.  turn : quarter turns clockwise
    from the shape's first form (end: joined north; straight: north-south; bend: north-east;
    three-way: all but west)."""

    name: str
    turn: int


def _shape_of(mask: int) -> Shape:
    forms = {
        "single": 0,
        "end": NORTH,
        "straight": NORTH | SOUTH,
        "bend": NORTH | EAST,
        "three-way": NORTH | EAST | SOUTH,
        "crossing": 15,
    }
    for name, form in forms.items():
        for turn in range(4):
            if ((form << turn) | (form >> (4 - turn))) & 15 == mask:
                return Shape(name, turn)
    raise AssertionError(mask)


SHAPES: tuple[Shape, ...] = tuple(_shape_of(mask) for mask in range(16))


def neighbour_masks(road: npt.NDArray[np.uint8], box: Box) -> npt.NDArray[np.uint8]:
    """Which neighbours of each cell are road too.

    road : (H, W) uint8, 0 is none.  box : block of it, within bounds.
    Returns (box rows, box cols) uint8 of NORTH | EAST | SOUTH | WEST, 0 off the road.
    """
    h, w = road.shape
    rows, cols = box.shape
    padded = np.zeros((rows + 2, cols + 2), np.uint8)
    around = box.grown(1).clipped((h, w))
    padded[around.seen_from(box.grown(1)).slices] = road[around.slices] > 0
    mask = padded[:-2, 1:-1] * NORTH
    mask |= padded[1:-1, 2:] * EAST
    mask |= padded[2:, 1:-1] * SOUTH
    mask |= padded[1:-1, :-2] * WEST
    mask *= padded[1:-1, 1:-1]
    return mask.astype(np.uint8)
