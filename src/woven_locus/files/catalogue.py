"""Kinds by themselves: as JSON (by the schema), as CSV, or taken out of a plan. See docs/format.md."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import msgspec

from woven_locus.core.errors import BadPlan, FileProblem, WovenError
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.numbers import parse_number, parse_whole
from woven_locus.core.phrase import phrase, said
from woven_locus.files import plan_json
from woven_locus.files.atomic import read_bytes, write_bytes
from woven_locus.files.kind_rows import KindRow, RulesRow, TowerRow
from woven_locus.files.row_values import Strict
from woven_locus.files.strict_json import decoded
from woven_locus.files.tables import read_table, table
from woven_locus.package_data import package_data

FORMAT = "woven-locus/kinds"
VERSION = 1
SUFFIXES = (".kinds.json", ".csv")
COLUMNS = (
    "key",
    "name",
    "code",
    "dye",
    "price",
    "pays",
    "every",
    "footprint",
    "doors",
    "turns",
    "mirror",
    "art",
    "rules",
    "tower",
)
# A catalogue is no large thing; what is larger is another file.
LARGEST_FILE = 32 << 20


class _Kinds(Strict):
    format: str
    version: int
    kinds: list[KindRow]
    money: str = ""
    schema_: str | None = msgspec.field(name="$schema", default=None)


def schema() -> dict[str, Any]:
    """The published JSON Schema of the kinds document."""
    found: dict[str, Any] = json.loads(package_data("woven_locus.files", "kinds.schema.json"))
    return found


def load(path: Path) -> Catalogue:
    """The kinds of a JSON or CSV catalogue, or of a plan. Raises FileProblem."""
    if path.name.lower().endswith(".csv"):
        return from_csv(_read(path), path)
    if path.name.lower().endswith(plan_json.SUFFIX):
        return plan_json.load(path).kinds
    data = _read(path)
    head = data[:400]
    if plan_json.FORMAT.encode() in head:
        return plan_json.parse(data, path).kinds
    return from_json(data, path)


def _read(path: Path) -> bytes:
    return read_bytes(path, LARGEST_FILE)


def save(kinds: Iterable[Kind], money: str, path: Path) -> None:
    """Write a catalogue, as CSV when the name ends so, else as JSON. Raises FileProblem."""
    as_csv = path.name.lower().endswith(".csv")
    write_bytes(path, (to_csv(kinds) if as_csv else to_json(kinds, money)).encode("utf-8"))


def to_json(kinds: Iterable[Kind], money: str) -> str:
    """One kind on a line."""
    lines = [
        json.dumps(msgspec.to_builtins(KindRow.of(kind)), ensure_ascii=False) for kind in kinds
    ]
    listed = "[\n  " + ",\n  ".join(lines) + "\n]" if lines else "[]"
    return (
        f'{{\n"format": "{FORMAT}",\n"version": {VERSION},\n'
        f'"money": {json.dumps(money, ensure_ascii=False)},\n"kinds": {listed}\n}}\n'
    )


def from_json(data: bytes, path: object = "catalogue") -> Catalogue:
    """Raises FileProblem."""
    document = decoded(data, _Kinds, path)
    if document.format != FORMAT:
        raise FileProblem(
            path,
            "format",
            phrase(
                "expected {format!r}, found {format2!r}; this is no catalogue",
                format=FORMAT,
                format2=document.format,
            ),
        )
    if document.version != VERSION:
        raise FileProblem(
            path,
            "version",
            phrase(
                "this program reads version {version}, the file is version {version2}",
                version=VERSION,
                version2=document.version,
            ),
        )
    return _catalogue(document.kinds, lambda at: f"kinds[{at}]", path)


def _catalogue(rows: Iterable[KindRow], where: Callable[[int], str], path: object) -> Catalogue:
    made = []
    try:
        for at, row in enumerate(rows):
            made.append(row.made(where(at)))
        return Catalogue(made)
    except BadPlan as err:
        raise FileProblem(path, err.where, err.what) from err
    except WovenError as err:
        raise FileProblem(path, "", said(err)) from err


def to_csv(kinds: Iterable[Kind]) -> str:
    """A header and one kind on a line, RFC 4180 but for its line ends, which are plain."""
    return table(COLUMNS, map(_values, kinds))


def _values(kind: Kind) -> list[object]:
    row = msgspec.to_builtins(KindRow.of(kind))
    return [
        row["key"],
        row["name"],
        row["code"],
        row["dye"],
        row["price"],
        row.get("pays", 0),
        row.get("every", 0),
        "/".join(row["footprint"]),
        "; ".join(f"{c} {r} {side}" for c, r, side in row["doors"]),
        " ".join(str(turn) for turn in kind.turns),
        "yes" if kind.mirror else "no",
        "x".join(str(n) for n in row["art"]) if kind.art else "",
        *(
            json.dumps(row[part], ensure_ascii=False) if part in row else ""
            for part in ("rules", "tower")
        ),
    ]


def from_csv(data: bytes, path: object = "catalogue") -> Catalogue:
    """The inverse of `to_csv`. Columns may stand in any order; those that are left out, but key, name and
    footprint, take what a new kind has. Raises FileProblem."""
    rows, lines = [], []
    for line, values in read_table(data, path, COLUMNS, ("key", "name", "footprint")):
        try:
            rows.append(_row(values))
        except (ValueError, msgspec.DecodeError, RecursionError) as err:
            raise FileProblem(path, phrase("line {line}", line=line), said(err)) from err
        lines.append(line)
    return _catalogue(rows, lambda at: phrase("line {lines}", lines=lines[at]), path)


def _row(values: dict[str, str]) -> KindRow:
    doors = []
    for text in filter(None, (part.strip() for part in values.get("doors", "").split(";"))):
        parts = text.split()
        if len(parts) != 3:
            raise ValueError(
                phrase("a door is written as column, row and side, not {text!r}", text=text)
            )
        doors.append(
            (whole(parts[0], phrase("a door")), whole(parts[1], phrase("a door")), parts[2])
        )
    turns = [whole(text, phrase("a turn")) for text in values.get("turns", "").split()]
    mirror = values.get("mirror", "").lower()
    if mirror not in ("", "yes", "no"):
        raise ValueError(phrase("mirror is yes or no, not {values!r}", values=values["mirror"]))
    art = values.get("art", "").lower().split("x") if values.get("art") else None
    built: dict[str, Any] = {
        "key": values["key"],
        "name": values["name"],
        "code": values.get("code") or values["name"][:2].upper(),
        "dye": values.get("dye") or "#5B86A8",
        "price": whole(values.get("price") or "0", "price"),
        "pays": whole(values.get("pays") or "0", "pays"),
        "every": whole(values.get("every") or "0", "every"),
        "footprint": values["footprint"].split("/"),
        "doors": doors,
        "turns": turns or None,
        "mirror": mirror == "yes",
        "art": [_number(part, "art") for part in art] if art else None,
    }
    if values.get("rules"):
        built["rules"] = msgspec.json.decode(values["rules"], type=RulesRow)
    if values.get("tower"):
        built["tower"] = msgspec.json.decode(values["tower"], type=TowerRow)
    return msgspec.convert(built, KindRow)


def whole(text: str, what: str) -> int:
    """A whole number out of a table. Raises ValueError with words."""
    try:
        return parse_whole(text)
    except ValueError:
        raise ValueError(
            phrase("{what} is a whole number, not {text!r}", what=what, text=text[:40])
        ) from None


def _number(text: str, what: str) -> float:
    try:
        return parse_number(text)
    except ValueError:
        raise ValueError(
            phrase("{what} is width x height in numbers, not {text!r}", what=what, text=text[:40])
        ) from None
