"""The plan document: JSON fit for version control. Described in docs/format.md and by the schema.

Keys and rows stand in a fixed order, one thing that can change on one line, so that saving what was
loaded gives the same bytes.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from importlib import resources
from pathlib import Path
from typing import Any, Literal

import msgspec
import numpy as np

from woven_locus.core.errors import BadPlan, FileProblem, WovenError
from woven_locus.core.geometry import SIDE_NAMES, Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import Obstacle, TerrainClass, TerrainTable
from woven_locus.core.kinds import Catalogue, Door, Footprint, Kind
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.files import runs
from woven_locus.files.atomic import read_bytes, write_bytes

FORMAT = "woven-locus/plan"
VERSION = 1
SUFFIX = ".plan.json"

_RESERVED_MARKS = (".", "r")
_ROAD_MARKS = (".", "w")

_Pair = tuple[int, int]
_World = tuple[float, float]
_NEWLINE = b"\n"


class _Strict(msgspec.Struct, forbid_unknown_fields=True):
    """An unknown key is refused: saving would lose it."""


class _Grid(_Strict):
    cols: int
    rows: int
    cell: _World
    anchor: _World
    centred: bool
    first: _Pair
    unit: str


class _Terrain(_Strict):
    key: str
    name: str
    mark: str
    buildable: bool
    passable: bool
    cost: float
    dye: str
    pattern: str


class _Kind(_Strict):
    key: str
    name: str
    code: str
    dye: str
    price: int
    footprint: list[str]
    doors: list[tuple[int, int, Literal["north", "east", "south", "west"]]]


class _Obstacle(_Strict):
    number: int
    name: str
    look: Literal["boulder", "rowan"]
    cells: list[_Pair]


class _Structure(_Strict):
    number: int
    kind: str
    cell: _Pair
    turn: Literal[0, 1, 2, 3]
    price: int
    placed: str


class _Document(_Strict):
    format: str
    version: int
    name: str
    money: str
    grid: _Grid
    terrain: list[_Terrain]
    kinds: list[_Kind]
    obstacles: list[_Obstacle]
    structures: list[_Structure]
    next_number: int
    ground: list[str]
    reserved: list[str]
    roads: list[str]


class _Head(msgspec.Struct):
    format: str = ""
    version: int = 0


def schema() -> dict[str, Any]:
    """The published JSON Schema of the plan document."""
    text = resources.files("woven_locus.files").joinpath("plan.schema.json").read_text("utf-8")
    return json.loads(text)  # type: ignore[no-any-return]


def load(path: Path) -> Plan:
    """Read a plan. Raises FileProblem: file, place, what was expected."""
    return parse(read_bytes(path), path)


def save(plan: Plan, path: Path) -> None:
    """Write a plan, atomically. Raises FileProblem; the old file is then as it was."""
    write_bytes(path, dump(plan))


def parse(data: bytes, path: object = "plan") -> Plan:
    """A plan from the bytes of a document. `path` is used in messages. Raises FileProblem."""
    try:
        head = msgspec.json.decode(data, type=_Head)
    except (msgspec.DecodeError, UnicodeDecodeError) as err:
        raise _problem(err, data, path) from err
    if head.format != FORMAT:
        raise FileProblem(
            path, "format", f"expected {FORMAT!r}, found {head.format!r}; this is no plan"
        )
    if head.version != VERSION:
        raise FileProblem(
            path,
            "version",
            f"this program reads version {VERSION}, the file is version {head.version}",
        )
    try:
        return _build(msgspec.json.decode(data, type=_Document))
    except (msgspec.DecodeError, UnicodeDecodeError) as err:
        raise _problem(err, data, path) from err
    except BadPlan as err:
        raise FileProblem(path, err.where, err.what) from err
    except WovenError as err:
        raise FileProblem(path, "", str(err)) from err


def _problem(err: Exception, data: bytes, path: object) -> FileProblem:
    """A decoder's error as file, place, words."""
    if data.startswith(b"\xef\xbb\xbf"):
        return FileProblem(path, "line 1", "begins with a byte order mark; save it as plain UTF-8")
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as bad:
        return FileProblem(path, _line(data, bad.start), "is not UTF-8 text")
    text = str(err)
    if not data.strip():
        return FileProblem(path, "", "is empty; expected a plan document")
    if isinstance(err, msgspec.ValidationError):
        what, _, place = text.partition(" - at `")
        return FileProblem(path, place.rstrip("`").removeprefix("$.") or "document", what)
    what, _, place = text.partition(" (byte ")
    if place:
        return FileProblem(path, _line(data, int(place.rstrip(")"))), f"broken JSON: {what}")
    end = _line(data, len(data))
    return FileProblem(path, end, "broken JSON: the file ends too early")


def _line(data: bytes, at: int) -> str:
    return f"line {data.count(_NEWLINE, 0, at) + 1}, column {at - data.rfind(_NEWLINE, 0, at)}"


