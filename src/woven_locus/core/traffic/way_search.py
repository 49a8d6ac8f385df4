"""Ways of least time over the pieces of a lane graph, very many at once: one search an end, not one a trip."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.errors import Stopped
from woven_locus.core.kernels.trip_ways import NO_WAY, THERE, Joins, PieceNet, Reached
from woven_locus.core.side_by_side import each, never, nobody
from woven_locus.core.traffic.tracks import Tracks

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

__all__ = ["NO_WAY", "THERE", "Found", "WaySearch"]

# Searches up to which another thread is not worth while.
_FEW = 8


class Found(NamedTuple):
    """Of pairs that were asked for. parts : the pieces of all ways from, or to, one end.  part, begins, ends : by pair, its
    pieces are parts[part][begins:ends], in the order in which they are driven.  first, last : the places in `Tracks.end` of
    its first edge and its last; NO_WAY or THERE, where the pair begins where it ends, in both where there is none."""

    parts: list[Shorts]
    part: Ints
    begins: Ints
    ends: Ints
    first: Ints
    last: Ints

    def pieces_of(self, pair: int) -> Shorts:
        """The pieces of the way of a pair, a view; none without a way."""
        pieces: Shorts = self.parts[self.part[pair]][self.begins[pair] : self.ends[pair]]
        return pieces


class _FromEnd(NamedTuple):
    """The same of the pairs of one end: the pieces of way k are pieces[begins[k]:begins[k + 1]]."""

    begins: Ints
    pieces: Shorts
    first: Ints
    last: Ints


class WaySearch:
    """Tracks made ready for many questions: O(edges) of time, 20 bytes an edge."""

    def __init__(self, tracks: Tracks) -> None:
        self._tracks = tracks
        edges, begins = tracks.edges, tracks.begins
        nodes = len(tracks.nodes)
        every = np.arange(len(tracks))
        tail, head = tracks.starts_of(every), tracks.ends_of(every)
        is_end = np.zeros(nodes, bool)
        is_end[tail] = is_end[head] = True
        self._number = np.where(is_end, np.cumsum(is_end) - 1, -1).astype(np.int32)
        # The place of the edge that leaves a node within a piece.
        self._on = np.full(nodes, -1, np.int64)
        self._on[tracks.edge_start[edges]] = np.arange(len(edges))
        self._from, self._to = self._number[tail], self._number[head]
        self._took = tracks.seconds[begins[1:] - 1]
        # Half of what a usual piece takes: few nodes are taken out of a bucket twice, and few buckets are empty.
        usual = float(np.median(self._took)) if len(begins) > 1 else 0.0
        self._width = usual / 2 if 0.0 < usual < np.inf else 1.0
        count = int(is_end.sum())
        self._onward = _net(self._from, self._to, self._took, count)
        self._back = _net(self._to, self._from, self._took, count)
        self._nodes = count

    def search(
        self,
        starts: Sequence[Ints],
        goals: Sequence[Ints],
        asked: Ints,
        stopped: Callable[[], bool] = never,
        progress: Callable[[float], object] = nobody,
    ) -> Found:
        """Ways of least time. starts, goals : the dense nodes of each end, at least one, each once.  asked : (N, 2) places
        in both, of pairs.  stopped, progress : see `each`. Raises Stopped.

        Searches from whichever ends are fewer, on two threads: one search for all pairs of an end. Of ways that take equally
        long it depends on that which one is found.
        """
        turned = len(np.unique(asked[:, 1])) < len(np.unique(asked[:, 0]))
        here, there = (asked[:, ::-1] if turned else asked).T
        order = np.lexsort((there, here))
        ends, at = np.unique(here[order], return_index=True)
        groups = np.split(order, at[1:]) if len(order) else []
        seeds, targets = (goals, starts) if turned else (starts, goals)
        answers: list[_FromEnd | None] = [None] * len(groups)

        def worker() -> Callable[[int], object]:
            reached = self._scratch()

            def go(group: int) -> None:
                others = [targets[k] for k in there[groups[group]].tolist()]
                answers[group] = self._from_end(seeds[ends[group]], others, turned, reached)

            return go

        if not each(range(len(groups)), worker, stopped, progress, few=_FEW):
            raise Stopped
        return _joined(groups, answers, len(asked))

    def _from_end(self, end: Ints, others: list[Ints], turned: bool, reached: Reached) -> _FromEnd:
        """The ways between one end and others."""
        sizes = np.array([len(other) for other in others])
        first = np.concatenate((np.zeros(1, np.int64), np.cumsum(sizes)))
        nodes = np.concatenate(others)
        net = self._back if turned else self._onward
        seeds, targets = self._joins(end, turned, True), self._joins(nodes, turned, False)
        begins, pieces, seed, target = kernels.ways_from(
            net, seeds, targets, first, turned, self._width, reached
        )
        there = target >= 0
        ends = np.where(there, end[np.maximum(seed, 0)], -1), np.where(there, nodes[target], -1)
        start, goal = ends[::-1] if turned else ends
        none = np.where(there, 0, seed)
        return _FromEnd(begins, pieces, *self._places(begins, pieces, start, goal, none))

    def _places(
        self, begins: Ints, pieces: Shorts, start: Ints, goal: Ints, none: Ints
    ) -> tuple[Ints, Ints]:
        """The places of the first edges and of the last ones. none : NO_WAY or THERE, 0 where there is a way."""
        first, last = none.copy(), none.copy()
        at = np.flatnonzero(none == 0)
        heads, tails = pieces[begins[at]], pieces[begins[at + 1] - 1]
        start, goal, edges = start[at], goal[at], self._tracks.begins
        first[at] = np.where(self._number[start] < 0, self._on[start], edges[heads])
        last[at] = np.where(self._number[goal] < 0, self._on[goal], edges[tails + 1]) - 1
        return first, last

    def _joins(self, nodes: Ints, turned: bool, seeds: bool) -> Joins:
        """Dense nodes as places at which ways begin or end."""
        number, on, tracks = self._number[nodes], self._on[nodes], self._tracks
        within = number < 0
        place = np.where(within, on, 0)
        piece = np.where(within, tracks.piece_of[tracks.edges[place]], -1).astype(np.int32)
        gone = tracks.seconds[place - 1]
        with np.errstate(invalid="ignore"):  # nobody drives on a closed road
            left = self._took[piece] - gone
        along = left if turned else gone
        # The seeds' way to the end of the piece, and the targets' way from its beginning, as it is searched.
        leads = self._from if seeds == turned else self._to
        spent = gone if seeds == turned else left
        node = np.where(within, leads[piece], number).astype(np.int32)
        return Joins(node, np.where(within, spent, 0.0), piece, np.where(within, along, 0.0))

    def _scratch(self) -> Reached:
        nodes = self._nodes
        return Reached(
            np.full(nodes, np.inf),
            np.zeros((nodes, 2), np.int32),
            np.zeros(nodes, np.uint8),
            np.full((nodes, 2), -1),
        )


def _net(from_: Shorts, to: Shorts, seconds: Floats, nodes: int) -> PieceNet:
    first = np.concatenate((np.zeros(1, np.int64), np.cumsum(np.bincount(from_, minlength=nodes))))
    order = np.argsort(from_, kind="stable")
    return PieceNet(first.astype(np.int32), order.astype(np.int32), to[order], seconds[order])


def _joined(groups: list[Ints], answers: list[_FromEnd | None], count: int) -> Found:
    """The answers of all groups, in the order in which was asked. No way is copied."""
    part, begins, ends = (np.zeros(count, np.int64) for _ in range(3))
    first, last = np.zeros(count, np.int64), np.zeros(count, np.int64)
    parts: list[Shorts] = []
    for group, answer in zip(groups, answers, strict=True):
        if answer is not None:
            part[group] = len(parts)
            begins[group], ends[group] = answer.begins[:-1], answer.begins[1:]
            first[group], last[group] = answer.first, answer.last
            parts.append(answer.pieces)
    return Found(parts, part, begins, ends, first, last)
