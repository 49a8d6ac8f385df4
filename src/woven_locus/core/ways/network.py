"""The road network: its junction graph and its connected groups, kept current from edited cells.

An edit `touch`es the cells that changed and then has the graph brought up to date, once, as its last act
(`Edit.apply`); whoever asks first for a graph that was never made has it made.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.errors import NotReady
from woven_locus.core.geometry import Box
from woven_locus.core.kernels.graph import GROUPS, NODES, RUNS, empty_arrays, with_room
from woven_locus.core.ways.graph import KEPT_UPDATES, GraphChanges, JunctionGraph
from woven_locus.core.ways.roads import PLAIN, RoadTable

Slots = npt.NDArray[np.int64]
# Until the kernels are compiled their twin takes some tens of microseconds a cell; on a larger network
# groups come from a pass in C, and the graph waits.
TWIN_LIMIT = 4_000
_SPARE = 256
# Nodes of which a search looks at all within a frame; and those below which nothing else matters.
_MOST_NODES, _FEW_NODES = 400_000, 4_000


class RoadNetwork:
    """The junction graph over the open road cells (4 neighbours). Made when first asked for.

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
        self._graph: JunctionGraph | None = None
        self._revision = 0
        self._log: list[tuple[int, GraphChanges]] = []
        self._dirty: list[Slots] = []
        self._present = np.zeros(256, bool)  # bytes that may lie somewhere
        self._scratch: tuple[npt.NDArray[Any], npt.NDArray[Any], npt.NDArray[Any]] | None = None
        self._stamp = 0
        self._plain: npt.NDArray[np.int32] | None = None
        self._plain_sizes: npt.NDArray[np.int64] | None = None
        # The array of labels that was made last, for whoever reads the whole network.
        self._labels: npt.NDArray[np.int32] | None = None

    # --- upkeep -----------------------------------------------------------------------------------

    def reset(self, table: RoadTable | None = None) -> None:
        """Everything may be different: other classes, or most of the map. Classes that have only another
        name or look leave the graph as it is."""
        before, self.table = self.table, table or self.table
        if table is not None and np.array_equal(before.costs, table.costs):
            return
        if self._graph is not None:
            self._revision += 1
            self._log.clear()
        self._graph = self._plain = self._labels = None
        self._dirty.clear()

    def touch(self, box: Box) -> None:
        """Road in `box` has changed."""
        shape = self.road.shape
        around = box.grown(1).clipped(shape)
        if self._graph is None:
            self._plain = self._labels = None
        elif around.shape[0] * around.shape[1] > self.road.size // 4:
            self.reset()
        else:
            rows = np.arange(around.r0, around.r1, dtype=np.int64)[:, None] * shape[1]
            self.touch_slots((rows + np.arange(around.c0, around.c1, dtype=np.int64)).ravel())

    def touch_slots(self, slots: Slots) -> None:
        """Doors at these flat slots have changed."""
        if self._graph is not None:
            self._dirty.append(slots)

    def bring_up_to_date(self) -> None:
        """Trace again what was touched. Nothing to do for a graph that was never made.
        O(cells of the runs touched + nodes of the smaller parts of a group that splits)."""
        if self._graph is None or not self._dirty:
            return
        slots = np.unique(np.concatenate(self._dirty))
        self._dirty.clear()
        flat = self.road.ravel()
        slots = slots[(flat[slots] != 0) | (self._graph.arrays.owner[slots] != 0)]
        if not len(slots):
            return
        self._present[flat[slots]] = True
        self._make_room(len(slots))
        self._update(slots)

    def _make(self) -> bool:
        """Make the graph from nothing; False for a network that is too large as long as the kernels are
        not compiled."""
        cells = np.flatnonzero(self.road)
        self._present = np.bincount(self.road.ravel()[cells], minlength=256) > 0
        if len(cells) > TWIN_LIMIT and not kernels.compiled_ready():
            return False
        self._plain = None
        # Room for the worst case: memory that is never written to is never taken.
        most = len(cells) + _SPARE
        arrays = empty_arrays(self.road.size, most, 2 * most)
        self._graph = JunctionGraph(arrays, self._revision, self._log)
        self._update(cells)
        self._log.clear()
        return True

    def _update(self, slots: Slots) -> None:
        rows, cols = self.road.shape
        assert self._graph is not None
        self._labels = None
        changes = kernels.update_graph(
            self._graph.arrays,
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
        self._revision += 1
        self._graph.revision = self._revision
        kept = GraphChanges(*(part.astype(np.int64) for part in changes))
        self._log.append((self._revision, kept))
        del self._log[:-KEPT_UPDATES]

    def _make_room(self, cells: int) -> None:
        assert self._graph is not None
        w = self._graph.arrays
        nodes, runs, head = len(w.at), len(w.ends), w.head
        if head[NODES] + cells + _SPARE // 2 >= nodes or head[GROUPS] + cells + 100 >= nodes:
            nodes = nodes * 3 // 2 + cells + _SPARE
        if head[RUNS] + 4 * cells + 8 >= runs:
            runs = runs * 3 // 2 + 4 * cells + _SPARE
        if nodes > len(w.at) or runs > len(w.ends):
            self._graph = JunctionGraph(with_room(w, nodes, runs), self._revision, self._log)

    # --- reading ----------------------------------------------------------------------------------

    @property
    def has_graph(self) -> bool:
        """Whether there is a graph, which is made if need be and up to date. There is none for a network
        that is too large as long as the kernels are not compiled."""
        if self._graph is None:
            return self._make()
        self.bring_up_to_date()
        return True

    @property
    def graph(self) -> JunctionGraph:
        """The graph, up to date. Raises NotReady where there is none yet, see `has_graph`."""
        if not self.has_graph:
            raise NotReady("the search kernels are not compiled yet; try again in a moment")
        assert self._graph is not None
        return self._graph

    @property
    def worthwhile(self) -> bool:
        """Whether a route is found sooner over the graph than over the cells, and within a frame. On open
        squares nearly every cell is a node."""
        if not self.has_graph:
            return False
        nodes = self.graph.node_count
        return nodes <= _FEW_NODES or (nodes <= _MOST_NODES and 3 * nodes <= self.graph.cell_count)

    @property
    def least(self) -> float:
        """The lowest move cost of any class that lies somewhere, or did; no step costs less."""
        known = self.table.costs[self._present & np.isfinite(self.table.costs)]
        return float(known.min()) if len(known) else 1.0

    def scratch(self) -> tuple[npt.NDArray[Any], npt.NDArray[Any], npt.NDArray[Any]]:
        """Costs, how each node was come by, and when it was seen: arrays for searches of the graph, used
        again and again. For the thread that edits only."""
        count = self.graph.node_room
        if self._scratch is None or len(self._scratch[0]) < count:
            self._scratch = (np.empty(count), np.zeros(count, np.int64), np.zeros(count, np.int64))
        return self._scratch

    def next_stamp(self) -> int:
        """A mark for what the next search sees, larger than those before."""
        self._stamp += 2
        return self._stamp

    def cells_of_run(self, run: int) -> Slots:
        """The flat slots between a run's two ends, from the first on."""
        w = self.graph.arrays
        sides, steps = w.side[run, :1].astype(np.int64), w.steps[run : run + 1].astype(np.int64)
        return self.cells_of_legs(w.at[w.ends[run, :1]], sides, steps)[:-1]

    def cells_of_legs(self, slots: Slots, sides: Slots, steps: Slots) -> Slots:
        """The flat slots of legs along the road, each from a slot out of a side for so many steps; without the
        first slot of each."""
        rows, cols = self.road.shape
        owner, costs = self.graph.arrays.owner, self.table.costs
        found: Slots = kernels.leg_cells(
            owner, self.road.ravel(), costs, rows, cols, slots, sides, steps
        )
        return found

    # --- groups: known without a graph too ----------------------------------------------------------

    def groups_at(self, slots: Slots) -> npt.NDArray[np.int32]:
        """The group at each flat slot, 0 off the network. Constant time for each."""
        if self.has_graph:
            return self.graph.groups_at(slots)
        found: npt.NDArray[np.int32] = self._plain_labels().ravel()[slots]
        return found

    def group_at(self, slot: int) -> int:
        """The group at a flat slot, 0 off the network. Constant time."""
        return (
            self.graph.group_at(slot) if self.has_graph else int(self._plain_labels().ravel()[slot])
        )

    def size(self, group: int) -> int:
        """Road cells in a group."""
        if self.has_graph:
            return self.graph.group_size(group)
        self._plain_labels()
        assert self._plain_sizes is not None
        return int(self._plain_sizes[group]) if 0 < group < len(self._plain_sizes) else 0

    @property
    def labels(self) -> npt.NDArray[np.int32]:
        """(H, W) int32: the group of every cell. O(cells of the map); not kept from edit to edit."""
        if not self.has_graph:
            return self._plain_labels()
        if self._labels is None:
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
