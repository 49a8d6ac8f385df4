"""The lanes within one cell: points, headings, and how they follow one another.

x and y run across and down from the middle of the cell, in units of its shorter side, so that arcs are
arcs of circles in cells that are not square; a, b are half the cell's width and height.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from woven_locus.core.lanes.pattern import CROSSING_SHIFT, LANES_SHIFT, OUT_SHIFT
from woven_locus.core.value import Value
from woven_locus.core.ways.roads import HALF_WIDTHS

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Vector = tuple[float, float]

# Lanes each way at most.
MOST = 3
# Unit steps over each side: north, east, south, west, as in the array.
_STEPS: tuple[Vector, ...] = ((0.0, -1.0), (1.0, 0.0), (0.0, 1.0), (-1.0, 0.0))
# Where along an arc, degrees, points lie: of a quarter turn, and of turning about.
_QUARTER = (9.0, 27.0, 45.0, 63.0, 81.0)
_ABOUT = (18.0, 54.0, 90.0, 126.0, 162.0)
# How far from the edge of a branching cell its lanes begin and end.
_INSET = 0.05
# An arc to the far side of more than 3.41 times the offset would cross the middle of the cell.
_FAR_ARC = 3.0


def lanes_each_way(lanes: int) -> int:
    """Lanes in each direction of a road of so many."""
    return max(1, lanes // 2)


def offsets(lanes: int) -> list[float]:
    """How far each lane of a direction lies from the centre line, the innermost first, in shorter sides."""
    count = lanes_each_way(lanes)
    return [HALF_WIDTHS[lanes] * (2 * at + 1) / (2 * count) for at in range(count)]


class CellLanes(Value):
    """Local nodes count from 0.

    x, y : (K,) places.  heading : (K,) degrees, 0 towards higher columns, 90 towards higher rows.
    radius : (K,) of the arc on which a node lies, inf on a straight.  about : (K,) whether one turns about there.
    lane : (K,) 0 for the innermost.  edges : (E, 2) local nodes.
    entry, exit : (4, MOST) first and last local node of each lane by side, -1 where there is none.
    straight : (4,) by side of entry: leads straight through, with no choice.
    branches : whether there is a choice anywhere in it.
    """

    x: Floats
    y: Floats
    heading: Floats
    radius: Floats
    about: npt.NDArray[np.bool_]
    lane: Ints
    edges: Ints
    entry: Ints
    exit: Ints
    straight: npt.NDArray[np.bool_]
    branches: bool

    def __len__(self) -> int:
        return len(self.x)

    def turns(self) -> list[tuple[int, int]]:
        """(from side, to side) of all that lead through the cell, each once, in order."""
        begins = {int(node): side for side in range(4) for node in self.entry[side] if node >= 0}
        ends = {int(node): side for side in range(4) for node in self.exit[side] if node >= 0}
        ahead: dict[int, list[int]] = {}
        for start, end in self.edges.tolist():
            ahead.setdefault(start, []).append(end)
        found = set()
        for first, side in begins.items():
            waiting = [first]
            while waiting:
                node = waiting.pop()
                if node in ends and node != first:
                    found.add((side, ends[node]))
                else:
                    waiting += ahead.get(node, [])
        return sorted(found)


def cell_lanes(pattern: int, a: float, b: float, hand: int) -> CellLanes:
    """The lanes of a cell of a pattern. a, b : half its width and height.  hand : see `KeepSide.hand`."""
    return _Drawing(pattern, a, b, hand).drawn()


def _movements(comes: list[int], leaves: list[int]) -> list[tuple[int, int]]:
    """(from side, to side): all ways through a cell. One turns about only where there is no other."""
    found = []
    for side in comes:
        on = [to for to in leaves if to != side]
        if not on and side in leaves:
            on = [side]
        found += [(side, to) for to in on]
    return found


class _Drawing:
    """One cell while it is laid out."""

    def __init__(self, pattern: int, a: float, b: float, hand: int) -> None:
        self._half = (b, a, b, a)
        self._hand = hand
        self._offsets = offsets(pattern >> LANES_SHIFT & 7)
        self._crossed = bool(pattern >> CROSSING_SHIFT & 1)
        self._comes = [side for side in range(4) if pattern >> side & 1]
        self._leaves = [side for side in range(4) if pattern >> side + OUT_SHIFT & 1]
        self._ways = _movements(self._comes, self._leaves)
        self._nodes: list[tuple[float, float, float, float, bool, int]] = []
        self._edges: list[tuple[int, int]] = []
        self._entry = np.full((4, MOST), -1, np.int64)
        self._exit = np.full((4, MOST), -1, np.int64)
        self._straight = np.zeros(4, bool)

    def drawn(self) -> CellLanes:
        ways, sides = self._ways, range(4)
        froms, tos = [way[0] for way in ways], [way[1] for way in ways]
        branches = any(froms.count(side) > 1 or tos.count(side) > 1 for side in sides)
        if branches or self._crossed:
            self._branch()
        else:
            for side, to in ways:
                self._pass(side, to)
        for side in self._comes:
            if side not in froms:  # nobody leads on: traffic ends here
                self._entry[side, : len(self._offsets)] = self._across(side)
        for side in self._leaves:
            if side not in tos:  # nobody comes: traffic can only begin here
                self._exit[side, : len(self._offsets)] = self._across((side + 2) % 4)
        if not self._comes and not self._leaves:
            self._across(3)
            self._across(1)
        x, y, heading, radius, about, lane = zip(*self._nodes, strict=True)
        return CellLanes(
            np.array(x),
            np.array(y),
            np.round(heading, 9) % 360.0,
            np.array(radius),
            np.array(about),
            np.array(lane),
            np.array(self._edges, np.int64).reshape(-1, 2),
            self._entry,
            self._exit,
            self._straight,
            branches,
        )

    def _across(self, side: int) -> list[int]:
        """A node a lane in the middle of the cell, for those who come in by a side."""
        d = _STEPS[(side + 2) % 4]
        heading = math.degrees(math.atan2(d[1], d[0]))
        return [
            self._add(*self._aside(d, offset), heading, math.inf, lane=lane)
            for lane, offset in enumerate(self._offsets)
        ]

    def _aside(self, d: Vector, offset: float) -> Vector:
        """A place beside the middle, on the travel side of a heading."""
        return -d[1] * offset * self._hand, d[0] * offset * self._hand

    def _add(
        self, x: float, y: float, heading: float, radius: float, about: bool = False, lane: int = 0
    ) -> int:
        self._nodes.append((x, y, heading, radius, about, lane))
        return len(self._nodes) - 1

    def _pass(self, side: int, to: int) -> None:
        """A chain of nodes for each lane of the only way between two sides."""
        if to == (side + 2) % 4:
            self._straight[side] = True
            chains = [[node] for node in self._across(side)]
        else:
            chains = [self._arc(side, to, lane, 0.0) for lane in range(len(self._offsets))]
        for lane, chain in enumerate(chains):
            self._join(chain)
            self._entry[side, lane], self._exit[to, lane] = chain[0], chain[-1]

    def _join(self, chain: Iterable[int]) -> None:
        chain = list(chain)
        self._edges += itertools.pairwise(chain)

    def _branch(self) -> None:
        """Nodes where lanes begin and end, and the movements between them."""
        for lane in range(len(self._offsets)):
            for side in sorted({side for side, _ in self._ways}):
                d = _STEPS[(side + 2) % 4]
                self._entry[side, lane] = self._edge_node(d, -(self._half[side] - _INSET), lane)
            for to in sorted({to for _, to in self._ways}):
                self._exit[to, lane] = self._edge_node(_STEPS[to], self._half[to] - _INSET, lane)
        for side, to, lane in self._ruled():
            inner = [] if to == (side + 2) % 4 else self._arc(side, to, lane, _INSET)
            self._join([int(self._entry[side, lane]), *inner, int(self._exit[to, lane])])

    def _edge_node(self, d: Vector, along: float, lane: int) -> int:
        x, y = self._aside(d, self._offsets[lane])
        heading = math.degrees(math.atan2(d[1], d[0]))
        return self._add(x + d[0] * along, y + d[1] * along, heading, math.inf, lane=lane)

    def _ruled(self) -> list[tuple[int, int, int]]:
        """(from, to, lane): of two lanes the outer one turns to the near side, the inner one to the far side; a
        lane between two others goes where it likes, and so does one that would be left without a way."""
        last = len(self._offsets) - 1
        found = []
        for side in self._comes:
            tos = [to for start, to in self._ways if start == side]
            for lane in range(last + 1):
                mine = [to for to in tos if self._suits(side, to, lane, last)]
                found += [(side, to, lane) for to in mine or tos]
        return found

    def _suits(self, side: int, to: int, lane: int, last: int) -> bool:
        if to == (side + 2) % 4:
            return True
        return lane > 0 or last == 0 if self._is_near(side, to) else lane < last or last == 0

    def _is_near(self, side: int, to: int) -> bool:
        """Whether a turn goes to the side on which one travels."""
        d = _STEPS[(side + 2) % 4]
        return _STEPS[to] == (-d[1] * self._hand, d[0] * self._hand)

    def _arc(self, side: int, to: int, lane: int, inset: float) -> list[int]:
        """The nodes of a turn."""
        d, e = _STEPS[(side + 2) % 4], _STEPS[to]
        o = self._offsets[lane]
        if side == to:
            centre = (0.0, 0.0)
            start = self._aside(d, o)
            return [self._on_arc(centre, start, d, o, angle, True, lane) for angle in _ABOUT]
        near = self._is_near(side, to)
        sign = -1.0 if near else 1.0
        reach = min(self._half[side] + sign * o, self._half[to] + sign * o) - inset
        r = max(0.02, reach if near else min(reach, _FAR_ARC * o))
        # The corner in which the two lanes would meet, and the middle of the arc that rounds it.
        aside = self._aside(d, o)
        corner = (aside[0] + sign * o * d[0], aside[1] + sign * o * d[1])
        centre = (corner[0] - r * d[0] + r * e[0], corner[1] - r * d[1] + r * e[1])
        start = (-r * e[0], -r * e[1])
        return [self._on_arc(centre, start, d, r, angle, False, lane) for angle in _QUARTER]

    def _on_arc(
        self,
        centre: Vector,
        start: Vector,
        d: Vector,
        r: float,
        angle: float,
        about: bool,
        lane: int,
    ) -> int:
        """A node so many degrees along an arc. start : from the centre to where the arc begins.  d : the
        heading there."""
        cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        x = centre[0] + start[0] * cos + d[0] * r * sin
        y = centre[1] + start[1] * cos + d[1] * r * sin
        heading = math.degrees(
            math.atan2(d[1] * cos - start[1] / r * sin, d[0] * cos - start[0] / r * sin)
        )
        return self._add(x, y, heading, r, about, lane)
