"""What three sides hold by key, brought together."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Hashable, Sequence
from typing import Any

from woven_locus.core.compare.parts import Held
from woven_locus.core.errors import WovenError
from woven_locus.core.register import Structure
from woven_locus.core.value import Value, replace

# Where the three clash: key, field (empty for the whole), the values of both sides.
Clash = tuple[Hashable, str, Any, Any]

# Fields that mean something only together: where a structure stands.
_TOGETHER: dict[type, tuple[tuple[str, ...], ...]] = {Structure: (("cell", "turn"),)}


class _Mark:
    """Something that no value is."""


_GONE, _CLASH = _Mark(), _Mark()


def merge_held(
    base: Held,
    ours: Held,
    theirs: Held,
    summed: bool = False,
    given: Collection[tuple[Hashable, str]] = (),
) -> tuple[Held, list[Clash]]:
    """What is held in the end, in order, and where the sides clash. summed : values are rows of numbers of which what both
    sides added counts; see `books.Gone`.  given : keys and fields for which theirs is taken where they clash."""
    found: Held = {}
    clashes: list[Clash] = []
    for key in _order(base, ours, theirs):
        old, mine, other = (side.get(key, _GONE) for side in (base, ours, theirs))
        value = _one((old, mine, other))
        if value is _CLASH and summed:
            value = _summed(old, mine, other)
        elif value is _CLASH and _GONE not in (old, mine, other):
            value = _joined(key, (old, mine, other), clashes, given)
        elif value is _CLASH:
            one, two = (None if item is _GONE else item for item in (mine, other))
            clashes.append((key, "", one, two))
            value = mine
        if value is not _GONE:
            found[key] = value
    return found, clashes


def _one(three: Sequence[Any]) -> Any:
    """The value that is taken of base, ours and theirs; _CLASH for none."""
    base, ours, theirs = three
    if ours == theirs or theirs == base:
        return ours
    return theirs if ours == base else _CLASH


def _joined(
    key: Hashable,
    three: Sequence[Any],
    clashes: list[Clash],
    given: Collection[tuple[Hashable, str]],
) -> Any:
    """Of one thing that both changed, field by field."""
    base, ours, theirs = three
    if not isinstance(ours, Value) or not type(base) is type(ours) is type(theirs):
        clashes.append((key, "", ours, theirs))
        return ours
    mine: list[Clash] = []
    new: dict[str, Any] = {}
    for group in _groups(ours):
        values = [tuple(getattr(item, name) for name in group) for item in three]
        value = _one(values)
        if value is _CLASH and len(group) == 1 and isinstance(values[1][0], Value):
            value = (_joined(key, [item[0] for item in values], mine, given),)
        elif value is _CLASH and (key, " and ".join(group)) in given:
            value = values[2]
        elif value is _CLASH:
            shown = [item[0] if len(group) == 1 else item for item in values]
            mine.append((key, " and ".join(group), shown[1], shown[2]))
            value = values[1]
        new |= zip(group, value, strict=True)
    try:
        made = replace(ours, **new)
    except WovenError:
        clashes.append((key, "", ours, theirs))
        return ours
    clashes += mine
    return made


def _groups(item: Any) -> list[tuple[str, ...]]:
    together = _TOGETHER.get(type(item), ())
    taken = set(itertools.chain(*together))
    single = [(name,) for name in item.__struct_fields__ if name not in taken]
    return [*together, *single]


def _summed(base: Any, ours: Any, theirs: Any) -> Any:
    like = ours if ours is not _GONE else theirs
    none = type(like)(*like[:4], 0, 0, 0)
    old, mine, other = (none if item is _GONE else item for item in (base, ours, theirs))
    sums = [a + b - c for a, b, c in zip(mine[4:], other[4:], old[4:], strict=True)]
    return type(like)(*like[:4], *sums) if sums[0] > 0 else _GONE


def _order(base: Held, ours: Held, theirs: Held) -> list[Hashable]:
    """Keys in the order of the side that changed it; where both did, what they added follows, sorted, so that it does not
    matter which side is called ours."""
    if list(ours) == list(base) or list(theirs) == list(ours):
        return list(dict.fromkeys((*theirs, *ours)))
    if list(theirs) == list(base):
        return list(dict.fromkeys((*ours, *theirs)))
    old = [key for key in base if key in ours or key in theirs]
    new = {key for side in (ours, theirs) for key in side if key not in base}
    return old + sorted(new, key=_rank)


def _rank(key: Hashable) -> tuple[int, int, str]:
    return (0, key, "") if isinstance(key, int) else (1, 0, repr(key))
