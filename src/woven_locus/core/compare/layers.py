"""The grid and the cells of three plans brought together."""

from __future__ import annotations

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
from woven_locus.core.plan import Plan

# Parts in which cells are named.
_PLACED = ("structures", "obstacles", "trips", "junctions", "entries", "goals", "accepted")


def merge_cells(
    base: Plan, ours: Plan, theirs: Plan, sides: tuple[Parts, Parts, Parts], merged: Parts
) -> Draft:
    """A draft with the grid and the cells. sides : the parts of the three.  merged : what came of them; where the grids do
    not go together those with cells in them become ours."""
    names = Names((base, ours, theirs))
    spec, clash = _grid(base, ours, theirs, sides)
    our_cells = {aspect: codes(ours, aspect, names) for aspect in ASPECTS}
    draft = Draft(spec, names, merged, {}, sides[1], our_cells)
    if clash:
        draft.clash("grid", clash, ours.spec, theirs.spec)
        for name in _PLACED:
            merged[name] = dict(sides[1][name])
        merged["plan"]["window"] = sides[1]["plan"]["window"]
        draft.cells = {aspect: mine.copy() for aspect, mine in our_cells.items()}
        return draft
    for aspect in ASPECTS:
        three = [
            laid_on(codes(plan, aspect, names), plan.spec, spec)
            for plan in (base, ours, theirs)
            if same_lattice(plan.spec, spec)
        ]
        if len(three) < 3:
            # Only one side laid another lattice, and the other changed nothing that has a place.
            draft.cells[aspect] = codes(ours if ours.spec == spec else theirs, aspect, names)
            continue
        draft.cells[aspect] = _merged(draft, aspect, *three)
        _lost(draft, aspect, base, (ours, theirs))
    draft.our_cells = {aspect: _ours_on(draft, ours, aspect) for aspect in ASPECTS}
    _without_clashes(draft)
    return draft


def _grid(
    base: Plan, ours: Plan, theirs: Plan, sides: tuple[Parts, Parts, Parts]
) -> tuple[Any, str]:
    """The grid that is taken, and why not both sides can be had on it."""
    if ours.spec == theirs.spec or theirs.spec == base.spec:
        spec, other, mine = ours.spec, theirs, sides[2]
    elif ours.spec == base.spec:
        spec, other, mine = theirs.spec, ours, sides[1]
    else:
        return ours.spec, "both sides changed it"
    if same_lattice(base.spec, spec) and same_lattice(other.spec, spec):
        return spec, ""
    if other.spec == spec or not _touched(base, other, sides[0], mine):
        return spec, ""
    return ours.spec, "one side laid other cells, and the other changed what lies on them"


def _touched(base: Plan, side: Plan, old: Parts, new: Parts) -> bool:
    """Whether a side changed anything that has a place. Both have one grid."""
    if any(old[name] != new[name] for name in _PLACED):
        return True
    names = Names((base, side))
    return any(
        differ(codes(base, aspect, names), codes(side, aspect, names)).any() for aspect in ASPECTS
    )


def _merged(draft: Draft, aspect: str, base: Codes, ours: Codes, theirs: Codes) -> Codes:
    mine, other = differ(base, ours), differ(base, theirs)
    found = np.where(other & ~mine, theirs, ours)
    clash = mine & other & differ(ours, theirs)
    if clash.any():
        _note(draft, aspect, clash, ours, theirs, "both sides changed them")
    return found


def _note(draft: Draft, aspect: str, where: Any, ours: Codes, theirs: Codes, why: str) -> None:
    rows, cols = np.nonzero(where)
    low = draft.spec.cell_of_slot((int(rows.min()), int(cols.min())))
    high = draft.spec.cell_of_slot((int(rows.max()), int(cols.max())))
    count = f"{len(rows):,} cell{'s' * (len(rows) != 1)}"
    at = f"{count} from {low.col}, {low.row} to {high.col}, {high.row}"
    values = [_first(draft.names, aspect, side[where]) for side in (ours, theirs)]
    draft.clash(aspect, f"{at}: {why}", *values)


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
            draft.clash(aspect, f"{gone:,} changed cells lie outside the other side's grid")


def _ours_on(draft: Draft, ours: Plan, aspect: str) -> Codes:
    """Ours on the grid that is taken; where ours has no cell, what is taken."""
    if not same_lattice(ours.spec, draft.spec):
        return draft.cells[aspect]
    mine = laid_on(codes(ours, aspect, draft.names), ours.spec, draft.spec)
    return np.where(mine == ABSENT, draft.cells[aspect], mine)


def _without_clashes(draft: Draft) -> None:
    """Cells of classes that a side took away, and roads under barriers."""
    for aspect, part, names in (
        ("terrain", "terrain_classes", draft.names.terrain),
        ("roads", "road_classes", draft.names.roads),
    ):
        cells, ours = draft.cells[aspect], draft.our_cells[aspect]
        for code, key in enumerate(names):
            if not key or key in draft.parts[part]:
                continue
            used = cells == code
            if used.any() and not (used & (ours == code)).any():
                _note(draft, aspect, used, ours, cells, f"ours has no {key} any more")
                cells[used] = ours[used]
            elif used.any():
                draft.clash(
                    part,
                    f"{key}: one side took it away, the other painted with it",
                    draft.ours[part].get(key),
                )
                draft.parts[part][key] = draft.ours[part][key]
    roads, barriers = draft.cells["roads"], draft.cells["barriers"]
    if (twice := (roads > 0) & (barriers > 0)).any():
        _note(
            draft,
            "barriers",
            twice,
            draft.our_cells["barriers"],
            barriers,
            "one side laid road there",
        )
        for aspect in ("roads", "signs", "barriers"):
            draft.cells[aspect][twice] = draft.our_cells[aspect][twice]
