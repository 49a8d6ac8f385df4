"""Rows 5 and 6: judging placements and snapping points."""

from __future__ import annotations

import numpy as np

from benchmarks.table import Row, best_of, seconds
from benchmarks.towns import town
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec, Rule, SnapSettings, snap_many
from woven_locus.core.placing import feasible_map, judge


def judging(side: int) -> list[Row]:
    plan = town(side, 20_000)
    kind = plan.kinds["carriers-inn"]
    rng = np.random.default_rng(3)
    cells = [Cell(int(c), int(r)) for c, r in rng.integers(0, side - 4, (1000, 2))]

    def judge_all() -> None:
        for cell in cells:
            judge(plan, kind, cell, 1)

    one = best_of(judge_all) / len(cells)
    made = [
        Row("5", f"judge one placement, {side}²", seconds(one), "", None, "< 50 µs", one < 50e-6)
    ]
    for key in ("loom-hall", "carriers-inn"):
        kind = plan.kinds[key]
        ours = best_of(lambda kind=kind: [feasible_map(plan, kind, turn) for turn in range(4)], 3)
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
