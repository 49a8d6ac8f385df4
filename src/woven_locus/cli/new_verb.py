"""`new`: make an empty plan."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from woven_locus.cli.values import PLAN, answer, grid_from, grid_options, in_folder
from woven_locus.core.errors import FileProblem
from woven_locus.core.value import replace

if TYPE_CHECKING:
    from woven_locus.document.purposes import Source


@click.command("new")
@click.argument("plan", type=PLAN)
@grid_options(required=True)
@click.option("--name", help="The plan's name; the file's name without its ending by default.")
@click.option("--y-up", is_flag=True, help="y, and the row with it, grows up the screen.")
@click.option("--unit", default="units", help="Name of a world unit.")
@click.option(
    "--kinds",
    default="demo",
    metavar="FILE|PLAN|demo|none",
    help="Where the kinds come from: a catalogue, a plan, the starter's, or none.",
)
@click.option(
    "--terrain",
    default="demo",
    metavar="PLAN|demo|none",
    help="Where the classes of terrain and road come from: a plan, the starter's, or one plain class.",
)
@click.option("--force", is_flag=True, help="Replace a file that is there.")
def command(
    plan: Path,
    name: str | None,
    y_up: bool,
    unit: str,
    kinds: str,
    terrain: str,
    force: bool,
    **grid: Any,
) -> int:
    """Make an empty plan in the file PLAN."""
    from woven_locus.document.purposes import NewPlan
    from woven_locus.files import plan_json

    spec = replace(grid_from(**grid), y_up=y_up, unit=unit)
    if plan.exists() and not force:
        raise FileProblem(plan, "", "is there already; choose another name, or give --force")
    if name is None:
        # The file's name may be no UTF-8; the plan's has to be.
        name = plan.name.split(".")[0].encode("utf-8", "replace").decode("utf-8")
    made = NewPlan(spec, name, _source(kinds), _source(terrain)).make()
    plan_json.save(made, in_folder(plan))
    return answer({"plan": str(plan), "cols": spec.cols, "rows": spec.rows})


def _source(given: str) -> Source:
    """A word as it is, a file as the other verbs take one."""
    from woven_locus.document.purposes import DEMO, NONE

    return given if given in (DEMO, NONE) else PLAN.convert(given, None, None)
