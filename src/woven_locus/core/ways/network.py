"""The road network: its junction graph and its connected groups, kept current from edited cells."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Box
from woven_locus.core.kernels.graph import CELLS, EPOCH, FREE_NODES, GROUPS, NODES, RUNS, Woven
from woven_locus.core.ways.roads import PLAIN, RoadTable

Slots = npt.NDArray[np.int64]
# Until the kernels are compiled their twin takes some tens of microseconds a cell; on a larger network
# groups come from a pass in C, and the graph waits.
TWIN_LIMIT = 4_000
_SPARE = 256
# Nodes of which a search looks at all within a frame; and those below which nothing else matters.
_MOST_NODES, _FEW_NODES = 400_000, 4_000


class RoadNetwork:
    """The junction graph over the open road cells (4 neighbours). Worked out when first asked for.

    A closed cell is no part of it. One-way signs are: they have a say in the cost of a run, not in what
    is joined. doors : (H, W) uint8, how many doors open to each cell; kept by the plan.
    """

    def __init__(
        self,
        road: npt.NDArray[np.uint8],
        table: RoadTable = PLAIN,
        doors: npt.NDArray[np.uint8] | None = None,
        cell: tuple[float, float] = (1.0, 1.0),
    ) -> None:
        """road : (H, W) uint8, see `ways.roads`; shared with the plan, never changed here.
        cell : width and height, world units."""
        self.road, self.table, self.cell = road, table, cell
        self.doors = np.zeros(road.shape, np.uint8) if doors is None else doors
        self._woven: Woven | None = None
        self._dirty: list[Slots] = []
        self._epochs = 0  # those of graphs that were given up
        self._present = np.zeros(256, bool)  # bytes that may lie somewhere
        self._scratch: tuple[npt.NDArray[Any], npt.NDArray[Any], npt.NDArray[Any]] | None = None
        self._stamp = 0
        self._plain: npt.NDArray[np.int32] | None = None
        self._plain_sizes: npt.NDArray[np.int64] | None = None
        # The array of labels that was made last, for whoever reads the whole network.
        self._labels: npt.NDArray[np.int32] | None = None

    def reweave(self, table: RoadTable | None = None) -> None:
        """Everything may be different: other classes, or most of the map. Classes that have only another
        name or look leave the graph as it is."""
        before, self.table = self.table, table or self.table
        if table is not None and np.array_equal(before.costs, table.costs):
            return
        if self._woven is not None:
            self._epochs += int(self._woven.head[EPOCH]) + 1
        self._woven = self._plain = self._labels = None
        self._dirty.clear()

    def touch(self, box: Box) -> None:
        """Road in `box` has changed."""
        shape = self.road.shape
        around = box.grown(1).clipped(shape)
        if self._woven is None:
            self._plain = self._labels = None
        elif around.shape[0] * around.shape[1] > self.road.size // 4:
            self.reweave()
        else:
            rows = np.arange(around.r0, around.r1, dtype=np.int64)[:, None] * shape[1]
            self.touch_slots((rows + np.arange(around.c0, around.c1, dtype=np.int64)).ravel())

    def touch_slots(self, slots: Slots) -> None:
        """Doors at these flat slots have changed."""
        if self._woven is not None:
            self._dirty.append(slots)

    @property
    def woven(self) -> Woven | None:
        """The graph, up to date; None for a network that is too large as long as the kernels are not
        compiled. Not to be changed, nor kept beyond the next edit."""
        if self._woven is None:
            cells = np.flatnonzero(self.road)
            self._present = np.bincount(self.road.ravel()[cells], minlength=256) > 0
            if len(cells) > TWIN_LIMIT and not kernels.compiled_ready():
                return None
            self._plain = None
            # Room for the worst case: memory that is never written to is never taken.
            most = len(cells) + _SPARE
            self._woven = _room(self.road.size, most, 2 * most)
            self._weave(cells)
        elif self._dirty:
            slots = np.unique(np.concatenate(self._dirty))
            self._dirty.clear()
            flat = self.road.ravel()
            slots = slots[(flat[slots] != 0) | (self._woven.owner[slots] != 0)]
            self._present[flat[slots]] = True
            self._make_room(len(slots))
            self._weave(slots)
        return self._woven

    @property
    def worthwhile(self) -> bool:
        """Whether a route is found sooner over the graph than over the cells, and within a frame. On open
        squares nearly every cell is a node."""
        woven = self.woven
        if woven is None:
            return False
        nodes = int(woven.head[NODES] - woven.head[FREE_NODES])
        return nodes <= _FEW_NODES or (nodes <= _MOST_NODES and 3 * nodes <= woven.head[CELLS])

    @property
    def least(self) -> float:
        """The lowest move cost of any class that lies somewhere, or did; no step costs less."""
        known = self.table.costs[self._present & np.isfinite(self.table.costs)]
        return float(known.min()) if len(known) else 1.0

    def scratch(self) -> tuple[npt.NDArray[Any], npt.NDArray[Any], npt.NDArray[Any]]:
        """Costs, how each node was come by, and when it was seen: arrays for searches of the graph, used
        again and again. For the thread that edits only."""
        assert self._woven is not None
        if self._scratch is None or len(self._scratch[0]) < len(self._woven.at):
            count = len(self._woven.at)
            self._scratch = (np.empty(count), np.zeros(count, np.int64), np.zeros(count, np.int64))
        return self._scratch

    def next_stamp(self) -> int:
        """A mark for what the next search sees, larger than those before."""
        self._stamp += 2
        return self._stamp

    def _weave(self, slots: Slots) -> None:
        rows, cols = self.road.shape
        assert self._woven is not None
        self._labels = None
        kernels.weave(
            self._woven,
            self.road.ravel(),
            self.table.costs,
            self.table.exits,
            self.doors.ravel(),
            rows,
            cols,
            float(self.cell[0]),
            float(self.cell[1]),
            slots,
        )

    def _make_room(self, cells: int) -> None:
        woven = self._woven
        assert woven is not None
        nodes, runs = len(woven.at), len(woven.ends)
        head = woven.head
        if head[NODES] + cells + _SPARE // 2 >= nodes or head[GROUPS] + cells + 100 >= nodes:
            nodes = nodes * 3 // 2 + cells + _SPARE
        if head[RUNS] + 4 * cells + 8 >= runs:
            runs = runs * 3 // 2 + 4 * cells + _SPARE
        if nodes > len(woven.at) or runs > len(woven.ends):
            grown = _room(0, nodes, runs)
            used = 1 + int(max(head[:EPOCH]))
            for name in Woven._fields[1:]:
                held = getattr(woven, name)
                getattr(grown, name)[: min(used, len(held))] = held[:used]
            grown.head[:] = head
            self._woven = grown._replace(owner=woven.owner)

    def cells_of_run(self, run: int) -> Slots:
        """The flat slots between a run's two ends, from the first on."""
        woven = self.woven
        assert woven is not None
        rows, cols = self.road.shape
        found: Slots = kernels.spell(
            woven.owner,
            self.road.ravel(),
            self.table.costs,
            rows,
            cols,
            woven.at[woven.ends[run, :1]],
            woven.side[run, :1].astype(np.int64),
            woven.steps[run : run + 1].astype(np.int64),
        )
        return found[:-1]

    # --- groups --------------------------------------------------------------------------------

    @property
    def epoch(self) -> int:
        """A number that grows whenever groups are joined, split, come or go; -1 when not known."""
        woven = self.woven
        return self._epochs + int(woven.head[EPOCH]) if woven is not None else -1

    def groups_at(self, slots: Slots) -> npt.NDArray[np.int32]:
        """The group at each flat slot, 0 off the network. Constant time for each."""
        woven = self.woven
        if woven is None:
            found: npt.NDArray[np.int32] = self._plain_labels().ravel()[slots]
            return found
        own = woven.owner[slots]
        return woven.group[np.where(own > 0, woven.ends[np.maximum(own, 0), 0], -own)]

    def group_at(self, slot: int) -> int:
        """The group at a flat slot, 0 off the network. Constant time."""
        woven = self.woven
        if woven is None:
            return int(self._plain_labels().ravel()[slot])
        own = int(woven.owner[slot])
        return int(woven.group[woven.ends[own, 0] if own > 0 else -own])

    def size(self, group: int) -> int:
        """Road cells in a group."""
        woven = self.woven
        if woven is None:
            self._plain_labels()
            assert self._plain_sizes is not None
            return int(self._plain_sizes[group]) if 0 < group < len(self._plain_sizes) else 0
        return int(woven.size[group]) if 0 < group < len(woven.size) else 0

    @property
    def labels(self) -> npt.NDArray[np.int32]:
        """(H, W) int32: the group of every cell. O(cells of the map); not kept from edit to edit."""
        if self.woven is None:
            return self._plain_labels()
        if self._labels is None or self._dirty:
            cells = np.flatnonzero(self.road)
            self._labels = np.zeros(self.road.shape, np.int32)
            self._labels.ravel()[cells] = self.groups_at(cells)
        return self._labels

    def _plain_labels(self) -> npt.NDArray[np.int32]:
        if self._plain is None:
            from scipy import ndimage  # late: it takes longer to import than to run

            is_open = np.isfinite(self.table.costs)[self.road]
            self._plain, count = ndimage.label(is_open, output=np.int32)
            self._plain_sizes = np.bincount(self._plain.ravel(), minlength=count + 1)
            self._plain_sizes[0] = 0
        return self._plain


def _room(cells: int, nodes: int, runs: int) -> Woven:
    """Empty arrays; number 0 of everything is none."""
    return Woven(
        np.zeros(cells, np.int32),
        np.zeros(nodes, np.int64),
        np.zeros((nodes, 4), np.int32),
        np.zeros(nodes, np.int32),
        np.zeros((runs, 2), np.int32),
        np.zeros((runs, 2), np.int8),
        np.zeros(runs, np.int32),
        np.zeros((runs, 2)),
        np.zeros(nodes, np.int64),
        np.zeros(nodes, np.int32),
        np.zeros(runs, np.int32),
        np.zeros(nodes, np.int32),
        np.zeros(8, np.int64),
        np.zeros(nodes, np.int32),
        np.zeros(nodes, np.int32),
    )
