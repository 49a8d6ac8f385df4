"""Keeping clear of things. Between structures it holds both ways: a kind with a clearance is not crowded
by what is placed after it, either."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

import numpy as np

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.kinds import Clear, Footprint, Kind, Thing
from woven_locus.core.phrase import joined, phrase
from woven_locus.core.placing.shifts import spread
from woven_locus.core.placing.things import mask_of, thing_words
from woven_locus.core.placing.verdict import Blocker, Remark, cells_text, listed
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id

# Cells of a block up to which it is quicker to look at the numbers in it than to make masks of them.
FEW = 512


def asked_of(plan: Plan, kind: Kind) -> tuple[tuple[Clear, bool], ...]:
    """What the kind must stay clear of, and whether it is for the other's sake: then `Clear.key` is the
    kind that wants to be left alone. Worked out once for a catalogue."""
    found: tuple[Kind, tuple[tuple[Clear, bool], ...]] | None = plan.kinds.clears.get(kind.key)
    if found is None or found[0] is not kind:
        found = plan.kinds.clears[kind.key] = (kind, tuple(_asked_of(plan, kind)))
    return found[1]


def _asked_of(plan: Plan, kind: Kind) -> Iterator[tuple[Clear, bool]]:
    for clear in kind.demands.clear:
        yield clear, False
    for other in plan.kinds.clearing:
        if other.key == kind.key:
            continue  # that is its own wish already
        for clear in other.demands.clear:
            if clear.thing is Thing.KIND and clear.key in ("", kind.key):
                yield Clear(Thing.KIND, other.key, clear.cells), True


def concerns(plan: Plan, kind: Kind) -> bool:
    """Whether another kind wants this one to stay away."""
    return any(theirs for _clear, theirs in asked_of(plan, kind))


def title(plan: Plan, kind: Kind) -> str:
    """What the rule asks of a kind, in words."""
    own = [
        phrase(
            "{cells} from {thing_words}",
            cells=clear.cells,
            thing_words=thing_words(plan, clear.thing, clear.key),
        )
        for clear in kind.demands.clear
    ]
    return (
        phrase("Clear by {names}", names=joined(", ", own))
        if own
        else phrase("Leaves others their clearance")
    )


def furthest(plan: Plan, kind: Kind) -> int:
    """Cells around the footprint that a clearance looks at."""
    return max((clear.cells for clear, _theirs in asked_of(plan, kind)), default=0)


def crowded(
    plan: Plan, kind: Kind, footprint: Footprint, row: int, col: int, lifted: int
) -> Remark | None:
    """What is too near to a footprint, as it lies on the plan, whose low slot is (row, col)."""
    asked = asked_of(plan, kind)
    here = Box(row, col, row + footprint.rows, col + footprint.cols)
    if _is_alone(plan, asked, here, lifted):
        return None
    words, bad, blockers = [], set(), []
    for clear, theirs in asked:
        n = clear.cells
        box = here.grown(n).clipped(plan.blocks.shape)
        # Of most things there is nothing in most places.
        mask = None if box.empty else _found(plan, clear, box, lifted)
        if mask is None:
            continue
        near = np.zeros(box.shape, bool)
        for at, (c, r) in enumerate(footprint.cells):
            r0, c0 = max(row + r - n - box.r0, 0), max(col + c - n - box.c0, 0)
            part = mask[
                r0 : max(0, row + r + n + 1 - box.r0), c0 : max(0, col + c + n + 1 - box.c0)
            ]
            # A cell outside the grid is no cell that something could be near to.
            inside = 0 <= row + r < plan.spec.rows and 0 <= col + c < plan.spec.cols
            if inside and part.any():
                bad.add(at)
                near[r0 : r0 + part.shape[0], c0 : c0 + part.shape[1]] |= part
        if not near.any():
            continue
        found = _named(plan, clear, box, near)
        blockers += found
        names = listed(list(dict.fromkeys(item.name for item in found)))
        if theirs:
            words.append(
                phrase(
                    "{names} wants {cells_text} of clearance", names=names, cells_text=cells_text(n)
                )
            )
        else:
            words.append(
                phrase(
                    "{names} is nearer than {cells_text}", names=names, cells_text=cells_text(n + 1)
                )
            )
    if not words:
        return None
    once = dict.fromkeys(blockers)
    return Remark(
        Reason.CLEARANCE,
        joined("; ", dict.fromkeys(words)),
        cells=tuple(sorted(bad)),
        blockers=tuple(once),
    )


def _is_alone(plan: Plan, asked: Sequence[tuple[Clear, bool]], here: Box, lifted: int) -> bool:
    """Whether all is about kinds, of which no structure is as near as any of it looks: so it is in most places."""
    if any(clear.thing is not Thing.KIND for clear, _theirs in asked):
        return False
    far = max((clear.cells for clear, _theirs in asked), default=0)
    box = here.grown(far).clipped(plan.blocks.shape)
    return _is_free_of(plan, {clear.key for clear, _theirs in asked}, box, lifted)


def _is_free_of(plan: Plan, keys: Collection[str], box: Box, lifted: int) -> bool:
    """Whether no structure of some kinds, "" being any, is in a block. False as well for a large block, of which a
    mask tells sooner."""
    who = plan.occupant[box.slices]
    if who.size > FEW:
        return False
    rows, every = plan.register, "" in keys
    there = set(who.ravel().tolist()) - {lifted}
    return not any(number > 0 and (every or rows[number].kind in keys) for number in there)


def _found(plan: Plan, clear: Clear, box: Box, lifted: int) -> Mask | None:
    """Where the thing is in a block within the grid; None when it is nowhere in it."""
    if clear.thing is Thing.KIND and _is_free_of(plan, (clear.key,), box, lifted):
        return None
    mask = mask_of(plan, clear.thing, clear.key, box, lifted)
    return mask if mask.any() else None


def _named(plan: Plan, clear: Clear, box: Box, near: Mask) -> list[Blocker]:
    """The things in a block by name, each once."""
    found: dict[tuple[str, str | None], Blocker] = {}
    for r, c in np.argwhere(near).tolist():
        cell = plan.spec.cell_of_slot((box.r0 + r, box.c0 + c))
        blocker = _blocker(plan, clear, cell)
        found.setdefault((blocker.name, blocker.id), blocker)
    return list(found.values())


def _blocker(plan: Plan, clear: Clear, cell: Cell) -> Blocker:
    who = plan.occupant_at(cell)
    if clear.thing is Thing.KIND:
        return Blocker("structure", plan.title_of(who), structure_id(who), cell, Reason.CLEARANCE)
    if clear.thing is Thing.OBSTACLE:
        return Blocker("obstacle", plan.title_of(who), f"O{-who}", cell, Reason.CLEARANCE)
    name = thing_words(plan, clear.thing, clear.key)
    return Blocker(str(clear.thing), name, None, cell, Reason.CLEARANCE)


def crowded_mask(plan: Plan, kind: Kind, box: Box, lifted: int) -> Mask:
    """The cells of a block that something is too near to."""
    out = np.zeros(box.shape, bool)
    for clear, _theirs in asked_of(plan, kind):
        if clear.thing is Thing.KIND and clear.key and not plan.register.count(clear.key):
            continue
        wide = box.grown(clear.cells)
        inside = wide.clipped(plan.blocks.shape)
        there = mask_of(plan, clear.thing, clear.key, inside, lifted)
        # Of most things there is nothing in most places.
        if there.any():
            around = np.zeros(wide.shape, bool)
            around[inside.seen_from(wide).slices] = there
            out |= spread(around, clear.cells)
    return out