def _build(doc: _Document) -> Plan:
    grid = doc.grid
    spec = GridSpec(
        grid.cols,
        grid.rows,
        *grid.cell,
        *grid.anchor,
        grid.centred,
        *grid.first,
        grid.unit,
    )
    table = TerrainTable(
        [
            TerrainClass(
                t.key, t.name, t.mark, t.buildable, t.passable, t.cost, _dye(t.dye, at), t.pattern
            )
            for at, t in enumerate(doc.terrain)
        ]
    )
    kinds = []
    for at, k in enumerate(doc.kinds):
        try:
            doors = [Door(c, r, SIDE_NAMES.index(side)) for c, r, side in k.doors]
            footprint = Footprint.from_rows(k.footprint, doors)
            kinds.append(Kind(k.key, k.name, k.code, _dye(k.dye, at), k.price, footprint))
        except BadPlan:
            raise
        except WovenError as err:
            raise BadPlan(f"kinds[{at}]", str(err)) from err
    shape = spec.shape
    return Plan(
        doc.name,
        spec,
        table,
        Catalogue(kinds),
        terrain=runs.decode(doc.ground, shape, [t.mark for t in table], "ground"),
        reserved=runs.decode(doc.reserved, shape, _RESERVED_MARKS, "reserved"),
        road=runs.decode(doc.roads, shape, _ROAD_MARKS, "roads"),
        obstacles=[
            Obstacle(o.number, o.name, o.look, tuple(Cell(*c) for c in o.cells))
            for o in doc.obstacles
        ],
        structures=[
            Structure(s.number, s.kind, Cell(*s.cell), s.turn, s.price, s.placed)
            for s in doc.structures
        ],
        next_number=doc.next_number,
        money=doc.money,
    )


def _dye(text: str, at: int) -> str:
    digits = text[1:]
    if len(text) == 7 and text[0] == "#" and all(c in "0123456789abcdefABCDEF" for c in digits):
        return text
    raise BadPlan(f"dye of entry {at}", f"expected #RRGGBB, found {text!r}")


def dump(plan: Plan) -> bytes:
    """The bytes of a plan's document."""
    spec = plan.spec
    parts = [
        ("format", _flat(FORMAT)),
        ("version", _flat(VERSION)),
        ("name", _flat(plan.name)),
        ("money", _flat(plan.money)),
        (
            "grid",
            _flat(
                {
                    "cols": spec.cols,
                    "rows": spec.rows,
                    "cell": [_num(spec.cell_w), _num(spec.cell_h)],
                    "anchor": [_num(spec.anchor_x), _num(spec.anchor_y)],
                    "centred": spec.centred,
                    "first": [spec.first_col, spec.first_row],
                    "unit": spec.unit,
                }
            ),
        ),
        ("terrain", _lines(_terrain_row(item) for item in plan.terrain_table)),
        ("kinds", _lines(_kind_row(kind) for kind in plan.kinds)),
        ("obstacles", _lines(_obstacle_row(o) for o in plan.obstacles.values())),
        ("structures", _lines(_structure_row(s) for s in plan.register)),
        ("next_number", _flat(plan.register.next_number)),
        ("ground", _rows(plan.terrain, [item.mark for item in plan.terrain_table])),
        ("reserved", _rows(plan.reserved, _RESERVED_MARKS)),
        ("roads", _rows(plan.road, _ROAD_MARKS)),
    ]
    body = ",\n".join(f'"{key}": {text}' for key, text in parts)
    return ("{\n" + body + "\n}\n").encode("utf-8")


def _flat(value: object) -> str:
    return json.dumps(value, ensure_ascii=False)


def _num(value: float) -> float | int:
    value = float(value)
    return int(value) if value.is_integer() and abs(value) < 1e15 else value


def _lines(rows: Iterable[dict[str, object]]) -> str:
    inner = ",\n".join("  " + _flat(row) for row in rows)
    return f"[\n{inner}\n]" if inner else "[]"


def _rows(layer: np.ndarray[Any, np.dtype[np.uint8]], marks: Iterable[str]) -> str:
    # Rows hold digits and marks only, so that nothing needs escaping.
    inner = ",\n".join(f'  "{row}"' for row in runs.encode(layer, list(marks)))
    return f"[\n{inner}\n]"


def _terrain_row(item: TerrainClass) -> dict[str, object]:
    return {
        "key": item.key,
        "name": item.name,
        "mark": item.mark,
        "buildable": item.buildable,
        "passable": item.passable,
        "cost": _num(float(item.cost)),
        "dye": item.dye,
        "pattern": item.pattern,
    }


def _kind_row(kind: Kind) -> dict[str, object]:
    return {
        "key": kind.key,
        "name": kind.name,
        "code": kind.code,
        "dye": kind.dye,
        "price": kind.price,
        "footprint": kind.footprint.to_rows(),
        "doors": [[d.col, d.row, SIDE_NAMES[d.side]] for d in kind.footprint.doors],
    }


def _obstacle_row(item: Obstacle) -> dict[str, object]:
    return {
        "number": item.number,
        "name": item.name,
        "look": item.look,
        "cells": [list(cell) for cell in item.cells],
    }


def _structure_row(row: Structure) -> dict[str, object]:
    return {
        "number": row.number,
        "kind": row.kind,
        "cell": list(row.cell),
        "turn": row.turn,
        "price": row.price,
        "placed": row.placed,
    }
