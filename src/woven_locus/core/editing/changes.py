"""What an edit is made of: values that know what stood there before and what stands there after.

Each `write`s itself to a plan, forwards or backwards, and returns the blocks of slots that changed.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.books import Funds
from woven_locus.core.geometry import Box, Cell, Point
from woven_locus.core.grid import BuildWindow
from woven_locus.core.ground import Obstacle, TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.layers import layer as layer_row
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.core.ways.roads import RoadTable

Boxes = tuple[Box, ...]


class Change(ABC):
    """One part of an edit.

    layer : what it changes, in the words of `Notice.layers`.  dirties_cells, dirties_network : whether blocks
    and movement, and the road network, follow from what it writes.  reforms : whatever was made for the
    grid, the classes or the kinds before it is void.
    """

    __slots__ = ()
    layer: str

    @property
    def dirties_cells(self) -> bool:
        return True

    @property
    def dirties_network(self) -> bool:
        return False

    @property
    def reforms(self) -> bool:
        return False

    def joined(self, later: Change) -> Change | None:
        """This and a later one as one, where both are steps of the same one thing that goes on."""
        return None

    @abstractmethod
    def write(self, plan: Plan, undo: bool) -> Boxes:
        """Write to the plan, forwards or backwards; returns the blocks of slots that changed."""


@dataclass(frozen=True, slots=True)
class Patch(Change):
    """A block of one layer. before, after : (box rows, box cols), the layer's dtype."""

    layer: str
    box: Box
    before: npt.NDArray[Any]
    after: npt.NDArray[Any]

    @classmethod
    def of_cells(cls, plan: Plan, layer: str, cells: Iterable[Cell], code: int) -> Patch | None:
        """Set `code` on the cells (those outside the grid are passed over). None if nothing
        would change."""
        slots = [plan.spec.slot(cell) for cell in cells if plan.spec.contains(cell)]
        box = Box.around(slots)
        mask = np.zeros(box.shape, bool)
        for row, col in slots:
            mask[row - box.r0, col - box.c0] = True
        return cls.of_mask(plan, layer, box, mask, code)

    @classmethod
    def of_values(cls, plan: Plan, layer: str, values: Mapping[Cell, int]) -> Patch | None:
        """Set a value of its own on each cell (those outside the grid are passed over). None if nothing
        would change."""
        held = [(plan.spec.slot(c), value) for c, value in values.items() if plan.spec.contains(c)]
        box = Box.around([slot for slot, _ in held])
        after = getattr(plan, layer)[box.slices].copy()
        for (row, col), value in held:
            after[row - box.r0, col - box.c0] = value
        return cls.of_block(plan, layer, box, after)

    @classmethod
    def of_mask(
        cls, plan: Plan, layer: str, box: Box, mask: npt.NDArray[np.bool_], code: int
    ) -> Patch | None:
        """Set `code` where a mask of the box's shape is True; what lies outside the grid is passed
        over. None if nothing would change."""
        inside = box.clipped(plan.spec.shape)
        if inside.empty:
            return None
        after = getattr(plan, layer)[inside.slices].copy()
        # Not by index: this lets other threads run meanwhile.
        np.copyto(after, after.dtype.type(code), where=mask[inside.seen_from(box).slices])
        return cls.of_block(plan, layer, inside, after)

    @classmethod
    def of_block(cls, plan: Plan, layer: str, box: Box, after: npt.NDArray[Any]) -> Patch | None:
        """Put a whole block in place of what is there. box : within the grid. `after` is taken over.
        None if nothing would change."""
        before = getattr(plan, layer)[box.slices].copy()
        after = np.ascontiguousarray(after, before.dtype)
        same = layer_row(layer).same(before, after)
        return None if same.all() else cls(layer, box, before, after)

    @property
    def dirties_cells(self) -> bool:
        return layer_row(self.layer).dirties_cells

    @property
    def dirties_network(self) -> bool:
        return layer_row(self.layer).dirties_network

    def write(self, plan: Plan, undo: bool) -> Boxes:
        getattr(plan, self.layer)[self.box.slices] = self.before if undo else self.after
        return (self.box,)


