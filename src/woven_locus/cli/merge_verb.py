"""`merge`: what two people made of one plan, brought together."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search, in_folder


@click.command("merge")
@click.argument("base", type=PLAN)
@click.argument("ours", type=PLAN)
@click.argument("theirs", type=PLAN)
@click.option("--out", type=PLAN, required=True, help="Write the merged plan to this file.")
def command(base: Path, ours: Path, theirs: Path, out: Path) -> int:
    """Bring OURS and THEIRS, two changes of BASE, together. Exit 1 when something is in conflict; ours is then kept."""
    from woven_locus.core.compare import merge
    from woven_locus.core.compare.effects import came
    from woven_locus.core.proof.table import prove
    from woven_locus.files import plan_json
    from woven_locus.files.compare_json import conflicts_json
    from woven_locus.files.proof_json import finding_json

    plans = [plan_json.load(path) for path in (base, ours, theirs)]
    merged = merge(plans[0], plans[1], plans[2])
    plan_json.save(merged.plan, in_folder(out))
    if merged.plan.terrain.size > SMALL:
        compile_search()
    new = came(merged.plan, [item for plan in plans[1:] for item in prove(plan).findings])
    found = {
        "out": str(out),
        "conflicts": conflicts_json(merged.conflicts),
        "findings": [finding_json(item) for item in new],
    }
    return answer(found, not merged.conflicts)
