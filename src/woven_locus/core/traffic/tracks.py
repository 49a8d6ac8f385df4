"""The lane graph as vehicles drive on it: long pieces between the places at which they may be in each other's way.

A *track* is a chain of edges on which vehicles only follow one another. An *area* is a place at which paths meet: a
cell that branches, or the border between two cells across which lanes change, join or fan out. The pieces that
lead through an area are its *movements*; two of them *conflict* if vehicles on them could touch.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.kernels.tracks import BETWEEN, FREE, INNER
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lanes.forms import Forms
from woven_locus.core.lanes.graph import LaneEdges, sums_along
from woven_locus.core.lanes.pattern import CROSSING_SHIFT, Patterns, crossed
from woven_locus.core.phrase import phrase
from woven_locus.core.traffic.conflicts import NEARBY, Body, Path, conflicts
from woven_locus.core.traffic.movements import carry, make_movements
from woven_locus.core.value import Value

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
# Numbers of pieces, which ways hold as int32.
Pieces = npt.NDArray[np.signedinteger[Any]]

# Movements of an area at most: the bits of a mask.
MOST_MOVEMENTS = 63


class Tracks(Value, eq=False):
    """Pieces, numbered from 0; a piece is a track or a movement.

    nodes : of the lane graph, by dense number.  edge_to : (E,) dense number of the node an edge leads to.
    begins, edges : the edges of piece k are edges[begins[k]:begins[k + 1]].  piece_of : (E,) by edge.
    length : (K,) world units.  area : (K,) int32, -1 for a track.  movement : (K,) int32 within its area.
    inner : (K,) whether it lies in a cell that branches, where nobody may stop.
    end : (E,) by place in `edges`, how far along its piece that edge ends; seconds, how long one takes to there at the
    speeds of the lane graph.  speed : (E,) the most that road and bend allow on it.  slots : (A,) flat slot of the cell of each area.  side : (A,) the side by which its vehicles come in, -1
    for a cell that branches.  mask : by area and movement, the bits of the movements that it conflicts with, itself
    left out; those of area a from mask_at[a] on.
    back, out : (N,) by node, how far before it a vehicle must stop that has no leave to go on from there, and how far
    beyond it the rear of one must be that has used its leave, world units.
    swing : (K,) how much more than the gap one must keep to a vehicle that turns there, 0 for a track; world units.
    """

    nodes: Ints
    edge_start: Ints
    edge_to: Ints
    begins: Ints
    edges: Ints
    piece_of: Ints
    length: Floats
    area: npt.NDArray[np.int32]
    movement: npt.NDArray[np.int32]
    inner: npt.NDArray[np.bool_]
    end: Floats
    seconds: Floats
    speed: Floats
    slots: Ints
    side: Ints
    mask: npt.NDArray[np.int64]
    mask_at: Ints
    back: Floats
    out: Floats
    swing: Floats
    keys: Ints
    by_key: Ints

    def __len__(self) -> int:
        return len(self.length)

    def edges_between(self, starts: Ints, ends: Ints) -> Ints:
        """(N,) the edges from some dense nodes to others. Raises ValueError where one leads nowhere."""
        wanted = starts * len(self.nodes) + ends
        at = np.minimum(np.searchsorted(self.keys, wanted), len(self.keys) - 1)
        if not np.array_equal(self.keys[at], wanted):
            raise ValueError(phrase("no edge leads from one node of the way to the next"))
        return self.by_key[at]

    def pieces_of(self, edges: Ints) -> Ints:
        """The pieces of a way, from its edges, in order; each once for every time that it is passed."""
        pieces = self.piece_of[edges]
        # A piece is passed anew when its first edge comes again.
        again = np.concatenate(([True], pieces[1:] != pieces[:-1]))
        again |= edges == self.edges[self.begins[pieces]]
        return pieces[again]

    def place_of(self, edge: int) -> int:
        """The place of an edge in `edges`."""
        piece = int(self.piece_of[edge])
        begin = int(self.begins[piece])
        return begin + int(np.flatnonzero(self.edges[begin : self.begins[piece + 1]] == edge)[0])

    def places_at(self, pieces: Pieces, s: Floats) -> Ints:
        """(N,) the places in `edges` of the edges that hold points so far along pieces."""
        low, high = self.begins[pieces].copy(), self.begins[pieces + 1] - 1
        while (low < high).any():
            middle = (low + high) // 2
            beyond = self.end[middle] < s
            low, high = (
                np.where(beyond & (low < high), middle + 1, low),
                np.where(beyond | (low >= high), high, middle),
            )
        return low

    def began(self, places: Ints) -> Floats:
        """(N,) how far along their pieces the edges at some places begin."""
        first = places == self.begins[self.piece_of[self.edges[places]]]
        return np.where(first, 0.0, self.end[places - 1])

    def began_at(self, place: int) -> float:
        """`began` of one place."""
        return float(self.began(np.array([place]))[0])

    def leads(self, a: int, b: int) -> bool:
        """Whether an edge leads from one dense node to another."""
        wanted = a * len(self.nodes) + b
        at = int(np.searchsorted(self.keys, wanted))
        return at < len(self.keys) and int(self.keys[at]) == wanted

    def nodes_along(self, pieces: Pieces) -> list[int]:
        """The dense nodes of pieces that follow one another, first to last; of none none."""
        if not len(pieces):
            return []
        found: list[int] = self.starts_of(pieces[:1]).tolist()
        for piece in pieces.tolist():
            some = slice(int(self.begins[piece]), int(self.begins[piece + 1]))
            found += self.edge_to[self.edges[some]].tolist()
        return found

    def moves(self, pieces: Pieces) -> Ints:
        """(N,) the places in `mask` of pieces that are movements."""
        found: Ints = self.mask_at[self.area[pieces]] + self.movement[pieces]
        return found

    def starts_of(self, pieces: Pieces) -> Ints:
        """(N,) the dense nodes at which pieces begin."""
        return self.edge_start[self.edges[self.begins[pieces]]]

    def ends_of(self, pieces: Pieces) -> Ints:
        """(N,) the dense nodes at which pieces end."""
        return self.edge_to[self.edges[self.begins[pieces + 1] - 1]]

    def room_on(self, pieces: Pieces) -> tuple[Floats, Floats]:
        """(N,) from where and (N,) to where along pieces a vehicle may stand that has leave for nothing else, world units."""
        most = self.length[pieces] - self.back[self.ends_of(pieces)]
        return self.out[self.starts_of(pieces)], most

    @property
    def source(self) -> npt.NDArray[np.int32]:
        """(K,) the area whose movements lead into each track, -1 for none and for movements."""
        found = np.full(len(self), -1, np.int32)
        into = np.full(len(self.nodes), -1, np.int32)
        moves = np.flatnonzero(self.area >= 0)
        into[self.ends_of(moves)] = self.area[moves]
        tracks = np.flatnonzero(self.area < 0)
        found[tracks] = into[self.starts_of(tracks)]
        return found


def make_tracks(graph: LaneGraph, body: Body) -> Tracks:
    """The tracks and areas of a lane graph. body : the largest vehicle that is to drive on them. O(edges)."""
    nodes, edges = graph.nodes(), graph.edges()
    start = np.repeat(np.arange(len(nodes)), np.diff(edges.first))
    kind = _kinds(graph, nodes, edges, start, body)
    begins, order = kernels.chains(edges.first, edges.to, start, kind)
    count = len(begins) - 1
    piece_of = np.empty(len(order), np.int64)
    piece_of[order] = np.repeat(np.arange(count), np.diff(begins))
    length = np.add.reduceat(edges.length[order], begins[:-1]) if count else np.zeros(0)
    end, seconds = (sums_along(each[order], begins) for each in (edges.length, edges.seconds))
    head = order[begins[:-1]]
    inner = kind[head] == INNER
    area, slots, side = _areas(graph, nodes, start[head], edges.to[head], kind[head])
    moves = make_movements(graph, nodes, edges, begins, order, area, len(slots), start, body)
    starts, ends = start[head], edges.to[order[begins[1:] - 1]]
    # Nobody waits within a junction.
    stretch = np.where(inner, np.inf, length)
    carry(moves.back, ends, starts, stretch)
    carry(moves.out, starts, ends, stretch)
    # The slower of both ends, so that a bend is slow as a whole.
    slow = graph.slowness(nodes)
    speed = 1.0 / np.maximum(slow[start], slow[edges.to])[order]
    keys = start * len(nodes) + edges.to
    by_key = np.argsort(keys)
    return Tracks(
        nodes, start, edges.to, begins, order, piece_of, length, area, moves.movement,
        inner, end, seconds, speed, slots, side, *moves[1:], keys[by_key], by_key,
    )  # fmt: skip


def _kinds(
    graph: LaneGraph, nodes: Ints, edges: LaneEdges, start: Ints, body: Body
) -> npt.NDArray[np.uint8]:
    """FREE, INNER or BETWEEN for each edge. A cell in which one turns is INNER too where it is tight."""
    out = np.diff(edges.first)
    into = np.bincount(edges.to, minlength=len(nodes))
    slot = graph.slot[nodes]
    same = slot[start] == slot[edges.to]
    pattern = graph.pattern[slot[start]]
    inner = same & (graph.forms.branches | _tight(graph, pattern, body))[pattern]
    # Where people cross vehicles need leave, as where paths meet.
    inner |= same & crossed(pattern)
    choice = ~same & ((out[start] > 1) | (into[edges.to] > 1))
    return np.where(inner, INNER, np.where(choice, BETWEEN, FREE)).astype(np.uint8)


def _tight(graph: LaneGraph, patterns: Patterns, body: Body) -> npt.NDArray[np.bool_]:
    """(PATTERNS,) the patterns among some in which one turns without a choice, and vehicles could touch."""
    forms = graph.forms
    found = np.zeros(len(forms.branches), bool)
    for pattern in np.flatnonzero(np.bincount(patterns, minlength=len(found))).tolist():
        if pattern == 0 or forms.branches[pattern] or pattern >> CROSSING_SHIFT:
            continue
        lanes = forms.of(pattern)
        ends, begins = set(lanes.edges[:, 1].tolist()), set(lanes.edges[:, 0].tolist())
        nexts = dict(lanes.edges.tolist())
        paths = []
        for node in sorted(begins - ends):
            line = [node]
            while line[-1] in nexts:
                line.append(nexts[line[-1]])
            paths.append(_bend(forms, forms.base[pattern] + np.array(line)))
        found[pattern] = bool(conflicts(paths, body))
    return found


def _bend(forms: Forms, line: Ints) -> Path:
    """The path along the nodes of a bend, which begins and ends with an arc at the edges of its cell."""
    points = np.stack([forms.x[line], forms.y[line]], axis=1)
    heading, radius = forms.heading[line], forms.radius[line]
    ends = []
    for at, turn in ((0, -1.0), (-1, 1.0)):
        straight = round(heading[at] / 90.0) * 90.0
        between = math.radians(heading[at] + straight) / 2
        turned = math.radians(abs(heading[at] - straight))
        far = 2 * radius[at] * math.sin(turned / 2) if turned > 1e-9 else NEARBY
        ends += [
            points[at] + turn * far * np.array([math.cos(between), math.sin(between)]),
            straight,
        ]
    return Path(points, *ends)


def _areas(
    graph: LaneGraph, nodes: Ints, start: Ints, to: Ints, kind: npt.NDArray[np.uint8]
) -> tuple[npt.NDArray[np.int32], Ints, Ints]:
    """The area of each piece from its first edge, -1 for tracks; and the slot and the side of each area."""
    slot = graph.slot[nodes].astype(np.int64)
    into, gone = slot[to], slot[start]
    step = into - gone
    # Where rows are one cell wide a step across the border is no step along the row.
    cols = graph.spec.cols
    side = np.select([step == cols, step == -cols, step == 1], [0, 2, 3], 1)
    key = np.where(kind == INNER, gone * 5, into * 5 + 1 + side)
    key[kind == FREE] = -1
    found, number = np.unique(key, return_inverse=True)
    shift = 1 if len(found) and found[0] < 0 else 0
    keys = found[shift:]
    return (number - shift).astype(np.int32), keys // 5, keys % 5 - 1
