"""Where structures open to the road: the slots just outside their doors."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.register import Structure

Slots = npt.NDArray[np.int64]


class Built(Protocol):
    """What is known of how kinds of structures lie on a grid: a plan."""

    spec: GridSpec
    kinds: Catalogue

    def footprint(self, kind: Kind, turn: int) -> Footprint:
        """A kind's footprint after a turn, as it lies on this plan."""

    def approaches_of(self, structure: Structure) -> list[Cell]:
        """The cells just outside a structure's doors."""


# More structures than this are looked at in array passes.
MANY = 200


def approach_slots(plan: Built, structures: Iterable[Structure]) -> dict[int, Slots]:
    """By number: the flat slots at which each structure can join a road, those within the grid.

    Structures alike have approaches alike, so that many are looked at by kind and turn.
    """
    spec = plan.spec
    rows = list(structures)
    found: dict[int, Slots] = {}
    if len(rows) <= MANY:
        for row in rows:
            cells = [c for c in plan.approaches_of(row) if spec.contains(c)]
            found[row.number] = np.array([spec.index(cell) for cell in cells], np.int64)
        return found
    alike: dict[tuple[str, int], list[Structure]] = {}
    for row in rows:
        alike.setdefault((row.kind, row.turn), []).append(row)
    for (kind, turn), same in alike.items():
        footprint = plan.footprint(plan.kinds[kind], turn)
        ways = np.array(footprint.approaches(Cell(0, 0)), np.int64)
        flat = (part for row in same for part in row.cell)
        low = np.fromiter(flat, np.int64, 2 * len(same)).reshape(-1, 2)
        at = low[:, None] + ways - np.array(spec.first)
        inside = (at >= 0).all(axis=2) & (at < (spec.cols, spec.rows)).all(axis=2)
        slots = at[:, :, 1] * spec.cols + at[:, :, 0]
        whole = inside.all(axis=1).tolist()
        for k, (row, mine) in enumerate(zip(same, slots, strict=True)):
            found[row.number] = mine if whole[k] else mine[inside[k]]
    return found
