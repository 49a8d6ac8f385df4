"""What the rules of a kind ask, in words."""

from __future__ import annotations

from functools import lru_cache

from woven_locus.core.kinds import Kind, Lattice, Thing, Touch
from woven_locus.core.phrase import capital, counted, joined, mark, phrase
from woven_locus.core.placing.things import thing_words
from woven_locus.core.placing.verdict import cells_text, listed
from woven_locus.core.plan import Plan


def terrain_names(plan: Plan, keys: tuple[str, ...]) -> str:
    """``meadow or scree``."""
    return listed([thing_words(plan, Thing.TERRAIN, key) for key in keys], either=True)


# A pointer that moves asks the same again and again. Told apart by type: a name that somebody gave is not
# translated as ours is.
@lru_cache(maxsize=512, typed=True)
def stand_lacks(least: int, names: str, count: int) -> str:
    """``needs 4 cells on meadow, has 3``."""
    form = mark("needs {cells_text} on {names}, has {count}")
    return phrase(form, cells_text=cells_text(least), names=names, count=count)


@lru_cache(maxsize=512, typed=True)
def touch_lacks(touch: Touch, thing: str, found: int) -> str:
    """``needs 2 cell sides on its top on a road, has 1``."""
    sides = (
        ""
        if len(touch.sides) == 4
        else phrase(" on its {side_words}", side_words=_side_words(touch.sides))
    )
    count = counted(touch.least, "{n} cell side", "{n} cell sides")
    words = phrase(
        "needs {count}{sides} on {thing_words}", count=count, sides=sides, thing_words=thing
    )
    return phrase("{touch_words}, has {found}", touch_words=words, found=found)


# As a footprint is drawn.
_SIDES = (phrase("top"), phrase("right"), phrase("bottom"), phrase("left"))


def _side_words(sides: tuple[int, ...]) -> str:
    return phrase("{sides} (unturned)", sides=listed([_SIDES[side] for side in sides], either=True))


def support_title(plan: Plan, kind: Kind) -> str:
    """What it must stand on and touch, for the list of its rules."""
    parts = []
    stand = kind.demands.stand
    if stand is not None:
        which = phrase("every cell") if not stand.least else cells_text(stand.least)
        parts.append(
            phrase(
                "{which} on {terrain_names}",
                which=which,
                terrain_names=terrain_names(plan, stand.terrain),
            )
        )
    for touch in kind.demands.touch:
        parts.append(
            phrase("touches {thing_words}", thing_words=thing_words(plan, touch.thing, touch.key))
        )
    return capital(joined(", ", parts))


def lattice_words(lattice: Lattice) -> str:
    """``on every 2nd column from 0``."""
    parts = [
        phrase(form, ordinal=_ordinal(step), first=first)
        for form, step, first in (
            (mark("every {ordinal} column from {first}"), lattice.cols, lattice.col),
            (mark("every {ordinal} row from {first}"), lattice.rows, lattice.row),
        )
        if step > 1
    ]
    return phrase("on {cells}", cells=listed(parts) or phrase("any cell"))


def _ordinal(n: int) -> str:
    if n % 100 in (11, 12, 13):
        return f"{n}th"
    return f"{n}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(n % 10, 'th') }"


def turns_words(kind: Kind) -> str:
    """Which turns a kind takes, for a refusal."""
    turns = listed([f"{turn * 90}°" for turn in kind.turns], either=True)
    if kind.mirror:
        return phrase("stands turned {turns} only, mirrored or not", turns=turns)
    return phrase("stands turned {turns} only, not mirrored", turns=turns)


def too_dear(plan: Plan, price: int, missing: int) -> str:
    """That something costs more than there is."""
    return phrase(
        "costs {price:,} {money}, {missing:,} more than there is",
        price=price,
        money=plan.money,
        missing=missing,
    )


def distance(plan: Plan, length: float) -> str:
    """``100 ells``."""
    return f"{length:g} {plan.spec.unit}".rstrip()
