"""A search over cells that keeps everything it does, for whoever wants to see it; plain Python that Numba
can compile.

The same question as `astar`, asked with a binary heap and a heuristic of choice. Source: P. Hart,
N. Nilsson, B. Raphael (1968); weighted: I. Pohl, "Heuristic Search Viewed as Path Finding in a Graph",
Artificial Intelligence 1 (1970). With no goals it is E. Dijkstra's (1959).
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier
from woven_locus.core.kernels.moves import may_step, step_of, way_back

ZERO, MANHATTAN, OCTILE = range(3)


def estimate(kind, d_col, d_row, h_w, h_h, h_d):  # type: ignore[no-untyped-def]
    """What is thought to be left, for a way of so many columns and rows."""
    if kind == 0:
        return 0.0
    if kind == 1:
        return d_col * h_w + d_row * h_h
    both = min(d_col, d_row)
    return both * h_d + (d_col - both) * h_w + (d_row - both) * h_h


def explore(code, cols, rows, table, exits, cell_w, cell_h, moves, starts, goals, least, kind, weight, most, g, came, order, opened):  # type: ignore[no-untyped-def]  # fmt: skip
    """Cheapest path from any start to any goal, with all that was looked at on the way.

    code, cols, rows, table, exits, cell_w, cell_h, moves, starts, goals, least : as for `astar.search`,
    but that `goals` may be empty: then every cell that costs no more than `most` is reached.
    kind : of heuristic, see above.  weight : on it; above 1 the path may cost more than the cheapest.
    g : (n,) float64, filled where cells were opened.  came : (n,) uint8 zeros, filled with 1..8 the move
    that led there, 9 a start.  order, opened : (n,) int32 zeros, filled with the number of the step (from
    1) at which a cell was expanded first, and that at which it was put on the open list (1 for starts).

    Returns (path, cost, steps): int64 flat slots, empty without a path; the steps that were taken.
    """
    diag = np.sqrt(cell_w * cell_w + cell_h * cell_h)
    top, left, bottom, right = rows, cols, -1, -1
    for goal in goals:
        row = goal // cols
        col = goal - row * cols
        top = min(top, row)
        bottom = max(bottom, row)
        left = min(left, col)
        right = max(right, col)
    seeks = len(goals) > 0
    h_w, h_h, h_d = cell_w * least, cell_h * least, diag * least
    signs = len(exits) > 0
    room = max(HEAP_ROOM, len(starts))
    keys = np.empty(room, np.float64)
    items = np.empty(room, np.int64)
    waiting = 0
    for start in starts:
        if came[start]:
            continue
        came[start] = 9
        opened[start] = 1
        g[start] = 0.0
        row = start // cols
        col = start - row * cols
        d_c = max(left - col, col - right, 0)
        d_r = max(top - row, row - bottom, 0)
        f = weight * estimate(kind, d_c, d_r, h_w, h_h, h_d) if seeks else 0.0
        push(keys, items, waiting, f, start)
        waiting += 1
    steps = 0
    found = -1
    while waiting > 0:
        f_here = keys[0]
        node = pop(keys, items, waiting)
        waiting -= 1
        row = node // cols
        col = node - row * cols
        here = g[node]
        if seeks:
            d_c = max(left - col, col - right, 0)
            d_r = max(top - row, row - bottom, 0)
            # An entry that a cheaper way has overtaken.
            if f_here > here + weight * estimate(kind, d_c, d_r, h_w, h_h, h_d) + 1e-9 * (1 + here):
                continue
        elif f_here > here:
            continue
        steps += 1
        if order[node] == 0:
            order[node] = steps
        if seeks:
            for goal in goals:
                if goal == node:
                    found = node
            if found >= 0:
                break
        cost_here = table[code[node]]
        leaves = exits[code[node]] if signs else 0
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
            if signs and not may_step(leaves, exits[code[node2]], move):
                continue
            if move > 4:
                if table[code[row * cols + col2]] == np.inf:
                    continue
                if table[code[row2 * cols + col]] == np.inf:
                    continue
            there = here + length * (cost_here + cost2) * 0.5
            if there > most or (came[node2] and g[node2] <= there):
                continue
            g[node2] = there
            if came[node2] == 0:
                opened[node2] = steps
            came[node2] = move
            f = there
            if seeks:
                d_c = max(left - col2, col2 - right, 0)
                d_r = max(top - row2, row2 - bottom, 0)
                f += weight * estimate(kind, d_c, d_r, h_w, h_h, h_d)
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            push(keys, items, waiting, f, node2)
            waiting += 1
    if found < 0:
        return np.empty(0, np.int64), np.inf, steps
    return way_back(came, found, cols), g[found], steps
