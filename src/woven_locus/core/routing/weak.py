"""Where the road network would fall apart: the cells whose loss unjoins structures.

Two structures are joined when some piece of road has a cell in front of a door of each. A cell is weak if
and only if two that were joined are not any more once it is gone; so the cell in front of an only door is
weak, and one on which a structure leans with only some of its doors need not be.

The pieces into which a group falls without a node are those of its block-cut tree (F. Harary, "Graph
Theory", 1969, ch. 4), laid out so that each is a range of places; what lies in a range is then counted.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.routing.counting import Doors
from woven_locus.core.value import Value, replace
from woven_locus.core.ways.doors import approach_slots
from woven_locus.core.ways.graph import JunctionGraph

Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]


class WeakPoint(Value):
    """A piece of road whose loss unjoins structures.

    cell : of it, the middle of a run.  cells : how many it has; the loss of any one of them is enough.
    structures : numbers of those that would be left without a door to the piece that most keep.
    road_cells : of the smaller pieces.
    """

    cell: Cell
    cells: int
    structures: tuple[int, ...]
    road_cells: int


def weak_points(plan: Plan, most: int = 1000) -> list[WeakPoint]:
    """The places that part structures from one another, those that part most first, at most `most`.

    Raises NotReady where the network has no graph yet. O((nodes + doors) log(doors) + cells of what is
    returned), but for the rare nodes at which structures have to be looked at one by one.
    """
    tree = _Tree(plan.network.graph)
    return _Weak(plan, tree).points(most) if len(tree.order) else []


def _summed_up(link: Ints, delta: Ints) -> Ints:
    """For each entry its own delta and those of all it links to in turn; an entry that links to itself is
    a root. By doubling, so that long chains take few passes."""
    end = len(link)
    total = np.append(delta, 0)
    link = np.append(np.where(link == np.arange(end), end, link), end)
    while (link != end).any():
        total = total + total[link]
        link = link[link]
    return total[:-1]


class _Tree:
    """The block-cut tree of each group. Places count from 0; those of a group follow one another.

    order : (K,) nodes as met.  place, size : by node, its place and how many places its subtree takes.
    starts : by node, whether a block begins with it, below its parent.  parent : by node, 0 for a root.
    first, span : by node that starts a block, the range of places of all below its parent through it.
    cells : by node, road cells of the nodes of its depth-first subtree and of their runs.
    """

    def __init__(self, graph: JunctionGraph) -> None:
        self.graph = graph
        count = graph.node_room
        enter, leave, low, up, order = (np.zeros(count, np.int32) for _ in range(5))
        met = kernels.low_links(graph.arrays, graph.largest_node, enter, leave, low, up, order)
        self.order: Ints = order[:met].astype(np.int64)
        self.up, self.low, self.enter = up, low, enter
        self.span: Ints = (leave - enter + 1).astype(np.int64)
        order_ = self.order
        self.parent: Ints = np.zeros(count, np.int64)
        run = up[order_]
        self.parent[order_] = np.where(run == 0, 0, graph.far_ends(run, order_))
        below = order_[run != 0]
        self.starts: Bools = np.zeros(count, bool)
        self.starts[below] = low[below] >= enter[self.parent[below]]
        roots = self.roots = order_[run == 0]
        self._lay_out(roots)
        self.root_first: Ints = self.place[roots]
        self.root_end: Ints = self.root_first + self.span[roots]
        self._first_places = self.root_first.tolist()
        self._count_cells()

    def _lay_out(self, roots: Ints) -> None:
        """Work out `place` and `size`: the node, then block after block that begins below it; in a block its
        nodes one after the other, each with all below it."""
        order, count = self.order, self.graph.node_room
        starters = order[self.starts[order]]
        self.size = np.ones(count, np.int64)
        np.add.at(self.size, self.parent[starters], self.span[starters])
        # The block of a node: that of its parent, unless one begins with it. A root has none.
        link = np.arange(count)
        goes_on = (self.parent > 0) & ~self.starts
        link[goes_on] = self.parent[goes_on]
        while True:
            further = link[link]
            if np.array_equal(further, link):
                break
            link = further
        # A node that no block leads to belongs to its root.
        block = link
        in_block = order[self.parent[order] > 0]
        within = _running(block[in_block], self.size[in_block])
        beside = np.zeros(count, np.int64)
        beside[starters] = _running(self.parent[starters], self.span[starters])
        delta = np.zeros(count, np.int64)
        delta[in_block] = 1 + beside[block[in_block]] + within
        above = np.arange(count)
        above[in_block] = self.parent[block[in_block]]
        ends = np.cumsum(self.span[roots])
        delta[roots] = ends - self.span[roots]
        self.place: Ints = _summed_up(above, delta)
        self.first = np.zeros(count, np.int64)
        self.first[starters] = self.place[self.parent[starters]] + 1 + beside[starters]

    def _count_cells(self) -> None:
        """A run belongs to whichever of its ends was met later."""
        count = self.graph.node_room
        own = np.zeros(count, np.int64)
        own[self.order] = 1
        runs = self.graph.runs()
        a, b = self.graph.ends_of(runs)
        np.add.at(own, np.where(self.enter[a] > self.enter[b], a, b), self.graph.steps_of(runs) - 1)
        through = np.concatenate(([0], np.cumsum(own[self.order])))
        begin = self.enter[self.order].astype(np.int64) - 1
        self.cells = np.zeros(count, np.int64)
        self.cells[self.order] = through[begin + self.span[self.order]] - through[begin]

    def group_of(self, nodes: Ints) -> Ints:
        """The group's number, from 0, of each node."""
        return np.searchsorted(self.root_first, self.place[nodes], side="right") - 1

    def group_at(self, node: int) -> int:
        """`group_of` one node. NumPy would let go of the interpreter and take it again at once: where that is done
        thousands of times, another thread that waits for it hardly ever gets it."""
        return bisect_right(self._first_places, int(self.place[node])) - 1

    def group_cells(self, groups: Ints) -> Ints:
        """Road cells of groups."""
        return np.asarray(self.cells[self.roots[groups]])

    def blocks_below(self, node: int) -> list[int]:
        """The nodes with which blocks begin below a node; without it each is a piece of its own."""
        found = []
        for run in self.graph.arms(node):
            if run:
                child = self.graph.far_end(run, node)
                if child != node and self.up[child] == run and self.starts[child]:
                    found.append(child)
        return found


