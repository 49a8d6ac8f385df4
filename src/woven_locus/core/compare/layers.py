"""The grid and the cells of three plans brought together."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

import numpy as np

from woven_locus.core.compare.cells import (
    ABSENT,
    ASPECTS,
    Codes,
    Names,
    codes,
    differ,
    laid_on,
    same_lattice,
)
from woven_locus.core.compare.draft import Draft
from woven_locus.core.compare.numbers import Parts
from woven_locus.core.compare.parts import Thing
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.plan import Plan

# Parts in which cells are named.
_PLACED = ("structures", "obstacles", "trips", "junctions", "entries", "goals", "accepted")


GRID = Thing("grid")
# Road where a barrier is: what of ours lies there.
CROSSED = Thing("barriers", "crossed")
_WAYS = ("roads", "signs", "barriers")


def merge_cells(
    plans: tuple[Plan, Plan, Plan],
    sides: tuple[Parts, Parts, Parts],
    merged: Parts,
    theirs_for: Collection[Thing],
) -> Draft:
    """A draft with the grid and the cells. plans : base, ours, theirs.  sides : the parts of the three.  merged : what came
    of them; where the grids do not go together those with cells in them become ours.  theirs_for : see `merge`."""
    names = Names(plans)
    base, ours, theirs = plans
    spec, clash = _grid(base, ours, theirs, sides)
    draft = Draft(spec, names, merged, {}, sides[1], {})
    if clash:
        _on_one_grid(draft, plans, sides, clash if GRID not in theirs_for else "")
        return draft
    for aspect in ASPECTS:
        three = [
            laid_on(codes(plan, aspect, names), plan.spec, spec)
            for plan in plans
            if same_lattice(plan.spec, spec)
        ]
        if len(three) < 3:
            # Only one side laid another lattice, and the other changed nothing that has a place.
            draft.cells[aspect] = codes(ours if ours.spec == spec else theirs, aspect, names)
            continue
        for thing in theirs_for:
            if thing.part == aspect and thing.key is not None:
                here = cells_named(draft, thing, three[1])
                three[1][here] = three[2][here]
        draft.cells[aspect] = _merged(draft, aspect, three, Thing(aspect) in theirs_for)
        _lost(draft, aspect, base, (ours, theirs))
    draft.our_cells = {aspect: _side_on(draft, ours, aspect) for aspect in ASPECTS}
    _without_clashes(draft)
    _without_crossings(draft, theirs if CROSSED in theirs_for else None)
    return draft


def _on_one_grid(
    draft: Draft, plans: tuple[Plan, Plan, Plan], sides: tuple[Parts, Parts, Parts], clash: str
) -> None:
    """Ours, wherever there are cells; theirs where that was chosen and is no clash any more."""
    _base, ours, theirs = plans
    plan, parts = (ours, sides[1]) if clash else (theirs, sides[2])
    draft.spec = plan.spec
    if clash:
        draft.clash("grid", clash, ours.spec, theirs.spec, (GRID,))
    for name in _PLACED:
        draft.parts[name] = dict(parts[name])
    draft.parts["plan"]["window"] = parts["plan"]["window"]
    draft.ours = draft.ours | {name: draft.parts[name] for name in _PLACED}
    draft.cells = {aspect: codes(plan, aspect, draft.names).copy() for aspect in ASPECTS}
    draft.our_cells = {aspect: cells.copy() for aspect, cells in draft.cells.items()}
    _without_clashes(draft)


def cells_named(draft: Draft, thing: Thing, held: Codes) -> Any:
    """(rows, cols) bool: the cells of an aspect that a thing names, all without a key. held : what lies there."""
    here = np.zeros(draft.spec.shape, bool)
    if thing.key is None:
        here[:] = True
    elif isinstance(thing.key, str):
        known = draft.names.terrain if thing.part == "terrain" else draft.names.roads
        if thing.part in ("terrain", "roads") and thing.key in known:
            here = held == known.index(thing.key)
    else:
        low, high = (thing.key, thing.key) if isinstance(thing.key, Cell) else thing.key
        (r0, c0), (r1, c1) = draft.spec.slot(low), draft.spec.slot(high)
        here[max(0, r0) : max(0, r1 + 1), max(0, c0) : max(0, c1 + 1)] = True
    return here


def _grid(
    base: Plan, ours: Plan, theirs: Plan, sides: tuple[Parts, Parts, Parts]
) -> tuple[Any, str]:
    """The grid that is taken, and why not both sides can be had on it."""
    if ours.spec == theirs.spec or theirs.spec == base.spec:
        spec, other, mine = ours.spec, theirs, sides[2]
    elif ours.spec == base.spec:
        spec, other, mine = theirs.spec, ours, sides[1]
    else:
        return ours.spec, phrase("both sides changed it")
    if same_lattice(base.spec, spec) and same_lattice(other.spec, spec):
        return spec, ""
    if other.spec == spec or not _touched(base, other, sides[0], mine):
        return spec, ""
    return ours.spec, phrase("one side laid other cells, and the other changed what lies on them")


def _touched(base: Plan, side: Plan, old: Parts, new: Parts) -> bool:
    """Whether a side changed anything that has a place. Both have one grid."""
    if any(old[name] != new[name] for name in _PLACED):
        return True
    names = Names((base, side))
    return any(
        differ(codes(base, aspect, names), codes(side, aspect, names)).any() for aspect in ASPECTS
    )


def _merged(draft: Draft, aspect: str, three: list[Codes], theirs_for: bool) -> Codes:
    base, ours, theirs = three
    mine, other = differ(base, ours), differ(base, theirs)
    found = np.where(other & ~mine, theirs, ours)
    clash = mine & other & differ(ours, theirs)
    if theirs_for:
        found = np.where(clash, theirs, found)
    elif clash.any():
        things = (Thing(aspect),)
        _note(draft, aspect, clash, (ours, theirs), phrase("both sides changed them"), things)
    return found


def _note(
    draft: Draft,
    aspect: str,
    where: Any,
    sides: tuple[Codes, Codes],
    why: str,
    things: tuple[Thing, ...] = (),
) -> None:
    rows, cols = np.nonzero(where)
    low = draft.spec.cell_of_slot((int(rows.min()), int(cols.min())))
    high = draft.spec.cell_of_slot((int(rows.max()), int(cols.max())))
    count = counted(len(rows), "{n:,} cell", "{n:,} cells")
    at = phrase(
        "{count} from {col}, {row} to {col2}, {row2}",
        count=count,
        col=low.col,
        row=low.row,
        col2=high.col,
        row2=high.row,
    )
    values = [_first(draft.names, aspect, side[where]) for side in sides]
    draft.clash(aspect, f"{at}: {why}", values[0], values[1], things, low)


def _first(names: Names, aspect: str, values: Codes) -> object:
    """What most of some cells hold."""
    kinds, counts = np.unique(values, return_counts=True)
    return names.words(aspect, float(kinds[counts.argmax()]))


def _lost(draft: Draft, aspect: str, base: Plan, others: tuple[Plan, Plan]) -> None:
    """Cells that one side changed and the other one's grid does not have."""
    for side in others:
        if side.spec != base.spec or draft.spec == base.spec:
            continue
        old, new = (codes(plan, aspect, draft.names) for plan in (base, side))
        kept = laid_on(np.zeros(draft.spec.shape, np.float32), draft.spec, base.spec) != ABSENT
        gone = int((differ(old, new) & ~kept).sum())
        if gone:
            draft.clash(
                aspect,
                phrase("{gone:,} changed cells lie outside the other side's grid", gone=gone),
            )