@dataclass(frozen=True, slots=True)
class StructuresChange(Change):
    """Rows of the register that go and rows that come, all at once, so that they may change places. A
    number on both sides is a structure that changes; one that only comes is placed."""

    gone: tuple[Structure, ...]
    come: tuple[Structure, ...]

    layer = "structures"

    @property
    def numbers(self) -> frozenset[int]:
        return frozenset(row.number for row in (*self.gone, *self.come))

    def write(self, plan: Plan, undo: bool) -> Boxes:
        gone, come = (self.come, self.gone) if undo else (self.gone, self.come)
        boxes = [*_lay(plan, gone, lift=True), *_lay(plan, come)]
        plan.count_doors(gone, -1)
        plan.count_doors(come, 1)
        stays = {row.number for row in come}
        for row in gone:
            if row.number not in stays:
                plan.register.drop(row.number)
            plan.account.changed(row, None)
        for row in come:
            plan.account.changed(None, row)
        plan.register.put_all(come)
        # A number is taken by its placement and given back only by the placement's own undo.
        placed = self.placed
        if placed:
            plan.register.next_number = min(placed) if undo else max(placed) + 1
        return tuple(boxes)

    @property
    def placed(self) -> tuple[int, ...]:
        """The numbers that are new with this."""
        before = {row.number for row in self.gone}
        return tuple(row.number for row in self.come if row.number not in before)


@dataclass(frozen=True, slots=True)
class ObstaclesChange(Change):
    """Obstacles that go and obstacles that come; thousands of them in a few array passes."""

    gone: tuple[Obstacle, ...]
    come: tuple[Obstacle, ...]

    layer = "obstacles"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        gone, come = (self.come, self.gone) if undo else (self.gone, self.come)
        for item in gone:
            del plan.obstacles[item.number]
        plan.put_obstacles(come)
        boxes = []
        for items, sign in ((gone, 0), (come, -1)):
            if not items:
                continue
            flat = (part for item in items for cell in item.cells for part in cell)
            cells = np.fromiter(flat, np.int64).reshape(-1, 2) - np.array(plan.spec.first)
            who = np.repeat(
                np.array([sign * item.number for item in items], np.int32),
                [len(item.cells) for item in items],
            )
            plan.occupant[cells[:, 1], cells[:, 0]] = who
            low, high = cells.min(axis=0).tolist(), cells.max(axis=0).tolist()
            boxes.append(Box(low[1], low[0], high[1] + 1, high[0] + 1))
        return tuple(boxes)


def _stand(plan: Plan, cells: Iterable[Cell], who: int) -> None:
    for cell in cells:
        plan.occupant[plan.spec.slot(cell)] = who


# More structures than this are laid down in array passes, and told as one block.
MANY = 200


def _lay(plan: Plan, rows: Sequence[Structure], lift: bool = False) -> list[Box]:
    """Write structures to the map, or take them off it; returns the blocks that they cover."""
    if len(rows) <= MANY:
        for row in rows:
            _stand(plan, plan.cells_of(row), 0 if lift else row.number)
        return [plan.box_of(row) for row in rows]
    alike: dict[tuple[str, int], list[Structure]] = {}
    for row in rows:
        alike.setdefault((row.kind, row.turn), []).append(row)
    around = Box(0, 0, 0, 0)
    for (kind, turn), mine in alike.items():
        footprint = plan.footprint(plan.kinds[kind], turn)
        offs = np.array(footprint.cells, np.int64)
        lows = np.array([row.cell for row in mine], np.int64) - np.array(plan.spec.first)
        cells = lows[:, None] + offs
        numbers = np.array([row.number for row in mine], np.int32)[:, None]
        plan.occupant[cells[..., 1], cells[..., 0]] = 0 if lift else numbers
        low, high = lows.min(axis=0).tolist(), lows.max(axis=0).tolist()
        around = around.union(
            Box(low[1], low[0], high[1] + footprint.rows, high[0] + footprint.cols)
        )
    return [around]


@dataclass(frozen=True, slots=True)
class WindowChange(Change):
    """The buildable window; None is the whole terrain."""

    before: BuildWindow | None
    after: BuildWindow | None

    layer = "window"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        old, new = (self.after, self.before) if undo else (self.before, self.after)
        plan.window = new
        whole = plan.spec.box
        a = old.box(plan.spec) if old is not None else whole
        b = new.box(plan.spec) if new is not None else whole
        return tuple(_difference(a, b))


