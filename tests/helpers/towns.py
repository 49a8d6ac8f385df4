"""Towns by a seed that have something of everything that a rule looks at: for questions that another program answers."""

from __future__ import annotations

import numpy as np

from tests.helpers.builders import WHEN
from woven_locus.core import edits
from woven_locus.core.books import Funds
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.ground import Obstacle
from woven_locus.core.kinds import (
    Catalogue,
    Clear,
    Demands,
    Door,
    Footprint,
    Kind,
    Lattice,
    Stand,
    Thing,
    Touch,
)
from woven_locus.core.lanes import KeepSide
from woven_locus.core.placing import judge
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import AttackerKind, Entry, Goal, Group, Moves, Wave, WavePlan
from woven_locus.core.ways.roads import SIGN_SHIFT, RoadClass, RoadTable, Sign
from woven_locus.document.starter import starter_terrain

BEAM = Footprint.from_rows(["##", "#."], [Door(0, 1, 2), Door(1, 0, 1)])
BLOCK = Footprint.block(2, 3, [Door(0, 0, 0)])


def _kinds() -> list[Kind]:
    terrain = [item.key for item in starter_terrain()]

    def kind(key: str, shape: Footprint, demands: Demands, price: int = 5, **more: object) -> Kind:
        return Kind(
            key, key.title(), key[0].upper(), "#446688", price, shape, demands=demands, **more
        )  # type: ignore[arg-type]

    return [
        kind("booth", Footprint.block(1, 1), Demands(most=9), pays=3, every=7),
        kind("yard", BEAM, Demands(access=True, clear=(Clear(Thing.KIND, "yard", 2),)), 0),
        kind("mill", BLOCK, Demands(slope=35.0, reach=300.0), turns=(0, 2, 3)),
        kind("kiln", BEAM, Demands(stand=Stand(tuple(terrain[:2]), 2), touch=(Touch(Thing.ROAD),))),
        kind("cairn", Footprint.block(1, 2), Demands(terrain=tuple(terrain[1:4])), mirror=True),
        kind("post", BLOCK, Demands(lattice=Lattice(2, 3, 1, -1)), 400, mirror=True),
        kind("shed", BEAM, Demands(touch=(Touch(Thing.TERRAIN, terrain[0], 2, (0, 1)),))),
        kind("hedge", Footprint.block(3, 1), Demands(clear=(Clear(Thing.OBSTACLE, "", 1),)), 0),
    ]


def random_town(seed: int) -> Plan:
    """Streets of several classes with signs, ground of all classes, heights, structures, entries and goals."""
    rng = np.random.default_rng(seed)
    cols, rows = (int(n) for n in rng.integers(18, 30, 2))
    shape, far = (rows, cols), seed % 3 - 1
    spec = GridSpec(
        *(cols, rows, 24.0, 24.0 if seed % 2 else 17.5, 1000.25 * far, -0.1 * far),
        centred=seed % 2 == 0,
        first_col=-7 * far,
        first_row=3 * far,
        y_up=seed % 3 == 0,
    )
    table = starter_terrain()
    classes = [
        RoadClass(
            f"r{lanes}",
            f"Road {lanes}",
            "abcdef"[lanes - 1],
            3.0 + lanes,
            2 / lanes,
            lanes,
            "#C0A070",
        )
        for lanes in range(1, 7)
    ]
    col, row = np.meshgrid(np.arange(cols), np.arange(rows))
    street = ((row % 4 == 1) | (col % 5 == 2)) & (rng.random(shape) < 0.93)
    byte = 1 + ((col // 7 + row // 5) % len(classes))
    sign = rng.choice([0] * 40 + [*Sign], shape)
    road = np.where(street, byte | sign << SIGN_SHIFT, 0).astype(np.uint8)
    barrier = ((rng.random(shape) < 0.04) & (road == 0)).astype(np.uint8)
    heights = np.cumsum(rng.normal(0, 6, shape), axis=1).astype(np.float32)
    heights[rng.random(shape) < 0.02] = np.nan
    free = np.argwhere((road == 0) & (barrier == 0))
    rocks = [spec.cell_of_slot(slot) for slot in rng.permutation(free)[:8].tolist()]
    plan = Plan(
        f"Town {seed}",
        spec,
        table,
        Catalogue(_kinds()),
        terrain=rng.choice(len(table), shape, p=_mostly_first(len(table))).astype(np.uint8),
        reserved=(rng.random(shape) < 0.05).astype(np.uint8),
        road=road,
        road_table=RoadTable(classes),
        barrier=barrier,
        heights=heights,
        window=BuildWindow(spec.first.moved(1, 0), cols + 3, rows - 2) if seed % 4 == 1 else None,
        obstacles=[
            Obstacle(k + 1, f"Rock {k}", "boulder", (cell,)) for k, cell in enumerate(rocks)
        ],
        funds=Funds(600, 50, 30) if seed % 2 else None,
        actor=Point(*spec.centre(spec.first.moved(cols // 2, rows // 2))) if seed % 3 else None,
        keep=KeepSide.LEFT if seed % 2 else KeepSide.RIGHT,
        waves=_waves(spec),
    )
    history = History(plan)
    for _ in range(400):
        kind = list(plan.kinds)[int(rng.integers(len(plan.kinds)))]
        cell = Cell(
            int(rng.integers(cols)) + spec.first_col, int(rng.integers(rows)) + spec.first_row
        )
        turn = int(rng.integers(8))
        if kind.may_turn(turn) and judge(plan, kind, cell, turn):
            history.do(edits.place(plan, kind.key, cell, turn, WHEN))
    return plan


def _mostly_first(count: int) -> list[float]:
    return [0.8, *[0.2 / (count - 1)] * (count - 1)]


def _waves(spec: GridSpec) -> WavePlan:
    first, last = spec.first, spec.last
    walker = AttackerKind("snail", "Snail", "#405060", 0.5, 1.0, 9.0)
    flier = AttackerKind("gnat", "Gnat", "#405060", 0.5, 1.0, 9.0, moves=Moves.AIR)
    entries = (
        Entry("E1", "Low gate", (first.moved(0, 1), first.moved(0, 2)), ("G1",)),
        Entry("E2", "Sky", (last,)),
    )
    goals = (Goal("G1", "Barn", (last.moved(0, -2),)), Goal("G2", "Pond", (last.moved(-3, 0),)))
    groups = (Group("E1", "snail", 3), Group("E2", "gnat", 3))
    return WavePlan(entries, goals, (walker, flier), (Wave("One", 0.0, groups),))
