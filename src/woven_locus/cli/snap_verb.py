"""`snap`: snap world points and show the working."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from woven_locus.cli.values import (
    NEGATIVE_POINTS,
    POINT,
    SIZE,
    STEP,
    answer,
    grid_from,
    grid_options,
    pair,
)
from woven_locus.core.grid import BuildWindow, GridSpec, Rule, SnapSettings, low_cell, snap
from woven_locus.core.grid.snapping import working


@click.command("snap", context_settings=NEGATIVE_POINTS)
@click.argument("words", nargs=-1, required=True, metavar="[PLAN] X,Y [X,Y ...]")
@grid_options(required=False)
@click.option("--rule", type=click.Choice([rule.value for rule in Rule]), required=True)
@click.option("--step", type=STEP, help="World units; the cell's size by default.")
@click.option("--holding", type=SIZE, help="Footprint held, in cells.")
def command(
    words: tuple[str, ...],
    rule: str,
    step: tuple[float, float] | None,
    holding: tuple[int, int] | None,
    **grid: Any,
) -> int:
    """Snap world points on the grid of PLAN, or on the grid given by --size and so on."""
    spec, window, texts = _grid_and_points(words, grid)
    settings = SnapSettings(Rule(rule), *(step or (None, None)))
    if holding and min(holding) < 1:
        raise click.BadParameter("a footprint has at least 1x1 cells", param_hint="--holding")
    if not texts:
        raise click.UsageError("no points given; expected X,Y for instance -3.5,12")
    points = []
    for text in texts:
        x, y = POINT.convert(text, None, None)
        cell = spec.locate(x, y)
        if cell is not None and window is not None and not window.contains(cell):
            cell = None
        entry: dict[str, object] = {
            "world": [x, y],
            "cell": pair(cell) if cell else None,
            "virtual_cell": pair(spec.locate_virtual(x, y)),
            "snapped": list(snap(spec, settings, x, y).at),
            "working": working(spec, settings, x, y),
        }
        if holding:
            entry["low_cell"] = pair(low_cell(spec, x, y, *holding))
        points.append(entry)
    return answer({"points": points})


def _grid_and_points(
    words: tuple[str, ...], grid: dict[str, Any]
) -> tuple[GridSpec, BuildWindow | None, tuple[str, ...]]:
    """The grid, the window of a plan if it has one, and the points."""
    if grid["size"] is not None:
        return grid_from(**grid), None, words
    from woven_locus.files import plan_json

    try:
        POINT.convert(words[0], None, None)
    except click.BadParameter:
        plan = plan_json.load(Path(words[0]))
        return plan.spec, plan.window, words[1:]
    raise click.UsageError("give a PLAN before the points, or describe the grid with --size")
