"""A layer of the map as a table with a value a cell, and as a picture with a pixel a cell, the top row of the screen first.

As CSV the first line names the columns and each line begins with its row. As PNG what is there is white; road shapes are
a palette picture, 0 without road, else 1 and to which neighbours the cell is joined.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.ways.shapes import SHAPES, neighbour_masks
from woven_locus.files.tables import table

# Layers of a value a cell, by name, in words.
LAYER_TABLES = {
    "terrain": phrase("Terrain"),
    "heights": phrase("Heights"),
    "reserved": phrase("Reserved ground"),
    "obstacles": phrase("Obstacles"),
    "structures": phrase("Structures"),
    "barriers": phrase("Barriers"),
    "road-shapes": phrase("Road shapes"),
}
LAYER_PICTURES = ("reserved", "obstacles", "structures", "barriers", "road-shapes")
# The grey of a road's cell in its picture's palette, by how many neighbours it is joined to.
_GREYS = (70, 110, 150, 200, 255)


def _on_screen(plan: Plan, layer: npt.NDArray[Any]) -> npt.NDArray[Any]:
    return layer[::-1] if plan.spec.y_up else layer


def _shapes(plan: Plan) -> npt.NDArray[np.int64]:
    """(rows, cols) on screen: 0 without road, else 1 + the mask of the neighbours that it is joined to."""
    road = _on_screen(plan, plan.road)
    masks = neighbour_masks(road, Box(0, 0, *road.shape)).astype(np.int64)
    return np.where(road > 0, masks + 1, 0)


def _values(plan: Plan, name: str) -> Iterable[Iterable[object]]:
    if name == "terrain":
        keys = [item.key for item in plan.terrain_table]
        return ([keys[code] for code in row] for row in _on_screen(plan, plan.terrain).tolist())
    if name == "heights":
        assert plan.heights is not None
        return (
            ["" if np.isnan(value) else repr(float(value)) for value in row]
            for row in _on_screen(plan, plan.heights)
        )
    if name == "road-shapes":
        return (["" if not code else code - 1 for code in row] for row in _shapes(plan).tolist())
    found: list[list[int]] = _NUMBERS[name](plan).tolist()
    return found


_NUMBERS: dict[str, Callable[[Plan], npt.NDArray[Any]]] = {
    "reserved": lambda plan: _on_screen(plan, plan.reserved),
    "barriers": lambda plan: _on_screen(plan, plan.barrier),
    "obstacles": lambda plan: np.maximum(-_on_screen(plan, plan.occupant), 0),
    "structures": lambda plan: np.maximum(_on_screen(plan, plan.occupant), 0),
}


def layer_csv(plan: Plan, name: str) -> str:
    """A layer of LAYER_TABLES. Terrain as the keys of its classes, heights in world units and empty where they are not known,
    structures and obstacles by number, road shapes as the number that `roads-csv` has, empty without road; the others
    1 where there is something."""
    spec = plan.spec
    rows = range(spec.first_row, spec.first_row + spec.rows)
    order = reversed(rows) if spec.y_up else rows
    head = ["row"] + [str(spec.first_col + col) for col in range(spec.cols)]
    return table(
        head, ([row, *values] for row, values in zip(order, _values(plan, name), strict=True))
    )


def layer_png(plan: Plan, name: str) -> bytes:
    """A layer of LAYER_PICTURES, a pixel a cell."""
    from PIL import Image

    out = io.BytesIO()
    if name == "road-shapes":
        image = Image.fromarray(_shapes(plan).astype(np.uint8), "P")
        joined = [0] + [_GREYS[mask.bit_count()] for mask in range(len(SHAPES))]
        image.putpalette([grey for grey in joined for _ in range(3)])
    else:
        there = np.asarray(_NUMBERS[name](plan)) > 0
        image = Image.fromarray(np.where(there, 255, 0).astype(np.uint8), "L")
    image.save(out, "PNG")
    return out.getvalue()
