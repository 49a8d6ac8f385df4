"""What cannot stand together in a draft goes back to ours."""

from __future__ import annotations

from typing import Any

import numpy as np

from woven_locus.core.compare.draft import Draft
from woven_locus.core.compare.parts import Thing
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.phrase import phrase
from woven_locus.core.register import Structure


def settle(draft: Draft) -> None:
    """Give back what is of theirs until everything stands. Each turn gives something back, so that it ends. Raises BadPlan
    where ours itself does not stand on what was taken."""
    while _give_one_back(draft):
        pass


def _give_one_back(draft: Draft) -> bool:
    """Whether something was given back: then all has to be looked at again."""
    spec = draft.spec
    who = np.zeros(spec.shape, np.int64)
    things: list[tuple[str, Any, list[Cell]]] = []
    for number, obstacle in draft.parts["obstacles"].items():
        things.append(("obstacles", number, list(obstacle.cells)))
    for number, row in draft.parts["structures"].items():
        if row.kind not in draft.parts["kinds"]:
            why = phrase("one side took it away, S{number} is one", number=number)
            if draft.give_back("kinds", row.kind, why, _all_of(draft, row.kind)):
                return True
            kind = Thing("kinds", row.kind)
            draft.give_back(
                "structures", number, phrase("its kind {kind} is not there", kind=row.kind), (kind,)
            )
            return True
        things.append(("structures", number, _cells_of(draft, row)))
    # What is ours stands first, so that what is theirs gives way.
    things.sort(key=lambda thing: not _is_ours(draft, thing))
    for at, (part, number, cells) in enumerate(things, 1):
        for cell in cells:
            if not spec.contains(cell):
                return _send_back(
                    draft,
                    (part, number, cells),
                    phrase("{cell} is outside the grid", cell=cell_text(cell)),
                )
            slot = spec.slot(cell)
            if who[slot]:
                other = things[int(who[slot]) - 1]
                return _part(draft, (part, number, cells), other, cell)
            if draft.cells["roads"][slot] or draft.cells["barriers"][slot]:
                return _off_the_way(draft, (part, number, cells), cell)
            who[slot] = at
    return False


def _all_of(draft: Draft, kind: str) -> tuple[Thing, ...]:
    """Structures of a kind, as ours has them."""
    rows = draft.ours["structures"].items()
    return tuple(Thing("structures", number) for number, row in rows if row.kind == kind)


def _cells_of(draft: Draft, row: Structure) -> list[Cell]:
    shape = draft.parts["kinds"][row.kind].footprint.turned(row.turn)
    shape = shape.upside_down() if draft.spec.y_up else shape
    found: list[Cell] = shape.at(row.cell)
    return found


def _is_ours(draft: Draft, thing: tuple[str, Any, list[Cell]]) -> bool:
    part, number, _cells = thing
    return bool(draft.parts[part][number] == draft.ours[part].get(number))


def _send_back(
    draft: Draft, thing: tuple[str, Any, list[Cell]], why: str, things: tuple[Thing, ...] = ()
) -> bool:
    """Ours for a thing, or where it is ours already, for its kind. things : of ours, which it is in the way of. Raises
    BadPlan where neither is theirs."""
    part, number, _cells = thing
    if draft.give_back(part, number, why, things):
        return True
    kind = draft.parts[part][number].kind if part == "structures" else None
    if kind is not None and draft.give_back("kinds", kind, why, (*things, Thing(part, number))):
        return True
    raise BadPlan(part, why)


def _part(
    draft: Draft, thing: tuple[str, Any, list[Cell]], other: tuple[str, Any, list[Cell]], cell: Cell
) -> bool:
    """Two things on one cell."""
    why = phrase(
        "{name} and {name2} both cover {cell}",
        name=_name(thing),
        name2=_name(other),
        cell=cell_text(cell),
    )
    first, second = (thing, other) if not _is_ours(draft, thing) else (other, thing)
    try:
        return _send_back(draft, first, why, _ours_of(draft, second))
    except BadPlan:
        return _send_back(draft, second, why, _ours_of(draft, first))


def _ours_of(draft: Draft, thing: tuple[str, Any, list[Cell]]) -> tuple[Thing, ...]:
    return (Thing(*thing[:2]),) if _is_ours(draft, thing) else ()


def _name(thing: tuple[str, Any, list[Cell]]) -> str:
    return f"{'S' if thing[0] == 'structures' else 'O'}{thing[1]}"


def _off_the_way(draft: Draft, thing: tuple[str, Any, list[Cell]], cell: Cell) -> bool:
    """A thing on road or a barrier."""
    slot = draft.spec.slot(cell)
    what = phrase("road") if draft.cells["roads"][slot] else phrase("a barrier")
    if (
        not draft.our_cells["roads"][slot]
        and not draft.our_cells["barriers"][slot]
        and _is_ours(draft, thing)
    ):
        draft.clash(
            "roads" if what == "road" else "barriers",
            phrase(
                "{what} at {cell} would run under {name}",
                what=what,
                cell=cell_text(cell),
                name=_name(thing),
            ),
            things=(Thing(*thing[:2]),),
            at=cell,
        )
        for aspect in ("roads", "signs", "barriers"):
            draft.cells[aspect][slot] = 0
        return True
    laid = draft.our_cells["roads"][slot] or draft.our_cells["barriers"][slot]
    ways = tuple(Thing(aspect, cell) for aspect in ("roads", "signs", "barriers")) if laid else ()
    return _send_back(
        draft, thing, phrase("{what} runs at {cell}", what=what, cell=cell_text(cell)), ways
    )
