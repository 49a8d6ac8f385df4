"""A block of structures, roads and barriers that can be copied and put down again, as one."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cache, cached_property, partial
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing import Edit, Patch, StructuresChange
from woven_locus.core.edits.many import judge_all
from woven_locus.core.edits.structures import new_row
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Box, Cell, cell_text, cells_at, places_of
from woven_locus.core.kinds import Catalogue
from woven_locus.core.kinds.footprint import Off
from woven_locus.core.kinds.turns import flipped, turned_on
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.placing import Verdict, judge_barrier, judge_road
from woven_locus.core.placing.verdict import listed
from woven_locus.core.plan import Plan
from woven_locus.core.register import Rows, Structure
from woven_locus.core.value import Value
from woven_locus.core.ways.roads import resigned, road_byte

# Cells of a block that is copied at most.
LARGEST_BLOCK = 1 << 18


class Part(NamedTuple):
    """A structure of a block. col, row : of its footprint's top left cell on screen, from the block's."""

    kind: str
    col: int
    row: int
    turn: int


class Way(NamedTuple):
    """A road cell of a block.  byte : its class and sign, see `ways.roads`."""

    col: int
    row: int
    byte: int


# A third of the time of ``Way(...)``: there may be many thousands.
_as_way = partial(tuple.__new__, Way)


class Block(Value, dict=True):
    """cols, rows : its size.  parts, roads, barriers : from its top left cell on screen, so that it looks
    the same on a plan whose rows grow up the screen."""

    cols: int
    rows: int
    parts: tuple[Part, ...]
    roads: tuple[Way, ...] = ()
    barriers: tuple[Off, ...] = ()

    def turned(self, kinds: Catalogue) -> Block:
        """After a quarter turn clockwise. Raises Unknown for a kind that is not there."""
        return self._lain(
            kinds,
            (self.rows, self.cols),
            lambda col, row, _wide, tall: (self.rows - row - tall, col),
            lambda turn: turned_on(turn, 1),
            lambda side: (side + 1) % 4,
        )

    def mirrored(self, kinds: Catalogue) -> Block:
        """Left for right. Raises Unknown for a kind that is not there."""
        return self._lain(
            kinds,
            (self.cols, self.rows),
            lambda col, row, wide, _tall: (self.cols - col - wide, row),
            flipped,
            lambda side: -side % 4,
        )

    def _lain(
        self,
        kinds: Catalogue,
        size: tuple[int, int],
        place: Callable[[int, int, int, int], Off],
        turn: Callable[[int], int],
        turn_side: Callable[[int], int],
    ) -> Block:
        """Another way round. place(col, row, cols, rows) : where the top left of a rectangle comes.
        turn_side : what becomes of a side 0 to 3."""
        parts = []
        for part in self.parts:
            lies = kinds[part.kind].footprint.turned(part.turn)
            at = place(part.col, part.row, lies.cols, lies.rows)
            parts.append(Part(part.kind, *at, turn(part.turn)))
        roads = (
            Way(*place(way.col, way.row, 1, 1), resigned(way.byte, turn_side)) for way in self.roads
        )
        barriers = (place(col, row, 1, 1) for col, row in self.barriers)
        return Block(*size, tuple(parts), tuple(sorted(roads)), tuple(sorted(barriers)))

    @cached_property
    def places(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        """(N, 2) column and row of its roads, and of its barriers: thousands, asked with every move of a block in hand."""
        return places_of([way[:2] for way in self.roads]), places_of(self.barriers)

    @property
    def words(self) -> str:
        """What it holds."""
        said = (
            counted(len(self.parts), "{n:,} structure", "{n:,} structures"),
            counted(len(self.roads), "{n:,} road cell", "{n:,} road cells"),
            counted(len(self.barriers), "{n:,} barrier cell", "{n:,} barrier cells"),
        )
        return listed([words for words in said if words.number])

    @property
    def size(self) -> int:
        """Columns and rows."""
        return len(self.parts) + len(self.roads) + len(self.barriers)


def copied(plan: Plan, numbers: Iterable[int], box: Box | None = None) -> Block:
    """The structures, with the roads and barriers of a block of slots (none without one). Raises Refused
    when there is nothing, or too much."""
    rows = [plan.register[number] for number in numbers]
    boxes = [plan.box_of(row) for row in rows]
    around = [box.clipped(plan.spec.shape)] if box is not None else []
    whole = Box.around_all([*around, *boxes])
    if whole.shape[0] * whole.shape[1] > LARGEST_BLOCK:
        raise Refused(
            phrase(
                "a block of {shape} × {shape2} cells is too large to copy; the most is {largest_block:,} cells",
                shape=whole.shape[1],
                shape2=whole.shape[0],
                largest_block=LARGEST_BLOCK,
            )
        )
    top = plan.spec.mirrored(whole)
    parts = []
    for row, each in zip(rows, boxes, strict=True):
        seen = plan.spec.mirrored(each).seen_from(top)
        parts.append(Part(row.kind, seen.c0, seen.r0, row.turn))
    roads, barriers = (
        (layer[whole.slices][::-1] if plan.spec.y_up else layer[whole.slices])
        if box is not None
        else np.zeros((0, 0), np.uint8)
        for layer in (plan.road, plan.barrier)
    )
    cols, lines = np.nonzero(roads.T)
    seen_as = np.array([_as_seen(plan, byte) for byte in range(256)])
    bytes_ = seen_as[roads[lines, cols]]
    ways = map(_as_way, zip(cols.tolist(), lines.tolist(), bytes_.tolist(), strict=True))
    walls = zip(*(each.tolist() for each in np.nonzero(barriers.T)), strict=True)
    block = Block(whole.shape[1], whole.shape[0], tuple(parts), tuple(ways), tuple(walls))
    if not block.size:
        raise Refused(
            phrase("there is nothing to copy: select structures, or drag a rectangle over some")
        )
    return block


def rows_at(plan: Plan, block: Block, low: Cell, when: str) -> list[Structure]:
    """The register's rows for a block whose lowest cell is `low`. Raises Refused, Unknown."""
    rows = []
    for at, part in enumerate(block.parts):
        kind = plan.kinds[part.kind]
        tall = plan.footprint(kind, part.turn).rows
        row = block.rows - part.row - tall if plan.spec.y_up else part.row
        rows.append(new_row(plan, kind, low.moved(part.col, row), part.turn, when, at))
    return rows


