"""The upkeep of the lane graph: made when first asked for, then kept current from edited cells.

An edit `touch`es the cells whose road changed and has the graph brought up to date as its last act, as with
the junction graph (`ways.network`).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.lanes.forms import Forms
from woven_locus.core.lanes.graph import OUT, LaneGraph
from woven_locus.core.lanes.keep_side import KeepSide
from woven_locus.core.lanes.pattern import (
    Slots,
    by_value,
    distinct,
    lanes_by_byte,
    neighbours,
    patterns,
)
from woven_locus.core.ways.roads import RoadTable

# Cells up to which an edit is followed, however large a part of the map they are.
_FEW = 4096


class LaneNetwork:
    """The lane graph of a plan's roads.

    road : (H, W) uint8, shared with the plan, never changed here.  keep : the side of the road.
    """

    def __init__(
        self, road: npt.NDArray[np.uint8], table: RoadTable, spec: GridSpec, keep: KeepSide
    ) -> None:
        self._road, self._table, self._spec = road, table, spec
        self.keep = keep
        self._lanes = lanes_by_byte(table)
        self._graph: LaneGraph | None = None
        self._dirty: list[Slots] = []
        self._revision = 0

    # --- from edits ---------------------------------------------------------------------------------

    def touch(self, box: Box) -> None:
        """Road in `box` has changed."""
        if self._graph is None:
            return
        around = box.grown(1).clipped(self._road.shape)
        if around.shape[0] * around.shape[1] > max(_FEW, self._road.size // 4):
            self._drop()
            return
        rows = np.arange(around.r0, around.r1, dtype=np.int64)[:, None] * self._spec.cols
        self._dirty.append((rows + np.arange(around.c0, around.c1, dtype=np.int64)).ravel())

    def reset(self, table: RoadTable, keep: KeepSide) -> None:
        """Other classes of road, or the other side. Classes with as many lanes as before, and as open, leave
        the graph as it is; other speeds are read from the table."""
        lanes = lanes_by_byte(table)
        if keep is not self.keep or not np.array_equal(lanes, self._lanes):
            self._drop()
        elif self._graph is not None:
            self._graph.speeds = table.speeds
            self._revision += 1
            self._graph.revision = self._revision
        self._table, self.keep, self._lanes = table, keep, lanes

    def _drop(self) -> None:
        self._graph = None
        self._dirty.clear()

    def bring_up_to_date(self) -> None:
        """Lay out again what was touched. Nothing to do for a graph that was never made. O(cells touched)."""
        if self._graph is None or not self._dirty:
            return
        slots = np.concatenate(self._dirty) if len(self._dirty) > 1 else self._dirty[0]
        self._dirty.clear()
        flat, kept = self._road.ravel(), self._graph.pattern
        slots = distinct(slots[(flat[slots] != 0) | (kept[slots] != 0)], len(flat))
        if len(slots):
            self._lay(slots)

    # --- reading ------------------------------------------------------------------------------------

    @property
    def made(self) -> bool:
        """Whether there is a graph already."""
        return self._graph is not None

    @property
    def graph(self) -> LaneGraph:
        """The graph, up to date; made now if there is none. O(road cells) the first time."""
        if self._graph is None:
            spec = self._spec
            forms = Forms(spec.cell_w, spec.cell_h, self.keep.hand(spec.y_up))
            self._graph = LaneGraph(spec, self._road, self._table.speeds, forms)
            self._lay(np.flatnonzero(self._road))
        self.bring_up_to_date()
        return self._graph

    def copied(self, road: npt.NDArray[np.uint8]) -> LaneNetwork:
        """The same for a copy of the road layer, its graph too if there is one."""
        twin = LaneNetwork(road, self._table, self._spec, self.keep)
        if self._graph is not None:
            twin._graph = self._graph.copied(road)
            twin._dirty, twin._revision = list(self._dirty), self._revision
        return twin

    def adopt(self, other: LaneNetwork) -> None:
        """Take over the graph that was made for a copy of the same roads; one's own stays. The other must be nobody's any more,
        since a large graph takes longer than a frame to copy."""
        if self._graph is None and other._graph is not None:
            self._graph, self._revision = other.graph.for_roads(self._road), other._revision
            other._drop()

    # --- laying out ---------------------------------------------------------------------------------

    def _lay(self, slots: Slots) -> None:
        """Give the cells whose pattern is another one new nodes, and them and those around new edges."""
        graph = self._graph
        assert graph is not None
        self._revision += 1
        graph.revision = self._revision
        now = patterns(self._road, self._lanes, self._table.exits, slots)
        other = now != graph.pattern[slots]
        moved, now = slots[other], now[other]
        if not len(moved):
            return
        graph.forms.make(now)
        graph.take_back(moved)
        graph.give(moved, now)
        around = neighbours(moved, self._road.shape).ravel()
        around = around[around >= 0]
        again = np.concatenate((moved, around))
        again = distinct(again[graph.pattern[again] != 0], self._road.size)
        self._join(again)

    def _join(self, slots: Slots) -> None:
        """Work out all edges that leave the nodes of these cells."""
        graph = self._graph
        assert graph is not None
        for pattern, at in by_value(graph.pattern[slots]):
            some = slots[at]
            self._join_within(some, pattern)
            beyond = neighbours(some, self._road.shape)
            for side in range(4):
                if graph.forms.exit[pattern, side, 0] >= 0:
                    self._join_beyond(some, pattern, side, beyond[:, side])

    def _join_within(self, slots: Slots, pattern: int) -> None:
        graph = self._graph
        assert graph is not None
        lanes, first = graph.forms.of(pattern), graph.first[slots].astype(np.int64)
        graph.out[(first[:, None] + np.arange(len(lanes))).ravel()] = 0
        used = [0] * len(lanes)
        for start, end in lanes.edges.tolist():
            graph.out[first + start, used[start]] = first + end
            used[start] += 1

    def _join_beyond(self, slots: Slots, pattern: int, side: int, beyond: Slots) -> None:
        """The edges over one side into the next cells."""
        graph = self._graph
        assert graph is not None
        forms, theirs = graph.forms, graph.pattern[beyond]
        first, next_first = graph.first[slots], graph.first[beyond].astype(np.int64)
        came = (side + 2) % 4
        entry = next_first[:, None] + forms.entry[theirs, came]
        mine, other = int(forms.each_way[pattern]), forms.each_way[theirs]
        changes = forms.straight[pattern, came] & forms.straight[theirs, came]
        changes |= forms.branches[theirs]
        at = np.arange(len(slots))
        for lane in range(mine):
            to = np.minimum(lane, other - 1)
            row = graph.out[first + forms.exit[pattern, side, lane]]
            row[:] = 0
            row[:, 0] = entry[at, to]
            for column, step in ((1, 1), (2, -1)):
                may = changes & (to + step >= 0) & (to + step < other)
                row[may, column] = entry[at[may], to[may] + step]
            if lane == mine - 1:
                # More lanes beyond: the outermost fans out to those that nobody comes from.
                for column in range(1, OUT):
                    more = other > lane + column
                    row[more, column] = entry[at, np.minimum(lane + column, OUT - 1)][more]
            graph.out[first + forms.exit[pattern, side, lane]] = row
