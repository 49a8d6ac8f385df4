"""`compare`: what differs between two plans."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search


@click.command("compare")
@click.argument("before", metavar="A", type=PLAN)
@click.argument("after", metavar="B", type=PLAN)
@click.option("--as", "form", type=click.Choice(["json", "text"]), default="json")
def command(before: Path, after: Path, form: str) -> int:
    """Say what is another in plan B than in plan A, and what follows from it. Exit 1 when they are not the same."""
    from woven_locus.core.compare import compare
    from woven_locus.core.compare.effects import Effects, effects
    from woven_locus.files import plan_json
    from woven_locus.files.compare_json import differences_json
    from woven_locus.files.compare_lines import differences_text

    plans = [plan_json.load(path) for path in (before, after)]
    found = compare(*plans)
    if max(plan.terrain.size for plan in plans) > SMALL:
        compile_search()
    after_it = effects(*plans) if found else Effects()
    if form == "json":
        return answer(differences_json(found, after_it), not found)
    click.echo(differences_text(found, after_it).encode("utf-8", "backslashreplace"))
    return int(bool(found))
