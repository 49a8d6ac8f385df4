"""Values that the verbs share: parsing, the grid options, JSON out."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import unquote_to_bytes, urlsplit

import click

from woven_locus.core.errors import BadGrid, FileProblem, words_of
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.numbers import parse_number, parse_whole
from woven_locus.files.atomic import STANDARD_OUTPUT


class _File(click.ParamType[Any]):
    """The name of a file; - is standard input or output, and a file: URL (RFC 8089) is taken for what it names."""

    name = "FILE"

    def convert(self, value: Any, param: Any, ctx: Any) -> Any:
        if not isinstance(value, str):
            return value
        if not value.lower().startswith("file:"):
            return Path(value)
        parts = urlsplit(value)
        if parts.netloc.lower() not in ("", "localhost") or not parts.path.startswith("/"):
            self.fail(
                f"{value!r} names no file of this machine; expected for instance file:///plans/a.plan.json"
            )
        return Path(os.fsdecode(unquote_to_bytes(parts.path)))


PLAN = _File()

# Points such as -3.5,12 look like options; they are taken as they stand.
NEGATIVE_POINTS = {"ignore_unknown_options": True}


class _Numbers(click.ParamType[Any]):
    """Numbers with a separator between them."""

    def __init__(
        self, name: str, separator: str, of: Callable[[str], Any], example: str, least: int = 2
    ) -> None:
        self.name, self._separator, self._of = name, separator, of
        self._example, self._least = example, least

    def convert(self, value: Any, param: Any, ctx: Any) -> Any:
        if not isinstance(value, str):
            return value
        if value.startswith("--"):
            self.fail(f"no such option {value!r}", param, ctx)
        parts = value.lower().split(self._separator)
        try:
            numbers = tuple(self._of(part.strip()) for part in parts)
        except ValueError:
            numbers = ()
        if not self._least <= len(numbers) <= 2:
            self.fail(f"{value!r} is not {self.name}; expected for instance {self._example}")
        return numbers if len(numbers) == 2 else numbers * 2


SIZE = _Numbers("COLSxROWS", "x", parse_whole, "64x48")
CELL_SIZE = _Numbers("W[xH]", "x", parse_number, "24 or 24x16", least=1)
STEP = _Numbers("SX[,SY]", ",", parse_number, "3 or 3,2", least=1)
POINT = _Numbers("X,Y", ",", parse_number, "-3.5,12")
CELL = _Numbers("COL,ROW", ",", parse_whole, "14,9")


def grid_options(required: bool) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """--size --cell --origin --centred --first, as `size cell origin centred first`."""

    def add(function: Callable[..., Any]) -> Callable[..., Any]:
        options = [
            click.option("--size", type=SIZE, required=required, help="Columns and rows."),
            click.option("--cell", type=CELL_SIZE, default="1", help="Size of a cell."),
            click.option("--origin", type=POINT, help="World point of the low corner."),
            click.option("--centred", type=POINT, help="World point of the grid's middle."),
            click.option("--first", type=CELL, default="0,0", help="Number of the first cell."),
        ]
        for option in reversed(options):
            function = option(function)
        return function

    return add


def grid_from(
    size: tuple[int, int],
    cell: tuple[float, float],
    origin: tuple[float, float] | None,
    centred: tuple[float, float] | None,
    first: tuple[int, int],
) -> GridSpec:
    """The grid that the options describe. Raises BadGrid."""
    if origin is not None and centred is not None:
        raise BadGrid("--origin and --centred exclude each other; give one")
    anchor = centred or origin or (0.0, 0.0)
    return GridSpec(*size, *cell, *anchor, centred is not None, *first)


# Up to so many cells the plain search answers sooner than the compiled one can be loaded.
SMALL = 128 * 128


def compile_search(*soon: str) -> None:
    """Use compiled kernels from here on, each group loaded or compiled when it is first needed; it is said when that takes a
    while. soon : groups that will all be needed."""
    from woven_locus import kernel_cache

    kernel_cache.install_when_needed(lambda words: click.echo(words, err=True), soon)


def in_folder(path: Path) -> Path:
    """The same path, with the folders made that it lies in. Raises FileProblem."""
    if str(path) not in STANDARD_OUTPUT:
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as err:
            raise FileProblem(path, "", f"its folder cannot be made: {words_of(err)}") from err
    return path


def _output_is_taken() -> bool:
    """Whether the verb that runs writes a file to standard output."""
    ctx = click.get_current_context(silent=True)
    if ctx is None:
        return False
    given = {name: str(value) for name, value in ctx.params.items() if isinstance(value, Path)}
    named = {given.get("out"), given.get("trace"), given.get("copy")}
    if ctx.command.name == "new" or (
        "out" not in given and ctx.command.name in ("place", "import")
    ):
        # Without --out these write the plan that they name.
        named.add(given.get("plan"))
    return not named.isdisjoint(STANDARD_OUTPUT)


def answer(value: object, ok: bool = True) -> int:
    """Print JSON, in UTF-8 whatever the terminal's encoding; returns the exit code. Where the verb's file goes to standard
    output, the answer goes to standard error."""
    text = json.dumps(value, ensure_ascii=False)
    try:
        data = text.encode("utf-8")
    except UnicodeEncodeError:
        # A file name that is no UTF-8: its bytes are escaped.
        data = json.dumps(value).encode("ascii")
    click.echo(data, err=_output_is_taken())
    return 0 if ok else 1


def pair(cell: Cell) -> list[int]:
    return [cell.col, cell.row]
