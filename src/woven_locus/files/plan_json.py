"""The plan document: JSON fit for version control. Described in docs/format.md and by the schema.

Keys and rows stand in a fixed order, one thing that can change on one line, so that saving what was
loaded gives the same bytes.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import Any, Literal

import msgspec

from woven_locus.core.errors import BadPlan, FileProblem, WovenError
from woven_locus.core.geometry import Point
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.lanes import KeepSide
from woven_locus.core.phrase import phrase, said
from woven_locus.core.plan import Plan
from woven_locus.core.value import Record
from woven_locus.core.ways.roads import PLAIN, RoadTable
from woven_locus.files import height_rows, layer_rows
from woven_locus.files.accepted_rows import AcceptedRow
from woven_locus.files.atomic import digest, give_back, read_bytes, write_bytes
from woven_locus.files.kind_rows import KindRow
from woven_locus.files.plan_rows import (
    FundsRow,
    GoneRow,
    GridRow,
    ObstacleRow,
    RoadRow,
    SnapRow,
    StructureRow,
    TerrainRow,
    WindowRow,
)
from woven_locus.files.row_values import Strict, World, num
from woven_locus.files.strict_json import BROKEN, decoded, problem
from woven_locus.files.traffic_rows import (
    JunctionRow,
    PersonRow,
    TrafficRows,
    TripRow,
    TripRuleRow,
    VehicleRow,
)
from woven_locus.files.wave_rows import (
    AttackerRow,
    DefenceRow,
    EntryRow,
    GoalRow,
    WaveRow,
    WaveRows,
)
from woven_locus.package_data import package_data

FORMAT = "woven-locus/plan"
VERSION = 8
# Older documents that are read: version 1 had no window, heights or y_up; version 2 no rules, yields and
# turns of kinds, funds, actor, barriers or mirrored structures; version 3 no road classes, signs or bridges;
# version 4 no side of the road, vehicles or trips; version 6 no entries, goals, attackers, waves or towers; version 7 no accepted
# findings, and nothing of snapping.
READS = (1, 2, 3, 4, 5, 6, 7, 8)
SUFFIX = ".plan.json"


class _Document(Strict, kw_only=True):
    """Everything but the layers, whose rows `_document` adds."""

    format: str
    version: int
    name: str
    money: str
    grid: GridRow
    terrain: list[TerrainRow]
    kinds: list[KindRow]
    obstacles: list[ObstacleRow]
    structures: list[StructureRow]
    next_number: int
    # From version 2 on.
    window: WindowRow | None = None
    # From version 3 on.
    funds: FundsRow | None = None
    gone: tuple[GoneRow, ...] = ()
    actor: World | None = None
    # From version 4 on.
    road_classes: list[RoadRow] | None = None
    # From version 5 on.
    keep: Literal["right", "left"] = "right"
    vehicles: tuple[VehicleRow, ...] = ()
    trips: tuple[TripRow, ...] = ()
    # From version 6 on.
    junctions: tuple[JunctionRow, ...] = ()
    trip_rules: tuple[TripRuleRow, ...] = ()
    people: tuple[PersonRow, ...] = ()
    longest_crossing: float = 20.0
    # From version 7 on.
    entries: tuple[EntryRow, ...] = ()
    goals: tuple[GoalRow, ...] = ()
    attackers: tuple[AttackerRow, ...] = ()
    waves: tuple[WaveRow, ...] = ()
    defence: DefenceRow = msgspec.field(default_factory=DefenceRow)
    # From version 8 on.
    accepted: tuple[AcceptedRow, ...] = ()
    snap: SnapRow = msgspec.field(default_factory=SnapRow)
    # For editors that look the schema up; kept as it is.
    schema_: str | None = msgspec.field(name="$schema", default=None)


def _document() -> type[_Document]:
    """The document with a field for the rows of each layer."""
    return _with_layers(tuple(layer_rows.row_keys()), layer_rows.required())


@cache
def _with_layers(keys: tuple[str, ...], required: frozenset[str]) -> type[_Document]:
    fields: list[Any] = [
        (key, list[str]) if key in required else (key, list[str] | None, None) for key in keys
    ]
    made: Any = msgspec.defstruct(
        "_Document", fields, bases=(_Document,), kw_only=True, forbid_unknown_fields=True
    )
    return made  # type: ignore[no-any-return]


class _Tables(Record):
    """What the rows of layers refer to."""

    spec: GridSpec
    terrain_table: TerrainTable
    road_table: RoadTable


class _Head(msgspec.Struct):
    format: str = ""
    version: int = 0


def schema() -> dict[str, Any]:
    """The published JSON Schema of the plan document."""
    whole: dict[str, Any] = json.loads(package_data("woven_locus.files", "plan.schema.json"))
    # The file holds the layers too, for whoever reads it; the table has the last word.
    whole["properties"] |= layer_rows.schema()
    return whole


def load(path: Path) -> Plan:
    """Read a plan. Raises FileProblem: file, place, what was expected."""
    return read(path)[0]


def read(path: Path) -> tuple[Plan, bytes, str]:
    """A plan, the very bytes that it was read from, and their digest. Raises FileProblem."""
    data = read_bytes(path)
    # Beside the reading, since it lets go of the interpreter.
    with ThreadPoolExecutor(1) as pool:
        known = pool.submit(digest, data)
        plan = parse(data, path)
    if plan.terrain.size > height_rows.LARGE:
        give_back()
    return plan, data, known.result()


def save(plan: Plan, path: Path) -> str:
    """Write a plan, atomically; returns the digest of its bytes. Raises FileProblem; the old file is then
    as it was."""
    return write(dump(plan), path)


def write(data: bytes, path: Path, expected: str | None = None) -> str:
    """`save` of the bytes of a document.  expected : see `atomic.write_bytes`."""
    with ThreadPoolExecutor(1) as pool:
        known = pool.submit(digest, data)
        write_bytes(path, data, expected)
    return known.result()


def parse(data: bytes, path: object = "plan") -> Plan:
    """A plan from the bytes of a document. `path` is used in messages. Raises FileProblem."""
    head = decoded_head(data, path)
    if head.format != FORMAT:
        raise FileProblem(
            path,
            "format",
            phrase(
                "expected {format!r}, found {format2!r}; this is no plan",
                format=FORMAT,
                format2=head.format,
            ),
        )
    if head.version not in READS:
        raise FileProblem(
            path,
            "version",
            phrase(
                "this program reads versions {reads} to {version}, the file is version {version2}",
                reads=READS[0],
                version=VERSION,
                version2=head.version,
            ),
        )
    document = decoded(data, _document(), path)
    try:
        return _build(document)
    except BadPlan as err:
        raise FileProblem(path, err.where, err.what) from err
    except WovenError as err:
        raise FileProblem(path, "", said(err)) from err


def decoded_head(data: bytes, path: object) -> _Head:
    """Which format and version a document says that it is. Raises FileProblem."""
    try:
        return msgspec.json.decode(data, type=_Head)
    except BROKEN as err:
        raise problem(err, data, path) from err


def _build(doc: _Document) -> Plan:
    roads = PLAIN
    if doc.road_classes is not None:
        rows = enumerate(doc.road_classes)
        roads = RoadTable([row.made(f"road_classes[{at}]") for at, row in rows])
    tables = _Tables(
        doc.grid.made(),
        TerrainTable([row.made(f"terrain[{at}]") for at, row in enumerate(doc.terrain)]),
        roads,
    )
    kinds = Catalogue([row.made(f"kinds[{at}]") for at, row in enumerate(doc.kinds)])
    layers = layer_rows.decode({key: getattr(doc, key) for key in layer_rows.row_keys()}, tables)
    return Plan(
        doc.name,
        tables.spec,
        tables.terrain_table,
        kinds,
        road_table=roads,
        window=None if doc.window is None else doc.window.made(),
        obstacles=[row.made() for row in doc.obstacles],
        structures=[row.made() for row in doc.structures],
        next_number=doc.next_number,
        money=doc.money,
        funds=None if doc.funds is None else doc.funds.made(doc.gone),
        actor=None if doc.actor is None else Point(*doc.actor),
        keep=KeepSide(doc.keep),
        traffic=TrafficRows(
            *(doc.vehicles, doc.trips, doc.junctions, doc.trip_rules),
            *(doc.people, doc.longest_crossing),
        ).made(tables.spec.y_up),
        waves=WaveRows(doc.entries, doc.goals, doc.attackers, doc.waves, doc.defence).made(),
        accepted=tuple(row.made(f"accepted[{at}]") for at, row in enumerate(doc.accepted)),
        snap=doc.snap.made(),
        schema=doc.schema_,
        **layers,
    )


def dump(plan: Plan) -> bytes:
    """The bytes of a plan's document."""
    window = plan.window
    gone = plan.funds.gone if plan.funds is not None else ()
    packing = layer_rows.encode_beside(plan)
    traffic = TrafficRows.of(plan.traffic, plan.spec.y_up)
    waves = WaveRows.of(plan.waves)
    parts: list[tuple[str, Iterable[str]]] = [
        *([("$schema", [_flat(plan.schema)])] if plan.schema is not None else []),
        ("format", [_flat(FORMAT)]),
        ("version", [_flat(VERSION)]),
        ("name", [_flat(plan.name)]),
        ("money", [_flat(plan.money)]),
        ("funds", [_row(FundsRow.of(plan.funds)) if plan.funds is not None else "null"]),
        ("grid", [_row(GridRow.of(plan.spec))]),
        ("window", [_row(WindowRow.of(window)) if window is not None else "null"]),
        ("actor", [_flat([num(n) for n in plan.actor]) if plan.actor is not None else "null"]),
        ("keep", [_flat(plan.keep.value)]),
        ("terrain", _lines(TerrainRow.of(item) for item in plan.terrain_table)),
        ("road_classes", _lines(RoadRow.of(item) for item in plan.road_table)),
        ("kinds", _lines(KindRow.of(kind) for kind in plan.kinds)),
        ("obstacles", _lines(ObstacleRow.of(o) for o in plan.obstacles.values())),
        ("structures", _lines(StructureRow.of(s) for s in plan.register)),
        ("gone", _listed(["  " + _flat(list(row)) for row in gone])),
        ("vehicles", _lines(traffic.vehicles)),
        ("people", _lines(traffic.people)),
        ("longest_crossing", [_flat(traffic.longest_crossing)]),
        ("trips", _lines(traffic.trips)),
        ("trip_rules", _lines(traffic.trip_rules)),
        ("junctions", _lines(traffic.junctions)),
        ("entries", _lines(waves.entries)),
        ("goals", _lines(waves.goals)),
        ("attackers", _lines(waves.attackers)),
        ("waves", _lines(waves.waves)),
        ("defence", [_row(waves.defence)]),
        ("snap", [_row(SnapRow.of(plan.snap))]),
        ("accepted", _lines(AcceptedRow.of(item) for item in plan.accepted)),
        ("next_number", [_flat(plan.register.next_number)]),
    ]
    parts += [(key, ["null"] if rows is None else _quoted(rows)) for key, rows in packing().items()]
    # Joined in one go: the text of a large plan is not copied more often than it must be.
    pieces = ["{\n"]
    for at, (key, texts) in enumerate(parts):
        pieces.append((",\n" if at else "") + f'"{key}": ')
        pieces.extend(texts)
    pieces.append("\n}\n")
    return "".join(pieces).encode("utf-8")


# One for all: `json.dumps` makes one for each value.
_flat = json.JSONEncoder(ensure_ascii=False).encode


def _row(row: Strict) -> str:
    return _flat(msgspec.to_builtins(row))


def _lines(rows: Iterable[Strict]) -> list[str]:
    return _listed(["  " + _row(row) for row in rows])


def _quoted(rows: Iterable[str]) -> list[str]:
    """Rows of digits, letters and marks only, so that nothing needs escaping."""
    return _listed([f'  "{row}"' for row in rows])


def _listed(rows: list[str]) -> list[str]:
    """A JSON list with one row on a line, in pieces."""
    if not rows:
        return ["[]"]
    between = [",\n"] * (2 * len(rows) - 1)
    between[::2] = rows
    return ["[\n", *between, "\n]"]
