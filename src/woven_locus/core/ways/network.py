"""The road network: its junction graph and its connected groups, kept current from edited cells.

An edit `touch`es the cells that changed and then has the graph brought up to date, once, as its last act
(`Edit.apply`); whoever asks first for a graph that was never made has it made.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.distinct import distinct
from woven_locus.core.errors import NotReady
from woven_locus.core.geometry import Box
from woven_locus.core.kernels.graph import GROUPS, NODES, RUNS, empty_arrays, with_room
from woven_locus.core.phrase import phrase
from woven_locus.core.side_by_side import THREADS, each
from woven_locus.core.ways.graph import KEPT_UPDATES, GraphChanges, JunctionGraph
from woven_locus.core.ways.plain_groups import PlainGroups
from woven_locus.core.ways.roads import PLAIN, RoadTable

Slots = npt.NDArray[np.int64]
# Until the kernels are compiled their twin takes some tens of microseconds a cell; on a larger network
# groups come from a pass in C, and the graph waits.
TWIN_LIMIT = 4_000
_SPARE = 256
# Nodes of which a search looks at all within a frame; and those below which nothing else matters.
_MOST_NODES, _FEW_NODES = 400_000, 4_000


class Scratch:
    """Arrays for searches of the graph, used again and again. For the thread that edits only."""

    def __init__(self) -> None:
        self._stamp = 0
        self._costs, self._came, self._seen = (np.zeros(0, kind) for kind in (float, int, int))

    def arrays(self, room: int) -> tuple[npt.NDArray[np.float64], Slots, Slots]:
        """Costs, how each node was come by, and when it was seen, for so many nodes."""
        if len(self._costs) < room:
            self._costs = np.empty(room)
            self._came, self._seen = np.zeros(room, np.int64), np.zeros(room, np.int64)
        return self._costs, self._came, self._seen

    def next_stamp(self) -> int:
        """A mark for what the next search sees, larger than those before."""
        self._stamp += 2
        return self._stamp


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
        self._dirty: list[Slots] = []  # where road changed, and the cells around
        self._doors_at: list[Slots] = []  # where doors came or went
        self._costs_changed = False  # of classes that are as open as before
        self._present = np.zeros(256, bool)  # bytes that may lie somewhere
        self.scratch = Scratch()
        self._plain: PlainGroups | None = None
        # The array of labels that was made last, for whoever reads the whole network.
        self._labels: npt.NDArray[np.int32] | None = None

    # --- upkeep -----------------------------------------------------------------------------------

    def reset(self, table: RoadTable | None = None) -> None:
        """Everything may be different: other classes, or most of the map. Classes that have only another
        name or look leave the graph as it is; those that only cost more or less leave its shape."""
        before, self.table = self.table, table or self.table
        if table is not None and np.array_equal(before.costs, table.costs):
            return
        if table is not None and self._graph is not None:
            lies = self._present
            now = table.costs[lies]
            if np.array_equal(np.isfinite(before.costs[lies]), np.isfinite(now)):
                self._costs_changed |= not np.array_equal(before.costs[lies], now)
                return
        if self._graph is not None:
            self._revision += 1
            self._log.clear()
        self._graph = self._plain = self._labels = None
        self._dirty.clear()
        self._doors_at.clear()
        self._costs_changed = False

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
            columns = np.arange(around.c0, around.c1, dtype=np.int64)
            self._dirty.append((rows + columns).ravel())

    def touch_doors(self, slots: Slots) -> None:
        """Doors at these flat slots have come or gone."""
        if self._graph is not None:
            self._doors_at.append(slots)

    def bring_up_to_date(self) -> None:
        """Trace again what was touched. Nothing to do for a graph that was never made.
        O(cells of the runs touched + nodes of the smaller parts of a group that splits); with other costs,
        O(cells of the network)."""
        if self._graph is None:
            return
        if self._dirty or self._doors_at:
            roads = bool(self._dirty)
            slots = self._changed_slots()
            if len(slots):
                self._present[self.road.ravel()[slots]] = True
                self._make_room(len(slots))
                self._update(slots, roads)
        if self._costs_changed:
            self._costs_changed = False
            self._cost_anew()

    def _changed_slots(self) -> Slots:
        """Where the graph may have to be another, each slot once."""
        assert self._graph is not None
        flat, owner, doors = self.road.ravel(), self._graph.arrays.owner, self.doors.ravel()
        # Most slots touched are neither road nor were: they go before the rest is sorted.
        found = [mine[(flat[mine] != 0) | (owner[mine] != 0)] for mine in self._dirty]
        for mine in self._doors_at:
            # A door makes a node of a cell that was passed through; without one it may be passed again.
            own, some = owner[mine], doors[mine] > 0
            found.append(mine[(own > 0) & some | (own < 0) & ~some])
        self._dirty.clear()
        self._doors_at.clear()
        return distinct(np.concatenate(found))

    def _cost_anew(self) -> None:
        """Runs and groups are what they were; what a run costs is not."""
        assert self._graph is not None
        runs, none = self._graph.runs(), np.zeros(0, np.int64)
        given = self._given
        each(np.array_split(runs, THREADS), lambda: lambda some: kernels.cost_runs(*given, some))
        self._log_changes(GraphChanges(runs, runs, none, none))

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
        self._update(cells, roads=True)
        self._log.clear()
        return True

    def _update(self, slots: Slots, roads: bool) -> None:
        """roads : whether road changed there, not doors alone."""
        self._labels = None
        changes = kernels.update_graph(*self._given, slots, roads)
        self._log_changes(GraphChanges(*(part.astype(np.int64) for part in changes)))

    @property
    def _given(self) -> tuple[Any, ...]:
        """What the kernels that keep the graph take, see `kernels.junctions.update_graph`."""
        assert self._graph is not None
        road, doors, size = self.road.ravel(), self.doors.ravel(), map(float, self.cell)
        table = (self.table.costs, self.table.exits)
        return (self._graph.arrays, road, *table, doors, *self.road.shape, *size)

    def _log_changes(self, changes: GraphChanges) -> None:
        assert self._graph is not None
        self._revision += 1
        self._graph.revision = self._revision
        self._log.append((self._revision, changes))
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
            raise NotReady(phrase("the search kernels are not compiled yet; try again in a moment"))
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
        found: npt.NDArray[np.int32] = self._groups.labels.ravel()[slots]
        return found

    def group_at(self, slot: int) -> int:
        """The group at a flat slot, 0 off the network. Constant time."""
        if self.has_graph:
            return self.graph.group_at(slot)
        return int(self._groups.labels.ravel()[slot])

    def size(self, group: int) -> int:
        """Road cells in a group."""
        if self.has_graph:
            return self.graph.group_size(group)
        sizes = self._groups.sizes
        return int(sizes[group]) if 0 < group < len(sizes) else 0

    @property
    def labels(self) -> npt.NDArray[np.int32]:
        """(H, W) int32: the group of every cell. O(cells of the map); not kept from edit to edit."""
        if not self.has_graph:
            return self._groups.labels
        if self._labels is None:
            cells = np.flatnonzero(self.road)
            self._labels = np.zeros(self.road.shape, np.int32)
            self._labels.ravel()[cells] = self.groups_at(cells)
        return self._labels

    @property
    def _groups(self) -> PlainGroups:
        if self._plain is None:
            self._plain = PlainGroups(self.road, self.table.costs)
        return self._plain
