"""Seeded large plans: patches of terrain, a street grid, structures between the streets."""

from __future__ import annotations

import numpy as np

from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.document.document import new_plan


def town(side: int, structures: int, seed: int = 7) -> Plan:
    """A plan of side x side cells; as many structures as asked for, if they fit."""
    rng = np.random.default_rng(seed)
    base = new_plan(GridSpec(side, side, 24, 24), "Town")
    # Patches over a fine grain: runs of a few cells, as painted or imported ground has them.
    patches = rng.integers(0, 6, (side // 16 + 1, side // 16 + 1)).astype(np.uint8)
    terrain = np.kron(patches, np.ones((16, 16), np.uint8))[:side, :side].copy()
    grain = rng.random((side, side)) < 0.03
    terrain[grain] = rng.integers(0, 6, int(grain.sum()))
    road = np.zeros((side, side), np.uint8)
    road[8::16, :] = 1
    road[:, 8::16] = 1
    places = [
        (row, col)
        for row in range(1, side - 4, 8)
        for col in range(1, side - 4, 8)
        if not road[row : row + 2, col : col + 3].any()
    ]
    rng.shuffle(places)
    rows = [
        Structure(k + 1, "loom-hall", Cell(col, row), 0, 120, "2031-01-01T00:00:00Z")
        for k, (row, col) in enumerate(places[:structures])
    ]
    return Plan(
        "Town",
        base.spec,
        base.terrain_table,
        base.kinds,
        terrain=terrain,
        road=road,
        structures=rows,
        money="tallies",
    )
