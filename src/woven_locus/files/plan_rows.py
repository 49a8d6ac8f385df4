"""The rows of a plan document: its structs, and each thing of a plan to and from them.

The recovery journal keeps the same rows.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import msgspec

from woven_locus.core.books import Funds, Gone
from woven_locus.core.errors import BadPlan, WovenError
from woven_locus.core.geometry import SIDE_NAMES, Cell
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.ground import Obstacle, TerrainClass
from woven_locus.core.kinds import (
    MIRRORED,
    NO_DEMANDS,
    Clear,
    Demands,
    Door,
    Footprint,
    Kind,
    Lattice,
    Stand,
    Thing,
    Touch,
)
from woven_locus.core.kinds.turns import QUARTERS
from woven_locus.core.register import Structure
from woven_locus.core.ways.roads import RoadClass

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


class TerrainRow(Strict, omit_defaults=True):
    key: str
    name: str
    mark: str
    buildable: bool
    passable: bool
    cost: float
    dye: str
    pattern: str
    # From version 4 on.
    bridge: bool = False

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
            item.bridge,
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
            self.bridge,
        )


class RoadRow(Strict):
    """A road class. From version 4 on."""

    key: str
    name: str
    mark: str
    speed: float
    cost: float
    lanes: int
    dye: str

    @classmethod
    def of(cls, item: RoadClass) -> RoadRow:
        return cls(
            item.key,
            item.name,
            item.mark,
            num(item.speed),
            num(item.cost),
            item.lanes,
            item.dye,
        )

    def made(self, where: str) -> RoadClass:
        return RoadClass(
            self.key,
            self.name,
            self.mark,
            self.speed,
            self.cost,
            self.lanes,
            _dye(self.dye, where),
        )


Side = Literal["north", "east", "south", "west"]
ThingName = Literal["terrain", "kind", "road", "barrier", "obstacle"]


class TouchRow(Strict, omit_defaults=True):
    thing: ThingName
    key: str = ""
    least: int = 1
    sides: list[Side] | None = None


class ClearRow(Strict, omit_defaults=True):
    thing: ThingName
    key: str = ""
    cells: int = 1


class StandRow(Strict, omit_defaults=True):
    terrain: list[str]
    least: int = 0


class LatticeRow(Strict):
    cols: int
    rows: int
    col: int
    row: int


class RulesRow(Strict, omit_defaults=True):
    """What a kind asks; what it does not ask is left out."""

    terrain: list[str] | None = None
    slope: float | None = None
    stand: StandRow | None = None
    touch: tuple[TouchRow, ...] | None = None
    clear: tuple[ClearRow, ...] | None = None
    lattice: LatticeRow | None = None
    reach: float | None = None
    least: int = 0
    most: int | None = None
    access: bool = False

    @classmethod
    def of(cls, demands: Demands) -> RulesRow:
        stand, lattice = demands.stand, demands.lattice
        return cls(
            list(demands.terrain) if demands.terrain is not None else None,
            num(demands.slope) if demands.slope is not None else None,
            StandRow(list(stand.terrain), stand.least) if stand is not None else None,
            tuple(
                TouchRow(
                    str(t.thing),  # type: ignore[arg-type]
                    t.key,
                    t.least,
                    [SIDE_NAMES[side] for side in t.sides] if len(t.sides) < 4 else None,  # type: ignore[misc]
                )
                for t in demands.touch
            )
            or None,
            tuple(ClearRow(str(c.thing), c.key, c.cells) for c in demands.clear) or None,  # type: ignore[arg-type]
            LatticeRow(lattice.cols, lattice.rows, lattice.col, lattice.row) if lattice else None,
            num(demands.reach) if demands.reach is not None else None,
            demands.least,
            demands.most,
            demands.access,
        )

    def made(self) -> Demands:
        """Raises BadKind."""
        stand, lattice = self.stand, self.lattice
        return Demands(
            tuple(self.terrain) if self.terrain is not None else None,
            self.slope,
            Stand(tuple(stand.terrain), stand.least) if stand is not None else None,
            tuple(
                Touch(
                    Thing(t.thing),
                    t.key,
                    t.least,
                    tuple(SIDE_NAMES.index(side) for side in t.sides or SIDE_NAMES),
                )
                for t in self.touch or ()
            ),
            tuple(Clear(Thing(c.thing), c.key, c.cells) for c in self.clear or ()),
            Lattice(lattice.cols, lattice.rows, lattice.col, lattice.row) if lattice else None,
            self.reach,
            self.least,
            self.most,
            self.access,
        )


class KindRow(Strict, omit_defaults=True):
    key: str
    name: str
    code: str
    dye: str
    price: int
    footprint: list[str]
    doors: list[tuple[int, int, Side]]
    # From version 3 on.
    turns: list[Literal[0, 1, 2, 3]] | None = None
    mirror: bool = False
    art: World | None = None
    pays: int = 0
    every: int = 0
    rules: RulesRow | None = None

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
            list(kind.turns) if kind.turns != QUARTERS else None,  # type: ignore[arg-type]
            kind.mirror,
            (num(kind.art[0]), num(kind.art[1])) if kind.art is not None else None,
            kind.pays,
            kind.every,
            RulesRow.of(kind.demands) if kind.demands != NO_DEMANDS else None,
        )

    def made(self, where: str) -> Kind:
        try:
            doors = [Door(c, r, SIDE_NAMES.index(side)) for c, r, side in self.doors]
            footprint = Footprint.from_rows(self.footprint, doors)
            return Kind(
                self.key,
                self.name,
                self.code,
                self.dye,
                self.price,
                footprint,
                QUARTERS if self.turns is None else tuple(self.turns),
                self.mirror,
                self.art,
                self.pays,
                self.every,
                NO_DEMANDS if self.rules is None else self.rules.made(),
            )
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


class StructureRow(Strict, omit_defaults=True):
    number: int
    kind: str
    cell: Pair
    turn: Literal[0, 1, 2, 3]
    price: int
    placed: str
    # From version 3 on.
    mirror: bool = False
    since: int = 0

    @classmethod
    def of(cls, row: Structure) -> StructureRow:
        mirror, turn = divmod(row.turn, MIRRORED)
        return cls(
            row.number,
            row.kind,
            tuple(row.cell),  # type: ignore[arg-type]
            turn,  # type: ignore[arg-type]
            row.price,
            row.placed,
            bool(mirror),
            row.since,
        )

    def made(self) -> Structure:
        turn = self.turn + MIRRORED * self.mirror
        return Structure(
            self.number, self.kind, Cell(*self.cell), turn, self.price, self.placed, self.since
        )


class FundsRow(Strict):
    """The funds without what is gone, which has rows of its own."""

    opening: int
    share: int
    clock: int

    @classmethod
    def of(cls, funds: Funds) -> FundsRow:
        return cls(funds.opening, funds.share, funds.clock)

    def made(self, gone: Iterable[GoneRow]) -> Funds:
        return Funds(self.opening, self.share, self.clock, tuple(Gone(*row) for row in gone))


# since, until, pays, every, count, paid, back; see `books.Gone`.
GoneRow = tuple[int, int, int, int, int, int, int]


def num(value: float) -> float | int:
    """A whole number without its point, as long as that loses nothing."""
    value = float(value)
    return int(value) if value.is_integer() and abs(value) < 1e15 else value


def _dye(text: str, where: str) -> str:
    if len(text) == 7 and text[0] == "#" and all(c in "0123456789abcdefABCDEF" for c in text[1:]):
        return text
    raise BadPlan(where, f"dye must be #RRGGBB, not {text!r}")