def _as_seen(plan: Plan, byte: int) -> int:
    """A road cell with its sign as it is on screen, from the plan's own; and back again."""
    return resigned(byte, lambda side: (2 - side) % 4) if plan.spec.y_up else byte


def _cells(plan: Plan, block: Block, low: Cell, offs: npt.NDArray[np.int64]) -> list[Cell]:
    cols, rows = offs.T
    if plan.spec.y_up:
        rows = block.rows - 1 - rows
    return cells_at(cols + low.col, rows + low.row)


def judge_block(plan: Plan, block: Block, low: Cell) -> Verdict:
    """May all of a block stand with its lowest cell at `low`? Raises Unknown for a kind that the plan has
    not, Refused for a full register."""
    return _judged(plan, block, low, rows_at(plan, block, low, ""))[0]


def _judged(
    plan: Plan, block: Block, low: Cell, rows: list[Structure]
) -> tuple[Verdict, Callable[[], Edit]]:
    """The verdict, and what makes the edit that lays its roads and barriers."""
    roads, barriers = (_cells(plan, block, low, places) for places in block.places)
    ways = (judge_road(plan, roads), judge_barrier(plan, barriers))

    @cache
    def laid() -> Edit:
        known = plan.road_table.known
        # A block that was copied under other classes may hold bytes that mean nothing here.
        bytes_ = (
            _as_seen(plan, way.byte) if known[way.byte] else road_byte(0) for way in block.roads
        )
        patches = (
            Patch.of_values(plan, "road", dict(zip(roads, bytes_, strict=True))),
            Patch.of_cells(plan, "barrier", barriers, 1),
        )
        return Edit("", tuple(patch for patch in patches if patch))

    return judge_all(plan, rows, ways=ways, extra=laid), laid


def paste(plan: Plan, block: Block, low: Cell, when: str) -> Edit:
    """Put a block down with its lowest cell at `low`: all of it, or none. Raises Refused, Unknown."""
    rows = rows_at(plan, block, low, when)
    verdict, ways = _judged(plan, block, low, rows)
    if not verdict:
        raise Refused(
            phrase(
                "The block cannot lie at {low}: {sentence}",
                low=cell_text(low),
                sentence=verdict.sentence(),
            )
        )
    label = phrase("Put down {words} at {low}", words=block.words, low=cell_text(low))
    return Edit(label, (StructuresChange(Rows(), Rows(rows)), *ways().changes))
