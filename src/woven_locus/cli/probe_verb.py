"""`probe`: may this kind stand here?"""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import CELL, PLAN, answer, pair
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import Verdict, judge


@click.command("probe")
@click.argument("plan", type=PLAN)
@click.option("--kind", required=True, help="A kind's key, for instance loom-hall.")
@click.option("--cell", type=CELL, required=True, help="Lowest cell of the turned footprint.")
@click.option("--turn", type=click.IntRange(0, 3), default=0, help="Quarter turns clockwise.")
def command(plan: Path, kind: str, cell: tuple[int, int], turn: int) -> int:
    """Say whether a kind may stand at a cell, and every reason why not."""
    from woven_locus.files import plan_json

    loaded = plan_json.load(plan)
    verdict = judge(loaded, loaded.kinds[kind], Cell(*cell), turn)
    return answer(verdict_json(verdict), bool(verdict))


def verdict_json(verdict: Verdict) -> dict[str, object]:
    """The fixed form of a verdict."""
    return {
        "ok": bool(verdict),
        "cells": [
            {"cell": pair(c.cell), "ok": c.ok, "reasons": [str(r) for r in c.reasons]}
            for c in verdict.cells
        ],
        "reasons": [str(reason) for reason in verdict.reasons],
        "blockers": [{"what": b.what, "name": b.name, "id": b.id} for b in verdict.blockers],
    }
