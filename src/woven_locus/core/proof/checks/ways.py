"""What can be wrong with roads, barriers and what they join."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.cells import movement_costs
from woven_locus.core.geometry import SIDES, Cell
from woven_locus.core.phrase import phrase
from woven_locus.core.placing.verdict import cells_text
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Fault
from woven_locus.core.proof.subject import Subject
from woven_locus.core.register import structure_id

Bools = npt.NDArray[np.bool_]
Ints = npt.NDArray[np.int64]
# Structures that a weak point names.
_MOST_NAMES = 8


def misses(subject: Subject) -> Iterator[Fault]:
    """What looks joined, or was meant to be, and is not; see `misses`."""
    for miss in subject.misses:
        yield Fault(miss.words(subject.plan), miss.gap, miss.structure, miss)


def cut_off(subject: Subject) -> Iterator[Fault]:
    """Structures that reach no other by road."""
    plan = subject.plan
    for number in subject.links.cut_off:
        words = phrase(
            "{title_of} reaches no other structure by road", title_of=plan.title_of(number)
        )
        yield Fault(words, plan.register[number].cell, number)


def weak(subject: Subject) -> Iterator[Fault]:
    """Pieces of road whose loss would part structures, those that part most first."""
    for point in subject.weak:
        names = ", ".join(structure_id(n) for n in point.structures[:_MOST_NAMES])
        left = len(point.structures) - _MOST_NAMES
        more = phrase(" and {left} more", left=left) if left > 0 else ""
        what = (
            phrase("this cell")
            if point.cells == 1
            else phrase("one of {cells} cells", cells=point.cells)
        )
        yield Fault(
            phrase(
                "Without {what} {names}{more} would be cut off", what=what, names=names, more=more
            ),
            point.cell,
        )


def _parts(mask: Bools, used: Bools) -> Iterator[tuple[Ints, int]]:
    """Slots of one cell, and sizes, of connected parts (4 neighbours) of which no cell is used; largest first. None where
    nothing is used at all."""
    from scipy import ndimage  # late: it takes longer to import than to run on a small map

    if not (mask & used).any():
        return
    labels, count = ndimage.label(mask)
    sizes = np.bincount(labels.ravel(), minlength=count + 1)
    reached = np.zeros(count + 1, bool)
    reached[labels[used & mask]] = True
    reached[0] = True
    left = np.flatnonzero(~reached)
    if not len(left):
        return
    flat = labels.ravel()
    # The first cell of each, by row and column.
    firsts = np.full(count + 1, flat.size)
    some = np.flatnonzero(~reached[flat])
    np.minimum.at(firsts, flat[some], some)
    for label in left[np.argsort(-sizes[left], kind="stable")].tolist():
        yield np.array(divmod(int(firsts[label]), mask.shape[1])), int(sizes[label])


def _cell(plan: Plan, slot: Ints) -> Cell:
    return plan.spec.cell_of_slot(slot.tolist())


def _open_road(plan: Plan) -> Bools:
    found: Bools = np.isfinite(plan.road_table.costs)[plan.road]
    return found


def unreached_ground(subject: Subject) -> Iterator[Fault]:
    """Ground that can be walked on, and that nobody comes to from anywhere that is used."""
    plan = subject.plan
    walked: Bools = np.isfinite(movement_costs(plan))[plan.movement]
    for slot, size in _parts(walked, subject.used):
        yield Fault(
            phrase(
                "Nobody can reach {cells_text} of ground from here on", cells_text=cells_text(size)
            ),
            _cell(plan, slot),
        )


def unreached_road(subject: Subject) -> Iterator[Fault]:
    """Pieces of road on which no structure has a door and nothing begins or ends."""
    plan = subject.plan
    for slot, size in _parts(_open_road(plan), subject.used):
        yield Fault(
            phrase(
                "No structure has a door on this road of {cells_text}", cells_text=cells_text(size)
            ),
            _cell(plan, slot),
        )


def traps(subject: Subject) -> Iterator[Fault]:
    """Road into which one-way cells lead, and out of which none does."""
    plan = subject.plan
    if not plan.road_table.exits[plan.road].any():
        return
    from scipy import sparse
    from scipy.sparse import csgraph

    slots, start, end = _steps(plan)
    count = len(slots)
    graph = sparse.csr_matrix((np.ones(len(start), np.int8), (start, end)), (count, count))
    pieces, label = csgraph.connected_components(graph, directed=True, connection="strong")
    leaves, entered = np.zeros(pieces, bool), np.zeros(pieces, bool)
    other = label[start] != label[end]
    leaves[label[start[other]]] = True
    entered[label[end[other]]] = True
    sizes = np.bincount(label, minlength=pieces)
    first = np.full(pieces, count)
    np.minimum.at(first, label, np.arange(count))
    for piece in np.flatnonzero(entered & ~leaves).tolist():
        slot = np.array(divmod(int(slots[first[piece]]), plan.spec.cols))
        words = phrase(
            "{cells_text} of road can be driven into, but not out of",
            cells_text=cells_text(int(sizes[piece])),
        )
        yield Fault(words, _cell(plan, slot))


def _steps(plan: Plan) -> tuple[Ints, Ints, Ints]:
    """Flat slots of open road, and the steps that signs allow: from which to which of them, by place in the first."""
    road = _open_road(plan)
    exits = plan.road_table.exits[plan.road]
    number = np.full(road.shape, -1)
    number[road] = np.arange(int(road.sum()))
    rows, cols = np.nonzero(road)
    starts, ends = [], []
    # North, east, south, west, as a sign says it: 1 to 4.
    for move, (d_row, d_col) in enumerate(((-1, 0), (0, 1), (1, 0), (0, -1)), 1):
        row, col = rows + d_row, cols + d_col
        inside = (row >= 0) & (row < road.shape[0]) & (col >= 0) & (col < road.shape[1])
        from_, to = (rows[inside], cols[inside]), (row[inside], col[inside])
        leaves, enters = exits[from_], exits[to]
        may = road[to] & ((leaves == 0) | (leaves == move))
        may &= enters != (move + 1) % 4 + 1
        starts.append(number[from_][may])
        ends.append(number[to][may])
    return np.flatnonzero(road), np.concatenate(starts), np.concatenate(ends)


def dead_ends(subject: Subject) -> Iterator[Fault]:
    """Road that ends where there is no door, no entry or goal, and no edge of the map."""
    plan = subject.plan
    road = _open_road(plan)
    around = np.pad(road, 1)
    rows, cols = road.shape
    count = np.zeros(road.shape, np.int8)
    for d_row, d_col in SIDES:
        count += around[1 + d_row : 1 + d_row + rows, 1 + d_col : 1 + d_col + cols]
    ends = road & (count <= 1) & ~subject.used
    ends[[0, -1]] = ends[:, [0, -1]] = False
    for slot in np.argwhere(ends):
        yield Fault(phrase("The road ends here, at no door"), _cell(plan, slot))
