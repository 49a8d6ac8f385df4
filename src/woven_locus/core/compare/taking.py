"""Single things of another plan, taken over."""

from __future__ import annotations

from collections.abc import Collection

from woven_locus.core.compare.cells import ASPECTS, Names, codes
from woven_locus.core.compare.draft import Draft
from woven_locus.core.compare.layers import cells_named
from woven_locus.core.compare.merge import yielded
from woven_locus.core.compare.numbers import Parts
from woven_locus.core.compare.parts import PARTS, Thing
from woven_locus.core.compare.standing import settle
from woven_locus.core.errors import BadPlan, Refused
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.plan import Plan

_FUNDS = ("funds", "gone")
_CLASSES = (("terrain", "terrain_classes"), ("roads", "road_classes"))


def taken_over(plan: Plan, other: Plan, things: Collection[Thing]) -> Plan:
    """A plan like `plan` in which some things are as `other` has them; classes, kinds and roads that they need come with them.
    Neither plan is changed. Raises Refused, saying why, where that does not stand together."""
    aspects = [thing for thing in things if thing.part in ASPECTS]
    if any(thing.part == "grid" for thing in things):
        raise Refused(phrase("a grid is not taken over by itself; change it in Survey"))
    if aspects and plan.spec != other.spec:
        raise Refused(phrase("the two plans have different grids; make them alike in Survey first"))
    if any(thing.part in _FUNDS for thing in things):
        # What money there is follows from all of it.
        things = [*things, *map(Thing, _FUNDS)]
    mine, theirs = ({part.name: part.of(each) for part in PARTS} for each in (plan, other))
    names = Names((plan, other))
    draft = Draft(plan.spec, names, yielded(mine, theirs, things), {}, mine, {})
    draft.our_cells = {aspect: codes(plan, aspect, names) for aspect in ASPECTS}
    draft.cells = {aspect: cells.copy() for aspect, cells in draft.our_cells.items()}
    for thing in aspects:
        found, cells = codes(other, thing.part, names), draft.cells[thing.part]
        here = cells_named(draft, thing, cells)
        cells[here] = found[here]
        if thing.part == "signs":
            # A sign stands on road, which comes with it.
            bare = here & (found > 0) & (draft.cells["roads"] == 0)
            draft.cells["roads"][bare] = codes(other, "roads", names)[bare]
        if thing.part == "heights" and other.heights is not None:
            draft.parts["plan"] = draft.parts["plan"] | {"has_heights": True}
    _bring_classes(draft, theirs)
    _bring_kinds(draft, theirs)
    return _built(draft, max(plan.register.next_number, other.register.next_number))


def _bring_classes(draft: Draft, theirs: Parts) -> None:
    for aspect, part in _CLASSES:
        known = draft.names.terrain if aspect == "terrain" else draft.names.roads
        for code, key in enumerate(known):
            if not key or key in draft.parts[part]:
                continue
            count = int((draft.cells[aspect] == code).sum())
            if count and key not in theirs[part]:
                raise Refused(
                    phrase(
                        "{cells} of {aspect} hold {key} still",
                        cells=counted(count, "{n:,} cell", "{n:,} cells"),
                        aspect=aspect,
                        key=key,
                    )
                )
            if count:
                draft.parts = yielded(draft.parts, theirs, [Thing(part, key)])


def _bring_kinds(draft: Draft, theirs: Parts) -> None:
    for number, row in draft.parts["structures"].items():
        if row.kind in draft.parts["kinds"]:
            continue
        if row.kind not in theirs["kinds"]:
            raise Refused(phrase("S{number} is {kind} still", number=number, kind=row.kind))
        draft.parts = yielded(draft.parts, theirs, [Thing("kinds", row.kind)])


def _built(draft: Draft, next_number: int) -> Plan:
    try:
        settle(draft)
        if draft.conflicts:
            raise Refused(draft.conflicts[0].what)
        return draft.built(next_number)
    except BadPlan as err:
        raise Refused(f"{err.where}: {err.what}" if err.where else err.what) from None
