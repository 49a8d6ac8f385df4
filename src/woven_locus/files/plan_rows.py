"""The rows of a plan document: its structs, and each thing of a plan to and from them.

The recovery journal keeps the same rows.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from woven_locus.core.errors import BadPlan, WovenError
from woven_locus.core.geometry import SIDE_NAMES, Cell
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.ground import Obstacle, TerrainClass
from woven_locus.core.kinds import Door, Footprint, Kind
from woven_locus.core.register import Structure

Pair = tuple[int, int]
World = tuple[float, float]


class Strict(msgspec.Struct, forbid_unknown_fields=True):
    """An unknown key is refused: saving would lose it."""


class GridRow(Strict):
    cols: int
    rows: int
    cell: World
    anchor: World
    centred: bool
    first: Pair
    unit: str
    y_up: bool = False

    @classmethod
    def of(cls, spec: GridSpec) -> GridRow:
        return cls(
            spec.cols,
            spec.rows,
            (num(spec.cell_w), num(spec.cell_h)),
            (num(spec.anchor_x), num(spec.anchor_y)),
            spec.centred,
            (spec.first_col, spec.first_row),
            spec.unit,
            spec.y_up,
        )

    def made(self) -> GridSpec:
        return GridSpec(
            self.cols,
            self.rows,
            *self.cell,
            *self.anchor,
            self.centred,
            *self.first,
            self.unit,
            self.y_up,
        )


class WindowRow(Strict):
    low: Pair
    cols: int
    rows: int

    @classmethod
    def of(cls, window: BuildWindow) -> WindowRow:
        return cls((window.low.col, window.low.row), window.cols, window.rows)

    def made(self) -> BuildWindow:
        return BuildWindow(Cell(*self.low), self.cols, self.rows)


class TerrainRow(Strict):
    key: str
    name: str
    mark: str
    buildable: bool
    passable: bool
    cost: float
    dye: str
    pattern: str

    @classmethod
    def of(cls, item: TerrainClass) -> TerrainRow:
        return cls(
            item.key,
            item.name,
            item.mark,
            item.buildable,
            item.passable,
            num(float(item.cost)),
            item.dye,
            item.pattern,
        )

    def made(self, where: str) -> TerrainClass:
        return TerrainClass(
            self.key,
            self.name,
            self.mark,
            self.buildable,
            self.passable,
            self.cost,
            _dye(self.dye, where),
            self.pattern,
        )


class KindRow(Strict):
    key: str
    name: str
    code: str
    dye: str
    price: int
    footprint: list[str]
    doors: list[tuple[int, int, Literal["north", "east", "south", "west"]]]

    @classmethod
    def of(cls, kind: Kind) -> KindRow:
        doors = [(d.col, d.row, SIDE_NAMES[d.side]) for d in kind.footprint.doors]
        return cls(
            kind.key,
            kind.name,
            kind.code,
            kind.dye,
            kind.price,
            kind.footprint.to_rows(),
            doors,  # type: ignore[arg-type]
        )

    def made(self, where: str) -> Kind:
        try:
            doors = [Door(c, r, SIDE_NAMES.index(side)) for c, r, side in self.doors]
            footprint = Footprint.from_rows(self.footprint, doors)
            dye = _dye(self.dye, where)
            return Kind(self.key, self.name, self.code, dye, self.price, footprint)
        except BadPlan:
            raise
        except WovenError as err:
            raise BadPlan(where, str(err)) from err


class ObstacleRow(Strict):
    number: int
    name: str
    look: Literal["boulder", "rowan"]
    cells: list[Pair]

    @classmethod
    def of(cls, item: Obstacle) -> ObstacleRow:
        return cls(item.number, item.name, item.look, [(c.col, c.row) for c in item.cells])  # type: ignore[arg-type]

    def made(self) -> Obstacle:
        return Obstacle(self.number, self.name, self.look, tuple(Cell(*c) for c in self.cells))


class StructureRow(Strict):
    number: int
    kind: str
    cell: Pair
    turn: Literal[0, 1, 2, 3]
    price: int
    placed: str

    @classmethod
    def of(cls, row: Structure) -> StructureRow:
        return cls(row.number, row.kind, tuple(row.cell), row.turn, row.price, row.placed)  # type: ignore[arg-type]

    def made(self) -> Structure:
        return Structure(
            self.number, self.kind, Cell(*self.cell), self.turn, self.price, self.placed
        )


def num(value: float) -> float | int:
    """A whole number without its point, as long as that loses nothing."""
    value = float(value)
    return int(value) if value.is_integer() and abs(value) < 1e15 else value


def _dye(text: str, where: str) -> str:
    if len(text) == 7 and text[0] == "#" and all(c in "0123456789abcdefABCDEF" for c in text[1:]):
        return text
    raise BadPlan(where, f"dye must be #RRGGBB, not {text!r}")
