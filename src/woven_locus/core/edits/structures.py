"""The edits of single structures. Each returns an `Edit` (perhaps empty); none touches the plan. Those of
many at once are in `many`."""

from __future__ import annotations

from collections.abc import Sequence

from woven_locus.core.editing import Change, Edit, FundsChange, StructuresChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.turns import turn_words
from woven_locus.core.phrase import phrase
from woven_locus.core.placing import Verdict, judge
from woven_locus.core.plan import Plan
from woven_locus.core.register import LARGEST_NUMBER, Rows, Structure, structure_id
from woven_locus.core.value import replace


def cannot_stand(kind: Kind, cell: Cell, verdict: Verdict) -> str:
    """The refusal of a placement in words."""
    return phrase(
        "{kind} cannot stand at {cell}: {sentence}",
        kind=kind.name,
        cell=cell_text(cell),
        sentence=verdict.sentence(),
    )


def new_row(plan: Plan, kind: Kind, cell: Cell, turn: int, when: str, after: int = 0) -> Structure:
    """The register's next row. after : rows of the same edit before it. Raises Refused."""
    number = plan.register.next_number + after
    if number >= LARGEST_NUMBER:
        raise Refused(
            phrase(
                "the register is full: its numbers end at {largest_number:,}",
                largest_number=LARGEST_NUMBER - 1,
            )
        )
    since = plan.funds.clock if plan.funds is not None else 0
    return Structure(number, kind.key, cell, turn, kind.price, when, since)


def place(
    plan: Plan, kind_key: str, cell: Cell, turn: int, when: str, verdict: Verdict | None = None
) -> Edit:
    """Place a structure. Raises Refused with the judge's words, Unknown for the kind.

    when : ISO 8601 text for the register; core has no clock.
    verdict : what `judge` says of it now, from whoever has just asked.
    """
    kind = plan.kinds[kind_key]
    if verdict is None:
        verdict = judge(plan, kind, cell, turn)
    if not verdict:
        raise Refused(cannot_stand(kind, cell, verdict))
    row = new_row(plan, kind, cell, turn, when)
    label = phrase(
        "Placed {kind} {structure_id} at {cell}",
        kind=kind.name,
        structure_id=structure_id(row.number),
        cell=cell_text(cell),
    )
    return Edit(label, (StructuresChange(Rows(), Rows((row,))),))


def move(plan: Plan, number: int, cell: Cell, turn: int) -> Edit:
    """Move or turn a structure, itself taken as lifted; the number stays. Raises Refused."""
    before = plan.register[number]
    kind = plan.kinds[before.kind]
    verdict = judge(plan, kind, cell, turn, lifted=number)
    if not verdict:
        raise Refused(
            phrase(
                "{title_of} cannot move to {cell}: {sentence}",
                title_of=plan.title_of(number),
                cell=cell_text(cell),
                sentence=verdict.sentence(),
            )
        )
    after = replace(before, cell=cell, turn=turn)
    if after == before:
        return Edit("", ())
    who = f"{kind.name} {structure_id(number)}"
    label = phrase("Moved {who} to {cell}", who=who, cell=cell_text(cell))
    if after.cell == before.cell:
        label = phrase(
            "Turned {who} to {turn_words} at {cell}",
            who=who,
            turn_words=turn_words(turn),
            cell=cell_text(cell),
        )
    return Edit(label, (StructuresChange(Rows((before,)), Rows((after,))),))


def replace_with(plan: Plan, number: int, kind_key: str, cell: Cell, turn: int, when: str) -> Edit:
    """Another structure in place of one, which is taken as lifted: the old one's share is returned, the
    new one has a number of its own. Raises Refused, Unknown."""
    old, kind = plan.register[number], plan.kinds[kind_key]
    if old.kind == kind_key:
        raise Refused(
            phrase(
                "{title_of} is a {kind} already",
                title_of=plan.title_of(number),
                kind=kind.name,
            )
        )
    verdict = judge(plan, kind, cell, turn, lifted=number)
    if not verdict:
        raise Refused(
            phrase(
                "{kind} cannot replace {title_of}: {sentence}",
                kind=kind.name,
                title_of=plan.title_of(number),
                sentence=verdict.sentence(),
            )
        )
    row = new_row(plan, kind, cell, turn, when)
    label = phrase(
        "Replaced {title_of} by {kind} {structure_id}",
        title_of=plan.title_of(number),
        kind=kind.name,
        structure_id=structure_id(row.number),
    )
    return Edit(label, (*taken_off(plan, [old]), StructuresChange(Rows(), Rows((row,)))))


def demolish(plan: Plan, numbers: Sequence[int]) -> Edit:
    """Remove structures; of what they cost, the agreed share returns. Raises Unknown."""
    rows = [plan.register[number] for number in numbers]
    if not rows:
        return Edit("", ())
    if len(rows) == 1:
        label = phrase(
            "Demolished {kinds} {structure_id}",
            kinds=plan.kinds[rows[0].kind].name,
            structure_id=structure_id(rows[0].number),
        )
    else:
        label = phrase("Demolished {count:,} structures", count=len(rows))
    return Edit(label, taken_off(plan, rows))


def taken_off(plan: Plan, rows: Sequence[Structure]) -> tuple[Change, ...]:
    """The changes that remove structures from the map and settle the books."""
    changes: list[Change] = [StructuresChange(Rows(rows), Rows())]
    if plan.funds is not None:
        after = plan.funds.without((row, plan.kinds[row.kind]) for row in rows)
        changes.append(FundsChange(plan.funds, after))
    return tuple(changes)
