"""The fewest cells whose closing parts two places, as plain Python that Numba can compile.

Source: as many ways that share no cell lead from one place to the other as cells are needed to part them (K. Menger,
1927); the ways are found one by one, each of which may push earlier ones aside (L. Ford, D. Fulkerson, "Maximal
Flow Through a Network", Canad. J. Math. 8 (1956)), shortest first (J. Edmonds, R. Karp, J. ACM 19 (1972)).
"""

from __future__ import annotations

import numpy as np

_ENTRY, _GOAL = 1, 2


def least_cut(is_open, cols, rows, entries, goals, most):  # type: ignore[no-untyped-def]
    """The fewest cells, none of them an entry or a goal.

    is_open : (rows * cols,) bool, cells that may be entered, over their sides.  entries, goals : int64 flat slots, open.
    most : ways after which it is given up.
    Returns (cut, ways): int64 flat slots, ascending, and how many ways share no cell, -1 where an entry lies beside a
    goal, or is one. With more ways than `most` the cut is empty. O(cells x ways).
    """
    n = rows * cols
    role = np.zeros(n, np.uint8)
    for cell in entries:
        role[cell] |= _ENTRY
    for cell in goals:
        role[cell] |= _GOAL
    none = np.empty(0, np.int64)
    # The cell before and after each on the ways that were found, -1 off them.
    before = np.full(n, -1, np.int64)
    after = np.full(n, -1, np.int64)
    # States: 2 cell is where a way comes into a cell, 2 cell + 1 where it leaves.
    came = np.empty(2 * n, np.int64)
    queue = np.empty(2 * n, np.int64)
    ways = 0
    while True:
        came[:] = -1
        first, last = 0, 0
        for cell in entries:
            if role[cell] & _GOAL:
                return none, -1
            came[2 * cell + 1] = 2 * cell + 1
            queue[last] = 2 * cell + 1
            last += 1
        found = -1
        while first < last and found < 0:
            state = queue[first]
            first += 1
            cell = state >> 1
            if state & 1:
                col = cell % cols
                for side in range(4):
                    if side == 0:
                        other = cell - cols
                        inside = other >= 0
                    elif side == 1:
                        other = cell + 1
                        inside = col + 1 < cols
                    elif side == 2:
                        other = cell + cols
                        inside = other < n
                    else:
                        other = cell - 1
                        inside = col > 0
                    if not inside or not is_open[other] or role[other] & _ENTRY:
                        continue
                    if role[other] & _GOAL:
                        if role[cell] & _ENTRY:
                            return none, -1
                        came[2 * other] = state
                        found = 2 * other
                        break
                    if came[2 * other] >= 0:
                        continue
                    came[2 * other] = state
                    queue[last] = 2 * other
                    last += 1
                # A way that leaves here may be led another way from where it came in.
                if found < 0 and before[cell] >= 0 and came[2 * cell] < 0:
                    came[2 * cell] = state
                    queue[last] = 2 * cell
                    last += 1
            else:
                follows = 2 * cell + 1 if before[cell] < 0 else 2 * before[cell] + 1
                if came[follows] < 0:
                    came[follows] = state
                    queue[last] = follows
                    last += 1
        if found < 0:
            break
        ways += 1
        if ways > most:
            return none, ways
        # First what is led another way, then the new way.
        for turn in range(2):
            state = found
            while came[state] != state:
                old = came[state]
                a, b = old >> 1, state >> 1
                if turn == 0 and not old & 1 and state & 1 and a != b:
                    after[b] = -1
                    before[a] = -1
                if turn == 1 and old & 1 and not state & 1 and a != b:
                    if not role[a] & _ENTRY:
                        after[a] = b
                    if not role[b] & _GOAL:
                        before[b] = a
                state = old
    cut = np.empty(ways, np.int64)
    count = 0
    for cell in range(n):
        if came[2 * cell] >= 0 and came[2 * cell + 1] < 0 and before[cell] >= 0:
            cut[count] = cell
            count += 1
    return cut[:count], ways
