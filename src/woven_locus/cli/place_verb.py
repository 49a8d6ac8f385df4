"""`place`: place a structure in a plan file."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.probe_verb import lying
from woven_locus.cli.values import CELL, PLAN, answer, in_folder, pair
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import judge
from woven_locus.core.register import structure_id
from woven_locus.files.verdict_json import verdict_json


@click.command("place")
@click.argument("plan", type=PLAN)
@click.option("--kind", required=True, help="A kind's key, for instance loom-hall.")
@click.option("--cell", type=CELL, required=True, help="Lowest cell of the turned footprint.")
@click.option("--turn", type=click.IntRange(0, 3), default=0, help="Quarter turns clockwise.")
@click.option("--mirror", is_flag=True, help="Left for right, before it is turned.")
@click.option("--out", type=PLAN, help="Write here instead of into PLAN.")
def command(
    plan: Path, kind: str, cell: tuple[int, int], turn: int, mirror: bool, out: Path | None
) -> int:
    """Place a structure and save the plan. Refuses what probe refuses, and then writes nothing."""
    from woven_locus.document import Document

    document = Document.open(plan)
    whole = lying(document.plan.kinds[kind], turn, mirror)
    verdict = judge(document.plan, document.plan.kinds[kind], Cell(*cell), whole)
    value = verdict_json(verdict)
    if verdict:
        number = document.plan.register.next_number
        document.history.do(edits.place(document.plan, kind, Cell(*cell), whole, document.now()))
        document.save(in_folder(out) if out is not None else None)
        value |= {"structure": structure_id(number), "cell": pair(Cell(*cell)), "turn": turn}
        value |= {"mirror": mirror}
    return answer(value, bool(verdict))
