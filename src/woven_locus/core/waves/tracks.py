"""The lines that attackers walk along, as arrays."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Slot
from woven_locus.core.lines import step_lengths
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.attackers import Attackers, Due
from woven_locus.core.waves.ranges import stretches
from woven_locus.core.waves.towers import Placed
from woven_locus.core.waves.ways import find_ways, ground_of, slowness, walk

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class Lines:
    """length : (L,) world units of each."""

    def __init__(self, plan: Plan) -> None:
        self._points: list[Floats] = []
        self._slow: list[Floats] = []
        self._of: list[tuple[str, Moves]] = []
        self._numbers: dict[tuple[str, Moves], int] = {}
        self._terrain_slows = plan.waves.terrain_slows
        for way in find_ways(plan):
            if way.found:
                self._numbers[way.entry, way.moves] = len(self._of)
                self._add(way.entry, way.moves, way.points, way.slow)
        self._lay()

    def _add(self, entry: str, moves: Moves, points: Floats, slow: Floats) -> int:
        """slow : (N - 1,) see `EntryWay`."""
        if len(points) == 1:
            points, slow = np.concatenate((points, points)), np.ones(1)
        self._of.append((entry, moves))
        self._points.append(points)
        self._slow.append(slow)
        return len(self._of) - 1

    def _lay(self) -> None:
        """All lines one after the other, each step with where it begins."""
        steps = [np.diff(points, axis=0) for points in self._points]
        lengths = [step_lengths(points) for points in self._points]
        self.length = np.array([part.sum() for part in lengths], float)
        self._first = np.concatenate(([0], np.cumsum([len(part) for part in lengths]))).astype(
            np.int64
        )
        none = np.zeros((0, 2))
        self._start = np.concatenate([none, *(points[:-1] for points in self._points)])
        self._step = np.concatenate([none, *steps])
        self._size = np.concatenate([np.zeros(0), *lengths])
        self._pace = np.concatenate([np.zeros(0), *self._slow])
        begins = [np.concatenate(([0.0], np.cumsum(part)[:-1])) for part in lengths]
        self._begin = np.concatenate([np.zeros(0), *begins])
        # Lines lie behind one another on one axis, so that one search finds a step of any.
        self._shift = np.concatenate(([0.0], np.cumsum(self.length + 1.0)))[: len(self.length)]
        shifts = np.repeat(self._shift, np.diff(self._first))
        self._key = self._begin + shifts

    def number(self, entry: str, moves: Moves) -> int:
        """The line of an entry, -1 where no way leads from it."""
        return self._numbers.get((entry, moves), -1)

    def _at(self, line: Ints, x: Floats) -> Ints:
        key = np.maximum(x, 0.0) + self._shift[line]
        found = np.searchsorted(self._key, key, side="right") - 1
        return np.clip(found, self._first[line], self._first[line + 1] - 1)

    def points(self, line: Ints, x: Floats) -> Floats:
        """(N, 2) world points so far along lines, not beyond their ends."""
        at = self._at(line, x)
        along = np.clip(np.maximum(x, 0.0) - self._begin[at], 0.0, self._size[at])
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(self._size[at] > 0, along / self._size[at], 0.0)
        found: Floats = self._start[at] + self._step[at] * share[:, None]
        return found

    def slowness(self, line: Ints, x: Floats) -> Floats:
        """(N,) by what the ground divides their speed."""
        if not self._terrain_slows:
            return np.ones(len(line))
        return self._pace[self._at(line, x)]

    def ahead(self, line: int, x: float) -> Floats:
        """(N, 2) the points of a line from a place on."""
        here = self.points(np.array([line]), np.array([x]))
        begins = self._begin[self._first[line] : self._first[line + 1]]
        rest = self._points[line][1:][np.append(begins[1:], self.length[line]) > x]
        return np.concatenate((here, rest))

    def reaches(self, placed: Placed) -> Floats:
        """(L, 2) between which places of all lines, on the one axis on which they lie, somebody can be in the range of a
        tower; the first above the second for a line of which nothing is."""
        found = np.empty((len(self.length), 2))
        found[:] = np.inf, -np.inf
        for line, points in enumerate(self._points):
            parts = stretches(points, placed.centre, 0.0, placed.tower.most * (1 + 1e-9))
            if parts:
                found[line] = parts[0].begin - 1e-6, parts[-1].end + 1e-6
                found[line] += self._shift[line]
        return found

    def keys(self, line: Ints, x: Floats) -> Floats:
        """(N,) where those so far along lines are on that axis, ascending."""
        found: Floats = np.sort(np.maximum(x, 0.0) + self._shift[line])
        return found

    def take_over(self, old: Lines, plan: Plan, men: Attackers, rows: Ints) -> None:
        """Lead those who are under way on from where they are: along the line that they have where that is still the way, or
        the new one where they are on it, so that those who queue go on to do so; else by a way of their own. Who has none
        goes where it would have gone."""
        known: dict[tuple[Slot, str, Moves], Ints] = {}
        stays: dict[int, int] = {}
        places = self._places(plan)
        ground, costs = ground_of(plan)
        for row in rows.tolist():
            was = int(men.line[row])
            entry_id, moves = old._of[was]
            if was not in stays:
                now = self.number(entry_id, moves)
                same = now >= 0 and np.array_equal(old._points[was], self._points[now])
                stays[was] = now if same else -1
            if stays[was] >= 0:
                men.line[row] = stays[was]
                continue
            here = old.points(np.array([was]), men.x[row : row + 1])
            slot = plan.spec.slot(plan.spec.locate_virtual(*here[0].tolist()))
            x = self._on_line(self.number(entry_id, moves), places, slot, here[0])
            if x is not None:
                men.line[row] = self.number(entry_id, moves)
                men.x[row] = x + min(0.0, float(men.x[row]))
                continue
            key = slot, entry_id, moves
            if key not in known:
                known[key] = np.zeros((0, 2), np.int64)
                entry = plan.waves.entry(entry_id)
                if entry is not None and moves is not Moves.AIR:
                    known[key] = walk(plan, entry, moves, [slot], ground, costs).slots
            slots = known[key]
            if not len(slots):
                points = old.ahead(was, float(men.x[row]))
                had = old._slow[was]
                slow = had[len(had) - (len(points) - 1) :]
            else:
                # From where it is to the next cell of its way, or to the middle of the last.
                ahead = slots[1:] if len(slots) > 1 else slots
                points = np.concatenate((here, plan.spec.centres(ahead)))
                over = np.concatenate((slots[:1], ahead))
                slow = slowness(plan, moves, over, ground, costs)
            men.line[row] = self._add(entry_id, moves, points, slow)
            men.x[row] = min(0.0, float(men.x[row]))
        self._lay()

    def _places(self, plan: Plan) -> dict[int, dict[Slot, int]]:
        """By line: which point of it lies in each cell."""
        found = {}
        for way in find_ways(plan):
            number = self.number(way.entry, way.moves)
            if number >= 0:
                found[number] = {Slot(*slot): at for at, slot in enumerate(way.slots.tolist())}
        return found

    def _on_line(
        self, line: int, places: dict[int, dict[Slot, int]], slot: Slot, here: Floats
    ) -> float | None:
        """How far along a line a point in a cell lies; None where it is beside it. For lines of entries."""
        at = places.get(line, {}).get(slot)
        if at is None:
            return None
        first = self._first[line]
        for step in range(max(first, first + at - 1), min(self._first[line + 1], first + at + 1)):
            off, size = here - self._start[step], self._size[step]
            along = float(off @ self._step[step]) / size if size else 0.0
            beside = abs(off[0] * self._step[step, 1] - off[1] * self._step[step, 0])
            if -1e-9 <= along <= size + 1e-9 and beside <= 1e-9 * max(size * size, 1e-30):
                return float(self._begin[step]) + min(max(along, 0.0), float(size))
        return None

    def renew(self, due: Due, first: int, old: Lines) -> Due:
        """Who is still to come, on these lines."""
        line = due.line.copy()
        for at in np.unique(line[first:]).tolist():
            now = self.number(*old._of[at])
            line[first:][due.line[first:] == at] = now if now >= 0 else self._kept(old, at)
        return replace(due, line=line)

    def _kept(self, old: Lines, at: int) -> int:
        """An old line that nothing has taken the place of."""
        number = self._add(*old._of[at], old._points[at], old._slow[at])
        self._lay()
        return number
