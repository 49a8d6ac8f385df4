"""Doors along a line of places, and how many structures have some, or all, of theirs in a range of it."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Ints = npt.NDArray[np.int64]


class _Below:
    """Values at positions 0 to N - 1, to count those below a bound in a range of positions.

    A merge sort tree (blocks of doubling length, each sorted), asked for many ranges at once:
    O((N + ranges) log² N).
    """

    def __init__(self, values: Ints) -> None:
        self._count = len(values)
        self._shift = int(values.max(initial=0)) + 2
        self._levels: list[Ints] = []
        at = np.arange(len(values), dtype=np.int64)
        length = 1
        while length <= max(1, len(values)):
            # One sorted array a level: the block's number leads.
            self._levels.append(np.sort(at // length * self._shift + values))
            length *= 2

    def count(self, first: Ints, end: Ints, bound: Ints) -> Ints:
        """For each range [first, end) the values below its bound."""
        total = np.zeros(len(first), np.int64)
        low, high = first.copy(), np.maximum(first, end)
        bound = np.clip(bound, 0, self._shift - 1)
        for level, keys in enumerate(self._levels):
            length = 1 << level
            # A block of this length at either end that the next longer one does not cover.
            for at, odd in (
                (low, low // length % 2 == 1),
                (high - length, high // length % 2 == 1),
            ):
                take = odd & (low < high)
                block = at[take] // length
                begin = np.searchsorted(keys, block * self._shift)
                total[take] += np.searchsorted(keys, block * self._shift + bound[take]) - begin
                if at is low:
                    low = np.where(take, low + length, low)
                else:
                    high = np.where(take, high - length, high)
        return total


class Doors:
    """number, place, group : (D,) of each door, sorted by group, structure and place. A structure counts once
    in each group that it has a door to."""

    def __init__(self, number: Ints, place: Ints, group: Ints) -> None:
        order = np.lexsort((place, number, group))
        self.number, self.place, self.group = number[order], place[order], group[order]
        new = np.diff(self.number, prepend=-1) != 0
        new |= np.diff(self.group, prepend=-1) != 0
        begins = np.flatnonzero(new)
        ends = np.append(begins[1:], len(order))
        self._part_group = self.group[begins]
        # By place: the door of the same structure before it, or -1.
        before = np.where(new, -1, np.roll(self.place, 1)) if len(order) else self.place
        by_place = np.argsort(self.place, kind="stable")
        self._places = self.place[by_place]
        self._before = _Below(before[by_place] + 1)
        # Each structure in a group by its lowest place: the highest one.
        low, high = (self.place[begins], self.place[ends - 1]) if len(order) else (place, place)
        by_low = np.argsort(low, kind="stable")
        self._lows = low[by_low]
        self._highs = _Below(high[by_low])
        numbers, counts = np.unique(self.number[begins], return_counts=True)
        several = set(numbers[counts > 1].tolist())
        # The groups of those that have doors to more than one.
        self.groups_of: dict[int, set[int]] = {}
        for at in begins[np.isin(self.number[begins], list(several))].tolist():
            self.groups_of.setdefault(int(self.number[at]), set()).add(int(self.group[at]))
        self.has_shared = bool(several)

    def of_groups(self, groups: Ints) -> Ints:
        """How many structures have a door to each group."""
        counts = np.bincount(self._part_group, minlength=int(groups.max(initial=0)) + 1)
        return np.asarray(counts[groups], np.int64)

    def touching(self, first: Ints, end: Ints) -> Ints:
        """How many have a door in each range of places."""
        a, b = np.searchsorted(self._places, first), np.searchsorted(self._places, end)
        return self._before.count(a, b, first + 1)

    def within(self, first: Ints, end: Ints) -> Ints:
        """How many have all doors of their group in each range."""
        a, b = np.searchsorted(self._lows, first), np.searchsorted(self._lows, end)
        return self._highs.count(a, b, end)

    def in_group(self, group: int) -> tuple[Ints, Ints]:
        """(numbers, places) of the doors to a group, sorted."""
        a, b = np.searchsorted(self.group, [group, group + 1])
        return self.number[a:b], self.place[a:b]
