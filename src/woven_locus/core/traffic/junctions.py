"""The junctions of a network of tracks: which turns lead through each, and who goes first there."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import JunctionRule, Rule, Turn
from woven_locus.core.kernels.traffic_state import Rules
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lanes.pattern import OUT_SHIFT, crossed, lanes_of, neighbours, open_sides
from woven_locus.core.traffic.tracks import Tracks
from woven_locus.core.ways.roads import RoadTable, class_of

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]

# Lanes up to which people cross at a junction: one each way.
BROADEST_CROSSED = 3
_ALL = np.int64(-1)


class Junctions:
    """Cells that branch or in which people cross, and the movements through them.

    branches : (J,) whether it is a junction; else people cross there.  areas : (J,) the area of each, by row and
    column of its cell.  slots : (J,) flat slots.  arms : (J, 4) uint8, the road byte of the cell beyond each side, 0
    outside.  lanes : (J,) of the class of its cell.
    came, goes : (M,) the side by which each movement of the tracks comes in, and by which it leaves, -1 for one
    that leads through no junction.  lane : (M,) dense node at which it begins: the lane of approach.
    """

    def __init__(self, graph: LaneGraph, tracks: Tracks, road: npt.NDArray[np.uint8]) -> None:
        self._tracks, self._spec = tracks, graph.spec
        pattern = graph.pattern[tracks.slots]
        branches = graph.forms.branches[pattern]
        areas = np.flatnonzero((tracks.side < 0) & (branches | crossed(pattern)))
        self.areas = areas[np.argsort(tracks.slots[areas], kind="stable")]
        self.branches = branches[self.areas]
        self.slots = tracks.slots[self.areas]
        beyond = neighbours(self.slots, road.shape)
        there = np.maximum(beyond, 0)
        mine, theirs = graph.pattern[self.slots], graph.pattern[there]
        straight = open_sides(theirs) == np.array([0b0101, 0b1010, 0b0101, 0b1010])
        straight &= ~graph.forms.branches[theirs] & ~crossed(theirs) & (beyond >= 0)
        self.lanes = lanes_of(mine)
        straight &= lanes_of(theirs) == self.lanes[:, None]
        self._straight_on = straight.tolist()
        sides = (open_sides(mine)[:, None] >> np.arange(4) & 1 == 1) & (beyond >= 0)
        self._broadest = np.maximum(self.lanes, np.where(sides, lanes_of(theirs), 0).max(axis=1))
        self._open = np.stack((mine & 15, mine >> OUT_SHIFT & 15), axis=1).tolist()
        self.arms = np.where(beyond >= 0, road.ravel()[there], 0).astype(np.uint8)
        pieces = np.flatnonzero(tracks.area >= 0)
        at = tracks.moves(pieces)
        first = tracks.edges[tracks.begins[pieces]]
        last = tracks.edges[tracks.begins[pieces + 1] - 1]
        is_junction = np.zeros(len(tracks.slots), bool)
        is_junction[areas] = True
        within = is_junction[tracks.area[pieces]]
        count = len(tracks.mask)
        self.came, self.goes = np.full(count, -1, np.int64), np.full(count, -1, np.int64)
        self.lane = np.full(count, -1, np.int64)
        self.lane[at] = tracks.edge_start[first]
        # A heading of 0 leads east, of 90 towards higher rows: south. Who heads east came in from the west.
        heads_in = graph.headings(tracks.nodes[tracks.edge_start[first]])
        heads_out = graph.headings(tracks.nodes[tracks.edge_to[last]])
        came = (_side(heads_in) + 2) % 4
        self.came[at[within]] = came[within]
        self.goes[at[within]] = _side(heads_out)[within]

    def find(self, cell: Cell) -> int | None:
        """Which of them is at a cell, None where none is."""
        if not self._spec.contains(cell):
            return None
        return self._at(self._spec.index(cell))

    def cell(self, junction: int) -> Cell:
        """Where a junction is."""
        return self._spec.cell_at_index(int(self.slots[junction]))

    def moves_of(self, junction: int) -> Ints:
        """The movements through a junction."""
        area = self.areas[junction]
        return np.arange(self._tracks.mask_at[area], self._tracks.mask_at[area + 1])

    def turns_of(self, junction: int) -> list[Turn]:
        """The turns that lead through a junction, each once, in order."""
        moves = self.moves_of(junction)
        return sorted(set(zip(self.came[moves].tolist(), self.goes[moves].tolist(), strict=True)))

    def arms_crossed(self, junction: int) -> list[int]:
        """The sides at which people cross: those that vehicles come in or leave by where the road beyond runs straight
        on and is as broad. Elsewhere vehicles wait aslant, and reach over their line. Where several lanes each way come
        into a junction or a bend, be it by one arm, there is no room for people beside them."""
        moves = self.moves_of(junction)
        came, goes = set(self.came[moves].tolist()), set(self.goes[moves].tolist())
        # Traffic that begins or ends in the cell itself needs no leave.
        comes, leaves = self._open[junction]
        sides = [
            side
            for side in sorted(came | goes)
            if (side in came or not comes >> side & 1) and (side in goes or not leaves >> side & 1)
        ]
        runs_straight = (comes | leaves) in (0b0101, 0b1010)
        if not runs_straight and self._broadest[junction] > BROADEST_CROSSED:
            return []
        return [side for side in sides if self._straight_on[junction][side]]

    def _at(self, slot: int) -> int | None:
        at = int(np.searchsorted(self.slots, slot))
        return at if at < len(self.slots) and self.slots[at] == slot else None

    def bits_of(self, junction: int, turns: Iterable[Turn]) -> int:
        """The bits of all movements through a junction that make one of some turns."""
        wanted = set(turns)
        bits = 0
        for bit, move in enumerate(self.moves_of(junction).tolist()):
            if (int(self.came[move]), int(self.goes[move])) in wanted:
                bits |= 1 << bit
        return bits


def _side(headings: Floats) -> Ints:
    """Sides, 0 north and clockwise, of headings that are quarter turns."""
    found: Ints = (np.rint(headings / 90.0).astype(np.int64) + 1) % 4
    return found


def make_rules(
    tracks: Tracks, junctions: Junctions, given: Sequence[JunctionRule], table: RoadTable
) -> Rules:
    """Who goes first, as the kernels take it. Rules of cells where no junction is count for nothing."""
    rank, top = np.zeros(len(tracks.mask), np.uint8), np.zeros(len(tracks.slots), np.uint8)
    signals: list[tuple[int, float, float]] = []
    begins = [0]
    phases: list[tuple[float, float, int]] = []
    for rule in given:
        junction = junctions.find(rule.cell)
        if junction is None or not junctions.branches[junction]:
            continue
        area = int(junctions.areas[junction])
        if rule.rule is Rule.LARGER:
            moves = junctions.moves_of(junction)
            rank[moves] = ranks(junctions, junction, table)
            top[area] = rank[moves].max()
            continue
        begun = 0.0
        for phase in rule.phases:
            bits = junctions.bits_of(junction, phase.turns)
            phases.append((begun, begun + phase.green, bits))
            begun += phase.green + phase.amber
        signals.append((area, rule.cycle, rule.offset))
        begins.append(len(phases))
    return Rules(
        rank,
        top,
        np.full(len(tracks.slots), _ALL, np.int64),
        np.array([row[0] for row in signals], np.int64),
        np.array(begins, np.int64),
        np.array([row[1] for row in signals], float),
        np.array([row[2] for row in signals], float),
        np.array([row[0] for row in phases], float),
        np.array([row[1] for row in phases], float),
        np.array([row[2] for row in phases], np.int64),
    )


def ranks(junctions: Junctions, junction: int, table: RoadTable) -> npt.NDArray[np.uint8]:
    """By movement through a junction: 0 for who comes by the smallest road, more for each larger one. A road is larger
    with more lanes, or with as many and a higher speed."""
    came = junctions.came[junctions.moves_of(junction)].tolist()
    size = {}
    for side in set(came):
        item = table[max(0, class_of(int(junctions.arms[junction, side])))]
        size[side] = (item.lanes, item.speed)
    order = sorted(set(size.values()))
    return np.array([order.index(size[side]) for side in came], np.uint8)
