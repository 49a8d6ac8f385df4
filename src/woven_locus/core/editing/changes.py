"""What an edit is made of besides patches of layers: structures, obstacles, tables, kinds, money."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from woven_locus.core.books import Funds
from woven_locus.core.editing.change import Boxes, Change
from woven_locus.core.geometry import Box, Point, places_of
from woven_locus.core.grid import BuildWindow
from woven_locus.core.ground import Obstacle, TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.plan import Plan
from woven_locus.core.register import Alike, Rows
from woven_locus.core.value import Value
from woven_locus.core.ways.doors import slots_alike
from woven_locus.core.ways.roads import RoadTable


class StructuresChange(Change, Value):
    """Rows of the register that go and rows that come, all at once, so that they may change places. A
    number on both sides is a structure that changes; one that only comes is placed.

    next_number : of the register, before and after. None is what follows from the rows: a number is taken by its
    placement, and given back only by the placement's own undo."""

    gone: Rows
    come: Rows
    next_number: tuple[int, int] | None = None

    layer = "structures"

    @property
    def dirties_cells(self) -> bool:
        return False  # `Plan.occupy` has seen to it

    @property
    def numbers(self) -> frozenset[int]:
        """Of all structures that it touches."""
        return self.gone.numbers | self.come.numbers

    def prepare(self) -> None:
        for rows in (self.gone, self.come):
            _ = rows.alike, rows.numbers, rows.counts, rows.paid

    def write(self, plan: Plan, undo: bool) -> Boxes:
        gone, come = (self.come, self.gone) if undo else (self.gone, self.come)
        boxes = [*_lift(plan, gone.alike), *_lay(plan, come.alike)]
        plan.account.changed(gone, come)
        plan.register.drop_all(gone.numbers - come.numbers)
        plan.register.put_all(come)
        placed = self.placed
        if self.next_number is not None:
            plan.register.next_number = self.next_number[0 if undo else 1]
        elif placed:
            plan.register.next_number = min(placed) if undo else max(placed) + 1
        return tuple(boxes)

    @property
    def placed(self) -> frozenset[int]:
        """The numbers that are new with this."""
        return self.come.numbers - self.gone.numbers


class ObstaclesChange(Change, Value):
    """Obstacles that go and obstacles that come; thousands of them in a few array passes."""

    gone: tuple[Obstacle, ...]
    come: tuple[Obstacle, ...]

    layer = "obstacles"

    @property
    def dirties_cells(self) -> bool:
        return False  # `Plan.occupy` has seen to it

    def write(self, plan: Plan, undo: bool) -> Boxes:
        gone, come = (self.come, self.gone) if undo else (self.gone, self.come)
        for item in gone:
            del plan.obstacles[item.number]
        plan.put_obstacles(come)
        boxes = []
        for items, sign in ((gone, 0), (come, -1)):
            if not items:
                continue
            cells = places_of([cell for item in items for cell in item.cells]) - plan.spec.first
            who = np.repeat(
                np.array([sign * item.number for item in items], np.int32),
                [len(item.cells) for item in items],
            )
            plan.occupy(cells[:, 1] * plan.spec.cols + cells[:, 0], who)
            boxes.append(Box.around_slots(cells[:, ::-1]))
        return tuple(boxes)


# More structures than this are told as one block.
MANY = 200


def _lift(plan: Plan, groups: Sequence[Alike]) -> list[Box]:
    """Take structures off the map; returns the blocks that they covered."""
    return _write(plan, groups, lift=True)


def _lay(plan: Plan, groups: Sequence[Alike]) -> list[Box]:
    """Write structures to the map; returns the blocks that they cover."""
    return _write(plan, groups, lift=False)


def _write(plan: Plan, groups: Sequence[Alike], lift: bool) -> list[Box]:
    boxes: list[Box] = []
    many = sum(len(group.numbers) for group in groups)
    for group in groups:
        footprint = plan.footprint(plan.kinds[group.kind], group.turn)
        lows = group.lows - np.array(plan.spec.first)
        slots = slots_alike(plan, group)
        plan.occupy(slots.ravel(), 0 if lift else group.numbers.repeat(slots.shape[1]))
        if many > MANY:
            lows = np.array([lows.min(axis=0), lows.max(axis=0)])
        boxes += [Box(r, c, r + footprint.rows, c + footprint.cols) for c, r in lows.tolist()]
    plan.count_doors(groups, -1 if lift else 1)
    return [Box.around_all(boxes)] if many > MANY else boxes


class WindowChange(Change, Value):
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


class TableChange(Change, Value):
    """The terrain classes. A class's code is its place in the table; what lies on the map under a code
    that changes its meaning is the business of a `Patch` beside it."""

    before: TerrainTable
    after: TerrainTable

    layer = "terrain"

    @property
    def dirties_cells(self) -> bool:
        a, b = self.before, self.after
        return not (
            np.array_equal(a.buildable, b.buildable) and np.array_equal(a.passable, b.passable)
        )

    @property
    def reforms(self) -> bool:
        return True

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.terrain_table = self.before if undo else self.after
        return (plan.spec.box,)


class RoadTableChange(Change, Value):
    """The road classes. A class's code is its place in the table, as with terrain. No class closes a
    cell, so that what blocks and how walkers go follow from the bytes alone."""

    before: RoadTable
    after: RoadTable

    layer = "road"

    @property
    def reforms(self) -> bool:
        return True

    @property
    def dirties_cells(self) -> bool:
        return False

    def write(self, plan: Plan, undo: bool) -> Boxes:
        plan.road_table = self.before if undo else self.after
        plan.network.reset(plan.road_table)
        plan.lanes.reset(plan.road_table, plan.keep)
        return (plan.spec.box,)


class KindsChange(Change, Value):
    """The catalogue. Structures of a kind whose footprint changes are laid down anew; those that would
    not fit are taken away by changes before this one."""

    before: Catalogue
    after: Catalogue

    layer = "kinds"

    @property
    def dirties_cells(self) -> bool:
        return False  # `Plan.occupy` has seen to it

    @property
    def reforms(self) -> bool:
        return True

    def write(self, plan: Plan, undo: bool) -> Boxes:
        old, new = (self.after, self.before) if undo else (self.before, self.after)
        other = old.reshaped(new)
        groups = [group for group in plan.register.alike() if group.kind in other]
        boxes = _lift(plan, groups)
        plan.kinds = new
        boxes += _lay(plan, groups)
        plan.account.now_under(new, plan.funds)
        return tuple(boxes)


class FundsChange(Change, Value):
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


class ActorChange(Change, Value):
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
