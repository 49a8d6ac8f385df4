"""Three plans brought together: what two sides made of a base.

What only one side changed is taken, what both changed alike is taken once, and the rest is a conflict, for which ours is
kept. Things are brought together field by field, layers cell by cell. Numbers that both sides gave out are given anew, and
what refers to them follows.
"""

from __future__ import annotations

import string
from collections.abc import Collection, Hashable

from woven_locus.core.compare.draft import Conflict, Draft
from woven_locus.core.compare.held import merge_held
from woven_locus.core.compare.layers import merge_cells
from woven_locus.core.compare.numbers import Parts, free_numbers
from woven_locus.core.compare.parts import PARTS, Held, Thing
from woven_locus.core.compare.standing import settle
from woven_locus.core.errors import BadPlan
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value, replace

# Parts that are looked at together when a plan is made, by how the place of what is wrong begins.
_TRAFFIC = ("vehicles", "people", "trips", "trip_rules", "junctions")
_WAVES = ("entries", "goals", "attackers", "waves", "defence")
_TABLES = ("terrain_classes", "road_classes")


class Merged(Value):
    """plan : with ours wherever there is a conflict."""

    plan: Plan
    conflicts: tuple[Conflict, ...]


def merge(base: Plan, ours: Plan, theirs: Plan, theirs_for: Collection[Thing] = ()) -> Merged:
    """Bring two sides together. The plans that are given are not changed.

    theirs_for : what of ours gives way to theirs, from the `things` of conflicts that were found before. What is solved
    so is no conflict any more; others may follow from it."""
    old, mine, other = (
        {part.name: part.of(plan) for part in PARTS} for plan in (base, ours, theirs)
    )
    next_number = max(ours.register.next_number, theirs.register.next_number)
    mine, other = free_numbers(old, mine, other, next_number)
    mine = yielded(mine, other, theirs_for)
    merged: Parts = {}
    clashes = {}
    for part in PARTS:
        held = (old[part.name], mine[part.name], other[part.name])
        given = {(t.key, t.field) for t in theirs_for if t.part == part.name}
        merged[part.name], clashes[part.name] = merge_held(
            *held, summed=part.name == "gone", given=given
        )
    _mark_apart(merged, mine)
    draft = merge_cells((base, ours, theirs), (old, mine, other), merged, theirs_for)
    for part in PARTS:
        for key, field, one, two in clashes[part.name]:
            words = f"{part.words(key)}: {field}" if field else part.words(key)
            draft.clash(part.name, words, one, two, (Thing(part.name, key, field),))
    return Merged(_built(draft, ours, next_number), tuple(draft.conflicts))


def yielded(mine: Parts, other: Parts, things: Collection[Thing]) -> Parts:
    """Parts with whole things, and whole parts, as the other side has them."""
    found = dict(mine)
    for thing in things:
        if thing.field or thing.part not in found:
            continue
        theirs = other[thing.part]
        if thing.key is None:
            found[thing.part] = dict(theirs)
            continue
        held = dict(found[thing.part])
        if thing.key not in theirs:
            held.pop(thing.key, None)
        elif thing.key in held:
            held[thing.key] = theirs[thing.key]
        else:
            held = _inserted(held, theirs, thing.key)
        found[thing.part] = held
    return found


def _inserted(held: Held, theirs: Held, key: Hashable) -> Held:
    """With a thing of theirs, after what it comes after there."""
    order = list(theirs)
    before = next((k for k in reversed(order[: order.index(key)]) if k in held), None)
    keys = list(held)
    keys.insert(keys.index(before) + 1 if before is not None else 0, key)
    return {each: held[each] if each in held else theirs[each] for each in keys}


def _built(draft: Draft, ours: Plan, next_number: int) -> Plan:
    """The plan of a draft; where its parts contradict each other, with ours for those, at last for all."""
    for _ in (_TRAFFIC, _WAVES, ()):
        try:
            settle(draft)
            plan = draft.built(next_number)
            plan.schema = ours.schema
            return plan
        except BadPlan as err:
            names = next((part for part in (_TRAFFIC, _WAVES) if err.where.startswith(part)), ())
            things = tuple(Thing(name) for name in names)
            draft.clash(
                err.where or "plan", phrase("{what}; ours is kept", what=err.what), things=things
            )
            if not names:
                break
            for name in names:
                draft.parts[name] = dict(draft.ours[name])
    draft.clash("plan", phrase("the two do not fit together; all of ours is kept"))
    return ours.twin()


def _mark_apart(merged: Parts, ours: Parts) -> None:
    """Other marks for classes of theirs that have the mark of one of ours: a mark says nothing."""
    for name in _TABLES:
        held = merged[name]
        used: dict[str, str] = {}
        for key in sorted(held, key=lambda key: (held[key] != ours[name].get(key), str(key))):
            mark = held[key].mark
            if mark in used:
                taken = {*used, *(item.mark for item in held.values())}
                mark = next(letter for letter in string.ascii_letters if letter not in taken)
                held[key] = replace(held[key], mark=mark)
            used[mark] = str(key)
