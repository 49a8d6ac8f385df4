"""The rule that every entry keeps a way to its goal."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.phrase import phrase
from woven_locus.core.placing.asking import Ask, Spots
from woven_locus.core.placing.verdict import Remark, listed
from woven_locus.core.plan import Plan
from woven_locus.core.waves.seals import seals_of


def check(ask: Ask) -> Remark | None:
    """What the rule says to one spot."""
    return seal_remark(ask.plan, ask.footprint.at(ask.cell), ask.lifted)


def seal_remark(plan: Plan, cells: Sequence[Cell], lifted: int = 0) -> Remark | None:
    """What there is to say when closing cells takes the last way from an entry, None when it does not.
    lifted : number of a structure that is taken as gone."""
    sealed = seals_of(plan).sealed(cells, lifted) if plan.waves.entries else ()
    if not sealed:
        return None
    return Remark(Reason.SEALS, seal_words([entry.name for entry in sealed]))


def seal_words(names: Sequence[str]) -> str:
    """That the last way of some entries is taken."""
    return phrase("takes the last way from {names}", names=listed(names))


def spots(ask: Spots) -> Mask:
    """(block) where it refuses."""
    found = np.zeros(ask.box.shape, bool)
    offsets = [Slot(row, col) for col, row in ask.footprint.cells]
    seals = seals_of(ask.plan)
    rows, cols = np.nonzero(seals.near(ask.box, offsets))
    found[rows, cols] = seals.spots(rows + ask.box.r0, cols + ask.box.c0, offsets, ask.lifted)
    return found
