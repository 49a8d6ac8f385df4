"""Where structures open to the road: the slots just outside their doors."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Protocol

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.register import Alike

Slots = npt.NDArray[np.int64]


class Built(Protocol):
    """What is known of how kinds of structures lie on a grid: a plan."""

    spec: GridSpec
    kinds: Catalogue

    def footprint(self, kind: Kind, turn: int) -> Footprint:
        """A kind's footprint after a turn, as it lies on this plan."""


def approach_slots(plan: Built, groups: Iterable[Alike]) -> dict[int, Slots]:
    """By number: the flat slots at which each structure can join a road, those within the grid."""
    found: dict[int, Slots] = {}
    for group in groups:
        slots = approaches_alike(plan, group)
        whole = slots.min(axis=1, initial=0) >= 0
        for number, mine, all_of_it in zip(
            group.numbers.tolist(), slots, whole.tolist(), strict=True
        ):
            found[number] = mine if all_of_it else mine[mine >= 0]
    return found


def approaches_alike(plan: Built, group: Alike) -> Slots:
    """(N, approaches) int64: the flat slots at which each of the group can join a road, -1 for one that is
    not within the grid."""
    footprint = plan.footprint(plan.kinds[group.kind], group.turn)
    return slots_at(plan.spec, group.lows, footprint.approach_offs)


def slots_alike(plan: Built, group: Alike) -> Slots:
    """(N, cells of the footprint) int64: the flat slots that each of the group covers, -1 for one that is not within
    the grid."""
    footprint = plan.footprint(plan.kinds[group.kind], group.turn)
    return slots_at(plan.spec, group.lows, footprint.at(Cell(0, 0)))


def slots_at(spec: GridSpec, lows: Slots, cells: Sequence[tuple[int, int]]) -> Slots:
    """(N, cells) int64: the flat slots of the same cells from each of some low cells, (N, 2) column and row; -1 for one that
    is not within the grid."""
    ways = np.array(cells, np.int64).reshape(-1, 2)
    at = lows - np.array(spec.first)
    low_slots = at[:, 1] * spec.cols + at[:, 0]
    slots: Slots = low_slots[:, None] + (ways[:, 1] * spec.cols + ways[:, 0])
    if not slots.size:
        return slots
    low, high = at.min(axis=0) + ways.min(axis=0), at.max(axis=0) + ways.max(axis=0)
    if (low < 0).any() or (high >= (spec.cols, spec.rows)).any():
        cols, rows = (at[:, k, None] + ways[:, k] for k in (0, 1))
        slots[(cols < 0) | (cols >= spec.cols) | (rows < 0) | (rows >= spec.rows)] = -1
    return slots
