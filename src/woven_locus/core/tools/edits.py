"""The edits that the tools of Build and Ways make; those of Ground are in `ground`. Each returns an `Edit` (perhaps empty); none touches the plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from woven_locus.core.editing import Edit, Patch, StructureChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.kinds import Kind
from woven_locus.core.placing import Verdict, judge, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.register import LARGEST_NUMBER, Structure, structure_id


def lay_road(plan: Plan, cells: Sequence[Cell]) -> Edit:
    """Road on every cell that allows it; the others are passed over."""
    verdict = judge_road(plan, cells)
    patch = Patch.of_cells(plan, "road", [c.cell for c in verdict.cells if c.ok], 1)
    return Edit("Laid road", (patch,) if patch else ())


def erase_road(plan: Plan, cells: Sequence[Cell]) -> Edit:
    patch = Patch.of_cells(plan, "road", cells, 0)
    return Edit("Erased road", (patch,) if patch else ())


def cannot_stand(kind: Kind, cell: Cell, verdict: Verdict) -> str:
    """The refusal of a placement in words."""
    return f"{kind.name} cannot stand at {cell_text(cell)}: {verdict.sentence()}"


def place(plan: Plan, kind_key: str, cell: Cell, turn: int, when: str) -> Edit:
    """Place a structure. Raises Refused with the judge's words, Unknown for the kind.

    when : ISO 8601 text for the register; core has no clock.
    """
    kind = plan.kinds[kind_key]
    verdict = judge(plan, kind, cell, turn)
    if not verdict:
        raise Refused(cannot_stand(kind, cell, verdict))
    number = plan.register.next_number
    if number >= LARGEST_NUMBER:
        raise Refused(f"the register is full: its numbers end at {LARGEST_NUMBER - 1:,}")
    row = Structure(number, kind_key, cell, turn % 4, kind.price, when)
    label = f"Placed {kind.name} {structure_id(number)} at {cell_text(cell)}"
    return Edit(label, (StructureChange(None, row),))


def move(plan: Plan, number: int, cell: Cell, turn: int) -> Edit:
    """Move or turn a structure, itself taken as lifted; the number stays. Raises Refused."""
    before = plan.register[number]
    kind = plan.kinds[before.kind]
    verdict = judge(plan, kind, cell, turn, lifted=number)
    if not verdict:
        raise Refused(
            f"{plan.title_of(number)} cannot move to {cell_text(cell)}: {verdict.sentence()}"
        )
    after = replace(before, cell=cell, turn=turn % 4)
    if after == before:
        return Edit("", ())
    verb = "Turned" if after.cell == before.cell else "Moved"
    label = f"{verb} {kind.name} {structure_id(number)} to {cell_text(cell)}"
    if verb == "Turned":
        label = f"Turned {kind.name} {structure_id(number)} at {cell_text(cell)}"
    return Edit(label, (StructureChange(before, after),))


def demolish(plan: Plan, numbers: Sequence[int]) -> Edit:
    """Remove structures. Raises Unknown."""
    rows = [plan.register[number] for number in numbers]
    if len(rows) == 1:
        label = f"Demolished {plan.kinds[rows[0].kind].name} {structure_id(rows[0].number)}"
    else:
        label = f"Demolished {len(rows)} structures"
    return Edit(label, tuple(StructureChange(row, None) for row in rows))
