"""Methods that read the plan."""

from __future__ import annotations

from typing import Any

import msgspec

from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.files import plan_json
from woven_locus.files.kind_rows import KindRow
from woven_locus.files.plan_rows import GridRow, StructureRow
from woven_locus.link.method import Host, Method, Nothing, Params

# Cells of one answer at most.
MOST_CELLS = 65_536


class BoxParams(Params):
    """low, high : cells of the box, both within it."""

    low: tuple[int, int]
    high: tuple[int, int]


def structure_json(plan: Plan, number: int) -> dict[str, Any]:
    """A row of the register, with its id and the cells that it covers."""
    row = plan.register[number]
    found: dict[str, Any] = {"structure": structure_id(number)}
    found |= msgspec.to_builtins(StructureRow.of(row))
    return found | {"cells": [[*cell] for cell in plan.cells_of(row)]}


def cells_json(plan: Plan, box: Box) -> dict[str, Any]:
    """What each cell of a block of slots holds, row by row: keys of classes, who stands there."""
    terrain = [item.key for item in plan.terrain_table]
    roads = ["", *(road.key for road in plan.road_table)]
    part = box.slices
    who = plan.occupant[part]
    low = plan.spec.cell_of_slot((box.r0, box.c0))
    found: dict[str, Any] = {
        "low": [*low],
        "cols": box.c1 - box.c0,
        "rows": box.r1 - box.r0,
        "terrain": [[terrain[code] for code in row] for row in plan.terrain[part].tolist()],
        "reserved": [[bool(code) for code in row] for row in plan.reserved[part].tolist()],
        "roads": [[roads[byte & 31] or None for byte in row] for row in plan.road[part].tolist()],
        "barriers": [[bool(code) for code in row] for row in plan.barrier[part].tolist()],
        "occupants": [[_name(number) for number in row] for row in who.tolist()],
    }
    if plan.heights is not None:
        rows = plan.heights[part].tolist()
        found["heights"] = [
            [None if height != height else height for height in row] for row in rows
        ]
    return found


def _name(number: int) -> str | None:
    if not number:
        return None
    return structure_id(number) if number > 0 else f"O{-number}"


def checked_box(plan: Plan, low: tuple[int, int], high: tuple[int, int]) -> Box:
    """The slots from one cell to another, within the grid. Raises Refused."""
    a, b = plan.spec.slot(Cell(*low)), plan.spec.slot(Cell(*high))
    box = Box(a.row, a.col, b.row + 1, b.col + 1).clipped(plan.spec.shape)
    if box.empty:
        raise Refused(f"no cell of the grid lies from {low[0]}, {low[1]} to {high[0]}, {high[1]}")
    if box.shape[0] * box.shape[1] > MOST_CELLS:
        raise Refused(
            f"{box.shape[0] * box.shape[1]:,} cells are too many at once; ask for {MOST_CELLS:,} at most"
        )
    return box


def _summary(host: Host, _params: Nothing) -> dict[str, Any]:
    plan, document = host.plan, host.document
    return {
        "name": plan.name,
        "revision": document.revision,
        "read_only": host.read_only,
        "saved": document.history.saved,
        "grid": msgspec.to_builtins(GridRow.of(plan.spec)),
        "structures": len(plan.register),
        "kinds": [kind.key for kind in plan.kinds],
    }


def _document(host: Host, _params: Nothing) -> Any:
    return msgspec.json.decode(plan_json.dump(host.plan))


def _structures(host: Host, _params: Nothing) -> list[dict[str, Any]]:
    return [structure_json(host.plan, number) for number in host.plan.register.numbers()]


def _kinds(host: Host, _params: Nothing) -> list[Any]:
    return [msgspec.to_builtins(KindRow.of(kind)) for kind in host.plan.kinds]


def _cells(host: Host, params: BoxParams) -> dict[str, Any]:
    return cells_json(host.plan, checked_box(host.plan, params.low, params.high))


METHODS: tuple[Method, ...] = (
    Method(
        "plan.summary",
        "What is open, and which state of it",
        Nothing,
        "name, revision, grid, counts",
        _summary,
    ),
    Method("plan.document", "The whole document", Nothing, "as in the plan file", _document),
    Method("plan.kinds", "The kinds of structure", Nothing, "rows as in the document", _kinds),
    Method(
        "plan.structures",
        "Everything that stands",
        Nothing,
        "rows as in the document, with cells",
        _structures,
    ),
    Method(
        "plan.cells",
        "What the cells of a box hold",
        BoxParams,
        "a table for each layer, row by row",
        _cells,
    ),
)
