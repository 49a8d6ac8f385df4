"""A footprint: any set of cells, with doors, turned by quarter turns."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cached_property, lru_cache
from typing import NamedTuple

from woven_locus.core.errors import BadKind
from woven_locus.core.geometry import SIDE_NAMES, SIDES, Cell, cells_from
from woven_locus.core.kinds.turns import MIRRORED
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value, force_setattr

# The largest side of a footprint's bounding box.
LARGEST_SIDE = 64


# Columns and rows from a low cell.
Off = tuple[int, int]


class Door(NamedTuple):
    """A door on one side of a footprint cell. side : 0 north, 1 east, 2 south, 3 west."""

    col: int
    row: int
    side: int


class Footprint(Value, dict=True):
    """Cells relative to the lowest column and row of their bounding box.

    cells : (col, row) pairs, sorted by row, then column, without repeats.
    doors : each on an open side of a cell (a side with no footprint cell behind it).
    Raises BadKind.
    """

    cells: tuple[tuple[int, int], ...]
    doors: tuple[Door, ...] = ()

    def __post_init__(self) -> None:
        if not self.cells:
            raise BadKind(phrase("a footprint needs at least one cell"))
        cells = tuple(sorted(set(self.cells), key=lambda c: (c[1], c[0])))
        if min(c for c, _ in cells) or min(r for _, r in cells):
            raise BadKind(
                phrase("a footprint starts at column 0 and row 0 of its own bounding box")
            )
        cols, rows = max(c for c, _ in cells) + 1, max(r for _, r in cells) + 1
        if max(cols, rows) > LARGEST_SIDE:
            raise BadKind(
                phrase(
                    "a footprint is at most {largest_side} cells a side; this is {cols}x{rows}",
                    largest_side=LARGEST_SIDE,
                    cols=cols,
                    rows=rows,
                )
            )
        held = set(cells)
        for door in self.doors:
            if (door.col, door.row) not in held:
                raise BadKind(
                    phrase(
                        "the door at {col}, {row} stands on no cell of the footprint",
                        col=door.col,
                        row=door.row,
                    )
                )
            if not 0 <= door.side <= 3:
                raise BadKind(phrase("a door's side is 0 to 3, not {side}", side=door.side))
            d_row, d_col = SIDES[door.side]
            if (door.col + d_col, door.row + d_row) in held:
                raise BadKind(
                    phrase(
                        "the {side_names} door at {col}, {row} opens into the structure itself",
                        side_names=SIDE_NAMES[door.side],
                        col=door.col,
                        row=door.row,
                    )
                )
        force_setattr(self, "cells", cells)
        force_setattr(self, "doors", tuple(sorted(set(self.doors))))

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        # Footprints are looked up by value with every judgement; of thousands of cells that would show.
        return hash((self.cells, self.doors))

    @cached_property
    def cols(self) -> int:
        """Of the bounding box."""
        return max(c for c, _ in self.cells) + 1

    @cached_property
    def rows(self) -> int:
        """Of the bounding box."""
        return max(r for _, r in self.cells) + 1

    @classmethod
    def from_rows(cls, rows: Sequence[str], doors: Iterable[Door] = ()) -> Footprint:
        """From rows of text, ``#`` a cell and ``.`` none; all rows equally long."""
        cols = max((len(row) for row in rows), default=0)
        if max(cols, len(rows)) > LARGEST_SIDE:
            # Before every cell of what may be a mistake is looked at.
            raise BadKind(
                phrase(
                    "a footprint is at most {largest_side} cells a side; this is {cols}x{count}",
                    largest_side=LARGEST_SIDE,
                    cols=cols,
                    count=len(rows),
                )
            )
        if len({len(row) for row in rows}) > 1:
            raise BadKind(phrase("the rows of a footprint must be equally long"))
        for row in rows:
            if bad := set(row) - {"#", "."}:
                raise BadKind(
                    phrase(
                        "a footprint is drawn with # and . only, not {letter!r}",
                        letter=sorted(bad)[0],
                    )
                )
        cells = tuple((c, r) for r, row in enumerate(rows) for c, on in enumerate(row) if on == "#")
        return cls(cells, tuple(doors))

    @classmethod
    def block(cls, cols: int, rows: int, doors: Iterable[Door] = ()) -> Footprint:
        """A full rectangle."""
        return cls.from_rows(["#" * cols] * rows, doors)

    def to_rows(self) -> list[str]:
        """The inverse of `from_rows`."""
        held = set(self.cells)
        return [
            "".join("#" if (c, r) in held else "." for c in range(self.cols))
            for r in range(self.rows)
        ]

    def turned(self, turn: int) -> Footprint:
        """Seen after a turn, 0 to 7 (see `turns`); row numbers grow downwards."""
        return _turned(self, turn % 8)

    def mirrored(self) -> Footprint:
        """Left for right."""
        return _mirrored(self)

    def upside_down(self) -> Footprint:
        """With the last row first: the same picture on a plan whose rows grow up the screen."""
        return _upside_down(self)

    def at(self, low: Cell) -> list[Cell]:
        """The plan cells covered when the bounding box's lowest cell is `low`."""
        return cells_from(low, self.cells)

    def beyond(self, sides: tuple[int, ...], turn: int, upside_down: bool) -> tuple[Off, ...]:
        """For each open cell side that faces one of `sides` of the footprint as drawn: the cell just
        beyond it after a turn, as (col, row) from the turned low cell. One that several sides face is
        there as often."""
        return _beyond(self, sides, turn, upside_down)

    def open_sides(self) -> list[Door]:
        """Every outer cell side, as if each were a door."""
        held = set(self.cells)
        return [
            Door(c, r, side)
            for c, r in self.cells
            for side, (d_row, d_col) in enumerate(SIDES)
            if (c + d_col, r + d_row) not in held
        ]

    def approaches(self, low: Cell) -> list[Cell]:
        """The plan cells just outside the doors, or outside every outer side without doors."""
        return cells_from(low, self.approach_offs)

    @cached_property
    def approach_offs(self) -> tuple[Off, ...]:
        """The `approaches`, as (col, row) from the lowest cell."""
        found: dict[Off, None] = {}
        for door in self.doors or self.open_sides():
            d_row, d_col = SIDES[door.side]
            found[door.col + d_col, door.row + d_row] = None
        return tuple(found)


