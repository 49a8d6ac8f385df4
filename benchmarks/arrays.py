"""Rows 5 and 6: judging placements and snapping points."""

from __future__ import annotations

import time
import tracemalloc

import numpy as np

from benchmarks.table import Row, best_of, seconds
from benchmarks.towns import town
from woven_locus.core.editing import History, Notice
from woven_locus.core.edits.ground import Coat, paint_brush
from woven_locus.core.edits.heights import flat, set_heights
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec, Rule, SnapSettings, snap_many
from woven_locus.core.kinds import NO_DEMANDS, Kind
from woven_locus.core.lines import Brush
from woven_locus.core.placing import Feasibility, feasible_map, feasible_maps, judge
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace


def judging(side: int) -> list[Row]:
    plan = town(side, 20_000)
    kind = plan.kinds["carriers-inn"]
    rng = np.random.default_rng(3)
    cells = [Cell(int(c), int(r)) for c, r in rng.integers(0, side - 4, (1000, 2))]

    def judge_all() -> None:
        for cell in cells:
            judge(plan, kind, cell, 1)

    def read_all() -> None:
        """A plain loop over the blocks layer, once at each cell."""
        blocks, spec = plan.blocks, plan.spec
        footprint = plan.footprint(kind, 1)
        for cell in cells:
            for at in footprint.at(cell):
                _ = blocks[spec.slot(at)]

    one, plainly = best_of(judge_all) / len(cells), best_of(read_all) / len(cells)
    made = [
        Row(
            "5",
            f"judge one placement without rules, {side}²",
            seconds(one),
            f"{seconds(plainly)} (reading its cells)",
            one / plainly,
            "< 50 µs, ≤ 60 ×",
            one < 50e-6 and one <= 60 * plainly,
        )
    ]
    made += _rules(plan, cells)
    for key in ("loom-hall", "carriers-inn"):
        kind = plan.kinds[key]
        kind = replace(kind, turns=(0, 1, 2, 3), mirror=False, demands=NO_DEMANDS)
        ours = best_of(lambda kind=kind: feasible_maps(plan, kind), 3)
        mask = plan.blocks != 0
        out = np.zeros_like(mask)

        def reference(count: int = 4 * len(kind.footprint.cells), out=out, mask=mask) -> None:  # type: ignore[no-untyped-def]
            for _ in range(count):
                np.logical_or(out, mask, out=out)

        theirs = best_of(reference, 3)
        made.append(
            Row(
                "5",
                f"feasible map of {key}, 4 turns, {side}²",
                seconds(ours),
                f"{seconds(theirs)} (NumPy OR)",
                ours / theirs,
                "≤ 5 × OR",
                ours <= 5 * theirs,
            )
        )
    return made


def _rules(plan: Plan, cells: list[Cell]) -> list[Row]:
    """Kinds with rules of their own: the dearest judgement, what one keeps in memory, their maps, and
    the map after an edit."""
    side = plan.spec.cols
    History(plan).do(set_heights(plan, flat(plan), "Flat"))
    slowest, name = 0.0, ""
    for kind in plan.kinds:

        def judge_all(kind: Kind = kind) -> None:
            for cell in cells:
                judge(plan, kind, cell, kind.all_turns[-1])

        took = best_of(judge_all) / len(cells)
        if took > slowest:
            slowest, name = took, kind.key
    made = [
        Row(
            "5",
            f"judge one of the dearest kind ({name}), {side}²",
            seconds(slowest),
            "",
            None,
            "< 50 µs",
            slowest < 50e-6,
        )
    ]
    tracemalloc.start()
    peak = 0
    for kind in plan.kinds:
        for cell in cells[:50]:
            tracemalloc.reset_peak()
            before = tracemalloc.get_traced_memory()[0]
            verdict = judge(plan, kind, cell, kind.all_turns[0])
            peak = max(peak, tracemalloc.get_traced_memory()[1] - before)
            del verdict
    tracemalloc.stop()
    made.append(
        Row(
            "5",
            "most memory of one judgement",
            f"{peak / 1024:.1f} kB",
            "",
            None,
            "≤ 16 kB",
            peak <= 16384,
        )
    )
    mask, out = plan.blocks != 0, np.zeros(plan.spec.shape, bool)

    def reference() -> None:
        np.logical_or(out, mask, out=out)

    one_or = best_of(reference, 3)
    heights = plan.heights
    assert heights is not None

    def slope() -> None:
        rise, run = np.gradient(heights, 24.0)
        _ = np.hypot(rise, run) > 0.2

    numpy_slope = best_of(slope, 2)
    for key in ("fulling-mill", "watch-lantern", "drying-frames"):
        kind = plan.kinds[key]
        took = best_of(lambda kind=kind: feasible_map(plan, kind, kind.all_turns[0]), 3)
        looks = _masks(kind)
        theirs, what, goal = one_or * looks, f"NumPy OR of {looks} masks", "≤ 5 × OR"
        if kind.demands.slope is not None:
            theirs += numpy_slope
            what, goal = f"{what} and NumPy's slope", "≤ 5 × that"
        made.append(
            Row(
                "5",
                f"map of {key} with its rules, 1 turn, {side}²",
                seconds(took),
                f"{seconds(theirs)} ({what})",
                took / theirs,
                goal,
                took <= 5 * theirs,
            )
        )
    kind = plan.kinds["dye-works"]
    start = time.perf_counter()
    found = Feasibility(plan, kind, 0)
    whole = time.perf_counter() - start
    history = History(plan)
    times: list[float] = []

    def follow(notice: Notice) -> None:
        start = time.perf_counter()
        found.update(notice)
        times.append(time.perf_counter() - start)

    history.listen(follow)
    for cell in cells[:40]:
        history.do(paint_brush(plan, [cell], Brush(3), Coat("terrain", 2)))
    took = float(np.median(times))
    made.append(
        Row(
            "5",
            f"where-map of dye-works after an edit, all turns, {side}²",
            seconds(took),
            f"{seconds(whole)} (all of it)",
            took / whole,
            "dirty part only",
            took < 0.1 * whole or took < 0.005,
        )
    )
    while history.undo():
        pass
    return made


def _masks(kind: Kind) -> int:
    """Masks of the whole map that a kind's map is made of: that of the cell rules, and that of each rule of
    its own, once for each cell or side at which it is looked at."""
    asked, cells = kind.demands, len(kind.footprint.cells)
    sides = len(kind.footprint.open_sides())
    return cells * (1 + (asked.stand is not None) + bool(asked.clear)) + sides * len(asked.touch)


def snapping(count: int) -> list[Row]:
    spec = GridSpec(4096, 4096, 24, 16, -500, 30)
    points = np.random.default_rng(5).uniform(-1e5, 1e5, (count, 2))
    steps = np.array([24.0, 16.0])
    made = []
    located = best_of(lambda: spec.locate_many(points))
    divided = best_of(lambda: np.floor_divide(points, steps))
    made.append(
        Row(
            "6",
            f"locate {count:,} points, strict and virtual",
            seconds(located),
            f"{seconds(divided)} (floor-divide)",
            located / divided,
            "≤ 2 ×",
            located <= 2 * divided,
        )
    )
    for rule in Rule:
        settings = SnapSettings(rule)
        ours = best_of(lambda settings=settings: snap_many(spec, settings, points))
        theirs = best_of(lambda: np.floor_divide(points, steps))
        made.append(
            Row(
                "6",
                f"snap {count:,} points, {rule.value}",
                seconds(ours),
                f"{seconds(theirs)} (floor-divide)",
                ours / theirs,
                "≤ 2 ×",
                ours <= 2 * theirs,
            )
        )
    return made