def _side_on(draft: Draft, side: Plan, aspect: str) -> Codes:
    """A side on the grid that is taken; where it has no cell, what is taken."""
    if not same_lattice(side.spec, draft.spec):
        return draft.cells[aspect]
    cells = laid_on(codes(side, aspect, draft.names), side.spec, draft.spec)
    return np.where(cells == ABSENT, draft.cells[aspect], cells)


def _without_clashes(draft: Draft) -> None:
    """Cells of classes that a side took away."""
    for aspect, part, names in (
        ("terrain", "terrain_classes", draft.names.terrain),
        ("roads", "road_classes", draft.names.roads),
    ):
        cells, ours = draft.cells[aspect], draft.our_cells[aspect]
        for code, key in enumerate(names):
            if not key or key in draft.parts[part]:
                continue
            used = cells == code
            mine = draft.ours[part].get(key)
            if used.any() and mine is None:
                why, things = phrase("ours has no {key} any more", key=key), (Thing(part, key),)
                _note(draft, aspect, used, (ours, cells), why, things)
                cells[used] = ours[used]
            elif used.any():
                what = phrase("{key}: one side took it away, the other painted with it", key=key)
                draft.clash(part, what, mine, None, (Thing(aspect, key),))
                draft.parts[part][key] = mine


def _without_crossings(draft: Draft, theirs: Plan | None) -> None:
    """Road where a barrier is. theirs : the plan that is followed there; ours without."""
    roads, barriers = draft.cells["roads"], draft.cells["barriers"]
    twice = (roads > 0) & (barriers > 0)
    if not twice.any():
        return
    if theirs is None:
        sides = draft.our_cells["barriers"], barriers
        _note(draft, "barriers", twice, sides, phrase("one side laid road there"), (CROSSED,))
    for aspect in _WAYS:
        source = draft.our_cells[aspect] if theirs is None else _side_on(draft, theirs, aspect)
        draft.cells[aspect][twice] = source[twice]
