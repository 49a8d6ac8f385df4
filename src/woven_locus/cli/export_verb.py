"""`export`: take something out of a plan."""

from __future__ import annotations

import math
from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search
from woven_locus.core.routing import End, Manner, Over, parse_end
from woven_locus.files.formats import (
    FORMATS,
    MAP_PNG,
    MAP_SVG,
    ROUTES_CSV,
    ROUTES_LINES,
    Out,
    joined_trips,
    write_routes,
)
from woven_locus.files.map_png import HIDEABLE, PIXELS


@click.command("export")
@click.argument("plan", type=PLAN)
@click.option(
    "--as", "form", required=True, type=click.Choice(list(FORMATS)), help="What to write."
)
@click.option("--out", required=True, type=PLAN, help="The file to write.")
@click.option(
    "--scale",
    type=float,
    help="Grey pictures: units for one grey, all greys by default. The map: pixels a cell, 16 by default.",
)
@click.option("--base", type=float, help="Grey pictures: units at grey 0.")
@click.option(
    "--theme", type=click.Choice(["light", "dark"]), default="light", help="Colours of the map."
)
@click.option(
    "--hide",
    "hidden",
    multiple=True,
    type=click.Choice(HIDEABLE),
    help="The map: leave this out; may be repeated.",
)
@click.option(
    "--trip",
    "trips",
    multiple=True,
    help="Routes: A:B, ends as for route; all that are joined by default.",
)
@click.option("--over", type=click.Choice([over.value for over in Over]), default="roads")
@click.option("--moves", type=click.Choice(["4", "8"]), default="4")
def command(
    plan: Path,
    form: str,
    out: Path,
    scale: float | None,
    base: float | None,
    theme: str,
    hidden: tuple[str, ...],
    trips: tuple[str, ...],
    over: str,
    moves: str,
) -> int:
    """Write terrain, heights, kinds, the register, roads or routes of PLAN to a file of another format."""
    from woven_locus.files import plan_json

    grey = bool(FORMATS[form].depth)
    if (base is not None and not grey) or (scale is not None and not grey and form != MAP_PNG):
        raise click.UsageError(f"--scale and --base are for grey pictures, not for {form}")
    if (theme != "light" or hidden) and form not in (MAP_PNG, MAP_SVG):
        raise click.UsageError(f"--theme and --hide are for the map, not for {form}")
    if form == MAP_PNG and scale is not None and (scale != int(scale) or not 1 <= scale <= 512):
        raise click.BadParameter(
            f"expected whole pixels a cell from 1 to 512, not {scale:g}", param_hint="--scale"
        )
    if scale is not None and not (math.isfinite(scale) and scale > 0):
        raise click.BadParameter(f"must be a number above 0, not {scale:g}", param_hint="--scale")
    if base is not None and not math.isfinite(base):
        raise click.BadParameter(f"must be a finite number, not {base:g}", param_hint="--base")
    if trips and form not in (ROUTES_CSV, ROUTES_LINES):
        raise click.UsageError(f"--trip is for routes, not for {form}")
    loaded = plan_json.load(plan)
    if loaded.spec.cols * loaded.spec.rows > SMALL:
        compile_search()
    if form in (ROUTES_CSV, ROUTES_LINES):
        manner = Manner(Over(over), int(moves))
        asked = [(*_ends(trip), manner) for trip in trips] or joined_trips(loaded, manner)
        without = write_routes(loaded, out, form, asked)
        found = {
            "out": str(out),
            "as": form,
            "routes": len(asked) - len(without),
            "without": without,
        }
        return answer(found, ok=not without)
    pixels = int(scale) if form == MAP_PNG and scale is not None else PIXELS
    how = Out(scale, base, source=str(plan), pixels=pixels, dark=theme == "dark", hidden=hidden)
    FORMATS[form].write(loaded, out, how)
    return answer({"out": str(out), "as": form, "cols": loaded.spec.cols, "rows": loaded.spec.rows})


def _ends(trip: str) -> tuple[End, End]:
    """``S1:S10`` or ``4,-7:S2``. Raises Unknown, click.BadParameter."""
    start, colon, goal = trip.partition(":")
    if not colon:
        raise click.BadParameter(
            f"{trip!r} is no trip; expected for instance S1:S10 or 4,7:S2", param_hint="--trip"
        )
    return parse_end(start), parse_end(goal)
