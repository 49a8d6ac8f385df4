"""Edits of the catalogue: kinds added, changed, copied, removed, brought in; and what a change would do
to what stands already."""

from __future__ import annotations

from collections.abc import Iterable

from woven_locus.core.editing import Edit, KindsChange
from woven_locus.core.editing.trial import tried
from woven_locus.core.edits.structures import taken_off
from woven_locus.core.errors import Refused
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.kinds.kind import fresh_kind_key
from woven_locus.core.names import fresh_name
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.placing import judge
from woven_locus.core.placing.judge import PASSING
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value, replace


class Impact(Value):
    """What another catalogue does to the structures that stand.

    misfits : (number, why) of those whose cells would not be free, or not on the grid: they go with the
    change.  unsound : (number, why) of those that stay but could not be placed like that any more.
    checked : how many were looked at.
    """

    misfits: tuple[tuple[int, str], ...] = ()
    unsound: tuple[tuple[int, str], ...] = ()
    checked: int = 0

    def __bool__(self) -> bool:
        return bool(self.misfits or self.unsound)


def impact(plan: Plan, catalogue: Catalogue) -> Impact:
    """What would become of the structures of each kind that changes, and of those that it comes too near
    to. Raises Refused where a kind goes that has structures."""
    edit, misfits = _edit(plan, catalogue, "")
    if not edit.changes:
        return Impact()
    other = {
        kind.key for kind in catalogue if kind.key in plan.kinds and plan.kinds[kind.key] != kind
    }
    mind = other | {kind.key for kind in (*plan.kinds.clearing, *catalogue.clearing)}
    gone = {number for number, _why in misfits}
    rows = [row for row in plan.register if row.kind in mind and row.number not in gone]
    before = {
        row.number
        for row in rows
        if not judge(plan, plan.kinds[row.kind], row.cell, row.turn, row.number, PASSING)
    }
    unsound = []
    with tried(plan, edit):
        for row in rows:
            if row.number in before:
                continue
            kind = plan.kinds[row.kind]
            verdict = judge(plan, kind, row.cell, row.turn, row.number, PASSING)
            if not verdict:
                unsound.append((row.number, verdict.sentence()))
    return Impact(misfits, tuple(unsound), len(rows) + len(misfits))


def _edit(plan: Plan, catalogue: Catalogue, label: str) -> tuple[Edit, tuple[tuple[int, str], ...]]:
    """The step to another catalogue, and which structures go with it."""
    if catalogue == plan.kinds:
        return Edit("", ()), ()
    for kind in plan.kinds:
        count = plan.register.count(kind.key)
        if kind.key not in catalogue and count:
            raise Refused(
                counted(
                    count,
                    "{kind} cannot be removed: {n:,} of it is placed; demolish or replace them first",
                    "{kind} cannot be removed: {n:,} of it are placed; demolish or replace them first",
                    kind=kind.name,
                )
            )
    misfits = _misfits(plan, catalogue)
    rows = [plan.register[number] for number, _why in misfits]
    changes = taken_off(plan, rows) if rows else ()
    return Edit(label, (*changes, KindsChange(plan.kinds, catalogue))), tuple(misfits)


def _misfits(plan: Plan, catalogue: Catalogue) -> list[tuple[int, str]]:
    """Structures whose new footprint finds no room, the newer of two that overlap."""
    other = plan.kinds.reshaped(catalogue)
    if not other:
        return []
    mine = {row.number for row in plan.register if row.kind in other}
    taken: dict[tuple[int, int], int] = {}
    found = []
    for number in sorted(mine):
        row = plan.register[number]
        cells = plan.footprint(catalogue[row.kind], row.turn).at(row.cell)
        why = ""
        for cell in cells:
            if not plan.spec.contains(cell):
                why = phrase("part of it would lie outside the grid")
                break
            slot = plan.spec.slot(cell)
            who = int(plan.occupant[slot])
            if cell in taken:
                why = phrase("it would overlap {title_of}", title_of=plan.title_of(taken[cell]))
            elif who and who not in mine:
                why = phrase("it would overlap {title_of}", title_of=plan.title_of(who))
            elif plan.road[slot] or plan.barrier[slot]:
                why = (
                    phrase("it would lie on a road")
                    if plan.road[slot]
                    else phrase("it would lie on a barrier")
                )
            if why:
                break
        if why:
            found.append((number, why))
        else:
            taken.update(dict.fromkeys(cells, number))
    return found


def change_kind(plan: Plan, key: str, kind: Kind) -> Edit:
    """Another footprint, look, price or rules for a kind. Structures that find no room go with it; see
    `impact`. Raises BadKind, Refused."""
    if kind.key != key:
        raise Refused(
            phrase("a kind keeps its key; {key!r} cannot become {key2!r}", key=key, key2=kind.key)
        )
    return _edit(plan, plan.kinds.with_kind(kind), phrase("Changed {kind}", kind=kind.name))[0]


def add_kind(plan: Plan, kind: Kind) -> Edit:
    """One more kind, last on the shelf. Raises BadKind, Refused."""
    if kind.key in plan.kinds:
        raise Refused(phrase("there is a kind {key!r} already", key=kind.key))
    return Edit(
        phrase("Added {kind}", kind=kind.name),
        (KindsChange(plan.kinds, plan.kinds.with_kind(kind)),),
    )


def copy_kind(plan: Plan, key: str) -> Edit:
    """A second kind like one, with a key and a name of its own."""
    old = plan.kinds[key]
    name = fresh_name(old.name, {kind.name for kind in plan.kinds})
    twin = replace(old, key=fresh_kind_key(old.key, plan.kinds.keys()), name=name)
    return add_kind(plan, twin)


def remove_kind(plan: Plan, key: str) -> Edit:
    """Take away a kind of which nothing stands. Raises Refused, saying what does."""
    name = plan.kinds[key].name
    return _edit(plan, plan.kinds.without(key), phrase("Removed {name} from the shelf", name=name))[
        0
    ]


def merged(plan: Plan, kinds: Iterable[Kind], over: bool) -> Catalogue:
    """The catalogue with others brought in. over : those with a key that is there take its place;
    else they come in beside it under another key. Raises BadKind."""
    catalogue = plan.kinds
    for kind in kinds:
        if kind.key in catalogue and not over:
            if catalogue[kind.key] == kind:
                continue
            kind = replace(kind, key=fresh_kind_key(kind.key, catalogue.keys()))
        catalogue = catalogue.with_kind(kind)
    return catalogue


def bring_in(plan: Plan, kinds: Iterable[Kind], over: bool) -> Edit:
    """Kinds of another catalogue or plan; see `merged`. Raises BadKind."""
    kinds = list(kinds)
    label = phrase("Brought in {kinds}", kinds=counted(len(kinds), "{n} kind", "{n} kinds"))
    return _edit(plan, merged(plan, kinds, over), label)[0]
