"""`export`: take something out of a plan."""

from __future__ import annotations

import math
from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search, in_folder
from woven_locus.core.errors import Unknown
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import GridSpec
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
from woven_locus.files.map_frame import HIDEABLE, MapLook
from woven_locus.files.map_png import PIXELS


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
    "--area",
    help="The map: only the cells from one to another, as 0,0:31,23.",
)
@click.option("--scales", is_flag=True, help="The map: with scales along its edges.")
@click.option("--legend", is_flag=True, help="The map: with a legend below it.")
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
    area: str | None,
    scales: bool,
    legend: bool,
    trips: tuple[str, ...],
    over: str,
    moves: str,
) -> int:
    """Write terrain, heights, kinds, the register, roads or routes of PLAN to a file of another format."""
    from woven_locus.files import plan_json

    grey = bool(FORMATS[form].depth)
    if (base is not None and not grey) or (scale is not None and not grey and form != MAP_PNG):
        raise click.UsageError(f"--scale and --base are for grey pictures, not for {form}")
    if (theme != "light" or hidden or area or scales or legend) and form not in (MAP_PNG, MAP_SVG):
        raise click.UsageError(
            f"--theme, --hide, --area, --scales and --legend are for the map, not for {form}"
        )
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
        without = write_routes(loaded, in_folder(out), form, asked)
        found = {
            "out": str(out),
            "as": form,
            "routes": len(asked) - len(without),
            "without": without,
        }
        return answer(found, ok=not without)
    pixels = int(scale) if form == MAP_PNG and scale is not None else PIXELS
    part = _area(area, loaded.spec) if area is not None else None
    look = MapLook(theme == "dark", hidden, part, scales, legend)
    how = Out(scale, base, source=str(plan), pixels=pixels, look=look)
    FORMATS[form].write(loaded, in_folder(out), how)
    return answer({"out": str(out), "as": form, "cols": loaded.spec.cols, "rows": loaded.spec.rows})


def _ends(trip: str) -> tuple[End, End]:
    """``S1:S10`` or ``4,-7:S2``. Raises Unknown, click.BadParameter."""
    start, colon, goal = trip.partition(":")
    if not colon:
        raise click.BadParameter(
            f"{trip!r} is no trip; expected for instance S1:S10 or 4,7:S2", param_hint="--trip"
        )
    return parse_end(start), parse_end(goal)


def _area(text: str, spec: GridSpec) -> Box:
    """``0,0:31,23``, both cells within, as rows of the screen. Raises click.BadParameter."""
    try:
        ends = [parse_end(part) for part in text.split(":")]
    except Unknown:
        ends = []
    cells = [end for end in ends if isinstance(end, Cell)]
    if len(cells) != 2 or len(ends) != 2:
        raise click.BadParameter(
            f"{text!r} is no area; expected two cells, for instance 0,0:31,23", param_hint="--area"
        )
    if outside := next((cell for cell in cells if not spec.contains(cell)), None):
        raise click.BadParameter(
            f"cell {outside.col}, {outside.row} is outside the grid, which runs from {spec.first.col}, {spec.first.row} "
            f"to {spec.last.col}, {spec.last.row}",
            param_hint="--area",
        )
    return spec.mirrored(Box.around(spec.slot(cell) for cell in cells))
