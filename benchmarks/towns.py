"""Seeded large plans: patches of terrain, a street grid, structures between the streets."""

from __future__ import annotations

import numpy as np

from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.document.starter import new_plan


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


def winding_roads(side: int, cells: int, seed: int = 7) -> np.ndarray:
    """Streets as they grow: blocks of uneven size cut in two again and again, with one street end in
    eight missing. (side, side) uint8 with about so many road cells."""
    rng = np.random.default_rng(seed)
    road = np.zeros((side, side), np.uint8)
    # A block of a x b cells has about a + b cells of street to itself.
    least = max(4, int(1.46 * side * side / cells))
    blocks = [(0, 0, side - 1, side - 1)]
    road[0, :] = road[-1, :] = road[:, 0] = road[:, -1] = 1
    while blocks:
        r0, c0, r1, c1 = blocks.pop()
        tall, wide = r1 - r0, c1 - c0
        if max(tall, wide) < 2 * least:
            continue
        share = rng.uniform(0.35, 0.65)
        if tall >= wide:
            row = r0 + int(tall * share)
            road[row, c0 : c1 + 1] = 1
            if rng.random() < 0.125:
                road[row, c0 + 1 + int(rng.integers(2))] = 0
            blocks += [(r0, c0, row, c1), (row, c0, r1, c1)]
        else:
            col = c0 + int(wide * share)
            road[r0 : r1 + 1, col] = 1
            if rng.random() < 0.125:
                road[r0 + 1 + int(rng.integers(2)), col] = 0
            blocks += [(r0, c0, r1, col), (r0, col, r1, c1)]
    return road


def winding_town(side: int, cells: int, structures: int, seed: int = 7) -> Plan:
    """A plan over `winding_roads` with as many dye works as asked for, if they fit, each with a door on a
    road."""
    rng = np.random.default_rng(seed)
    base = new_plan(GridSpec(side, side, 24, 24), "Winding town")
    road = winding_roads(side, cells, seed)
    kind = base.kinds["dye-works"]
    doors = [(c.col, c.row) for c in kind.footprint.approaches(Cell(0, 0))]
    wide, tall = kind.footprint.cols, kind.footprint.rows
    free = np.ones((side - tall - 1, side - wide - 1), bool)
    for row in range(tall):
        for col in range(wide):
            free &= road[1 + row : row + side - tall, 1 + col : col + side - wide] == 0
    on_road = np.zeros(free.shape, bool)
    for col, row in doors:
        on_road |= road[1 + row : row + side - tall, 1 + col : col + side - wide] != 0
    spots = np.argwhere(free & on_road) + 1
    taken = np.zeros((side, side), bool)
    rows = []
    for row, col in rng.permutation(spots).tolist():
        block = (slice(row, row + tall), slice(col, col + wide))
        if len(rows) < structures and not taken[block].any():
            taken[block] = True
            rows.append(
                Structure(len(rows) + 1, kind.key, Cell(col, row), 0, 0, "2031-01-01T00:00:00Z")
            )
    return Plan(
        base.name,
        base.spec,
        base.terrain_table,
        base.kinds,
        road=road,
        road_table=base.road_table,
        structures=rows,
        money="tallies",
    )
