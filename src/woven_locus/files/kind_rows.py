"""The rows of the catalogue in a plan document: kinds and what they ask."""

from __future__ import annotations

from typing import Literal

from woven_locus.core.errors import BadPlan, WovenError
from woven_locus.core.geometry import SIDE_NAMES
from woven_locus.core.kinds import (
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
from woven_locus.core.kinds.tower import Hits, Takes, Tower
from woven_locus.core.kinds.turns import QUARTERS
from woven_locus.files.row_values import Strict, World, num

Side = Literal["north", "east", "south", "west"]
ThingName = Literal["terrain", "kind", "road", "barrier", "obstacle"]


class TouchRow(Strict, omit_defaults=True):
    """What a kind must touch."""

    thing: ThingName
    key: str = ""
    least: int = 1
    sides: list[Side] | None = None


class ClearRow(Strict, omit_defaults=True):
    """What a kind keeps clear of."""

    thing: ThingName
    key: str = ""
    cells: int = 1


class StandRow(Strict, omit_defaults=True):
    """What a kind stands on."""

    terrain: list[str]
    least: int = 0


class LatticeRow(Strict):
    """The lattice that a kind keeps to."""

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
        """The row of a value."""
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


class TowerRow(Strict, omit_defaults=True):
    """What makes a kind a tower. From version 7 on."""

    least: float
    most: float
    damage: float
    interval: float
    splash: float = 0.0
    slowing: float = 0.0
    slow_for: float = 0.0
    hits: Literal["all", "walkers", "fliers"] = "all"
    takes: Literal["furthest", "nearest", "strongest", "weakest"] = "furthest"

    @classmethod
    def of(cls, tower: Tower) -> TowerRow:
        """The row of a value."""
        return cls(
            num(tower.least),
            num(tower.most),
            num(tower.damage),
            num(tower.interval),
            num(tower.splash),
            num(tower.slowing),
            num(tower.slow_for),
            tower.hits.value,
            tower.takes.value,
        )

    def made(self) -> Tower:
        """Raises BadKind."""
        return Tower(
            float(self.least),
            float(self.most),
            float(self.damage),
            float(self.interval),
            float(self.splash),
            float(self.slowing),
            float(self.slow_for),
            Hits(self.hits),
            Takes(self.takes),
        )


class KindRow(Strict, omit_defaults=True):
    """A kind of structure."""

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
    # From version 7 on.
    tower: TowerRow | None = None

    @classmethod
    def of(cls, kind: Kind) -> KindRow:
        """The row of a value."""
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
            TowerRow.of(kind.tower) if kind.tower is not None else None,
        )

    def made(self, where: str) -> Kind:
        """The value of the row. Raises BadPlan or another WovenError."""
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
                None if self.tower is None else self.tower.made(),
            )
        except WovenError as err:
            raise BadPlan(where, str(err)) from err
