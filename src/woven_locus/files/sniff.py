"""What a file holds, told by its name and its first bytes: for files that are dropped on the window."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.files import (
    catalogue,
    formats,
    pictures,
    register_csv,
    traffic_rows,
    wave_tables,
)
from woven_locus.files.atomic import read_bytes

PLAN, HEIGHTS, KINDS = "plan", "heights", "kinds"
_TABLES: dict[str, tuple[str, ...]] = {
    KINDS: catalogue.COLUMNS,
    formats.REGISTER_CSV: register_csv.COLUMNS,
    formats.TRIPS_CSV: traffic_rows.COLUMNS,
    wave_tables.PLACES_CSV: wave_tables.PLACES,
    wave_tables.ATTACKERS_CSV: wave_tables.ATTACKERS,
    wave_tables.WAVES_CSV: wave_tables.WAVES,
}
_EXPECTED = phrase(
    "expected a plan, heights (.asc, grey .png), terrain (.png), kinds, or a table (.csv)"
)


def what_is(path: Path) -> str:
    """PLAN, HEIGHTS, KINDS, or one of `formats.IMPORTS`. Raises FileProblem for what is none of them."""
    name = path.name.lower()
    if name.endswith(catalogue.SUFFIXES[0]):
        return KINDS
    if name.endswith((".asc", ".txt")):
        return HEIGHTS
    if name.endswith(".png"):
        return HEIGHTS if pictures.is_grey(path) else formats.TERRAIN_PNG
    if name.endswith(".csv"):
        return _table(path)
    if name.endswith(".json"):
        head = read_bytes(path)[:4096]
        return KINDS if catalogue.FORMAT.encode() in head else PLAN
    raise FileProblem(
        path,
        "",
        phrase("is nothing that can be opened or brought in; {expected}", expected=_EXPECTED),
    )


def _table(path: Path) -> str:
    """By the head: the table with most of its columns, of which it must have half."""
    text = read_bytes(path)[:65_536].decode("utf-8-sig", "replace")
    head = {cell.strip().lower() for cell in next(csv.reader(io.StringIO(text)), [])}

    def share(what: str) -> float:
        columns = set(_TABLES[what])
        return len(head & columns) / len(head | columns)

    best = max(_TABLES, key=share)
    if share(best) <= 0.25:
        heads = "; ".join(",".join(columns[:4]) for columns in _TABLES.values())
        raise FileProblem(
            path,
            phrase("row 1"),
            phrase("is the head of no table; expected one that begins {heads}", heads=heads),
        )
    return best
