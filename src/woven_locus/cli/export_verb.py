"""`export`: take something out of a plan."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, answer
from woven_locus.files.formats import FORMATS


@click.command("export")
@click.argument("plan", type=PLAN)
@click.option(
    "--as", "form", required=True, type=click.Choice(list(FORMATS)), help="What to write."
)
@click.option("--out", required=True, type=PLAN, help="The file to write.")
def command(plan: Path, form: str, out: Path) -> int:
    """Write terrain or heights of PLAN to a file of another format."""
    from woven_locus.files import plan_json

    loaded = plan_json.load(plan)
    FORMATS[form].write(loaded, out)
    return answer({"out": str(out), "as": form, "cols": loaded.spec.cols, "rows": loaded.spec.rows})
