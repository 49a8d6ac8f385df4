"""The edits of single structures, roads and barriers. Each returns an `Edit` (perhaps empty); none
touches the plan. Those of many at once are in `many`, those of Ground in `ground`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from woven_locus.core.editing import Change, Edit, FundsChange, Patch, StructuresChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.turns import turn_words
from woven_locus.core.placing import Verdict, judge, judge_barrier, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.register import LARGEST_NUMBER, Structure, structure_id
from woven_locus.core.routing.joining import join_from
from woven_locus.core.tools.lines import rectangle
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
    return Edit("Laid road", (patch,) if patch else ())


def put_signs(plan: Plan, cells: Sequence[Cell], signs: Sequence[Sign]) -> Edit:
    """Signs on the cells that are road; the others are passed over."""
    values = {}
    for cell, sign in zip(cells, signs, strict=True):
        byte = int(plan.road[plan.spec.slot(cell)]) if plan.spec.contains(cell) else 0
        if byte:
            values[cell] = road_byte(class_of(byte), sign)
    patch = Patch.of_values(plan, "road", values) if values else None
    return Edit("Changed the signs of a road", (patch,) if patch else ())


def erase_road(plan: Plan, cells: Sequence[Cell]) -> Edit:
    """Roads and barriers taken away."""
    patches = [Patch.of_cells(plan, layer, cells, 0) for layer in ("road", "barrier")]
    return Edit("Erased road", tuple(patch for patch in patches if patch))


def erase_block(plan: Plan, a: Cell, b: Cell) -> Edit:
    """All roads and barriers taken away from the block with two cells in opposite corners."""
    box = rectangle(plan.spec.slot(a), plan.spec.slot(b))
    every = np.ones(box.shape, bool)
    patches = [Patch.of_mask(plan, layer, box, every, 0) for layer in ("road", "barrier")]
    found = tuple(patch for patch in patches if patch)
    count = sum(int(np.count_nonzero(patch.before)) for patch in found)
    return Edit(f"Erased {count} cell{'s' * (count != 1)} of road and barrier", found)


def split(plan: Plan, cell: Cell) -> Edit:
    """One cell taken out of a road or barrier, so that it falls in two. Raises Refused where there is
    none."""
    edit = erase_road(plan, [cell])
    if not edit.changes:
        raise Refused(f"There is no road or barrier to split at {cell_text(cell)}")
    return Edit(f"Split the road at {cell_text(cell)}", edit.changes)


def join_nearest(plan: Plan, cell: Cell, code: int = 0) -> Edit:
    """The fewest cells of road that join the road at a cell to another piece. Raises Refused."""
    missing = join_from(plan, cell)
    if not missing:
        raise Refused(f"No other road can be reached from {cell_text(cell)}")
    count = len(missing)
    label = f"Joined the road at {cell_text(cell)} with {count} cell{'s' * (count != 1)}"
    return Edit(label, lay_road(plan, missing, code).changes)


def raise_barrier(plan: Plan, cells: Sequence[Cell]) -> Edit:
    """A barrier on every cell that allows it; the others are passed over."""
    verdict = judge_barrier(plan, cells)
    patch = Patch.of_cells(plan, "barrier", [c.cell for c in verdict.cells if c.ok], 1)
    return Edit("Raised a barrier", (patch,) if patch else ())


def cannot_stand(kind: Kind, cell: Cell, verdict: Verdict) -> str:
    """The refusal of a placement in words."""
    return f"{kind.name} cannot stand at {cell_text(cell)}: {verdict.sentence()}"


def new_row(plan: Plan, kind: Kind, cell: Cell, turn: int, when: str, after: int = 0) -> Structure:
    """The register's next row. after : rows of the same edit before it. Raises Refused."""
    number = plan.register.next_number + after
    if number >= LARGEST_NUMBER:
        raise Refused(f"the register is full: its numbers end at {LARGEST_NUMBER - 1:,}")
    since = plan.funds.clock if plan.funds is not None else 0
    return Structure(number, kind.key, cell, turn, kind.price, when, since)


def place(plan: Plan, kind_key: str, cell: Cell, turn: int, when: str) -> Edit:
    """Place a structure. Raises Refused with the judge's words, Unknown for the kind.

    when : ISO 8601 text for the register; core has no clock.
    """
    kind = plan.kinds[kind_key]
    verdict = judge(plan, kind, cell, turn)
    if not verdict:
        raise Refused(cannot_stand(kind, cell, verdict))
    row = new_row(plan, kind, cell, turn, when)
    label = f"Placed {kind.name} {structure_id(row.number)} at {cell_text(cell)}"
    return Edit(label, (StructuresChange((), (row,)),))


def move(plan: Plan, number: int, cell: Cell, turn: int) -> Edit:
    """Move or turn a structure, itself taken as lifted; the number stays. Raises Refused."""
    before = plan.register[number]
    kind = plan.kinds[before.kind]
    verdict = judge(plan, kind, cell, turn, lifted=number)
    if not verdict:
        raise Refused(
            f"{plan.title_of(number)} cannot move to {cell_text(cell)}: {verdict.sentence()}"
        )
    after = replace(before, cell=cell, turn=turn)
    if after == before:
        return Edit("", ())
    who = f"{kind.name} {structure_id(number)}"
    label = f"Moved {who} to {cell_text(cell)}"
    if after.cell == before.cell:
        label = f"Turned {who} to {turn_words(turn)} at {cell_text(cell)}"
    return Edit(label, (StructuresChange((before,), (after,)),))


def replace_with(plan: Plan, number: int, kind_key: str, cell: Cell, turn: int, when: str) -> Edit:
    """Another structure in place of one, which is taken as lifted: the old one's share is returned, the
    new one has a number of its own. Raises Refused, Unknown."""
    old, kind = plan.register[number], plan.kinds[kind_key]
    if old.kind == kind_key:
        raise Refused(f"{plan.title_of(number)} is a {kind.name.lower()} already")
    verdict = judge(plan, kind, cell, turn, lifted=number)
    if not verdict:
        raise Refused(f"{kind.name} cannot replace {plan.title_of(number)}: {verdict.sentence()}")
    row = new_row(plan, kind, cell, turn, when)
    label = f"Replaced {plan.title_of(number)} by {kind.name} {structure_id(row.number)}"
    return Edit(label, (*taken_off(plan, [old]), StructuresChange((), (row,))))


def demolish(plan: Plan, numbers: Sequence[int]) -> Edit:
    """Remove structures; of what they cost, the agreed share returns. Raises Unknown."""
    rows = [plan.register[number] for number in numbers]
    if not rows:
        return Edit("", ())
    if len(rows) == 1:
        label = f"Demolished {plan.kinds[rows[0].kind].name} {structure_id(rows[0].number)}"
    else:
        label = f"Demolished {len(rows):,} structures"
    return Edit(label, taken_off(plan, rows))


def taken_off(plan: Plan, rows: Sequence[Structure]) -> tuple[Change, ...]:
    """The changes that remove structures from the map and settle the books."""
    changes: list[Change] = [StructuresChange(tuple(rows), ())]
    if plan.funds is not None:
        after = plan.funds.without((row, plan.kinds[row.kind]) for row in rows)
        changes.append(FundsChange(plan.funds, after))
    return tuple(changes)
