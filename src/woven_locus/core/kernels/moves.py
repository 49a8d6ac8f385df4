"""Steps from cell to cell, as plain Python that Numba can compile."""

from __future__ import annotations


def may_step(leaves, enters, move):  # type: ignore[no-untyped-def]
    """Whether traffic may go by a move 1 to 4 (north, east, south, west) or 5 to 8 (diagonal).

    leaves, enters : the side by which the cell that is left, and the one that is entered, is left when it is
    one way, else 0 (see `RoadTable.exits`). A one-way cell is left by its own side alone, not entered by it,
    and not cut across.
    """
    if leaves != 0 and leaves != move:
        return False
    return enters == 0 or (move <= 4 and enters != (move + 1) % 4 + 1)
