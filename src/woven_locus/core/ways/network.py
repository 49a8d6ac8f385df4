"""Which road cells are joined, kept current from edited boxes."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Box

# Until the kernels are compiled their twin walks a cell in a few microseconds; on a larger network
# a rebuild in C is quicker than that.
TWIN_LIMIT = 10_000
# Cells of an edited box up to which it is looked at by itself first.
SETTLE_LIMIT = 4096


class RoadNetwork:
    """Labels of joined road cells (4 neighbours). Worked out when first asked for."""

    def __init__(self, road: npt.NDArray[np.uint8]) -> None:
        """road : (H, W) uint8, 0 is none; shared with the plan, never changed here."""
        self._road = road
        self._labels: npt.NDArray[np.int32] | None = None
        self._dirty: list[Box] = []
        self._next = 1
        self._sizes: dict[int, int] = {}

    def touch(self, box: Box) -> None:
        """Road in `box` has changed."""
        self._dirty.append(box)

    @property
    def labels(self) -> npt.NDArray[np.int32]:
        """(H, W) int32: 0 off the road, else a number that joined cells share."""
        if self._labels is None:
            self._rebuild()
        elif self._dirty:
            self._update()
        assert self._labels is not None
        return self._labels

    def size(self, label: int) -> int:
        """Road cells in a group."""
        _ = self.labels
        return self._sizes.get(label, 0)

    def _rebuild(self) -> None:
        self._dirty.clear()
        h, w = self._road.shape
        cells = np.flatnonzero(self._road)
        if len(cells) <= TWIN_LIMIT or kernels.compiled_ready():
            self._labels = np.zeros((h, w), np.int32)
            self._next, found = kernels.relabel(
                self._road.ravel(), w, h, self._labels.ravel(), cells, 1
            )
            self._sizes = {1 + k: int(size) for k, size in enumerate(found)}
            return
        from scipy import ndimage  # late: it takes longer to import than to run

        self._labels, count = ndimage.label(self._road != 0, output=np.int32)
        self._next = count + 1
        sizes = np.bincount(self._labels.ravel(), minlength=count + 1)
        self._sizes = {label: int(sizes[label]) for label in range(1, count + 1)}

    def _update(self) -> None:
        assert self._labels is not None
        h, w = self._road.shape
        boxes = _apart([box.grown(1).clipped((h, w)) for box in self._dirty])
        self._dirty.clear()
        if all(self._settle(box) for box in boxes):
            return
        # Groups that the boxes touch are numbered anew; all others keep their number.
        touched: set[int] = set()
        for box in boxes:
            touched.update(np.unique(self._labels[box.slices]).tolist())
        touched.discard(0)
        walk = sum(self._sizes[label] for label in touched)
        if (
            self._next > 2**31 - 2 - h * w
            or (walk > TWIN_LIMIT and not kernels.compiled_ready())
            or sum(box.shape[0] * box.shape[1] for box in boxes) > h * w // 4
        ):
            self._rebuild()
            return
        seeds = np.unique(np.concatenate([_slots(box, w) for box in boxes]))
        first = self._next
        self._next, sizes = kernels.relabel(
            self._road.ravel(), w, h, self._labels.ravel(), seeds, first
        )
        for label in touched:
            del self._sizes[label]
        self._sizes.update({first + k: int(size) for k, size in enumerate(sizes)})

    def _settle(self, box: Box) -> bool:
        """The usual edit, at the cost of its box alone: road lengthened, shortened or widened.

        Within the box (which holds a margin of one cell around what changed), if all that is left
        of each group is still in one piece, and no piece holds two groups, then no group was split
        or joined: whatever leads out of the box leads out of that piece. The margin must not have
        changed itself, which is why overlapping boxes are looked at as one. False, with nothing
        changed, when it is not so simple.
        """
        assert self._labels is not None
        if box.shape[0] * box.shape[1] > SETTLE_LIMIT:
            return False
        road = np.ascontiguousarray(self._road[box.slices])
        old = self._labels[box.slices]
        pieces = np.zeros(road.shape, np.int32)
        count, _ = kernels.relabel(
            road.ravel(), box.shape[1], box.shape[0], pieces.ravel(), np.flatnonzero(road), 1
        )
        kept = (pieces > 0) & (old > 0)
        pairs = np.unique(np.stack([pieces[kept], old[kept]], axis=1), axis=0)
        if len(np.unique(pairs[:, 0])) < len(pairs) or len(np.unique(pairs[:, 1])) < len(pairs):
            return False
        for label, gone in zip(
            *np.unique(old[(pieces == 0) & (old > 0)], return_counts=True), strict=True
        ):
            self._sizes[int(label)] -= int(gone)
            if not self._sizes[int(label)]:
                del self._sizes[int(label)]
        name = np.zeros(count, np.int32)
        name[pairs[:, 0]] = pairs[:, 1]
        for piece in range(1, count):
            come = int(((pieces == piece) & (old == 0)).sum())
            if not name[piece]:
                name[piece] = self._next
                self._next += 1
            label = int(name[piece])
            self._sizes[label] = self._sizes.get(label, 0) + come
        old[:] = name[pieces]
        return True


def _apart(boxes: list[Box]) -> list[Box]:
    """The boxes, with those that overlap replaced by the one around them."""
    apart: list[Box] = []
    for box in boxes:
        while near := next((other for other in apart if other.touches(box)), None):
            apart.remove(near)
            box = box.union(near)
        apart.append(box)
    return apart


def _slots(box: Box, cols: int) -> npt.NDArray[np.int64]:
    """Flat slots of a box, row by row."""
    rows = np.arange(box.r0, box.r1, dtype=np.int64)[:, None] * cols
    return (rows + np.arange(box.c0, box.c1, dtype=np.int64)).ravel()