def _difference(a: Box, b: Box) -> list[Box]:
    """Boxes that hold every slot that is in one of two boxes but not in the other."""
    found = []
    for one, other in ((a, b), (b, a)):
        if one.empty:
            continue
        if other.empty or not one.touches(other):
            found.append(one)
            continue
        found += [
            Box(one.r0, one.c0, other.r0, one.c1),
            Box(other.r1, one.c0, one.r1, one.c1),
            Box(one.r0, one.c0, one.r1, other.c0),
            Box(one.r0, other.c1, one.r1, one.c1),
        ]
    return [box for box in found if not box.empty]


@dataclass(frozen=True, slots=True)
class TableChange(Change):
    """The terrain classes. A class's code is its place in the table; what lies on the map under a code
    that changes its meaning is the business of a `Patch` beside it."""

    before: TerrainTable
    after: TerrainTable

    layer = "terrain"

    @property
    def reforms(self) -> bool:
        return True

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.terrain_table = self.before if undo else self.after
        return (plan.spec.box,)


@dataclass(frozen=True, slots=True)
class RoadTableChange(Change):
    """The road classes. A class's code is its place in the table, as with terrain."""

    before: RoadTable
    after: RoadTable

    layer = "road"

    @property
    def reforms(self) -> bool:
        return True

    @property
    def dirties_network(self) -> bool:
        return True

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.road_table = self.before if undo else self.after
        plan.network.reset(plan.road_table)
        return (plan.spec.box,)


@dataclass(frozen=True, slots=True, eq=False)
class LayerChange(Change):
    """All of a layer that may be missing at once; None is a plan without it. The arrays are taken over:
    later patches write to them, and are undone before this is."""

    layer: str
    before: npt.NDArray[Any] | None
    after: npt.NDArray[Any] | None

    @property
    def dirties_cells(self) -> bool:
        return layer_row(self.layer).dirties_cells

    @property
    def dirties_network(self) -> bool:
        return layer_row(self.layer).dirties_network

    def write(self, plan: Plan, undo: bool) -> Boxes:
        setattr(plan, self.layer, self.before if undo else self.after)
        return (plan.spec.box,)


@dataclass(frozen=True, slots=True)
class KindsChange(Change):
    """The catalogue. Structures of a kind whose footprint changes are laid down anew; those that would
    not fit are taken away by changes before this one."""

    before: Catalogue
    after: Catalogue

    layer = "kinds"

    @property
    def reforms(self) -> bool:
        return True

    def write(self, plan: Plan, undo: bool) -> Boxes:
        old, new = (self.after, self.before) if undo else (self.before, self.after)
        other = {
            kind.key
            for kind in old
            if kind.key in new and new[kind.key].footprint != kind.footprint
        }
        rows = [row for row in plan.register if row.kind in other] if other else []
        boxes = _lay(plan, rows, lift=True)
        plan.count_doors(rows, -1)
        plan.kinds = new
        boxes += _lay(plan, rows)
        plan.count_doors(rows, 1)
        plan.account.now_under(new, plan.funds)
        return tuple(boxes)


@dataclass(frozen=True, slots=True)
class FundsChange(Change):
    """The money: opening, share, clock, what is gone. Nothing on the map changes."""

    before: Funds | None
    after: Funds | None

    layer = "funds"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.funds = self.before if undo else self.after
        plan.account.now_under(plan.kinds, plan.funds)
        return ()

    def joined(self, later: Change) -> FundsChange | None:
        """This and a later one as one, when both only move the clock on."""
        if not isinstance(later, FundsChange) or later.before != self.after:
            return None
        if not (_clock_only(self) and _clock_only(later)):
            return None
        return FundsChange(self.before, later.after)


def _clock_only(change: FundsChange) -> bool:
    a, b = change.before, change.after
    if a is None or b is None:
        return False
    return (a.opening, a.share, a.gone) == (b.opening, b.share, b.gone) and a.clock <= b.clock


@dataclass(frozen=True, slots=True)
class ActorChange(Change):
    """Where the actor stands."""

    before: Point | None
    after: Point | None

    layer = "actor"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.actor = self.before if undo else self.after
        return ()

    def joined(self, later: Change) -> ActorChange | None:
        """This and a later one as one, when both move it."""
        if not isinstance(later, ActorChange) or None in (self.before, self.after, later.after):
            return None
        return ActorChange(self.before, later.after)
