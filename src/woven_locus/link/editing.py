"""Methods that edit the plan: each is one step that can be undone, named as from the game."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from woven_locus.core import edits
from woven_locus.core.editing import Edit, Patch
from woven_locus.core.edits.ground import Coat, paint
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.kinds import MIRRORED
from woven_locus.core.plan import Plan
from woven_locus.core.routing import parse_end
from woven_locus.link.asking import Pair, Probe, turn_of
from woven_locus.link.method import Host, Method, Nothing, Params
from woven_locus.link.reading import structure_json

# Cells of one edit at most.
MOST_CELLS = 65_536


class Move(Params):
    """structure : as S12."""

    structure: str
    cell: Pair
    turn: Literal[0, 1, 2, 3] | None = None
    mirror: bool | None = None


class Demolish(Params):
    """structures : as S12."""

    structures: tuple[str, ...]


class Cells(Params):
    """cells : those that are meant."""

    cells: tuple[Pair, ...]


class Road(Params, rename={"road": "class"}):
    """class : key of a road class, the first when left out."""

    cells: tuple[Pair, ...]
    road: str | None = None


class Paint(Params, rename={"terrain": "class"}):
    """class : key of a terrain class."""

    cells: tuple[Pair, ...]
    terrain: str


def _cells(plan: Plan, cells: tuple[Pair, ...]) -> list[Cell]:
    if len(cells) > MOST_CELLS:
        raise Refused(f"{len(cells):,} cells are too many at once; send {MOST_CELLS:,} at most")
    found = [Cell(*cell) for cell in cells]
    for cell in found:
        plan.spec.checked_slot(cell)
    return found


def _number(text: str) -> int:
    end = parse_end(text)
    if isinstance(end, Cell):
        raise Refused(f"{text!r} is no structure like S12")
    return end


def _place(host: Host, params: Probe) -> dict[str, Any]:
    plan, turn = host.plan, turn_of(host.plan, params)
    number = plan.register.next_number
    edit = edits.place(plan, params.kind, Cell(*params.cell), turn, host.document.now())
    return host.do(edit) | structure_json(plan, number)


def _move(host: Host, params: Move) -> dict[str, Any]:
    plan, number = host.plan, _number(params.structure)
    row = plan.register[number]
    turn = row.turn % MIRRORED if params.turn is None else params.turn
    mirror = row.turn >= MIRRORED if params.mirror is None else params.mirror
    edit = edits.move(plan, number, Cell(*params.cell), turn + MIRRORED * mirror)
    return host.do(edit) | structure_json(plan, number)


def _demolish(host: Host, params: Demolish) -> dict[str, Any]:
    return host.do(edits.demolish(host.plan, [_number(text) for text in params.structures]))


def _lay_road(host: Host, params: Road) -> dict[str, Any]:
    plan = host.plan
    code = plan.road_table.code(params.road) if params.road is not None else 0
    return host.do(edits.lay_road(plan, _cells(plan, params.cells), code))


def _erase_road(host: Host, params: Cells) -> dict[str, Any]:
    return host.do(edits.erase_road(host.plan, _cells(host.plan, params.cells)))


def _raise_barrier(host: Host, params: Cells) -> dict[str, Any]:
    return host.do(edits.raise_barrier(host.plan, _cells(host.plan, params.cells)))


def _erase_barrier(host: Host, params: Cells) -> dict[str, Any]:
    patch = Patch.of_cells(host.plan, "barrier", _cells(host.plan, params.cells), 0)
    return host.do(Edit("Took down a barrier", (patch,) if patch else ()))


def _paint(host: Host, params: Paint) -> dict[str, Any]:
    plan, cells = host.plan, _cells(host.plan, params.cells)
    coat = Coat("terrain", plan.terrain_table.code(params.terrain))
    if not cells:
        return host.do(Edit("", ()))
    slots = np.array([plan.spec.slot(cell) for cell in cells])
    (r0, c0), (r1, c1) = slots.min(axis=0).tolist(), slots.max(axis=0).tolist()
    mask = np.zeros((r1 - r0 + 1, c1 - c0 + 1), bool)
    mask[slots[:, 0] - r0, slots[:, 1] - c0] = True
    return host.do(paint(plan, coat, Box(r0, c0, r1 + 1, c1 + 1), mask))


def _undo(host: Host, _params: Nothing) -> dict[str, Any]:
    return _step(host, host.document.history.undo, host.document.history.can_undo)


def _redo(host: Host, _params: Nothing) -> dict[str, Any]:
    return _step(host, host.document.history.redo, host.document.history.can_redo)


def _step(host: Host, step: Any, may: bool) -> dict[str, Any]:
    host.check_may_edit()
    if may:
        step()
    return {"revision": host.document.revision, "changed": may}


def _save(host: Host, _params: Nothing) -> dict[str, Any]:
    host.check_may_edit()
    return {"path": host.save(), "revision": host.document.revision}


_DONE = "revision, label, whether anything changed"
METHODS: tuple[Method, ...] = (
    Method(
        "place",
        "Place a structure; refused where probe refuses",
        Probe,
        f"{_DONE}, the structure",
        _place,
        True,
    ),
    Method("move", "Move or turn a structure", Move, f"{_DONE}, the structure", _move, True),
    Method("demolish", "Demolish structures", Demolish, _DONE, _demolish, True),
    Method("road.lay", "Lay road where it may run", Road, _DONE, _lay_road, True),
    Method("road.erase", "Take up road", Cells, _DONE, _erase_road, True),
    Method("barrier.raise", "Raise a barrier where it may run", Cells, _DONE, _raise_barrier, True),
    Method("barrier.erase", "Take down a barrier", Cells, _DONE, _erase_barrier, True),
    Method("terrain.paint", "Paint terrain", Paint, _DONE, _paint, True),
    Method("undo", "Take back the last step", Nothing, _DONE, _undo, True),
    Method("redo", "Do the next step again", Nothing, _DONE, _redo, True),
    Method("save", "Save the plan to its file", Nothing, "path, revision", _save, True),
)
