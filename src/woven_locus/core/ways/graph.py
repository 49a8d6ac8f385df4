"""The junction graph as it is read: nodes, runs, groups, and what an update made anew.

Nobody but this module and the kernels knows how the arrays are laid out.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.distinct import distinct
from woven_locus.core.kernels.graph import CELLS, EPOCH, FREE_NODES, NODES, RUNS, GraphArrays

Ints = npt.NDArray[np.int64]
# A graph whose changes are further back than this many updates is read anew.
KEPT_UPDATES = 256


class GraphChanges(NamedTuple):
    """What updates did. Numbers are used again, so that one may stand on both sides; so does a run that only
    costs something else now.

    runs_gone, runs_made : runs given up, and runs traced.  nodes_gone, nodes_touched : nodes given up, and
    nodes that are new or at which a run was traced. All int64, each number once.
    """

    runs_gone: Ints
    runs_made: Ints
    nodes_gone: Ints
    nodes_touched: Ints


class JunctionGraph:
    """The junction graph over the open road cells of a plan; see `kernels.junctions` for what a node and a
    run are. Slots are flat. Not to be kept beyond the next edit.

    arrays : as the kernels take them.  revision : grows with every update that changed anything.
    """

    def __init__(
        self, arrays: GraphArrays, revision: int, log: list[tuple[int, GraphChanges]]
    ) -> None:
        self.arrays, self.revision = arrays, revision
        self._log = log
        self._range_of, self._range = -1, (0.0, 0.0)

    # --- what there is ----------------------------------------------------------------------------

    def nodes(self) -> Ints:
        """All nodes, ascending. O(nodes)."""
        w = self.arrays
        used = np.arange(1, int(w.head[NODES]) + 1, dtype=np.int64)
        # A number that was given up may be left with the slot of another node.
        used = used[w.at[used] >= 0]
        found: Ints = used[w.owner[w.at[used]] == -used]
        return found

    def runs(self) -> Ints:
        """All runs, ascending. O(runs)."""
        used = np.arange(1, int(self.arrays.head[RUNS]) + 1, dtype=np.int64)
        return used[self.arrays.steps[used] > 0]

    @property
    def node_room(self) -> int:
        """One more than the largest number that a node may have: the length of an array by node."""
        return len(self.arrays.at)

    @property
    def run_room(self) -> int:
        """The length of an array by run."""
        return len(self.arrays.ends)

    @property
    def largest_node(self) -> int:
        """The largest number that a node has, or had."""
        return int(self.arrays.head[NODES])

    @property
    def node_count(self) -> int:
        """How many nodes there are. Constant time."""
        return int(self.arrays.head[NODES] - self.arrays.head[FREE_NODES])

    @property
    def cell_count(self) -> int:
        """Road cells of the network. Constant time."""
        return int(self.arrays.head[CELLS])

    # --- from a cell ------------------------------------------------------------------------------

    def node_at(self, slot: int) -> int:
        """The node on a slot, or 0."""
        return max(0, -int(self.arrays.owner[slot]))

    def run_at(self, slot: int) -> int:
        """The run that passes through a slot, its two ends apart, or 0."""
        return max(0, int(self.arrays.owner[slot]))

    def is_node(self, slots: Ints) -> npt.NDArray[np.bool_]:
        """Whether each slot holds a node."""
        return self.arrays.owner[slots] < 0

    def nodes_among(self, slots: Ints) -> Ints:
        """The nodes that stand on some of the slots, each once, ascending."""
        own = self.arrays.owner[slots]
        return distinct(-own[own < 0]).astype(np.int64)

    def slots(self) -> Ints:
        """All slots of the network, ascending. O(cells of the map)."""
        return np.flatnonzero(self.arrays.owner)

    def values_at(
        self, slots: Ints, by_node: npt.NDArray[np.float64], by_run: npt.NDArray[np.float64]
    ) -> npt.NDArray[np.float64]:
        """What arrays by node and by run say of each slot of the network."""
        own = self.arrays.owner[slots]
        return np.where(own > 0, by_run[np.maximum(own, 0)], by_node[np.maximum(-own, 0)])

    def group_at(self, slot: int) -> int:
        """The group at a slot, 0 off the network. Constant time."""
        w = self.arrays
        own = int(w.owner[slot])
        return int(w.group[w.ends[own, 0] if own > 0 else -own])

    def groups_at(self, slots: Ints) -> npt.NDArray[np.int32]:
        """The group at each slot, 0 off the network. Constant time for each."""
        w = self.arrays
        own = w.owner[slots]
        return w.group[np.where(own > 0, w.ends[np.maximum(own, 0), 0], -own)]

    def group_size(self, group: int) -> int:
        """Road cells in a group."""
        return int(self.arrays.size[group]) if 0 < group < len(self.arrays.size) else 0

    @property
    def group_epoch(self) -> int:
        """Grows when groups join, split, come or go."""
        return int(self.arrays.head[EPOCH])

    # --- nodes and runs ---------------------------------------------------------------------------

    def slot_of(self, node: int) -> int:
        """The flat slot of a node."""
        return int(self.arrays.at[node])

    def arms(self, node: int) -> list[int]:
        """The runs that leave a node, by side 0 to 3; 0 where none does. A ring leaves by two."""
        return self.arrays.arm[node].tolist()  # type: ignore[no-any-return]

    def ends(self, run: int) -> tuple[int, int]:
        """The nodes at a run's two ends; the same node twice for a ring."""
        first, second = self.arrays.ends[run].tolist()
        return first, second

    def far_end(self, run: int, node: int) -> int:
        """The end of a run that is not `node`; `node` for a ring."""
        first, second = self.ends(run)
        return second if first == node else first

    def far_ends(self, runs: npt.NDArray[np.integer], nodes: Ints) -> Ints:
        """`far_end` of each run, seen from the node in the same place."""
        ends = self.arrays.ends[runs]
        return np.asarray(np.where(ends[:, 0] == nodes, ends[:, 1], ends[:, 0]), np.int64)

    def steps(self, run: int) -> int:
        """Steps from one end of a run to the other; one more than the cells between them."""
        return int(self.arrays.steps[run])

    def steps_of(self, runs: npt.NDArray[np.integer]) -> npt.NDArray[np.int32]:
        """`steps` of each run."""
        return np.asarray(self.arrays.steps[runs])

    def ends_of(self, runs: Ints) -> tuple[Ints, Ints]:
        """The first and the second end of each run."""
        ends = self.arrays.ends[runs].astype(np.int64)
        return ends[:, 0], ends[:, 1]

    def costs(self, run: int) -> tuple[float, float]:
        """From the first end of a run to the second, and back; inf where a one-way cell forbids it."""
        there, back = self.arrays.toll[run].tolist()
        return there, back

    def cost_range(self) -> tuple[float, float]:
        """The least and the largest cost of any run in a direction in which it is open; 0, 0 without one.
        O(runs), once a revision."""
        if self._range_of != self.revision:
            costs = self.arrays.toll[self.runs()]
            costs = costs[np.isfinite(costs)]
            self._range = (float(costs.min()), float(costs.max())) if len(costs) else (0.0, 0.0)
            self._range_of = self.revision
        return self._range

    # --- what changed -----------------------------------------------------------------------------

    def changes_since(self, revision: int) -> GraphChanges | None:
        """What was given up and made anew since a revision; None when that is not known any more, so that
        all must be read again."""
        if revision == self.revision:
            none = np.zeros(0, np.int64)
            return GraphChanges(none, none, none, none)
        later = [changes for at, changes in self._log if at > revision]
        # Every revision has one entry; a gap means that the graph was made from nothing in between.
        if revision < 0 or len(later) != self.revision - revision:
            return None
        return GraphChanges(
            *(np.unique(np.concatenate(parts)) for parts in zip(*later, strict=True))
        )
