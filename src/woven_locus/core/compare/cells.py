"""The layers of several plans on one grid and in one code, so that cells can be held against one another."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.layers import same_floats
from woven_locus.core.plan import Plan
from woven_locus.core.ways.roads import CLASS_BITS, SIGN_SHIFT

# What a cell holds, by name: of a road cell its class and its sign are two things.
ASPECTS = ("terrain", "reserved", "roads", "signs", "barriers", "heights")
Codes = npt.NDArray[np.float32]
# A cell that a plan does not have; no height is infinite.
ABSENT = -np.inf


class Names:
    """A number for each class of terrain and of road in several plans, whatever its place in their tables."""

    def __init__(self, plans: Iterable[Plan]) -> None:
        self.terrain: list[str] = []
        self.roads: list[str] = [""]
        for plan in plans:
            for item in plan.terrain_table:
                if item.key not in self.terrain:
                    self.terrain.append(item.key)
            for road in plan.road_table:
                if road.key not in self.roads:
                    self.roads.append(road.key)

    def words(self, aspect: str, code: float) -> object:
        """A code of an aspect as the document has it; None for none, an unknown height, or a cell that is not there."""
        if code == ABSENT or code != code:
            return None
        if aspect == "terrain":
            return self.terrain[int(code)]
        if aspect == "roads":
            return self.roads[int(code)] or None
        if aspect == "signs":
            return ".neswxp"[int(code)]
        return code if aspect == "heights" else bool(code)


def codes(plan: Plan, aspect: str, names: Names) -> Codes:
    """(rows, cols) what each cell holds, as numbers that are the same in all plans of `names`. Signs point as on screen.
    Heights of a plan without any are NaN."""
    if aspect == "terrain":
        table = np.array([names.terrain.index(item.key) for item in plan.terrain_table], np.float32)
        found: Codes = table[plan.terrain]
        return found
    if aspect == "roads":
        keys = [0, *(names.roads.index(road.key) for road in plan.road_table)]
        of_roads: Codes = np.array(keys, np.float32)[plan.road & CLASS_BITS]
        return of_roads
    if aspect == "signs":
        return shown_signs(plan.road >> SIGN_SHIFT, plan.spec.y_up).astype(np.float32)
    if aspect == "heights":
        if plan.heights is None:
            return np.full(plan.spec.shape, np.nan, np.float32)
        return plan.heights
    return (plan.reserved if aspect == "reserved" else plan.barrier).astype(np.float32)


def shown_signs(signs: npt.NDArray[np.integer], y_up: bool) -> npt.NDArray[np.integer]:
    """Signs as on screen from those in the grid, and the other way round."""
    return np.array([0, 3, 2, 1, 4, 5, 6], np.uint8)[signs] if y_up else signs


def same_lattice(a: GridSpec, b: GridSpec) -> bool:
    """Whether the cells of one number lie in the same place in both grids."""
    zero = Cell(0, 0)
    return (a.cell_w, a.cell_h, a.y_up, a.corner(zero)) == (
        b.cell_w,
        b.cell_h,
        b.y_up,
        b.corner(zero),
    )


def laid_on(values: Codes, spec: GridSpec, onto: GridSpec) -> Codes:
    """The cells of one grid on another of the same lattice; ABSENT where it has none."""
    found = np.full(onto.shape, ABSENT, np.float32)
    row, col = spec.first_row - onto.first_row, spec.first_col - onto.first_col
    top, left = max(0, row), max(0, col)
    low, right = min(onto.rows, row + spec.rows), min(onto.cols, col + spec.cols)
    if top < low and left < right:
        found[top:low, left:right] = values[top - row : low - row, left - col : right - col]
    return found


def both(specs: Sequence[GridSpec]) -> GridSpec:
    """The smallest grid of the same lattice that has the cells of all."""
    first = specs[0]
    col, row = min(s.first_col for s in specs), min(s.first_row for s in specs)
    last_col, last_row = max(s.last.col for s in specs), max(s.last.row for s in specs)
    corner = first.corner(Cell(col, row))
    size = last_col - col + 1, last_row - row + 1
    cell = first.cell_w, first.cell_h
    return GridSpec(*size, *cell, *corner, False, col, row, first.unit, first.y_up)


def differ(a: Codes, b: Codes) -> npt.NDArray[np.bool_]:
    """Where two do not agree."""
    return ~same_floats(a, b)
