"""Steps from cell to cell, as plain Python that Numba can compile."""

from __future__ import annotations

import numpy as np

# The low bits of how one came to a cell: 0 for not at all, 1..8 the move that led there, 9 a start.
MOVE = 15
START = 9


def may_step(leaves, enters, move):  # type: ignore[no-untyped-def]
    """Whether traffic may go by a move 1 to 4 (north, east, south, west) or 5 to 8 (diagonal).

    leaves, enters : the side by which the cell that is left, and the one that is entered, is left when it is
    one way, else 0 (see `RoadTable.exits`). A one-way cell is left by its own side alone, not entered by it,
    and not cut across.
    """
    if leaves != 0 and leaves != move:
        return False
    return enters == 0 or (move <= 4 and enters != (move + 1) % 4 + 1)


def step_of(move, cell_w, cell_h, diag):  # type: ignore[no-untyped-def]
    """(rows, columns, length) of a move: 1 north, 2 east, 3 south, 4 west, then 5 NE, 6 SE, 7 SW, 8 NW.

    cell_w, cell_h, diag : world units that a step across, down and over a corner goes.
    """
    if move == 1:
        return -1, 0, cell_h
    if move == 2:
        return 0, 1, cell_w
    if move == 3:
        return 1, 0, cell_h
    if move == 4:
        return 0, -1, cell_w
    return -1 if (move == 5 or move == 8) else 1, 1 if move <= 6 else -1, diag


def way_back(came, last, cols):  # type: ignore[no-untyped-def]
    """int64 flat slots from a start to `last`. came : (n,) uint8, how one came to each cell, in the bits of `MOVE`."""
    # How far each move goes in a flat array.
    delta = np.array([0, -cols, 1, cols, -1, 1 - cols, 1 + cols, cols - 1, -1 - cols], np.int64)
    count = 1
    node = last
    while came[node] & MOVE != START:
        node -= delta[came[node] & MOVE]
        count += 1
    path = np.empty(count, np.int64)
    node = last
    for k in range(count - 1, -1, -1):
        path[k] = node
        if k:
            node -= delta[came[node] & MOVE]
    return path