def _running(keys: Ints, values: Ints) -> Ints:
    """For each entry the sum of the values before it that have the same key."""
    order = np.argsort(keys, kind="stable")
    sums = np.cumsum(values[order]) - values[order]
    first = np.flatnonzero(np.diff(keys[order], prepend=-1))
    out = np.empty_like(sums)
    lengths = np.diff(first, append=len(keys))
    out[order] = sums - np.repeat(sums[first], lengths)
    return out


class _Candidate(Value):
    """parted : structures without a door to the largest piece.  less : cells of the smaller pieces.
    node : that is lost, or below the run that is.  is_run : the run above it."""

    parted: int
    less: int
    node: int
    is_run: bool


class _Weak:
    def __init__(self, plan: Plan, tree: _Tree) -> None:
        self.plan, self.graph, self.tree = plan, tree.graph, tree
        number, place = [], []
        for structure, slots in approach_slots(plan, plan.register.alike()).items():
            nodes = self.graph.nodes_among(slots)
            place.append(tree.place[nodes])
            number.append(np.full(len(nodes), structure, np.int64))
        numbers = np.concatenate(number) if number else np.zeros(0, np.int64)
        places = np.concatenate(place) if place else np.zeros(0, np.int64)
        group = np.searchsorted(tree.root_first, places, side="right") - 1
        self.doors = Doors(numbers, places, group)

    def points(self, most: int) -> list[WeakPoint]:
        if not len(self.doors.number):
            return []
        found = [*self._runs(), *self._nodes()]
        found.sort(key=lambda each: (-each.parted, -each.less, each.node, each.is_run))
        return [self._point(each) for each in found[:most]]

    # --- runs: all cells between two nodes ------------------------------------------------------

    def _runs(self) -> Iterable[_Candidate]:
        tree, doors = self.tree, self.doors
        order = tree.order
        met = order[(tree.up[order] > 0) & (tree.low[order] == tree.enter[order])]
        met = met[self.graph.steps_of(tree.up[met]) > 1]
        first, end = tree.first[met], tree.first[met] + tree.span[met]
        group = tree.group_of(met)
        whole, cells = doors.of_groups(group), tree.group_cells(group)
        only_in, only_out = doors.within(first, end), whole - doors.touching(first, end)
        between = self.graph.steps_of(tree.up[met]) - 1
        inside = tree.cells[met] - between
        outside = cells - tree.cells[met]
        parted = np.minimum(only_in, only_out)
        less = np.where(only_in <= only_out, inside, outside)
        some = np.flatnonzero(parted > 0).tolist()
        for k in some:
            node = int(met[k])
            if doors.has_shared and not self._unjoins(node, [(int(first[k]), int(end[k]))], None):
                continue
            yield _Candidate(int(parted[k]), int(less[k]), node, True)

    # --- nodes: ends, junctions, and cells in front of doors --------------------------------------

    def _nodes(self) -> Iterable[_Candidate]:
        tree, doors = self.tree, self.doors
        order, count = tree.order, self.graph.node_room
        starters = order[tree.starts[order]]
        is_cut = np.zeros(count, bool)
        is_cut[tree.parent[starters]] = True
        places = tree.place[order]
        nodes = order[is_cut[order] | (doors.within(places, places + 1) > 0)]
        place, end = tree.place[nodes], tree.place[nodes] + tree.size[nodes]
        whole = doors.of_groups(tree.group_of(nodes))
        bare = doors.within(place, place + 1)  # those with no other door than here
        leaning = doors.touching(place, place + 1)  # those with a door here
        # Pieces: one for each block that begins here, and the rest of the group. For each, how many have a
        # door to it, and how many have all of theirs there.
        first = tree.first[starters]
        touch = doors.touching(first, first + tree.span[starters])
        only = doors.within(first, first + tree.span[starters])
        parent = tree.parent[starters]
        touch_rest = whole - doors.within(place, end)
        only_rest = whole - doors.touching(place, end)
        most, pieces, owning, touched = (np.zeros(count, np.int64) for _ in range(4))
        np.maximum.at(most, parent, touch)
        np.add.at(pieces, parent, 1)
        np.add.at(owning, parent, only > 0)
        np.add.at(touched, parent, np.where(only > 0, touch, 0))
        most[nodes] = np.maximum(most[nodes], touch_rest)
        pieces[nodes] += touch_rest > 0
        owning[nodes] += only_rest > 0
        touched[nodes] += np.where(only_rest > 0, touch_rest, 0)
        # Two pieces with structures of their own; or one, and a structure that has no door to it; or a
        # structure with no other door than here, and another one.
        sure = (owning[nodes] >= 2) | ((bare > 0) & (whole >= 2))
        sure |= (owning[nodes] == 1) & (touched[nodes] < whole) & (leaning == 0)
        # Where some lean on the node itself their other doors count; and of four pieces without a structure
        # of their own two may be shared by one structure, the others by another.
        unsure = ~sure & (pieces[nodes] >= 2) & ((leaning > 0) | (owning[nodes] == 0))
        for k in np.flatnonzero(sure | unsure).tolist():
            node = int(nodes[k])
            ranges = self._ranges(node)
            if unsure[k] and self._is_stub(ranges):
                continue
            if (unsure[k] or doors.has_shared) and not self._unjoins(node, ranges, int(place[k])):
                continue
            yield _Candidate(int(whole[k] - most[node]), self._less(node), node, False)

    def _is_stub(self, ranges: list[tuple[int, int]]) -> bool:
        """Whether nobody has a door below a node, so that all that lean on it keep what they have: the
        common case of a piece of road that leads nowhere."""
        bounds = np.array(ranges, np.int64).reshape(-1, 2)
        return not self.doors.touching(bounds[:, 0], bounds[:, 1]).any()

    def _ranges(self, node: int) -> list[tuple[int, int]]:
        """The ranges of places of the pieces below a node."""
        tree = self.tree
        return [
            (int(tree.first[child]), int(tree.first[child] + tree.span[child]))
            for child in tree.blocks_below(node)
        ]

    def _sizes(self, node: int) -> list[int]:
        """Cells of the pieces below a node, and of the rest last."""
        sizes = [int(self.tree.cells[child]) for child in self.tree.blocks_below(node)]
        whole = int(self.tree.cells[self.tree.roots[self.tree.group_at(node)]])
        return [*sizes, whole - 1 - sum(sizes)]

    def _less(self, node: int) -> int:
        sizes = self._sizes(node)
        return sum(sizes) - max(sizes)

    # --- one by one -----------------------------------------------------------------------------

    def _masks(
        self, node: int, ranges: list[tuple[int, int]], lost: int | None
    ) -> tuple[Ints, Ints]:
        """(numbers, bits) of the structures of a node's group: which of the ranges, or the rest (the
        highest bit), they have a door to.  lost : the place that is gone."""
        group = self.tree.group_at(node)
        numbers, places = self.doors.in_group(group)
        bits = np.full(len(places), 1 << len(ranges), np.int64)
        for k, (first, end) in enumerate(ranges):
            bits[(places >= first) & (places < end)] = 1 << k
        if lost is not None:
            bits[places == lost] = 0
        begins = np.flatnonzero(np.diff(numbers, prepend=-1))
        return numbers[begins], np.bitwise_or.reduceat(bits, begins)

    def _unjoins(self, node: int, ranges: list[tuple[int, int]], lost: int | None) -> bool:
        """Whether two structures of the group are left with no piece, and no other group, in common."""
        numbers, bits = self._masks(node, ranges, lost)
        by_bits: dict[int, list[int]] = {}
        for number, mask in zip(numbers.tolist(), bits.tolist(), strict=True):
            by_bits.setdefault(mask, []).append(number)
        masks = sorted(by_bits)
        shared = self.doors.groups_of
        for at, a in enumerate(masks):
            for b in masks[at if a == 0 else at + 1 :]:
                if a & b:
                    continue
                for one in by_bits[a]:
                    if one not in shared:
                        if len(by_bits[b]) > (a == b):
                            return True
                        continue
                    for other in by_bits[b]:
                        if other == one:
                            continue
                        if other not in shared or len(shared[one] & shared[other]) < 2:
                            return True
        return False

    def _point(self, found: _Candidate) -> WeakPoint:
        spec, tree, node = self.plan.spec, self.tree, found.node
        if found.is_run:
            run = int(tree.up[node])
            slots = self.plan.network.cells_of_run(run)
            span = (int(tree.first[node]), int(tree.first[node] + tree.span[node]))
            numbers, bits = self._masks(node, [span], None)
            inside, outside = numbers[bits == 1], numbers[bits == 2]
            lost = inside if len(inside) <= len(outside) else outside
            at = spec.cell_at_index(int(slots[len(slots) // 2]))
            return WeakPoint(at, len(slots), tuple(lost.tolist()), found.less)
        ranges, sizes = self._ranges(node), self._sizes(node)
        numbers, bits = self._masks(node, ranges, int(tree.place[node]))
        pieces = range(len(ranges) + 1)
        keep = max(pieces, key=lambda k: (int(np.count_nonzero(bits >> k & 1)), sizes[k]))
        lost = numbers[(bits >> keep & 1) == 0]
        point = WeakPoint(
            spec.cell_at_index(self.graph.slot_of(node)), 1, tuple(lost.tolist()), found.less
        )
        return replace(point, road_cells=sum(sizes) - sizes[keep])
