"""Structures of one kind and turn together, so that thousands are looked at in a few array passes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core.register.register import Structure

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Alike:
    """Structures that differ in their place only.

    numbers : (N,) theirs.  lows : (N, 2) column and row of the cell of each.
    """

    kind: str
    turn: int
    numbers: Ints
    lows: Ints


def alike(structures: Iterable[Structure]) -> list[Alike]:
    """Structures by kind and turn, in the order in which each first comes. O(structures)."""
    groups: dict[tuple[str, int], list[Structure]] = {}
    for row in structures:
        groups.setdefault((row.kind, row.turn), []).append(row)
    found = []
    for (kind, turn), rows in groups.items():
        lows = np.empty((len(rows), 2), np.int64)
        lows[:, 0] = [row.cell.col for row in rows]
        lows[:, 1] = [row.cell.row for row in rows]
        found.append(Alike(kind, turn, np.array([row.number for row in rows], np.int64), lows))
    return found
