"""Ways around cells that are closed, from the trees of cheapest ways that were there before; plain Python that Numba can
compile.

Source: K. Malik, A. Mittal, S. Gupta, "The k most vital arcs in the shortest path problem", Operations Research Letters 8
(1989), for the idea: a way around leaves what the tree from the starts still reaches and comes to what the tree to the
goals still leads on from. Here more than an arc is closed, so between the two is searched: P. Hart, N. Nilsson, B. Raphael
(1968), with the exact costs of the open ground for a heuristic. Closing cells makes no way cheaper, so it stays consistent.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier
from woven_locus.core.kernels.moves import MOVE, START, step_of, way_back

# Of two ways that cost the same the one that is further on is followed first.
_FURTHER = 1.0 + 1e-9


def number_tree(order, steps, cols, came, number, size):  # type: ignore[no-untyped-def]
    """Number the cells of a tree of cheapest ways so that all that comes after a cell follows it.

    order : (n,) int32, at which step from 1 each cell was expanded, 0 for never; steps : the last.  came : (n,) uint8, see
    `moves`.  number : (n,) int32, filled, -1 for cells that were not reached.  size : (n,) int32 ones, filled with how many
    cells come after a cell, itself counted.
    """
    listed = np.full(steps + 1, -1, np.int64)
    for node in range(len(order)):
        number[node] = -1
        if order[node] > 0:
            listed[order[node]] = node
    for k in range(steps, 0, -1):
        node = listed[k]
        if node >= 0 and came[node] & MOVE != START:
            d_row, d_col, _length = step_of(came[node] & MOVE, 1.0, 1.0, 1.0)
            size[node - d_row * cols - d_col] += size[node]
    free = 0
    # The next number that is free below each cell.
    below = np.zeros(len(order), np.int32)
    for k in range(1, steps + 1):
        node = listed[k]
        if node < 0:
            continue
        if came[node] & MOVE == START:
            number[node] = free
            free += size[node]
        else:
            d_row, d_col, _length = step_of(came[node] & MOVE, 1.0, 1.0, 1.0)
            before = node - d_row * cols - d_col
            number[node] = below[before]
            below[before] += size[node]
        below[node] = number[node] + 1


def lost_ranges(closed, cols, rows, came, number, size):  # type: ignore[no-untyped-def]
    """(k, 2) int64 ranges of numbers, the end not in it, of the cells whose way in a tree goes through a closed cell or cuts
    a corner of one; none lies within another. See `number_tree`."""
    found = np.empty((9 * len(closed), 2), np.int64)
    count = 0
    for node in closed:
        row = node // cols
        col = node - row * cols
        for move in range(9):
            there = node
            if move > 0:
                d_row, d_col, _length = step_of(move, 1.0, 1.0, 1.0)
                if not (0 <= row + d_row < rows and 0 <= col + d_col < cols):
                    continue
                there = node + d_row * cols + d_col
                by = came[there] & MOVE
                if by <= 4 or by == START:
                    continue
                # The two cells that the last step to it is squeezed between.
                d_row, d_col, _length = step_of(by, 1.0, 1.0, 1.0)
                if node != there - d_col and node != there - d_row * cols:
                    continue
            first = number[there]
            if first < 0:
                continue
            last = first + size[there]
            kept = 0
            within = False
            for k in range(count):
                within |= found[k, 0] <= first and last <= found[k, 1]
                if within or not (first <= found[k, 0] and found[k, 1] <= last):
                    found[kept, 0] = found[k, 0]
                    found[kept, 1] = found[k, 1]
                    kept += 1
            count = kept
            if not within:
                found[count, 0] = first
                found[count, 1] = last
                count += 1
    return found[:count]


def is_lost(number, ranges):  # type: ignore[no-untyped-def]
    """Whether a number lies in one of some ranges."""
    found = False
    for k in range(len(ranges)):
        found |= ranges[k, 0] <= number < ranges[k, 1]
    return found


def go_on(node, cols, onward, came):  # type: ignore[no-untyped-def]
    """The end of the way on from a cell, whose moves are written to `came` as if they were found from behind."""
    while onward[node] & MOVE != START:
        move = onward[node] & MOVE
        d_row, d_col, _length = step_of(move, 1.0, 1.0, 1.0)
        node -= d_row * cols + d_col
        # The move the other way.
        came[node] = (move + 1) % 4 + 1 if move <= 4 else (move - 3) % 4 + 5
    return node


def search_around(code, cols, rows, table, cell_w, cell_h, moves, goals, cost, back, lost, edge, cut, g, came):  # type: ignore[no-untyped-def]  # fmt: skip
    """Cheapest path from the starts of one tree to the goals of another, around cells that have been closed since.

    code, cols, rows, table, cell_w, cell_h, moves : as for `astar.search`, without one-way cells; closed cells cost inf.
    goals : int64 flat slots.  cost : (n,) float64, from the starts to each cell before.
    back : (cost, came, number), of the tree from the goals; see `number_tree`.  cut : (k, 2) its lost ranges.
    lost : (n,) bool, where the tree from the starts is lost.  edge : int64 flat slots of those of its cells that lie beside
    one that is not.
    g : (n,) float64, scratch.  came : (n,) uint8, of the tree from the starts, 0 where it is lost; written to.
    Returns (path, cost): int64 flat slots, empty and inf without a path.
    """
    left, onward, number_on = back
    diag = np.sqrt(cell_w * cell_w + cell_h * cell_h)
    keys = np.empty(HEAP_ROOM, np.float64)
    items = np.empty(HEAP_ROOM, np.int64)
    waiting = 0
    # A way that was not lost at all ends at a goal; any other leaves what is not lost for what is.
    for goal in goals:
        if not lost[goal] and cost[goal] < np.inf:
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            g[goal] = cost[goal]
            push(keys, items, waiting, cost[goal], goal)
            waiting += 1
    for node in edge:
        if table[code[node]] == np.inf:
            continue
        row = node // cols
        col = node - row * cols
        best = np.inf
        for move in range(1, moves + 1):
            # Come to by this move.
            d_row, d_col, length = step_of(move, cell_w, cell_h, diag)
            row0 = row - d_row
            col0 = col - d_col
            if row0 < 0 or row0 >= rows or col0 < 0 or col0 >= cols:
                continue
            before = row0 * cols + col0
            if lost[before] or cost[before] == np.inf:
                continue
            if move > 4 and (
                table[code[row * cols + col0]] == np.inf or table[code[row0 * cols + col]] == np.inf
            ):
                continue
            step = length * (table[code[before]] + table[code[node]]) * 0.5
            if cost[before] + step < best:
                best = cost[before] + step
                came[node] = move
        if best < np.inf and left[node] < np.inf:
            g[node] = best
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            push(keys, items, waiting, best + left[node] * _FURTHER, node)
            waiting += 1
    found = -1
    while waiting > 0:
        f_here = keys[0]
        node = pop(keys, items, waiting)
        waiting -= 1
        here = g[node]
        # An entry that a cheaper way has overtaken.
        if f_here > here + left[node] * _FURTHER + 1e-9 * (1.0 + here):
            continue
        if not is_lost(number_on[node], cut):
            found = node
            break
        row = node // cols
        col = node - row * cols
        for move in range(1, moves + 1):
            d_row, d_col, length = step_of(move, cell_w, cell_h, diag)
            row2 = row + d_row
            col2 = col + d_col
            if row2 < 0 or row2 >= rows or col2 < 0 or col2 >= cols:
                continue
            node2 = row2 * cols + col2
            cost2 = table[code[node2]]
            # What is not lost is not come to more cheaply than before.
            if not lost[node2] or cost2 == np.inf:
                continue
            if move > 4 and (
                table[code[row * cols + col2]] == np.inf or table[code[row2 * cols + col]] == np.inf
            ):
                continue
            there = here + length * (table[code[node]] + cost2) * 0.5
            if came[node2] and g[node2] <= there:
                continue
            g[node2] = there
            came[node2] = move
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            push(keys, items, waiting, there + left[node2] * _FURTHER, node2)
            waiting += 1
    if found < 0:
        return np.empty(0, np.int64), np.inf
    total = g[found] + left[found]
    return way_back(came, go_on(found, cols, onward, came), cols), total
