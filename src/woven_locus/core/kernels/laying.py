"""A* over cells and directions, for lines that shall turn seldom; plain Python that Numba can compile.

Source: P. Hart, N. Nilsson, B. Raphael (1968), as in `astar`; the state is a cell and the direction in
which it was entered.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier


def lay(cost, rise, cols, rows, turn, start, goal, least):  # type: ignore[no-untyped-def]
    """Cheapest line of cells from a start to a goal, in 4 moves.

    cost : (rows*cols,) float64, to come onto each cell, inf blocks; that of the start is not paid.
    rise : (rows*cols,) float64, heights times what a unit of rise or fall costs; NaN counts as level.
    turn : what a turn costs.  start, goal : flat slots.  least : the lowest cost of any cell.
    Returns (path, cost): int64 flat slots, empty without a path.
    """
    n = rows * cols
    g = np.full(5 * n, np.inf)
    came = np.full(5 * n, -1, np.int64)
    keys = np.empty(HEAP_ROOM, np.float64)
    items = np.empty(HEAP_ROOM, np.int64)
    goal_row = goal // cols
    goal_col = goal - goal_row * cols
    # Direction 4 is none: at the start nothing has been turned from.
    g[4 * n + start] = 0.0
    push(keys, items, 0, 0.0, 4 * n + start)
    waiting = 1
    found = -1
    while waiting > 0:
        f_here = keys[0]
        state = pop(keys, items, waiting)
        waiting -= 1
        way = state // n
        node = state - way * n
        row = node // cols
        col = node - row * cols
        here = g[state]
        h = (abs(row - goal_row) + abs(col - goal_col)) * least
        if f_here > here + h + 1e-9 * (1 + here):
            continue
        if node == goal:
            found = state
            break
        for side in range(4):
            row2 = row + (side == 2) - (side == 0)
            col2 = col + (side == 1) - (side == 3)
            if row2 < 0 or row2 >= rows or col2 < 0 or col2 >= cols:
                continue
            node2 = row2 * cols + col2
            if cost[node2] == np.inf:
                continue
            there = here + cost[node2]
            climb = abs(rise[node2] - rise[node])
            if climb == climb:
                there += climb
            if way != 4 and way != side:
                there += turn
            state2 = side * n + node2
            if there >= g[state2]:
                continue
            g[state2] = there
            came[state2] = state
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            f = there + (abs(row2 - goal_row) + abs(col2 - goal_col)) * least
            push(keys, items, waiting, f, state2)
            waiting += 1
    if found < 0:
        return np.empty(0, np.int64), np.inf
    count = 1
    state = found
    while came[state] >= 0:
        state = came[state]
        count += 1
    path = np.empty(count, np.int64)
    state = found
    for k in range(count - 1, -1, -1):
        path[k] = state % n
        state = came[state]
    return path, g[found]
