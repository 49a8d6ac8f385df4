"""The edits of roads and barriers, cell by cell. Each returns an `Edit` (perhaps empty); none touches the
plan."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from woven_locus.core.editing import Edit, KeepSideChange, Patch
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.lanes import KeepSide
from woven_locus.core.lines import rectangle
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.placing import judge_barrier, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.routing.joining import join_from
from woven_locus.core.ways.roads import Sign, class_of, road_byte


def lay_road(plan: Plan, cells: Sequence[Cell], code: int = 0) -> Edit:
    """Road of a class on every cell that allows it; the others are passed over. Road of that class that
    is there already keeps its sign."""
    spec, verdict = plan.spec, judge_road(plan, cells)
    other = [
        c.cell
        for c in verdict.cells
        if c.ok and class_of(int(plan.road[spec.slot(c.cell)])) != code
    ]
    patch = Patch.of_cells(plan, "road", other, road_byte(code))
    return Edit(phrase("Laid road"), (patch,) if patch else ())


def put_signs(plan: Plan, cells: Sequence[Cell], signs: Sequence[Sign]) -> Edit:
    """Signs on the cells that are road; the others are passed over."""
    values = {}
    for cell, sign in zip(cells, signs, strict=True):
        byte = int(plan.road[plan.spec.slot(cell)]) if plan.spec.contains(cell) else 0
        if byte:
            values[cell] = road_byte(class_of(byte), sign)
    patch = Patch.of_values(plan, "road", values) if values else None
    return Edit(phrase("Changed the signs of a road"), (patch,) if patch else ())


def erase_road(plan: Plan, cells: Sequence[Cell]) -> Edit:
    """Roads and barriers taken away."""
    patches = [Patch.of_cells(plan, layer, cells, 0) for layer in ("road", "barrier")]
    return Edit(phrase("Erased road"), tuple(patch for patch in patches if patch))


def erase_block(plan: Plan, a: Cell, b: Cell) -> Edit:
    """All roads and barriers taken away from the block with two cells in opposite corners."""
    box = rectangle(plan.spec.slot(a), plan.spec.slot(b))
    every = np.ones(box.shape, bool)
    patches = [Patch.of_mask(plan, layer, box, every, 0) for layer in ("road", "barrier")]
    found = tuple(patch for patch in patches if patch)
    count = sum(int(np.count_nonzero(patch.before)) for patch in found)
    return Edit(
        phrase("Erased {cells} of road and barrier", cells=counted(count, "{n} cell", "{n} cells")),
        found,
    )


def split(plan: Plan, cell: Cell) -> Edit:
    """One cell taken out of a road or barrier, so that it falls in two. Raises Refused where there is
    none."""
    edit = erase_road(plan, [cell])
    if not edit.changes:
        raise Refused(
            phrase("There is no road or barrier to split at {cell}", cell=cell_text(cell))
        )
    return Edit(phrase("Split the road at {cell}", cell=cell_text(cell)), edit.changes)


def join_nearest(plan: Plan, cell: Cell, code: int = 0) -> Edit:
    """The fewest cells of road that join the road at a cell to another piece. Raises Refused."""
    missing = join_from(plan, cell)
    if not missing:
        raise Refused(phrase("No other road can be reached from {cell}", cell=cell_text(cell)))
    count = len(missing)
    label = phrase(
        "Joined the road at {cell} with {cells}",
        cell=cell_text(cell),
        cells=counted(count, "{n} cell", "{n} cells"),
    )
    return Edit(label, lay_road(plan, missing, code).changes)


def raise_barrier(plan: Plan, cells: Sequence[Cell]) -> Edit:
    """A barrier on every cell that allows it; the others are passed over."""
    verdict = judge_barrier(plan, cells)
    patch = Patch.of_cells(plan, "barrier", [c.cell for c in verdict.cells if c.ok], 1)
    return Edit(phrase("Raised a barrier"), (patch,) if patch else ())


def keep_to(plan: Plan, side: KeepSide) -> Edit:
    """Traffic keeps to this side of the road."""
    if side is plan.keep:
        return Edit("", ())
    return Edit(
        phrase("Let traffic keep {side}", side=phrase(side.value)),
        (KeepSideChange(plan.keep, side),),
    )
