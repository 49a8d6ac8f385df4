"""`waves`: the ways of attackers, what towers reach of them, and whether the waves are held."""

from __future__ import annotations

import re
from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.plan import Plan


@click.command("waves")
@click.argument("plan", type=PLAN)
@click.option(
    "--place",
    "placed",
    multiple=True,
    metavar="KIND@COL,ROW[/TURN]",
    help="As if this stood too; may be given several times.",
)
@click.option("--simulate", is_flag=True, help="Let all waves come, and say what came of them.")
@click.option(
    "--seed",
    type=click.IntRange(0, 2**63 - 1),
    default=0,
    help="For attackers that come later by chance.",
)
def command(plan: Path, placed: tuple[str, ...], simulate: bool, seed: int) -> int:
    """Print the way from each entry of PLAN, how much of it each tower has in range, and the fewest cells that close it."""
    from woven_locus.files import plan_json
    from woven_locus.files.waves_json import outcome_json, waves_json

    loaded = plan_json.load(plan)
    if not loaded.waves.entries or not loaded.waves.goals:
        missing = "entry" if not loaded.waves.entries else "goal"
        raise Refused(f"{plan}: the plan has no {missing}; set one in the stage Waves")
    if loaded.spec.cols * loaded.spec.rows > SMALL:
        compile_search()
    for text in placed:
        _place(loaded, text)
    found = waves_json(loaded)
    if simulate:
        from woven_locus.core.waves.run import WaveRun

        run = WaveRun(loaded, seed)
        run.finish()
        found["outcome"] = outcome_json(run)
    return answer(found, all(path["found"] for path in found["paths"]))


def _place(plan: Plan, text: str) -> None:
    """Place what an option asks for, whether it can be paid and whatever it seals."""
    from woven_locus.core import edits
    from woven_locus.core.placing import Reason, judge

    found = re.fullmatch(r"(.+)@(-?\d+),(-?\d+)(?:/([0-7]))?", text.strip())
    if found is None:
        raise click.UsageError(
            f"--place takes KIND@COL,ROW[/TURN], like lantern@14,9, not {text!r}"
        )
    key, cell = found[1], Cell(int(found[2]), int(found[3]))
    kind, turn = plan.kinds[key], int(found[4] or 0)
    verdict = judge(plan, kind, cell, turn, passing=frozenset({Reason.SEALS, Reason.FUNDS}))
    if not verdict:
        raise Refused(
            f"--place: {kind.name} cannot stand at {cell_text(cell)}: {verdict.sentence()}"
        )
    edits.place(plan, key, cell, turn, "", verdict).apply(plan)
