"""The lane graph as it is read: nodes, edges, and what they take in length and time."""

from __future__ import annotations

from copy import copy
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import GridSpec
from woven_locus.core.lanes.forms import Forms
from woven_locus.core.lanes.pattern import Patterns, Slots, by_value

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# Edges that leave a node at most.
OUT = 3
# Acceleration across the direction of travel that a bend may cost, in cells (the mean of a cell's two sides)
# per second squared: about what stands upright in a cart.
LATERAL = 2.5


class LaneEdges(NamedTuple):
    """Compressed sparse rows: the edges of the k-th node of `LaneGraph.nodes()` are first[k] to
    first[k + 1]; `to` counts in the same order. length : world units.  seconds : at the speeds of the
    classes, slower in bends. All of them (E,), `first` (N + 1,)."""

    first: Ints
    to: Ints
    length: Floats
    seconds: Floats


def sums_along(values: Floats, begins: Ints) -> Floats:
    """(E,) for each place the sum of the values from the beginning of its chain to its end.  begins : (C + 1,)."""
    heads = begins[:-1]
    sums = np.cumsum(values)
    sums -= np.repeat(sums[heads] - values[heads], np.diff(begins))
    return sums


class LaneGraph:
    """Nodes of the lane graph by number, from 1 on. A number stays while the lanes of its cell stay. Not to be kept
    beyond the next edit; `revision` says which state it is.

    first : (H*W,) int32, the first node of each flat slot, 0 for none.  pattern : (H*W,) int16.
    slot, form : (N,) int32 by node, slot -1 for a number that is free.  out : (N, OUT) int32, nodes that
    follow, 0 for none.  speeds : (256,) float64 by road byte, world units a second.
    """

    def __init__(
        self, spec: GridSpec, road: npt.NDArray[np.uint8], speeds: Floats, forms: Forms
    ) -> None:
        self.spec, self._road, self.speeds, self.forms = spec, road, speeds, forms
        self.revision = 0
        # Memory that is never written to is never taken: only where roads are.
        self.first = np.zeros(road.size, np.int32)
        self.pattern: Patterns = np.zeros(road.size, np.int16)
        self.slot = np.full(1, -1, np.int32)
        self.form = np.zeros(1, np.int32)
        self.out = np.zeros((1, OUT), np.int32)
        self._used = 1
        self._free: dict[int, Ints] = {}

    # --- upkeep, for `LaneNetwork` ------------------------------------------------------------------

    def take_back(self, slots: Slots) -> None:
        """The nodes of these cells are free."""
        slots = slots[self.pattern[slots] != 0]
        sizes = self.forms.size[self.pattern[slots]]
        for size, at in by_value(sizes):
            firsts = self.first[slots[at]].astype(np.int64)
            self.slot[(firsts[:, None] + np.arange(size)).ravel()] = -1
            free = self._free.get(size)
            self._free[size] = firsts if free is None else np.concatenate((free, firsts))
        self.pattern[slots] = 0
        self.first[slots] = 0

    def give(self, slots: Slots, patterns: Patterns) -> None:
        """Nodes for cells that have none; a pattern of 0 gets none."""
        slots, patterns = slots[patterns != 0], patterns[patterns != 0]
        sizes = self.forms.size[patterns]
        for size, at in by_value(sizes):
            mine = slots[at]
            free = self._free.get(size, np.zeros(0, np.int64))
            again = min(len(free), len(mine))
            self._free[size] = free[: len(free) - again]
            fresh = self._used + size * np.arange(len(mine) - again)
            self._used += size * len(fresh)
            self._make_room()
            self.first[mine] = np.concatenate((free[len(free) - again :], fresh))
        self.pattern[slots] = patterns
        for pattern, at in by_value(patterns):
            mine, places = slots[at], np.arange(self.forms.size[pattern])
            nodes = self.first[mine].astype(np.int64)[:, None] + places
            self.slot[nodes] = mine[:, None]
            self.form[nodes] = self.forms.base[pattern] + places

    def _make_room(self) -> None:
        room = len(self.slot)
        if self._used > room:
            more = max(self._used, room * 5 // 4 + 64) - room
            self.slot = np.concatenate((self.slot, np.full(more, -1, np.int32)))
            self.form = np.concatenate((self.form, np.zeros(more, np.int32)))
            self.out = np.concatenate((self.out, np.zeros((more, OUT), np.int32)))

    def for_roads(self, road: npt.NDArray[np.uint8]) -> LaneGraph:
        """The same arrays for a copy of the road layer: one of the two is given up."""
        twin = copy(self)
        twin._road = road
        return twin

    def copied(self, road: npt.NDArray[np.uint8]) -> LaneGraph:
        """A copy that changes by itself, for a copy of the road layer."""
        twin = self.for_roads(road)
        twin.forms = self.forms.copied()
        for name in ("first", "pattern", "slot", "form", "out"):
            setattr(twin, name, getattr(self, name).copy())
        twin._free = dict(self._free)
        return twin

    # --- reading ------------------------------------------------------------------------------------

    @property
    def room(self) -> int:
        """One more than the largest number: the length of an array by node."""
        return len(self.slot)

    def nodes(self) -> Ints:
        """All nodes, by row and column of their cell and their place in it, whatever was edited before."""
        return self.nodes_in(np.flatnonzero(self.pattern))[0]

    def numbers(self) -> Ints:
        """(room,) by node, its place in `nodes()`. O(nodes)."""
        nodes = self.nodes()
        found = np.zeros(self.room, np.int64)
        found[nodes] = np.arange(len(nodes))
        return found

    def nodes_at(self, slot: int) -> Ints:
        """The nodes of the cell at a flat slot."""
        count = int(self.forms.size[self.pattern[slot]]) if self.pattern[slot] else 0
        return int(self.first[slot]) + np.arange(count, dtype=np.int64)

    def nodes_in(self, slots: Ints) -> tuple[Ints, Ints]:
        """The nodes of the cells at flat slots, those of one after those of the other, and how many each has."""
        pattern = self.pattern[slots]
        sizes = np.where(pattern > 0, self.forms.size[pattern], 0).astype(np.int64)
        starts = np.cumsum(sizes) - sizes
        found = np.repeat(self.first[slots] - starts, sizes) + np.arange(int(sizes.sum()))
        return np.asarray(found, np.int64), sizes

    def places(self, nodes: Ints) -> Floats:
        """(N, 2) world points of nodes."""
        slots, forms, spec = self.slot[nodes].astype(np.int64), self.form[nodes], self.spec
        found = spec.centres(np.stack(divmod(slots, spec.cols), axis=1))
        found[:, 0] += self.forms.x[forms]
        found[:, 1] += self.forms.y[forms]
        return found

    def place(self, node: int) -> Point:
        """The world point of a node."""
        x, y = self.places(np.array([node]))[0].tolist()
        return Point(x, y)

    def cell(self, node: int) -> Cell:
        """The cell of a node."""
        return self.spec.cell_at_index(int(self.slot[node]))

    def headings(self, nodes: Ints) -> Floats:
        """(N,) degrees, 0 towards higher columns and 90 towards higher rows."""
        return self.forms.heading[self.form[nodes]]

    def turns_about(self, nodes: Ints) -> npt.NDArray[np.bool_]:
        """(N,) whether one turns about at a node, and so crosses the centre line."""
        return self.forms.about[self.form[nodes]]

    def lanes(self, nodes: Ints) -> Ints:
        """(N,) which lane of its direction each node lies in, 0 for the innermost."""
        return self.forms.lane[self.form[nodes]]

    def follows(self, node: int) -> list[int]:
        """The nodes to which one may go on."""
        return [to for to in self.out[node].tolist() if to]

    @property
    def lateral(self) -> float:
        """LATERAL in world units."""
        return LATERAL * (self.spec.cell_w + self.spec.cell_h) / 2

    @property
    def bend_slowness(self) -> Floats:
        """(F,) by form: seconds a world unit that a bend asks for at least, 0 on a straight."""
        return np.sqrt(1.0 / (self.lateral * self.forms.radius))

    @property
    def class_slowness(self) -> Floats:
        """(256,) by road byte: seconds a world unit at the speed of its class, inf where nobody enters."""
        with np.errstate(divide="ignore"):
            return 1.0 / self.speeds

    def slowness(self, nodes: Ints) -> Floats:
        """(N,) seconds a world unit at each node."""
        by_class = self.class_slowness[self._road.ravel()[self.slot[nodes]]]
        return np.maximum(by_class, self.bend_slowness[self.form[nodes]])

    def along(self, starts: Ints, ends: Ints) -> tuple[Floats, Floats]:
        """(E,) length in world units and (E,) seconds of the edges between nodes: half of each goes at the
        speed of either end."""
        a, b = self.places(starts), self.places(ends)
        length = np.hypot(b[:, 0] - a[:, 0], b[:, 1] - a[:, 1])
        return length, length * (self.slowness(starts) + self.slowness(ends)) / 2

    def edges(self) -> LaneEdges:
        """All edges. O(nodes)."""
        nodes = self.nodes()
        out = self.out[nodes].astype(np.int64)
        there = out > 0
        first = np.concatenate(([0], np.cumsum(there.sum(axis=1))))
        ends = out[there]
        starts = np.repeat(nodes, np.diff(first))
        return LaneEdges(first, self.numbers()[ends], *self.along(starts, ends))
