"""Edits as bytes for the recovery journal: MessagePack, layers compressed."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy.typing as npt

from woven_locus.core.books import Funds
from woven_locus.core.editing import (
    AcceptedChange,
    ActorChange,
    Change,
    Edit,
    FundsChange,
    GridChange,
    Keep,
    KeepSideChange,
    KindsChange,
    LayerChange,
    MoneyChange,
    NameChange,
    ObstaclesChange,
    Patch,
    Regrid,
    RoadTableChange,
    SnapChange,
    StructuresChange,
    TableChange,
    TrafficChange,
    WavesChange,
    WindowChange,
)
from woven_locus.core.geometry import Box, Point
from woven_locus.core.ground import TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.lanes import KeepSide
from woven_locus.core.layers import Layer
from woven_locus.core.layers import layer as layer_row
from woven_locus.core.register import Rows
from woven_locus.core.ways.roads import RoadTable
from woven_locus.files.accepted_rows import AcceptedRow
from woven_locus.files.array_bytes import packed, unpacked
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
from woven_locus.files.row_values import World
from woven_locus.files.traffic_rows import TrafficRows
from woven_locus.files.wave_rows import WaveRows


class _Patch(msgspec.Struct, tag="patch"):
    layer: str
    box: tuple[int, int, int, int]
    before: bytes
    after: bytes


class _Structures(msgspec.Struct, tag="structures"):
    gone: list[StructureRow]
    come: list[StructureRow]
    next_number: tuple[int, int] | None = None


class _Kinds(msgspec.Struct, tag="kinds"):
    before: list[KindRow]
    after: list[KindRow]


class _FundsState(msgspec.Struct):
    funds: FundsRow
    gone: list[GoneRow]


class _Funds(msgspec.Struct, tag="funds"):
    before: _FundsState | None
    after: _FundsState | None


class _Actor(msgspec.Struct, tag="actor"):
    before: World | None
    after: World | None


class _KeepSide(msgspec.Struct, tag="keep"):
    before: KeepSide
    after: KeepSide


class _Traffic(msgspec.Struct, tag="traffic"):
    before: TrafficRows
    after: TrafficRows


class _Waves(msgspec.Struct, tag="waves"):
    before: WaveRows
    after: WaveRows


class _Accepted(msgspec.Struct, tag="accepted"):
    before: list[AcceptedRow]
    after: list[AcceptedRow]


class _Snap(msgspec.Struct, tag="snap"):
    before: SnapRow
    after: SnapRow


class _Name(msgspec.Struct, tag="name"):
    before: str
    after: str


class _Money(msgspec.Struct, tag="money"):
    before: str
    after: str


class _Obstacles(msgspec.Struct, tag="obstacles"):
    gone: list[ObstacleRow]
    come: list[ObstacleRow]


class _Window(msgspec.Struct, tag="window"):
    before: WindowRow | None
    after: WindowRow | None


class _Table(msgspec.Struct, tag="terrain"):
    before: list[TerrainRow]
    after: list[TerrainRow]


class _Roads(msgspec.Struct, tag="roads"):
    before: list[RoadRow]
    after: list[RoadRow]


class _Layer(msgspec.Struct):
    shape: tuple[int, int]
    data: bytes


class _Whole(msgspec.Struct, tag="heights"):
    """All of a layer that may be missing. Journals of before knew the heights only."""

    before: _Layer | None
    after: _Layer | None
    layer: str = "heights"


class _Grid(msgspec.Struct, tag="grid"):
    """The question alone; its answer follows from the plan that it is asked of."""

    spec: GridRow
    keep: Keep


_Held = (
    _Patch
    | _Structures
    | _Obstacles
    | _Window
    | _Table
    | _Roads
    | _Whole
    | _Kinds
    | _Funds
    | _Actor
    | _KeepSide
    | _Traffic
    | _Waves
    | _Accepted
    | _Snap
    | _Name
    | _Money
    | _Grid
)


class _Edit(msgspec.Struct):
    label: str
    changes: list[_Held]


# Changes whose values stand there as they are.
_SAME = {NameChange: _Name, MoneyChange: _Money, KeepSideChange: _KeepSide, ActorChange: _Actor}
_VALUES = {_Name: NameChange, _Money: MoneyChange, _KeepSide: KeepSideChange}


def pack(edit: Edit) -> bytes:
    """An edit as bytes."""
    return msgspec.msgpack.encode(
        _Edit(str(edit.label), [_held(change) for change in edit.changes])
    )


def unpack(data: bytes) -> Edit:
    """The inverse of `pack`. Raises msgspec.DecodeError, zlib.error, ValueError or WovenError."""
    held = msgspec.msgpack.decode(data, type=_Edit)
    return Edit(held.label, tuple(_change(each) for each in held.changes))


def _held(change: Change) -> _Held:
    match change:
        case Patch():
            box = (change.box.r0, change.box.c0, change.box.r1, change.box.c1)
            return _Patch(change.layer, box, packed(change.before), packed(change.after))
        case StructuresChange():
            return _Structures(
                [StructureRow.of(row) for row in change.gone],
                [StructureRow.of(row) for row in change.come],
                change.next_number,
            )
        case KindsChange():
            return _Kinds(
                [KindRow.of(kind) for kind in change.before],
                [KindRow.of(kind) for kind in change.after],
            )
        case FundsChange():
            return _Funds(_state(change.before), _state(change.after))
        case NameChange() | MoneyChange() | KeepSideChange() | ActorChange():
            made: Any = _SAME[type(change)]
            return made(change.before, change.after)  # type: ignore[no-any-return]
        case TrafficChange():
            return _Traffic(TrafficRows.of(change.before), TrafficRows.of(change.after))
        case WavesChange():
            return _Waves(WaveRows.of(change.before), WaveRows.of(change.after))
        case AcceptedChange():
            return _Accepted(
                [AcceptedRow.of(item) for item in change.before],
                [AcceptedRow.of(item) for item in change.after],
            )
        case SnapChange():
            return _Snap(SnapRow.of(change.before), SnapRow.of(change.after))
        case ObstaclesChange():
            return _Obstacles(
                [ObstacleRow.of(item) for item in change.gone],
                [ObstacleRow.of(item) for item in change.come],
            )
        case WindowChange():
            return _Window(
                WindowRow.of(change.before) if change.before else None,
                WindowRow.of(change.after) if change.after else None,
            )
        case TableChange():
            return _Table(
                [TerrainRow.of(item) for item in change.before],
                [TerrainRow.of(item) for item in change.after],
            )
        case RoadTableChange():
            return _Roads(
                [RoadRow.of(item) for item in change.before],
                [RoadRow.of(item) for item in change.after],
            )
        case LayerChange():
            return _Whole(_layer(change.before), _layer(change.after), change.layer)
        case GridChange():
            return _Grid(GridRow.of(change.question.spec), change.question.keep)
        case _:
            raise TypeError(f"the journal has no form for {type(change).__name__}")


# Changes of one value, whose rows are its own.
_PLAIN = {_Traffic: TrafficChange, _Waves: WavesChange, _Snap: SnapChange}


def _change(held: _Held) -> Change:
    match held:
        case _Patch():
            box = Box(*held.box)
            dtype = _row(held.layer).dtype
            before, after = (unpacked(d, box.shape, dtype) for d in (held.before, held.after))
            return Patch(held.layer, box, before, after)
        case _Structures():
            return StructuresChange(
                Rows(row.made() for row in held.gone),
                Rows(row.made() for row in held.come),
                held.next_number,
            )
        case _Kinds():
            return KindsChange(
                Catalogue(row.made("kinds") for row in held.before),
                Catalogue(row.made("kinds") for row in held.after),
            )
        case _Funds():
            return FundsChange(_unstate(held.before), _unstate(held.after))
        case _Actor():
            return ActorChange(
                Point(*held.before) if held.before else None,
                Point(*held.after) if held.after else None,
            )
        case _Name() | _Money() | _KeepSide():
            value: Any = _VALUES[type(held)]
            return value(held.before, held.after)  # type: ignore[no-any-return]
        case _Traffic() | _Waves() | _Snap():
            change: Any = _PLAIN[type(held)]
            return change(held.before.made(), held.after.made())  # type: ignore[no-any-return]
        case _Accepted():
            return AcceptedChange(
                tuple(row.made("accepted") for row in held.before),
                tuple(row.made("accepted") for row in held.after),
            )
        case _Obstacles():
            return ObstaclesChange(
                tuple(row.made() for row in held.gone), tuple(row.made() for row in held.come)
            )
        case _Window():
            return WindowChange(
                held.before.made() if held.before else None,
                held.after.made() if held.after else None,
            )
        case _Table():
            return TableChange(*(_terrain(rows) for rows in (held.before, held.after)))
        case _Roads():
            return RoadTableChange(*(_roads(rows) for rows in (held.before, held.after)))
        case _Whole():
            row = _row(held.layer)
            return LayerChange(row.name, _unlayer(row, held.before), _unlayer(row, held.after))
        case _Grid():
            return GridChange(Regrid(held.spec.made(), held.keep))


def _terrain(rows: list[TerrainRow]) -> TerrainTable:
    return TerrainTable([row.made("terrain") for row in rows])


def _roads(rows: list[RoadRow]) -> RoadTable:
    return RoadTable([row.made("road_classes") for row in rows])


def _state(funds: Funds | None) -> _FundsState | None:
    return _FundsState(FundsRow.of(funds), list(funds.gone)) if funds is not None else None


def _unstate(held: _FundsState | None) -> Funds | None:
    return held.funds.made(held.gone) if held is not None else None


def _row(name: str) -> Layer:
    try:
        return layer_row(name)
    except KeyError:
        raise ValueError(f"no layer {name!r}") from None


def _layer(layer: npt.NDArray[Any] | None) -> _Layer | None:
    if layer is None:
        return None
    return _Layer((layer.shape[0], layer.shape[1]), packed(layer))


def _unlayer(row: Layer, held: _Layer | None) -> npt.NDArray[Any] | None:
    return None if held is None else unpacked(held.data, held.shape, row.dtype)
