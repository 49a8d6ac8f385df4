"""A* over the cells of a grid, as plain Python that Numba can compile.

Source of the algorithm: P. Hart, N. Nilsson, B. Raphael, "A Formal Basis for the Heuristic
Determination of Minimum Cost Paths", IEEE Trans. SSC 4 (1968); the open list is a ring of buckets
after R. Dial, "Algorithm 360: Shortest-path forest with topological ordering", CACM 12 (1969).

Buckets hold a range of f, so a cell may be expanded before its best g is known; it is then opened
again. That keeps the answer optimal for any bucket width: the search ends only when no open bucket
can hold an f below the best goal found.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.moves import MOVE, START, may_step, way_back
from woven_locus.core.kernels.room import twice

# Over the low bits of a cell's state: how one came there.
_CLOSED = 16
_GOAL = 32


def search(code, cols, rows, table, exits, cell_w, cell_h, moves, starts, goals, least):  # type: ignore[no-untyped-def]
    """Cheapest path from any of `starts` to any of `goals`.

    code : (rows*cols,) uint8, what each cell is.  table : (256,) float64, move cost of each code,
    inf blocks.  exits : (256,) uint8, the move 1 to 4 by which a one-way cell of each code is left, else
    0; empty where there are none.  cell_w, cell_h : world units.  moves : 4 or 8; a diagonal needs both cells that it
    squeezes between.  starts, goals : int64 flat slots, at least one each, all enterable.
    least : the lowest finite cost in use, for the heuristic.

    A step costs its length times the mean cost of the two cells it joins.
    Returns (path, cost, explored): int64 flat slots from start to goal (empty when there is no
    path), float64, and how many cells were expanded. O(n) for bounded cost ratios. Not checked.
    """
    n = rows * cols
    signs = len(exits) > 0
    state = np.zeros(n, np.uint8)
    g = np.empty(n, np.float64)
    diag = np.sqrt(cell_w * cell_w + cell_h * cell_h)

    # The goals' bounding box: distance to it never exceeds distance to the nearest goal.
    top, left = rows, cols
    bottom, right = -1, -1
    for goal in goals:
        row = goal // cols
        col = goal - row * cols
        top = min(top, row)
        bottom = max(bottom, row)
        left = min(left, col)
        right = max(right, col)
        state[goal] = _GOAL
    h_w = cell_w * least
    h_h = cell_h * least
    h_d = diag * least if moves == 8 else h_w + h_h

    most = least
    for k in range(256):
        if table[k] < np.inf and table[k] > most:
            most = table[k]
    longest = (diag if moves == 8 else max(cell_w, cell_h)) * most
    width = min(cell_w, cell_h) * least
    # The f values waiting at any time span at most the starts' own spread and one step there and
    # back. A ring that would grow too long gets wider buckets instead; the answer stays exact.
    low = np.inf
    high = 0.0
    for start in starts:
        row = start // cols
        col = start - row * cols
        d_c = max(left - col, col - right, 0)
        d_r = max(top - row, row - bottom, 0)
        both = min(d_c, d_r)
        f = both * h_d + (d_c - both) * h_w + (d_r - both) * h_h
        low = min(low, f)
        high = max(high, f)
    span = high - low + 2.0 * longest
    ring = 4
    while (ring - 2) * width < span and ring < 65536:
        ring *= 2
    width = max(width, span / (ring - 2))
    inverse = 1.0 / width

    head = np.full(ring, -1, np.int64)
    room = max(1024, 2 * len(starts))
    entry_cell = np.empty(room, np.int64)
    entry_next = np.empty(room, np.int64)
    used = 0
    free = -1
    waiting = 0
    bucket = int(low * inverse)
    for start in starts:
        if state[start] & MOVE:
            continue
        state[start] |= START
        g[start] = 0.0
        row = start // cols
        col = start - row * cols
        d_c = max(left - col, col - right, 0)
        d_r = max(top - row, row - bottom, 0)
        both = min(d_c, d_r)
        f = both * h_d + (d_c - both) * h_w + (d_r - both) * h_h
        slot = int(f * inverse) & (ring - 1)
        entry_cell[used] = start
        entry_next[used] = head[slot]
        head[slot] = used
        used += 1
        waiting += 1

    best = np.inf
    best_goal = -1
    for goal in goals:
        if state[goal] & MOVE == START:
            best = 0.0
            best_goal = goal
    explored = 0
    while waiting > 0:
        slot = bucket & (ring - 1)
        entry = head[slot]
        if entry < 0:
            bucket += 1
            if bucket * width >= best:
                break
            continue
        head[slot] = entry_next[entry]
        node = entry_cell[entry]
        entry_next[entry] = free
        free = entry
        waiting -= 1
        here = state[node]
        if here & _CLOSED:
            continue
        state[node] = here | _CLOSED
        g_here = g[node]
        row = node // cols
        col = node - row * cols
        if best < np.inf:
            d_c = max(left - col, col - right, 0)
            d_r = max(top - row, row - bottom, 0)
            both = min(d_c, d_r)
            if g_here + (both * h_d + (d_c - both) * h_w + (d_r - both) * h_h) >= best:
                continue
        explored += 1
        if here & _GOAL:
            continue
        cost_here = table[code[node]]
        leaves = exits[code[node]] if signs else 0
        # Among equal f the newest entry is expanded first: take the way that has furthest to go last.
        if max(left - col, col - right) > max(top - row, row - bottom):
            turn = 2 if col < left else 0
        else:
            turn = 3 if row < top else 1
        for k in range(moves):
            move = 1 + ((k + turn) & 3) if k < 4 else k + 1
            # `step_of` written out: called here, 8 moves measured a tenth slower.
            d_row = 0
            d_col = 0
            length = cell_h
            if move == 1:
                d_row = -1
            elif move == 2:
                d_col = 1
                length = cell_w
            elif move == 3:
                d_row = 1
            elif move == 4:
                d_col = -1
                length = cell_w
            else:
                d_row = -1 if (move == 5 or move == 8) else 1
                d_col = 1 if move <= 6 else -1
                length = diag
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
            g2 = g_here + length * (cost_here + cost2) * 0.5
            there = state[node2]
            if there & MOVE and g[node2] <= g2:
                continue
            d_c = max(left - col2, col2 - right, 0)
            d_r = max(top - row2, row2 - bottom, 0)
            both = min(d_c, d_r)
            f = g2 + (both * h_d + (d_c - both) * h_w + (d_r - both) * h_h)
            if f >= best:
                continue
            g[node2] = g2
            state[node2] = (there & _GOAL) | move
            if there & _GOAL:
                best = g2
                best_goal = node2
            if free >= 0:
                entry = free
                free = entry_next[entry]
            else:
                if used == room:
                    entry_cell = twice(entry_cell)
                    entry_next = twice(entry_next)
                    room *= 2
                entry = used
                used += 1
            # Rounding may put f a hair below the bucket in hand; it must not land behind it.
            slot = max(bucket, int(f * inverse)) & (ring - 1)
            entry_cell[entry] = node2
            entry_next[entry] = head[slot]
            head[slot] = entry
            waiting += 1

    if best_goal < 0:
        return np.empty(0, np.int64), np.inf, explored
    return way_back(state, best_goal, cols), best, explored
