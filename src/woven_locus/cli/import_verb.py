"""`import`: bring terrain or heights from a file into a plan."""

from __future__ import annotations

from pathlib import Path

import click
from click.core import ParameterSource

from woven_locus.cli import import_tables
from woven_locus.cli.values import PLAN, answer, in_folder
from woven_locus.core.ground.relief import Fit
from woven_locus.core.plan import Plan
from woven_locus.files.formats import IMPORTS, REGISTER_CSV, TERRAIN_PNG

_FITS = {"stretch": Fit.STRETCH, "low": Fit.LOW, "middle": Fit.MIDDLE, "high": Fit.HIGH}


@click.command("import")
@click.argument("plan", type=PLAN)
@click.argument("file", type=PLAN)
@click.option("--as", "form", required=True, type=click.Choice(IMPORTS), help="What FILE holds.")
@click.option(
    "--fit",
    type=click.Choice(list(_FITS)),
    help="How a raster of another size is laid on; without it, another size is refused.",
)
@click.option("--scale", type=float, help="Heights: units for one grey value.")
@click.option("--base", type=float, help="Heights: units at grey 0.")
@click.option(
    "--nodata",
    type=click.IntRange(0, 65535),
    help="Heights from a picture: the grey of unknown cells.",
)
@click.option(
    "--colour",
    "colours",
    multiple=True,
    metavar="#RRGGBB=CLASS",
    help="Terrain: a colour and the key of its class, or - to leave its cells; may be repeated.",
)
@click.option("--over", is_flag=True, help="Kinds: those with a key that is there take its place.")
@click.option(
    "--demolish", is_flag=True, help="Kinds: demolish what finds no room under its new footprint."
)
@click.option("--partly", is_flag=True, help="Register: place what can be placed, leave the rest.")
@click.option("--out", type=PLAN, help="Write here instead of into PLAN.")
def command(
    plan: Path,
    file: Path,
    form: str,
    fit: str | None,
    scale: float | None,
    base: float | None,
    nodata: int | None,
    colours: tuple[str, ...],
    over: bool,
    demolish: bool,
    partly: bool,
    out: Path | None,
) -> int:
    """Bring what FILE holds into PLAN and save it. Exit 1, and nothing is written, when a picture has colours that no class
    is near to and none was given for; when structures would find no room under their kinds' new footprints; or
    when a line of a register is refused."""
    from woven_locus.document import Document
    from woven_locus.files import formats, pictures, rasters

    _check_options(form)
    if form == "kinds":
        return import_tables.kinds(plan, file, over, demolish, out)
    if form == formats.REGISTER_CSV:
        return import_tables.register(plan, file, partly, out)
    if form in (formats.TRIPS_CSV, *formats.WAVE_IMPORTS):
        return import_tables.other(plan, file, form, out)
    document = Document.open(plan)
    target = document.plan
    value: dict[str, object] = {"plan": str(out or plan), "file": str(file), "as": form}
    if form == formats.TERRAIN_PNG:
        picture = pictures.load_picture(file)
        how = _fit(file, picture.codes.shape, target, fit)
        given = _given(target, colours)
        dyes = [item.dye for item in target.terrain_table]
        classes = pictures.proposed(picture.colours, dyes)
        rows: list[dict[str, object]] = []
        unmatched: list[dict[str, object]] = []
        for at, (colour, count) in enumerate(zip(picture.colours, picture.counts, strict=True)):
            text = pictures.hex_of(colour)
            known = text in given
            classes[at] = given[text] if known else classes[at]
            code = classes[at]
            key = None if code is None else target.terrain_table[code].key
            row: dict[str, object] = {"colour": text, "cells": count, "class": key}
            (unmatched if code is None and not known else rows).append(row)
        value |= {"colours": rows, "unmatched": unmatched}
        if unmatched:
            return answer(value, ok=False)
        edit = rasters.terrain_edit(target, picture, classes, how, file.name)
    else:
        source, what = rasters.heights_source(file)
        values = rasters.scaled(source, scale, base, nodata)
        how = _fit(file, values.shape, target, fit)
        edit = rasters.heights_edit(target, values, how, file.name)
        words = rasters.described(*rasters.Spread(values).scaled(1, 0))
        value |= {"heights": f"{what}, {words}"}
    document.history.do(edit)
    document.save(in_folder(out) if out is not None else None)
    return answer(value)


# The options that each thing that is brought in goes by, besides --out.
_OPTIONS = {
    TERRAIN_PNG: {"fit", "colours"},
    "heights-asc": {"fit", "scale", "base"},
    "heights-png": {"fit", "scale", "base", "nodata"},
    "kinds": {"over", "demolish"},
    REGISTER_CSV: {"partly"},
}


def _check_options(form: str) -> None:
    """Raises UsageError for options that say nothing about what is brought in."""
    ctx = click.get_current_context()
    taken = {"plan", "file", "form", "out"} | _OPTIONS.get(form, set())
    strange = [
        option.opts[0]
        for option in ctx.command.params
        if option.name not in taken
        and ctx.get_parameter_source(option.name or "") is ParameterSource.COMMANDLINE
    ]
    if strange:
        raise click.UsageError(f"{', '.join(strange)} says nothing about {form}; leave it out")


def _fit(file: Path, shape: tuple[int, ...], plan: Plan, fit: str | None) -> Fit:
    if fit is not None:
        return _FITS[fit]
    if shape != plan.spec.shape:
        raise click.UsageError(
            f"{file} is {shape[1]}x{shape[0]}, the plan {plan.spec.cols}x{plan.spec.rows}; "
            f"say how it is to lie with --fit {'|'.join(_FITS)}"
        )
    return Fit.LOW


def _given(plan: Plan, colours: tuple[str, ...]) -> dict[str, int | None]:
    """The colours that were given a class by hand. Raises UsageError, Unknown."""
    given: dict[str, int | None] = {}
    for text in colours:
        colour, _equals, key = text.partition("=")
        digits = colour.removeprefix("#")
        if len(digits) != 6 or not all(ch in "0123456789abcdefABCDEF" for ch in digits) or not key:
            raise click.UsageError(
                f"--colour {text!r} is not #RRGGBB=CLASS; for instance #A9B07A=meadow"
            )
        given[f"#{digits.upper()}"] = None if key == "-" else plan.terrain_table.code(key)
    return given
