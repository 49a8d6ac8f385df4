"""Whether closing some cells parts two places, as plain Python that Numba can compile.

Cells that may be entered are joined over their sides; a wall of closed ones is joined over sides and corners, and all
around the grid is wall. Two places are parted when a ring of wall runs around one of them. Such a ring crosses
a way between the two an odd number of times, so it is found by adding up crossings along the cells that are to be
closed; the walls that stand already do not cross the way, and count as one place each.

Source of the idea: A. Rosenfeld, "Connectivity in Digital Pictures", J. ACM 17 (1970), for the two kinds of
joining; the crossings are a union-find with parities (R. Tarjan, "Efficiency of a Good But Not Linear Set Union
Algorithm", J. ACM 22 (1975)).
"""

from __future__ import annotations

import numpy as np


def parts(cells, walls, index, outs, backs, width):  # type: ignore[no-untyped-def]
    """Whether closing `cells` parts the two ends of a way, none of which is among them.

    All arrays are of the grid with one more cell on each side, flat, `width` to a row.
    cells : (N,) int64, open now.  walls : int32, the number of the wall that a closed cell belongs to, 0 where it is open.
    index : int32, 1 + place on the way, 0 off it; the way goes over sides only and passes no cell twice.
    outs, backs : (way,) int8, the direction, 0 north and clockwise in eighths, to the next and to the previous cell.
    O(8 N).
    """
    count = len(cells)
    # Nodes: the cells that are to be closed, then the walls that they touch.
    most = 9 * count
    up = np.arange(most)
    odd = np.zeros(most, np.uint8)
    known = np.zeros(8 * count, np.int64)
    used = 0
    steps = (-width, 1 - width, 1, width + 1, width, width - 1, -1, -width - 1)
    for i in range(count):
        cell = cells[i]
        mine = index[cell] - 1
        for side in range(8):
            other = cell + steps[side]
            node = -1
            cross = 0
            if walls[other] > 0:
                for k in range(used):
                    if known[k] == walls[other]:
                        node = count + k
                if node < 0:
                    known[used] = walls[other]
                    node = count + used
                    used += 1
            else:
                for k in range(i):
                    if cells[k] == other:
                        node = k
                if node < 0:
                    continue
                theirs = index[other] - 1
                if theirs >= 0 and on_left((side + 4) % 8, outs[theirs], backs[theirs]):
                    cross ^= 1
            if mine >= 0 and on_left(side, outs[mine], backs[mine]):
                cross ^= 1
            # The roots of both, and how often the ways to them cross.
            a, b = i, node
            at, bt = 0, 0
            while up[a] != a:
                at ^= odd[a]
                a = up[a]
            while up[b] != b:
                bt ^= odd[b]
                b = up[b]
            if a == b:
                if at ^ bt ^ cross:
                    return True
            else:
                up[a] = b
                odd[a] = at ^ bt ^ cross
    return False


def on_left(side, out, back):  # type: ignore[no-untyped-def]
    """Whether a direction lies to the left of a way that comes from `back` and goes on to `out`."""
    return 0 < (side - back) % 8 < (out - back) % 8


def parting(spots, offsets, walls, index, outs, backs, width, found):  # type: ignore[no-untyped-def]
    """`parts` for many places of one shape.

    spots : (S,) int64.  offsets : (N,) int64, of the cells from a spot; those that are closed already are passed over.
    found : (S,) bool, filled.
    """
    cells = np.empty(len(offsets), np.int64)
    for k in range(len(spots)):
        count = 0
        for offset in offsets:
            cell = spots[k] + offset
            if walls[cell] == 0:
                cells[count] = cell
                count += 1
        found[k] = parts(cells[:count], walls, index, outs, backs, width)
