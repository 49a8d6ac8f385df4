"""The connected groups of a road network that has no graph yet: one pass in C over the whole map."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt


class PlainGroups:
    """labels : (H, W) int32, the group of every cell, from 1 on; 0 off the network.  sizes : (G + 1,)
    int64, road cells of each, 0 for none."""

    def __init__(self, road: npt.NDArray[np.uint8], costs: npt.NDArray[np.float64]) -> None:
        """road : (H, W) uint8.  costs : (256,) of each byte, inf where nobody enters."""
        from scipy import ndimage  # late: it takes longer to import than to run

        self.labels: npt.NDArray[np.int32]
        self.labels, count = ndimage.label(np.isfinite(costs)[road], output=np.int32)
        self.sizes: npt.NDArray[np.int64] = np.bincount(self.labels.ravel(), minlength=count + 1)
        self.sizes[0] = 0
