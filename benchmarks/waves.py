"""Row 8b: the way with a ghost in hand, what seals and what gains most on a whole map, and many attackers."""

from __future__ import annotations

import time

import numpy as np

from benchmarks.table import Row, best_of, seconds
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell, Slot
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.placing import feasible_map
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import AttackerKind, Entry, Goal, Group, Wave, WavePlan
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.gain import gains
from woven_locus.core.waves.run import WaveRun
from woven_locus.core.waves.seals import Seals
from woven_locus.core.waves.ways import find_ways
from woven_locus.document.starter import starter_terrain

POST = Kind(
    "post", "Post", "P", "#123456", 0, Footprint.from_rows(["##", "##"]), tower=Tower(0, 6, 5, 1)
)
GRUB = AttackerKind("grub", "Grub", "#445566", 0.5, 2.0, 1e9)
# Steps that are timed.
_STEPS = 60


def maze(side: int, waves: tuple[Wave, ...] = ()) -> Plan:
    """Walls across the map with a gap in each, and posts by chance between them."""
    rng = np.random.default_rng(11)
    barrier = np.zeros((side, side), np.uint8)
    for col in range(16, side - 8, 16):
        barrier[:, col] = 1
        gap = int(rng.integers(2, side - 6))
        barrier[gap : gap + 4, col] = 0
    barrier[(rng.random(barrier.shape) < 0.12) & (barrier == 0)] = 1
    barrier[:, :3] = barrier[:, -3:] = 0
    entry = Entry("E1", "Hollow", tuple(Cell(0, side // 2 + k) for k in range(3)))
    goal = Goal("G1", "Store", tuple(Cell(side - 1, side // 2 + k) for k in range(3)))
    plan = WavePlan((entry,), (goal,), (GRUB,), waves, lives=1_000_000)
    spec = GridSpec(side, side, 1.0, 1.0, 0.0, 0.0)
    return Plan("Maze", spec, starter_terrain(), Catalogue([POST]), barrier=barrier, waves=plan)


def rows(side: int, attackers: int, towers: int) -> list[Row]:
    plan = maze(side)
    kind = plan.kinds["post"]
    (way,) = find_ways(plan)
    offsets = [Slot(row, col) for col, row in plan.footprint(kind, 0).cells]
    seals = Seals(plan)
    at = way.slots[len(way.slots) // 2].tolist()
    ghost = plan.footprint(kind, 0).at(plan.spec.cell_of_slot(at))
    made = []

    def add(what: str, spent: float, goal: float, words: str) -> None:
        case = f"{what}, {side}², a way of {len(way.slots):,} cells"
        made.append(Row("8b", case, seconds(spent), "", None, words, spent <= goal))

    add("whether a ghost on the way seals", best_of(lambda: seals.sealed(ghost)), 0.016, "≤ 16 ms")
    around = Around(plan)
    with_ghost = best_of(lambda: around.find(way, ghost))
    add("the way with a ghost on it", with_ghost, 0.016, "≤ 16 ms")
    add("the walls labelled after an edit", best_of(lambda: Seals(plan)), 0.2, "≤ 200 ms")
    legal = feasible_map(plan, kind, 0)

    def whole() -> None:
        found = seals.near(plan.spec.box, offsets)
        at_row, at_col = np.nonzero(found)
        seals.spots(at_row, at_col, offsets)

    add("what seals on the whole map", best_of(whole), 0.2, "≤ 200 ms")

    def after_an_edit() -> None:
        # Nothing that was worked out of the plan before is of use.
        plan.version += 1
        gains(plan, kind, 0, legal)

    gained = best_of(after_an_edit)
    add("what gains most on the whole map", gained, 0.2, "≤ 200 ms")
    return [*made, _run(attackers, towers)]


def _run(attackers: int, towers: int) -> Row:
    wave = Wave("All", 0.0, (Group("E1", "grub", attackers, 0.002),))
    plan = maze(128, (wave,))
    history, rng, put = History(plan), np.random.default_rng(2), 0
    for row, col in rng.permutation(
        np.argwhere(feasible_map(plan, plan.kinds["post"], 0))
    ).tolist():
        if put == towers:
            break
        if feasible_map(plan, plan.kinds["post"], 0)[row, col]:
            history.do(edits.place(plan, "post", plan.spec.cell_of_slot((row, col)), 0, "now"))
            put += 1
    run = WaveRun(plan, step=1 / 60)
    run.advance(round((attackers * 0.002 + 1) * 60))
    there = run.attackers.count_there
    start = time.perf_counter()
    run.advance(_STEPS)
    spent = (time.perf_counter() - start) / _STEPS
    case = f"a step of {there:,} attackers and {put} towers"
    return Row("8b", case, seconds(spent), "", None, "≤ 16.7 ms", spent <= 1 / 60)
