"""What takes the last way from an entry: by walls and crossings, not by a search for each spot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Box, Cell, Slot
from woven_locus.core.plan import Plan
from woven_locus.core.routing.search import find_path
from woven_locus.core.value import Value
from woven_locus.core.wave_plan import Entry
from woven_locus.core.waves.ways import ground_of, over_sides, slots_of

Mask = npt.NDArray[np.bool_]


class _Line(Value, eq=False):
    """A way between an entry and a goal on the padded grid, as `kernels.sealing` takes it; neither of its ends is asked
    about.  way : (M, 2) its slots."""

    way: npt.NDArray[np.int64]
    index: npt.NDArray[np.int32]
    outs: npt.NDArray[np.int8]
    backs: npt.NDArray[np.int8]


class _Gate(Value, eq=False):
    """An entry with a way over the ground. lines : one for each pair of a part of the entry and one of its goals between
    which a way leads.  ends : the slots of entry and goals that are open.  parts : of those of the entry and of
    the goals, the slots of the part that each hangs together with."""

    entry: Entry
    lines: tuple[_Line, ...]
    ends: frozenset[Slot]
    starts: tuple[Slot, ...]
    goals: tuple[Slot, ...]
    parts: dict[Slot, frozenset[Slot]]


class Seals:
    """Of one state of a plan. See `seals_of`."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        ground, costs = ground_of(plan)
        self._open: Mask = np.isfinite(costs)[ground]
        rows, cols = self._open.shape
        self._width = cols + 2
        self._walls = np.zeros((0, 0), np.int32)
        self._gates = tuple(gate for entry in plan.waves.walked if (gate := self._gate(entry)))
        if self._gates:
            from scipy.ndimage import label

            closed = np.ones((rows + 2, cols + 2), bool)
            closed[1:-1, 1:-1] = ~self._open
            self._walls = label(closed, np.ones((3, 3)))[0].astype(np.int32)

    @property
    def entries(self) -> tuple[Entry, ...]:
        """Those that have a way over the ground."""
        return tuple(gate.entry for gate in self._gates)

    def sealed(self, cells: Sequence[Cell], lifted: int = 0) -> tuple[Entry, ...]:
        """The entries whose last way is taken when cells are closed. lifted : number of a structure that is taken as gone.
        O(cells), but where something is lifted: that takes a search."""
        if not self._gates:
            return ()
        spec = self._plan.spec
        slots = [spec.slot(cell) for cell in cells if spec.contains(cell)]
        if lifted:
            return tuple(gate.entry for gate in self._gates if self._lost(gate, cells, lifted))
        slots = [slot for slot in slots if self._open[slot]]
        return tuple(gate.entry for gate in self._gates if slots and self._seals(gate, slots))

    def _seals(self, gate: _Gate, slots: list[Slot]) -> bool:
        offs = np.array(slots, np.int64)
        if not gate.ends.isdisjoint(slots):
            found = np.zeros(1, bool)
            corner = np.zeros((1, 2), np.int64)
            steps = offs[:, 0] * self._width + offs[:, 1]
            self._at_ends(gate, np.zeros(1, np.int64), corner, offs, steps, found)
            return bool(found[0])
        flat, walls = self._padded(offs), self._walls.ravel()
        return all(
            kernels.parts(flat, walls, line.index, line.outs, line.backs, self._width)
            for line in gate.lines
        )

    def near(self, box: Box, offsets: Sequence[Slot]) -> Mask:
        """(box rows, box cols) the spots of a block from which a cell lies on a way: no others can seal anything."""
        found = np.zeros(box.shape, bool)
        for gate in self._gates:
            rows, cols = np.concatenate((gate.lines[0].way, sorted(gate.ends))).T
            for row, col in offsets:
                r, c = rows - row - box.r0, cols - col - box.c0
                inside = (r >= 0) & (r < box.shape[0]) & (c >= 0) & (c < box.shape[1])
                found[r[inside], c[inside]] = True
        return found

    def spots(
        self,
        rows: npt.NDArray[np.int64],
        cols: npt.NDArray[np.int64],
        offsets: Sequence[Slot],
        lifted: int = 0,
    ) -> Mask:
        """(N,) whether closing cells at some offsets, (row, col), from each spot seals an entry; see `sealed`."""
        found = np.zeros(len(rows), bool)
        if not self._gates or not len(rows):
            return found
        shape = self._open.shape
        offs = np.array(offsets, np.int64).reshape(-1, 2)
        inside = (rows + offs[:, 0].min() >= 0) & (rows + offs[:, 0].max() < shape[0])
        inside &= (cols + offs[:, 1].min() >= 0) & (cols + offs[:, 1].max() < shape[1])
        steps = offs[:, 0] * self._width + offs[:, 1]
        for gate in self._gates:
            asked = np.flatnonzero(inside & ~found)
            at = np.stack([rows[asked], cols[asked]], axis=1)
            found[asked] |= self._gate_spots(gate, at, offs, steps)
        # Those at the edge one by one; and with something lifted not all that are left seal.
        first = self._plan.spec.first
        for k in np.flatnonzero(~inside | (found if lifted else False)).tolist():
            row, col = int(rows[k]), int(cols[k])
            cells = [Cell(col + c + first.col, row + r + first.row) for r, c in offs.tolist()]
            found[k] = bool(self.sealed(cells, lifted))
        return found

    def _gate_spots(
        self,
        gate: _Gate,
        at: npt.NDArray[np.int64],
        offs: npt.NDArray[np.int64],
        steps: npt.NDArray[np.int64],
    ) -> Mask:
        found = np.zeros(len(at), bool)
        covered = self._padded(at)[:, None] + steps
        on_end = np.isin(covered, self._padded(np.array(list(gate.ends)))).any(axis=1)
        on_way = (gate.lines[0].index[covered] > 0).any(axis=1)
        # Whoever leaves the first way alone seals nothing.
        some = np.flatnonzero(on_way & ~on_end)
        for line in gate.lines:
            some = some[self._parted(line, at[some], steps)]
        found[some] = True
        self._at_ends(gate, np.flatnonzero(on_end), at, offs, steps, found)
        return found

    def _at_ends(
        self,
        gate: _Gate,
        some: npt.NDArray[np.int64],
        at: npt.NDArray[np.int64],
        offs: npt.NDArray[np.int64],
        steps: npt.NDArray[np.int64],
        found: Mask,
    ) -> None:
        """Those that cover a cell of the entry or of a goal seal it when they part every pair of the cells that are left.
        found : filled at `some`."""
        if not len(some):
            return
        covers = [
            {Slot(int(row) + r, int(col) + c) for r, c in offs.tolist()} for row, col in at[some]
        ]
        left = np.ones(len(some), bool)
        for start in gate.starts:
            for goal in gate.goals:
                asked = np.array(
                    [k for k in np.flatnonzero(left).tolist() if not {start, goal} & covers[k]], int
                )
                line = self._between(gate, start, goal) if len(asked) else None
                if line is None:
                    continue
                parted = self._parted(line, at[some[asked]], steps)
                left[asked[~parted]] = False
        found[some[left]] = True

    def _parted(self, line: _Line, at: npt.NDArray[np.int64], steps: npt.NDArray[np.int64]) -> Mask:
        """(N,) at which of some spots cells at padded steps part the ends of a line."""
        found = np.zeros(len(at), bool)
        kernels.parting(
            self._padded(at),
            steps,
            self._walls.ravel(),
            line.index,
            line.outs,
            line.backs,
            self._width,
            found,
        )
        return found

    def _between(self, gate: _Gate, start: Slot, goal: Slot) -> _Line | None:
        """A way between two cells of an entry and of a goal: by the line of the parts that they belong to, and from there
        over cells of these parts alone. None where no way leads there."""
        for line in gate.lines:
            first, last = Slot(*line.way[0].tolist()), Slot(*line.way[-1].tolist())
            if first in gate.parts[start] and last in gate.parts[goal]:
                before = _within(gate.parts[start], start, first)
                after = _within(gate.parts[goal], last, goal)
                return self._line(np.concatenate((before, line.way[1:-1], after)))
        return None

    def _padded(self, slots: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        found: npt.NDArray[np.int64] = (slots[:, 0] + 1) * self._width + slots[:, 1] + 1
        return found

    def _lost(self, gate: _Gate, cells: Sequence[Cell], lifted: int = 0) -> bool:
        """By a search."""
        ground, costs = ground_of(self._plan, cells, lifted)
        return not find_path(ground, costs, gate.starts, gate.goals)

    def _gate(self, entry: Entry) -> _Gate | None:
        """None for an entry that has no way."""
        starts = [slot for slot in slots_of(self._plan, [entry]) if self._open[slot]]
        goals = slots_of(self._plan, self._plan.waves.goals_of(entry))
        goals = [slot for slot in goals if self._open[slot]]
        ground, costs = ground_of(self._plan)
        from_parts, to_parts = _parts(starts), _parts(goals)
        lines = []
        for start in dict.fromkeys(from_parts.values()):
            for goal in dict.fromkeys(to_parts.values()):
                path = find_path(ground, costs, tuple(start), tuple(goal))
                if path:
                    lines.append(self._line(path.slots))
        if not lines:
            return None
        ends = frozenset(starts) | frozenset(goals)
        return _Gate(entry, tuple(lines), ends, tuple(starts), tuple(goals), from_parts | to_parts)

    def _line(self, slots: npt.NDArray[np.int64]) -> _Line:
        steps = np.abs(np.diff(slots, axis=0)).sum(axis=1)
        flat = self._padded(slots)
        way = slots
        if (steps != 1).any() or len(np.unique(flat)) < len(flat):
            way = over_sides(slots, self._open)
            flat = self._padded(way)
        index = np.zeros((self._open.shape[0] + 2) * self._width, np.int32)
        index[flat] = np.arange(1, len(flat) + 1)
        ways, w = np.diff(flat), self._width
        ahead = np.select([ways == -w, ways == 1, ways == w], [0, 2, 4], 6)
        if not len(ahead):
            ahead = np.zeros(1, np.int64)
        outs = np.append(ahead, ahead[-1])[: len(flat)]
        backs = (np.insert(ahead, 0, ahead[0])[: len(flat)] + 4) % 8
        return _Line(way, index, outs.astype(np.int8), backs.astype(np.int8))


def _parts(slots: Sequence[Slot]) -> dict[Slot, frozenset[Slot]]:
    """For each slot those of the part that it hangs together with over sides, itself too."""
    found: dict[Slot, frozenset[Slot]] = {}
    there = set(slots)
    for slot in slots:
        if slot in found:
            continue
        part, waiting = {slot}, [slot]
        while waiting:
            for other in _beside(waiting.pop()):
                if other in there and other not in part:
                    part.add(other)
                    waiting.append(other)
        found |= dict.fromkeys(part, frozenset(part))
    return found


def _beside(slot: Slot) -> tuple[Slot, ...]:
    row, col = slot
    return Slot(row - 1, col), Slot(row, col + 1), Slot(row + 1, col), Slot(row, col - 1)


def _within(part: frozenset[Slot], start: Slot, goal: Slot) -> npt.NDArray[np.int64]:
    """(N, 2) slots from one to another of a part over its own cells."""
    came: dict[Slot, Slot] = {start: start}
    waiting = [start]
    for slot in waiting:
        for other in _beside(slot):
            if other in part and other not in came:
                came[other] = slot
                waiting.append(other)
    way = [goal]
    while way[-1] != start:
        way.append(came[way[-1]])
    return np.array(way[::-1], np.int64)


def seals_of(plan: Plan) -> Seals:
    """What seals the entries of a plan as it is now; kept until it is written to. For the thread that edits."""
    return plan.worked_out("seals", Seals)
