"""Attackers as rows of arrays."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy

import numpy as np
import numpy.typing as npt

from woven_locus.core.value import Value
from woven_locus.core.wave_plan import AttackerKind, Moves

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


# What changes of attackers as they go.
_CHANGING = (
    *("here", "kind", "wave", "line", "x", "health"),
    *("_slow", "_until", "speed", "armour", "flies"),
)


class Due(Value, eq=False):
    """Who comes, in order: time, seconds; wave, kind and line of each. no_way : how many more would, had they a way."""

    time: Floats
    wave: Ints
    kind: Ints
    line: Ints
    no_way: int

    def __len__(self) -> int:
        return len(self.time)


class Attackers:
    """All who come, a row each in the order in which they do. x : how far along its line; below 0 while it waits behind
    the one before it.  here : whether it is on the map."""

    def __init__(self, count: int, kinds: Sequence[AttackerKind]) -> None:
        self.here = np.zeros(count, bool)
        self.kind, self.wave, self.line = (np.zeros(count, np.int64) for _ in range(3))
        self.x, self.health = np.zeros(count), np.zeros(count)
        self._slow, self._until = np.ones(count), np.zeros(count)
        self._size = np.array([kind.size for kind in kinds], float)
        self._queues = np.array([kind.queues for kind in kinds], bool)
        self._speed = np.array([kind.speed for kind in kinds], float)
        self._armour = np.array([kind.armour for kind in kinds], float)
        self._health = np.array([kind.health for kind in kinds], float)
        self._flies = np.array([kind.moves is Moves.AIR for kind in kinds], bool)
        self.speed, self.armour = np.zeros(count), np.zeros(count)
        self.flies = np.zeros(count, bool)
        self.count_there = 0

    def copied(self) -> Attackers:
        """A copy that goes on by itself."""
        twin = copy(self)
        for name in _CHANGING:
            setattr(twin, name, getattr(self, name).copy())
        return twin

    @property
    def size(self) -> int:
        """Bytes of what a copy holds."""
        return sum(int(getattr(self, name).nbytes) for name in _CHANGING)

    def there(self) -> Ints:
        """The rows of all who are on the map."""
        return np.flatnonzero(self.here)

    def full_health(self, row: int) -> float:
        """Of an attacker when it came."""
        return float(self._health[self.kind[row]])

    def sizes(self, rows: Ints) -> Floats:
        """(N,) across."""
        return self._size[self.kind[rows]]

    def put(self, first: int, kind: Ints, wave: Ints, line: Ints) -> None:
        """Those that come now, from row `first` on."""
        some = slice(first, first + len(kind))
        self.here[some], self.kind[some], self.wave[some] = True, kind, wave
        self.line[some] = line
        self.health[some], self.speed[some] = self._health[kind], self._speed[kind]
        self.armour[some], self.flies[some] = self._armour[kind], self._flies[kind]
        self.count_there += len(kind)

    def take_away(self, row: int) -> None:
        """It is not on the map any more."""
        self.here[row] = False
        self.count_there -= 1

    def slow(self, rows: Ints, share: float, until: float, now: float) -> None:
        """They keep this share of their speed until then; who is slower already stays so until that has passed."""
        weaker = (self._until[rows] <= now) | (share < self._slow[rows])
        rows_now = rows[weaker]
        self._slow[rows_now], self._until[rows_now] = share, until
        same = rows[~weaker & (self._slow[rows] == share)]
        self._until[same] = np.maximum(self._until[same], until)

    def slowed(self, rows: Ints, now: float) -> Floats:
        """(N,) the share of its speed that each has now."""
        return np.where(self._until[rows] > now, self._slow[rows], 1.0)

    def keep_apart(self, rows: Ints) -> None:
        """Those that queue stay behind the one before them on the same line that queues too."""
        mine = rows[self._queues[self.kind[rows]]]
        if len(mine) < 2:
            return
        # The one that is furthest on comes first; of equals the one that came first.
        order = np.lexsort((mine, -self.x[mine], self.line[mine]))
        mine = mine[order]
        size, line = self._size[self.kind[mine]], self.line[mine]
        same = line[1:] == line[:-1]
        gaps = np.concatenate(([0.0], (size[1:] + size[:-1]) / 2))
        # Behind one another without gaps: how far each would be behind the first of its line.
        total = np.cumsum(gaps)
        starts = np.flatnonzero(np.concatenate(([True], ~same)))
        ends = np.append(starts[1:], len(mine))
        for begin, end in zip(starts.tolist(), ends.tolist(), strict=True):
            packed = self.x[mine[begin:end]] + total[begin:end]
            self.x[mine[begin:end]] = np.minimum.accumulate(packed) - total[begin:end]
