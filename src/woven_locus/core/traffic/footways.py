"""Where people on foot may go: over open ground, along the edges of roads, and across them at crossings."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.cells import BLOCKED, ON_ROAD, movement_costs
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.lanes.pattern import open_sides
from woven_locus.core.lines import distances
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.routing.route import End
from woven_locus.core.routing.search import find_path
from woven_locus.core.traffic.junctions import BROADEST_CROSSED, Junctions
from woven_locus.core.traffic.ways import no_trip, not_there
from woven_locus.core.value import Value
from woven_locus.core.vehicles import PersonKind
from woven_locus.core.ways.roads import MOST_CLASSES, class_of

Floats = npt.NDArray[np.float64]

# Parts of a cell along each axis: a road cell is the road in the middle, its edges, and the arms between them.
PARTS = 3
# Codes of the layer of parts, besides those of the movement layer: they are of roads there, which none here are.
KERB, CROSSING = 254, 255
# What a step on a crossing costs, against one along a road.
_CROSSING_COST = 4.0
# How far from the edge of its cell somebody walks who goes along a road or across it, in shorter sides of a cell.
# Vehicles wait further out than the crossing (`lanes.shape`), and drive further in than the kerb.
_KERB_INSET, _CROSSING_INSET = 0.04, 0.115
# Beside a broad road the lanes leave less.
_NARROW_INSET = 0.015
# People are no larger than this share of a cell.
LARGEST = 0.05


class Footway(Value, eq=False):
    """points : (N, 2) world points.  at : (N,) how far along each lies.  parts : (K, 2) the parts of cells that it leads
    over, in order; codes : (K,) what these are.  crossings : (junction, side, from, to) of each
    time that a road is crossed, from and to along the way."""

    points: Floats
    at: Floats
    parts: npt.NDArray[np.int64]
    codes: npt.NDArray[np.uint8]
    crossings: tuple[tuple[int, int, float, float], ...]

    @property
    def length(self) -> float:
        """World units."""
        return float(self.at[-1])


def check_size(plan: Plan, people: Sequence[PersonKind]) -> None:
    """Raises Refused for people who have no room beside the road."""
    most = LARGEST * min(plan.spec.cell_w, plan.spec.cell_h)
    for kind in people:
        if kind.size > most:
            raise Refused(
                phrase(
                    "{kind} is {size:g} across; beside a road there is room for {most:.4g}",
                    kind=kind.name,
                    size=kind.size,
                    most=most,
                )
            )


class Footways:
    """Finds ways for people on foot over a plan as it is now. layer : (3H, 3W) uint8, code of each part of a cell."""

    def __init__(self, plan: Plan, junctions: Junctions) -> None:
        self._plan, self._junctions = plan, junctions
        self._costs = movement_costs(plan)
        # Road of a class stands in the layer no more: its codes are free for these.
        self._costs[ON_ROAD - MOST_CLASSES + 1 :] = np.inf
        self._costs[KERB], self._costs[CROSSING] = 1.0, _CROSSING_COST
        self.layer = self._laid()
        self._found: dict[tuple[End, End], Footway | str] = {}

    def _laid(self) -> npt.NDArray[np.uint8]:
        plan, graph = self._plan, self._plan.lanes.graph
        codes = plan.movement.repeat(PARTS, axis=0).repeat(PARTS, axis=1)
        rows, cols = np.nonzero(plan.road)
        pattern = graph.pattern.reshape(plan.road.shape)[rows, cols]
        arms = open_sides(pattern)
        r, c = rows * PARTS, cols * PARTS
        for row in (0, 2):
            for col in (0, 2):
                codes[r + row, c + col] = KERB
        codes[r + 1, c + 1] = np.where(pattern > 0, BLOCKED, KERB)
        for side, (row, col) in enumerate(_MIDDLES):
            codes[r + row, c + col] = np.where(arms >> side & 1, BLOCKED, KERB)
        for junction in range(len(self._junctions.areas)):
            for side in self._junctions.arms_crossed(junction):
                row, col = divmod(int(self._junctions.slots[junction]), plan.spec.cols)
                d_row, d_col = _MIDDLES[side]
                codes[row * PARTS + d_row, col * PARTS + d_col] = CROSSING
        return codes

    def find(self, start: End, goal: End) -> Footway | str:
        """The way between two ends, or why there is none; the same question is searched once."""
        found = self._found.get((start, goal))
        if found is None:
            found = self._found[start, goal] = self._search(start, goal)
        return found

    def _search(self, start: End, goal: End) -> Footway | str:
        if why := no_trip(self._plan, start, goal):
            return why
        return self._between(self._parts_of(start), self._parts_of(goal))

    def leads_as_before(self, way: Footway) -> bool:
        """Whether all that a way leads over is what it was when it was found."""
        return bool(np.array_equal(self.layer[tuple(way.parts.T)], way.codes))

    def from_place(self, x: float, y: float, goal: End) -> Footway | str:
        """The way from a world point. None leads from a crossing: who is there and does not cross is in the middle of a road
        that was laid under it."""
        if why := not_there(self._plan, goal):
            return why
        part = self._part_at(x, y)
        if part is not None and self.layer[part] == CROSSING:
            return phrase("a road lies there now")
        return self._between([part] if part is not None else [], self._parts_of(goal))

    def _part_at(self, x: float, y: float) -> Slot | None:
        """The part of a cell that somebody at a world point is on, None off the grid."""
        spec = self._plan.spec
        cell = spec.locate(x, y)
        if cell is None:
            return None
        centre, slot = spec.centre(cell), spec.slot(cell)

        def third(away: float, side: float) -> int:
            return 0 if away < -side / 4 else 2 if away > side / 4 else 1

        row = third(y - centre.y, spec.cell_h)
        col = third(x - centre.x, spec.cell_w)
        return Slot(slot.row * PARTS + row, slot.col * PARTS + col)

    def _parts_of(self, end: End) -> list[Slot]:
        """All parts of cells at which an end is left or come to; nobody stops on a crossing."""
        plan = self._plan
        cells = [end] if isinstance(end, Cell) else plan.approaches_of(plan.register[end])
        slots = [plan.spec.slot(cell) for cell in cells if plan.spec.contains(cell)]
        return [
            part
            for slot in slots
            for row in range(PARTS)
            for col in range(PARTS)
            for part in (Slot(slot.row * PARTS + row, slot.col * PARTS + col),)
            if self.layer[part.row, part.col] != CROSSING
        ]

    def _between(self, starts: list[Slot], goals: list[Slot]) -> Footway | str:
        spec = self._plan.spec
        size = (spec.cell_w / PARTS, spec.cell_h / PARTS)
        path = find_path(self.layer, self._costs, starts, goals, moves=8, cell=size)
        if not path:
            return phrase("nobody can walk there")
        if len(path.slots) == 1:
            return phrase("it begins where it ends")
        return self._drawn([Slot(row, col) for row, col in path.slots.tolist()])

    def _drawn(self, parts: list[Slot]) -> Footway:
        """World points of parts that follow one another, and where along them roads are crossed."""
        points: list[tuple[float, float]] = []
        crossed: list[tuple[int, int, int, int]] = []
        for part in parts:
            if self.layer[part.row, part.col] == CROSSING:
                junction, side = self._crossing(part)
                before = points[-1] if points else None
                line = self._line(part, side)
                if before is not None and _near(before, line[1]) < _near(before, line[0]):
                    line.reverse()
                crossed.append((junction, side, len(points), len(points) + 1))
                points += line
            else:
                points.append(self._place(part))
        places, over = np.array(points), np.array(parts, np.int64)
        at = distances(places)
        return Footway(
            places,
            at,
            over,
            self.layer[tuple(over.T)],
            tuple((j, side, float(at[a]), float(at[b])) for j, side, a, b in crossed),
        )

    def _crossing(self, part: Slot) -> tuple[int, int]:
        junction = self._junctions.find(self._plan.spec.cell_of_slot(_slot(part)))
        assert junction is not None
        return junction, _MIDDLES.index((part.row % PARTS, part.col % PARTS))

    def _place(self, part: Slot) -> tuple[float, float]:
        spec = self._plan.spec
        slot = _slot(part)
        centre = spec.centre(spec.cell_of_slot(slot))
        on_road = self._plan.road[slot] != 0
        inset = self._inset(slot)
        x, y = (
            (local - 1) * (side / 2 - inset if on_road else side / PARTS)
            for local, side in ((part.col % PARTS, spec.cell_w), (part.row % PARTS, spec.cell_h))
        )
        return centre.x + x, centre.y + y

    def _inset(self, slot: Slot) -> float:
        """How far from the edge of a road cell one walks."""
        spec, byte = self._plan.spec, int(self._plan.road[slot])
        broad = byte != 0 and self._plan.road_table[class_of(byte)].lanes > BROADEST_CROSSED
        return (_NARROW_INSET if broad else _KERB_INSET) * min(spec.cell_w, spec.cell_h)

    def _line(self, part: Slot, side: int) -> list[tuple[float, float]]:
        """The two ends of a crossing."""
        spec = self._plan.spec
        slot = _slot(part)
        centre, inset = spec.centre(spec.cell_of_slot(slot)), self._inset(slot)
        unit = min(spec.cell_w, spec.cell_h)
        row, col = _MIDDLES[side]
        if side in (0, 2):
            y = centre.y + (row - 1) * (spec.cell_h / 2 - _CROSSING_INSET * unit)
            reach = spec.cell_w / 2 - inset
            return [(centre.x - reach, y), (centre.x + reach, y)]
        x = centre.x + (col - 1) * (spec.cell_w / 2 - _CROSSING_INSET * unit)
        reach = spec.cell_h / 2 - inset
        return [(x, centre.y - reach), (x, centre.y + reach)]


# The part of a cell in the middle of each side: (row, column).
_MIDDLES = [(0, 1), (1, 2), (2, 1), (1, 0)]


def _slot(part: Slot) -> Slot:
    """Of the cell that a part is of."""
    return Slot(part.row // PARTS, part.col // PARTS)


def _near(a: tuple[float, float], b: tuple[float, float]) -> float:
    return (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2
