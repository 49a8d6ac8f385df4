"""A search that knows what was left to go before some cells were closed, as plain Python that Numba can compile.

Source: P. Hart, N. Nilsson, B. Raphael (1968), with the exact costs of the open ground for a heuristic: closing cells
makes no way cheaper, so it stays consistent, and only what may lie on a way around is looked at. It ends at the first
cell whose way from before is still there.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier
from woven_locus.core.kernels.moves import MOVE, START, step_of, way_back

# Of two ways that cost the same the one that is further on is followed first.
_FURTHER = 1.0 + 1e-9
# Whether the way that a cell had before is still there.
_OPEN, _CUT = 1, 2


def still_open(node, code, cols, table, onward, known):  # type: ignore[no-untyped-def]
    """Whether the way on from a cell goes through none that was closed, and cuts no corner of one.

    onward : (n,) uint8, by which move each cell was come to from the goals.  known : (n,) uint8, what was found out so far.
    """
    here = node
    while known[here] == 0 and onward[here] & MOVE != START:
        d_row, d_col, _length = step_of(onward[here] & MOVE, 1.0, 1.0, 1.0)
        before = here - d_row * cols - d_col
        cut = table[code[before]] == np.inf
        if d_row != 0 and d_col != 0:
            cut |= table[code[here - d_col]] == np.inf or table[code[here - d_row * cols]] == np.inf
        if cut:
            known[here] = _CUT
            break
        here = before
    if known[here] == 0:
        known[here] = _OPEN
    found = known[here]
    while node != here:
        known[node] = found
        d_row, d_col, _length = step_of(onward[node] & MOVE, 1.0, 1.0, 1.0)
        node -= d_row * cols + d_col
    return found == _OPEN


def go_on(node, cols, onward, came):  # type: ignore[no-untyped-def]
    """The end of the way on from a cell, whose moves are written to `came` as if they were found from behind."""
    while onward[node] & MOVE != START:
        move = onward[node] & MOVE
        d_row, d_col, _length = step_of(move, 1.0, 1.0, 1.0)
        node -= d_row * cols + d_col
        # The move the other way.
        came[node] = (move + 1) % 4 + 1 if move <= 4 else (move - 3) % 4 + 5
    return node


def search_guided(code, cols, rows, table, cell_w, cell_h, moves, starts, on, g, came, known):  # type: ignore[no-untyped-def]
    """Cheapest path from any start to where nothing is left to go.

    code, cols, rows, table, cell_w, cell_h, moves, starts : as for `astar.search`, without one-way cells.
    on : (left, onward), as it was before some cells were closed. left : (n,) float64, cost from each cell to the nearest goal,
    inf for none, 0 at a goal; onward : (n,) uint8, by which move it was come to from there.
    g : (n,) float64, scratch.  came, known : (n,) uint8 zeros, scratch.
    Returns (path, cost): int64 flat slots, empty and inf without a path.
    """
    left, onward = on
    diag = np.sqrt(cell_w * cell_w + cell_h * cell_h)
    room = max(HEAP_ROOM, len(starts))
    keys = np.empty(room, np.float64)
    items = np.empty(room, np.int64)
    waiting = 0
    for start in starts:
        if came[start] == 0 and left[start] < np.inf and table[code[start]] < np.inf:
            came[start] = 9
            g[start] = 0.0
            push(keys, items, waiting, left[start] * _FURTHER, start)
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
        if still_open(node, code, cols, table, onward, known):
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
            if cost2 == np.inf:
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
    cost = g[found] + left[found]
    return way_back(came, go_on(found, cols, onward, came), cols), cost
