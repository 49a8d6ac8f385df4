"""A search that knows what was left to go before some cells were closed, as plain Python that Numba can compile.

Source: P. Hart, N. Nilsson, B. Raphael (1968), with the exact costs of the open ground for a heuristic: closing cells
makes no way cheaper, so it stays consistent, and only what may lie on a way around is looked at.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier
from woven_locus.core.kernels.moves import step_of, way_back

# Of two ways that cost the same the one that is further on is followed first.
_FURTHER = 1.0 + 1e-9


def search_guided(code, cols, rows, table, cell_w, cell_h, moves, starts, left, g, came):  # type: ignore[no-untyped-def]
    """Cheapest path from any start to where nothing is left to go.

    code, cols, rows, table, cell_w, cell_h, moves, starts : as for `astar.search`, without one-way cells.
    left : (n,) float64, cost from each cell to the nearest goal before some cells were closed, inf for none, 0 at a goal.
    g : (n,) float64, scratch.  came : (n,) uint8 zeros, scratch.
    Returns (path, cost): int64 flat slots, empty and inf without a path.
    """
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
        if left[node] == 0.0:
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
    return way_back(came, found, cols), g[found]
