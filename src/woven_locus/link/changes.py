"""What clients are told of changes of the plan."""

from __future__ import annotations

from typing import Any

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Box
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.link.reading import MOST_CELLS, cells_json, structure_json


def change_json(plan: Plan, notice: Notice, revision: int) -> dict[str, Any]:
    """A notice with the cells as they are now. Of a change of more than MOST_CELLS, or of a grid or classes that are
    others, only the boxes are said: ask for what is needed.

    boxes : [low col, low row, high col, high row] each.  structures : those whose row changed, null for one that is gone.
    """
    boxes = [box for box in (box.clipped(plan.spec.shape) for box in notice.boxes) if not box.empty]
    small = not notice.reformed and sum(box.shape[0] * box.shape[1] for box in boxes) <= MOST_CELLS
    return {
        "revision": revision,
        "label": notice.label,
        "layers": sorted(notice.layers),
        "reformed": notice.reformed,
        "boxes": [_box(plan, box) for box in boxes],
        "cells": [cells_json(plan, box) for box in boxes] if small else None,
        "structures": {
            structure_id(number): structure_json(plan, number) if number in plan.register else None
            for number in sorted(notice.structures)
        },
    }


def _box(plan: Plan, box: Box) -> list[int]:
    low = plan.spec.cell_of_slot((box.r0, box.c0))
    high = plan.spec.cell_of_slot((box.r1 - 1, box.c1 - 1))
    return [*low, *high]
