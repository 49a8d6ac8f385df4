"""The cell ahead of an actor: ``position + facing x (distance + offset)``, snapped to what it holds."""

from __future__ import annotations

import math

from woven_locus.core.errors import BadGrid
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid.snapping import LARGEST_HELD, low_cell, number
from woven_locus.core.grid.spec import GridSpec
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, force_setattr, replace

_WAYS = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}


class Actor(Value):
    """at : where it stands.  facing : degrees from the x axis towards the y axis, 0 up to 360.
    distance, offset : world units from there to the place that it addresses.
    cols, rows : cells of what it holds. Raises BadGrid."""

    at: Point
    facing: float = 0.0
    distance: float = 0.0
    offset: float = 0.0
    cols: int = 1
    rows: int = 1

    def __post_init__(self) -> None:
        for value in (*self.at, self.facing, self.distance, self.offset):
            if not math.isfinite(value):
                raise BadGrid(
                    phrase("an actor is placed by finite numbers, not {value:g}", value=value)
                )
        if not (1 <= self.cols <= LARGEST_HELD and 1 <= self.rows <= LARGEST_HELD):
            raise BadGrid(
                phrase(
                    "an actor holds 1 to {largest_held} cells a side, not {cols}x{rows}",
                    largest_held=LARGEST_HELD,
                    cols=self.cols,
                    rows=self.rows,
                )
            )
        force_setattr(self, "facing", self.facing % 360)

    @property
    def ahead(self) -> tuple[float, float]:
        """The unit vector that it faces along; exact along the axes."""
        turn = math.radians(self.facing)
        return _WAYS.get(self.facing, (math.cos(turn), math.sin(turn)))

    @property
    def target(self) -> Point:
        """The place that it addresses, before snapping."""
        reach = self.distance + self.offset
        return Point(self.at.x + self.ahead[0] * reach, self.at.y + self.ahead[1] * reach)

    def low(self, spec: GridSpec) -> Cell:
        """Lowest cell of what it holds, centred on the place that it addresses."""
        return low_cell(spec, *self.target, self.cols, self.rows)

    def cells(self, spec: GridSpec) -> list[Cell]:
        """The cells that it addresses."""
        low = self.low(spec)
        return [low.moved(c, r) for r in range(self.rows) for c in range(self.cols)]

    def walked(self, spec: GridSpec, cols: int, rows: int) -> Actor:
        """A step of whole cells, facing that way."""
        at = Point(self.at.x + cols * spec.cell_w, self.at.y + rows * spec.cell_h)
        facing = math.degrees(math.atan2(rows, cols)) if cols or rows else self.facing
        return replace(self, at=at, facing=facing)

    def facing_to(self, point: Point) -> Actor:
        """Facing another place."""
        d_x, d_y = point.x - self.at.x, point.y - self.at.y
        return replace(self, facing=math.degrees(math.atan2(d_y, d_x)))

    def turned(self, degrees: float) -> Actor:
        """The same actor, turned by degrees."""
        return replace(self, facing=self.facing + degrees)

    def working(self, spec: GridSpec) -> list[str]:
        """The arithmetic with its real numbers, one line a step, x before y."""
        reach = self.distance + self.offset
        lines: list[str] = [
            phrase(
                "reach  {distance} + {offset} = {reach}",
                distance=number(self.distance),
                offset=number(self.offset),
                reach=number(reach),
            )
        ]
        low = self.low(spec)
        for name, at, way, target, cell in zip(
            "xy", self.at, self.ahead, self.target, low, strict=True
        ):
            lines.append(
                f"{name}: {number(at)} + {number(way)} \N{MULTIPLICATION SIGN} {number(reach)}"
                f" = {number(target)}"
            )
            lines.append(
                phrase("   lowest column {cell}", cell=number(cell))
                if name == "x"
                else phrase("   lowest row {cell}", cell=number(cell))
            )
        return lines
