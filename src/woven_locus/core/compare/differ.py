"""What differs between two plans, in the plan's own terms."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.compare.cells import (
    ASPECTS,
    Codes,
    Names,
    both,
    codes,
    differ,
    laid_on,
    same_lattice,
)
from woven_locus.core.compare.parts import PARTS
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value, replace


class Change(Value):
    """One thing of a part that differs. before, after : None where it is not there."""

    part: str
    key: Hashable
    words: str
    before: Any
    after: Any


class CellChange(Value):
    """Cells that differ in one thing. count : of them.  low, high : the cells of the box around them, both within it.
    into : what is there now and on how many, most first; None for what is there no more.  pieces : those of the same kind
    that hang together, corners included, where they are two or more and not very many."""

    aspect: str
    count: int
    low: Cell
    high: Cell
    into: tuple[tuple[object, int], ...]
    pieces: tuple[CellChange, ...] = ()


class Differences(Value):
    """grid : before and after where they are not the same.  cells : None where the two lie on different lattices, so that
    no cell of one is a cell of the other.  reordered : parts whose things are the same in another order."""

    grid: tuple[GridSpec, GridSpec] | None
    changes: tuple[Change, ...]
    cells: tuple[CellChange, ...] | None
    reordered: tuple[str, ...]

    def __bool__(self) -> bool:
        return bool(self.grid or self.changes or self.cells or self.reordered)

    def of(self, part: str) -> tuple[Change, ...]:
        """The changes of one part."""
        return tuple(change for change in self.changes if change.part == part)


# Classes of cells that are told apart in words, and pieces, at most.
_MOST_KINDS = 8
_MOST_PIECES = 60


def compare(before: Plan, after: Plan) -> Differences:
    """What is another in `after`. Where heights were made or dropped, the cells with a known height differ."""
    changes: list[Change] = []
    reordered = []
    for part in PARTS:
        old, new = part.of(before), part.of(after)
        for key in dict.fromkeys((*old, *new)):
            if old.get(key) != new.get(key) or (key in old) != (key in new):
                changes.append(Change(part.name, key, part.words(key), old.get(key), new.get(key)))
        if list(old) != list(new) and set(old) == set(new):
            reordered.append(part.name)
    grid = (before.spec, after.spec) if before.spec != after.spec else None
    return Differences(grid, tuple(changes), _cells(before, after), tuple(reordered))


def _cells(before: Plan, after: Plan) -> tuple[CellChange, ...] | None:
    if not same_lattice(before.spec, after.spec):
        return None
    spec = before.spec if before.spec == after.spec else both((before.spec, after.spec))
    names = Names((before, after))
    found = []
    for aspect in ASPECTS:
        old, new = (
            laid_on(codes(plan, aspect, names), plan.spec, spec) for plan in (before, after)
        )
        other = differ(old, new)
        if other.any():
            whole = _change(aspect, other, new, (spec, names), Slot(0, 0))
            found.append(replace(whole, pieces=_pieces(aspect, other, new, (spec, names))))
    return tuple(found)


_Where = tuple[GridSpec, Names]


def _change(
    aspect: str, other: npt.NDArray[np.bool_], new: Codes, where: _Where, at: Slot
) -> CellChange:
    """Of the cells in a mask. at : the place of its first cell."""
    spec, names = where
    rows, cols = np.nonzero(other)
    low = spec.cell_of_slot((at.row + int(rows.min()), at.col + int(cols.min())))
    high = spec.cell_of_slot((at.row + int(rows.max()), at.col + int(cols.max())))
    return CellChange(aspect, len(rows), low, high, _into(aspect, new[rows, cols], names))


def _pieces(
    aspect: str, other: npt.NDArray[np.bool_], new: Codes, where: _Where
) -> tuple[CellChange, ...]:
    from scipy import ndimage  # late: it takes longer to import than to run on a small map

    labels, count = ndimage.label(other, np.ones((3, 3), np.uint8))
    if not 1 < count <= _MOST_PIECES:
        return ()
    boxes = enumerate(ndimage.find_objects(labels), 1)
    return tuple(
        _change(aspect, labels[box] == k, new[box], where, Slot(box[0].start, box[1].start))
        for k, box in boxes
    )


def _into(aspect: str, now: Any, names: Names) -> tuple[tuple[object, int], ...]:
    """What cells hold, most first; heights are not counted one by one."""
    if aspect == "heights":
        return ()
    values, counts = np.unique(now, return_counts=True)
    order = np.argsort(-counts, kind="stable")[:_MOST_KINDS]
    return tuple((names.words(aspect, float(values[k])), int(counts[k])) for k in order)
