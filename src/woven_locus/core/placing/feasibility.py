"""Where could this kind go? The whole map's answer at once."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from woven_locus.core.kinds import Kind

if TYPE_CHECKING:
    from woven_locus.core.plan import Plan


def feasible_map(plan: Plan, kind: Kind, turn: int = 0) -> npt.NDArray[np.bool_]:
    """For every slot: may the kind stand with its lowest cell there?

    Returns (rows, cols) bool. Agrees with `judge` for every slot. The map is the OR of the blocked
    mask shifted by each footprint cell; full rectangles are done side by side (w + h ORs, not w*h).
    """
    footprint = plan.footprint(kind, turn)
    blocked = plan.blocks != 0
    rows, cols = blocked.shape
    out = np.zeros((rows, cols), bool)
    h, w = rows - footprint.rows + 1, cols - footprint.cols + 1
    if h <= 0 or w <= 0:
        return out
    if len(footprint.cells) == footprint.cols * footprint.rows:
        across = blocked[:, :w].copy()
        for c in range(1, footprint.cols):
            across |= blocked[:, c : c + w]
        bad = across[:h].copy()
        for r in range(1, footprint.rows):
            bad |= across[r : r + h]
    else:
        bad = np.zeros((h, w), bool)
        for c, r in footprint.cells:
            bad |= blocked[r : r + h, c : c + w]
    np.logical_not(bad, out=out[:h, :w])
    return out
