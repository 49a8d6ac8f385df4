"""Room for agents that are wider than a cell."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Slot
from woven_locus.core.phrase import phrase

LARGEST_AGENT = 3


def with_room(
    code: npt.NDArray[np.uint8], costs: npt.NDArray[np.float64], size: int
) -> npt.NDArray[np.uint8]:
    """The cells on which an agent of size x size cells can stand, the others as code 0.

    code : (H, W) uint8.  costs : (256,) float64, inf blocks, code 0 among them.  size : 1 to
    LARGEST_AGENT; an agent's own cell is the middle one, for an even size the first of the upper half.
    Beyond the grid there is no room. Returns (H, W) uint8, `code` itself for size 1.
    """
    if not 1 <= size <= LARGEST_AGENT:
        raise ValueError(
            phrase(
                "an agent is 1 to {largest_agent} cells wide, not {size}",
                largest_agent=LARGEST_AGENT,
                size=size,
            )
        )
    if size == 1:
        return code
    rows, cols = code.shape
    is_open = np.isfinite(costs)[code]
    lead = size // 2
    padded = np.zeros((rows + size - 1, cols + size - 1), bool)
    padded[lead : lead + rows, lead : lead + cols] = is_open
    # One axis after the other: a block is open when all of its rows are.
    across = np.logical_and.reduce([padded[:, k : k + cols] for k in range(size)])
    fits = np.logical_and.reduce([across[k : k + rows] for k in range(size)])
    return np.where(fits, code, np.uint8(0))


def reaching(slots: Iterable[Slot], size: int) -> list[Slot]:
    """The agent's own cells from which one of its cells covers one of the slots."""
    lead = size // 2
    found: dict[Slot, None] = {}
    for row, col in slots:
        for d_row in range(size):
            for d_col in range(size):
                found[Slot(row + lead - d_row, col + lead - d_col)] = None
    return list(found)
