"""The edits that the tools of Ground make. Each returns an `Edit` (perhaps empty); none touches the
plan."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing import Change, Edit, LayerChange, Patch
from woven_locus.core.geometry import Box, Cell, Slot
from woven_locus.core.ground.generate import Recipe, generate
from woven_locus.core.lines import Brush, swept
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value

Mask = npt.NDArray[np.bool_]


class Coat(Value):
    """What is painted. layer : "terrain" or "reserved".  code : of the terrain class; 1 or 0."""

    layer: str
    code: int

    def name(self, plan: Plan) -> str:
        """In the middle of a sentence: ``Bog``, ``reserved ground``."""
        if self.layer == "terrain":
            return plan.terrain_table[self.code].name
        return phrase("reserved ground") if self.code else phrase("free ground")


def paint(plan: Plan, coat: Coat, box: Box, mask: Mask, label: str = "") -> Edit:
    """Set the coat where a mask of the box's shape is True; what lies outside the grid is passed
    over."""
    patch = Patch.of_mask(plan, coat.layer, box, mask, coat.code)
    return Edit(label or phrase("Painted {coat}", coat=coat.name(plan)), (patch,) if patch else ())


def paint_brush(plan: Plan, middles: Sequence[Cell], brush: Brush, coat: Coat) -> Edit:
    """`paint` under a brush that comes past each of `middles`."""
    return paint(plan, coat, *swept([plan.spec.slot(cell) for cell in middles], brush))


def paint_box(plan: Plan, box: Box, coat: Coat) -> Edit:
    """A full rectangle."""
    box = box.clipped(plan.spec.shape)
    rows, cols = box.shape
    edit = paint(plan, coat, box, np.ones(box.shape, bool))
    return Edit(
        phrase("Painted {cols} × {rows} cells {coat}", cols=cols, rows=rows, coat=coat.name(plan)),
        edit.changes,
    )


def piece_at(layer: npt.NDArray[np.uint8], slot: Slot) -> tuple[Box, Mask]:
    """The cells of equal code that hang together by their edges with one cell: a box and a mask."""
    from scipy import ndimage  # late: it takes longer to import than to run on a small map

    same = layer == layer[slot]
    labels, _count = ndimage.label(same)
    mine = labels == labels[slot]
    box = Box.around_mask(mine)
    return box, mine[box.slices]


def fill(plan: Plan, cell: Cell, coat: Coat) -> Edit:
    """Paint the piece of equal ground that a cell lies in (4 neighbours). Raises OutsideGrid."""
    slot = plan.spec.checked_slot(cell)
    box, mask = piece_at(getattr(plan, coat.layer), slot)
    count = int(np.count_nonzero(mask))
    label = phrase(
        "Filled {cells} with {coat}",
        cells=counted(count, "{n:,} cell", "{n:,} cells"),
        coat=coat.name(plan),
    )
    return paint(plan, coat, box, mask, label)


def replace_all(plan: Plan, cell: Cell, coat: Coat) -> Edit:
    """Paint every cell of the map that is coated as `cell` is. Raises OutsideGrid."""
    layer = getattr(plan, coat.layer)
    old = Coat(coat.layer, int(layer[plan.spec.checked_slot(cell)]))
    mask = layer == old.code
    count = int(np.count_nonzero(mask))
    label = phrase(
        "Replaced {old} by {coat}, {cells}",
        old=old.name(plan),
        coat=coat.name(plan),
        cells=counted(count, "{n:,} cell", "{n:,} cells"),
    )
    return paint(plan, coat, plan.spec.box, mask, label)


def made_ground(plan: Plan, recipe: Recipe, stopped: Callable[[], bool]) -> Edit:
    """The edit that puts made-up ground under a plan; what stands on it stays."""
    terrain, heights = generate(plan.spec, recipe, stopped)
    changes: list[Change] = [LayerChange("heights", plan.heights, heights)]
    patch = Patch.of_block(plan, "terrain", plan.spec.box, terrain)
    if patch is not None:
        changes.append(patch)
    return Edit(phrase("Made ground from seed {seed}", seed=recipe.seed), tuple(changes))