@lru_cache(maxsize=4096)
def _turned(footprint: Footprint, turn: int) -> Footprint:
    if turn >= MIRRORED:
        footprint = _mirrored(footprint)
    for _ in range(turn % MIRRORED):
        tall = footprint.rows
        footprint = Footprint(
            tuple((tall - 1 - r, c) for c, r in footprint.cells),
            tuple(Door(tall - 1 - d.row, d.col, (d.side + 1) % 4) for d in footprint.doors),
        )
    return footprint


@lru_cache(maxsize=4096)
def _mirrored(footprint: Footprint) -> Footprint:
    last = footprint.cols - 1
    return Footprint(
        tuple((last - c, r) for c, r in footprint.cells),
        # East and west change places, north and south stay.
        tuple(
            Door(last - d.col, d.row, d.side ^ 2 if d.side % 2 else d.side) for d in footprint.doors
        ),
    )


@lru_cache(maxsize=4096)
def _upside_down(footprint: Footprint) -> Footprint:
    last = footprint.rows - 1
    return Footprint(
        tuple((c, last - r) for c, r in footprint.cells),
        # North and south change places, east and west stay.
        tuple(
            Door(d.col, last - d.row, d.side ^ 2 if d.side % 2 == 0 else d.side)
            for d in footprint.doors
        ),
    )


@lru_cache(maxsize=1024)
def _beyond(
    footprint: Footprint, sides: tuple[int, ...], turn: int, upside_down: bool
) -> tuple[Off, ...]:
    # Sides turn as doors do.
    wanted = [side for side in footprint.open_sides() if side.side in sides]
    shown = Footprint(footprint.cells, tuple(wanted)).turned(turn)
    if upside_down:
        shown = shown.upside_down()
    return tuple((d.col + SIDES[d.side][1], d.row + SIDES[d.side][0]) for d in shown.doors)
