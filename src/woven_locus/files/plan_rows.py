"""The rows of a plan document: its structs, and each thing of a plan to and from them.

The recovery journal keeps the same rows.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from woven_locus.core.books import Funds, Gone
from woven_locus.core.errors import BadGrid, BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import BuildWindow, GridSpec, Rule, SnapSettings
from woven_locus.core.ground import Obstacle, TerrainClass
from woven_locus.core.kinds import (
    MIRRORED,
)
from woven_locus.core.register import Structure
from woven_locus.core.ways.roads import RoadClass
from woven_locus.files.row_values import Pair, Strict, World, dye, num


class GridRow(Strict):
    """The grid."""

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
        """The row of a value."""
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
        """The value of the row. Raises BadPlan or another WovenError."""
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
    """The buildable window."""

    low: Pair
    cols: int
    rows: int

    @classmethod
    def of(cls, window: BuildWindow) -> WindowRow:
        """The row of a value."""
        return cls((window.low.col, window.low.row), window.cols, window.rows)

    def made(self) -> BuildWindow:
        """The value of the row. Raises BadPlan or another WovenError."""
        return BuildWindow(Cell(*self.low), self.cols, self.rows)


class TerrainRow(Strict, omit_defaults=True):
    """A terrain class."""

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
        """The row of a value."""
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
        """The value of the row. Raises BadPlan or another WovenError."""
        return TerrainClass(
            self.key,
            self.name,
            self.mark,
            self.buildable,
            self.passable,
            self.cost,
            dye(self.dye, where),
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
        """The row of a value."""
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
        """The value of the row. Raises BadPlan or another WovenError."""
        return RoadClass(
            self.key,
            self.name,
            self.mark,
            self.speed,
            self.cost,
            self.lanes,
            dye(self.dye, where),
        )


class ObstacleRow(Strict):
    """An obstacle."""

    number: int
    name: str
    look: Literal["boulder", "rowan"]
    cells: list[Pair]

    @classmethod
    def of(cls, item: Obstacle) -> ObstacleRow:
        """The row of a value."""
        return cls(item.number, item.name, item.look, [(c.col, c.row) for c in item.cells])  # type: ignore[arg-type]

    def made(self) -> Obstacle:
        """The value of the row. Raises BadPlan or another WovenError."""
        return Obstacle(self.number, self.name, self.look, tuple(Cell(*c) for c in self.cells))


class StructureRow(Strict, omit_defaults=True):
    """A row of the register."""

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
        """The row of a value."""
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
        """The value of the row. Raises BadPlan or another WovenError."""
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
        """The row of a value."""
        return cls(funds.opening, funds.share, funds.clock)

    def made(self, gone: Iterable[GoneRow]) -> Funds:
        """The value of the row. Raises BadPlan or another WovenError."""
        return Funds(self.opening, self.share, self.clock, tuple(Gone(*row) for row in gone))


# since, until, pays, every, count, paid, back; see `books.Gone`.
GoneRow = tuple[int, int, int, int, int, int, int]


class SnapRow(Strict):
    """How points snap. step : world units, or cells, for x and y; None, for both or for one, is the cell's own size. From
    version 8 on."""

    rule: Literal["corner", "centre", "intersection"] = "centre"
    step: tuple[float | None, float | None] | None = None
    in_cells: bool = False
    every: Pair = (1, 1)
    offset: Pair = (0, 0)

    @classmethod
    def of(cls, snap: SnapSettings) -> SnapRow:
        """The row of a value."""
        steps = [num(step) if step is not None else None for step in (snap.step_x, snap.step_y)]
        step = None if steps == [None, None] else (steps[0], steps[1])
        return cls(
            snap.rule.value,
            step,
            snap.in_cells,
            (snap.every_x, snap.every_y),
            (snap.offset_x, snap.offset_y),
        )

    def made(self) -> SnapSettings:
        """The value of the row. Raises BadPlan."""
        x, y = self.step or (None, None)
        every, offset = self.every, self.offset
        try:
            return SnapSettings(Rule(self.rule), x, y, self.in_cells, *every, *offset)
        except BadGrid as err:
            raise BadPlan("snap", str(err)) from err
