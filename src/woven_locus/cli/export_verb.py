"""`export`: take something out of a plan."""

from __future__ import annotations

import math
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
@click.option(
    "--scale", type=float, help="Grey pictures: units for one grey; all greys by default."
)
@click.option("--base", type=float, help="Grey pictures: units at grey 0.")
def command(plan: Path, form: str, out: Path, scale: float | None, base: float | None) -> int:
    """Write terrain, heights, kinds or the register of PLAN to a file of another format."""
    from woven_locus.files import plan_json

    if (scale is not None or base is not None) and not FORMATS[form].depth:
        raise click.UsageError(f"--scale and --base are for grey pictures, not for {form}")
    if scale is not None and not (math.isfinite(scale) and scale > 0):
        raise click.BadParameter(f"must be a number above 0, not {scale:g}", param_hint="--scale")
    if base is not None and not math.isfinite(base):
        raise click.BadParameter(f"must be a finite number, not {base:g}", param_hint="--base")
    loaded = plan_json.load(plan)
    FORMATS[form].write(loaded, out, scale, base)
    return answer({"out": str(out), "as": form, "cols": loaded.spec.cols, "rows": loaded.spec.rows})
