"""Small plans, drawn as text."""

from __future__ import annotations

import numpy as np

from woven_locus.core import edits
from woven_locus.core.editing import Edit, History, Patch
from woven_locus.core.geometry import SIDE_NAMES, Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import Obstacle
from woven_locus.core.kinds import Catalogue, Door, Footprint, Kind
from woven_locus.core.plan import Plan
from woven_locus.document.starter import starter_terrain

WHEN = "2031-04-03T09:00:00Z"

HUT = Kind("hut", "Hut", "H", "#2F4B7C", 10, Footprint.block(1, 1))
BARN = Kind(
    "barn",
    "Barn",
    "B",
    "#A5383F",
    25,
    Footprint.block(3, 2, [Door(1, 1, SIDE_NAMES.index("south"))]),
)
ELL = Kind("ell", "Ell", "L", "#8A6A93", 40, Footprint.from_rows(["#.", "#.", "##"]))
KINDS = Catalogue([HUT, BARN, ELL])


def draw(
    text: str, *, cell: tuple[float, float] = (1.0, 1.0), first: tuple[int, int] = (0, 0)
) -> Plan:
    """A plan from rows of letters: . meadow, b bog, s stream, c scree, k cliff, r reserved meadow,
    = road on meadow, o an obstacle on meadow."""
    rows = [line.strip() for line in text.strip().splitlines()]
    spec = GridSpec(len(rows[0]), len(rows), *cell, first_col=first[0], first_row=first[1])
    table = starter_terrain()
    codes = {"b": "bog", "s": "stream", "c": "scree", "k": "cliff"}
    terrain = np.array(
        [[table.code(codes.get(ch, "meadow")) for ch in row] for row in rows], np.uint8
    )
    grid = np.array([list(row) for row in rows])
    stones = [spec.cell_of_slot(slot) for slot in np.argwhere(grid == "o").tolist()]
    return Plan(
        "Test plan",
        spec,
        table,
        KINDS,
        terrain=terrain,
        reserved=(grid == "r").astype(np.uint8),
        road=(grid == "=").astype(np.uint8),
        obstacles=[
            Obstacle(k + 1, f"Stone {k + 1}", "boulder", (c,)) for k, c in enumerate(stones)
        ],
    )


def put(plan: Plan, kind: str, col: int, row: int, turn: int = 0) -> int:
    """Place a structure with a history of its own; returns its number."""
    number = plan.register.next_number
    History(plan).do(edits.place(plan, kind, Cell(col, row), turn, WHEN))
    return number


def three_huts() -> Plan:
    """Three huts at the ends of two roads that meet in the cell (6, 1)."""
    plan = draw(
        """
        ............
        .==========.
        ......=.....
        ......=.....
        ......=.....
        ............
        """,
        cell=(24, 24),
    )
    for col, row in ((1, 0), (10, 0), (5, 4)):
        put(plan, "hut", col, row)
    return plan


def paint(plan: Plan, cells: list[Cell], code: int) -> Edit:
    """Terrain on a few cells."""
    patch = Patch.of_cells(plan, "terrain", cells, code)
    return Edit(f"Painted {plan.terrain_table[code].name}", (patch,) if patch else ())
