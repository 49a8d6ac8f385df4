"""Seeded questions of a plan: everything that a game does again, with the cases that go wrong asked on purpose."""

from __future__ import annotations

import math
from collections.abc import Callable
from enum import StrEnum

import numpy as np

from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import Rule
from woven_locus.core.plan import Plan
from woven_locus.core.routing import Over
from woven_locus.core.routing.route import End
from woven_locus.core.value import Value


class Ask(StrEnum):
    """What is asked."""

    LOCATE = "locate"
    CENTRE = "centre"
    SNAP = "snap"
    LOW_CELL = "low_cell"
    CELLS = "cells"
    PROBE = "probe"
    ROUTE = "route"
    LINKS = "links"
    SHAPE = "shape"
    LANE = "lane"


class Question(Value):
    """One of many. What an `ask` does not need is None.

    world : a point.  cell : a cell, the lowest of a turned footprint where a kind is given.  rule, step : of snapping; no
    step is the cell's own size.  holding : columns and rows.  kind : a key.  start, goal, over, moves : of a route.
    """

    id: int
    ask: Ask
    world: Point | None = None
    cell: Cell | None = None
    rule: Rule | None = None
    step: tuple[float, float] | None = None
    holding: tuple[int, int] | None = None
    kind: str | None = None
    turn: int | None = None
    start: End | None = None
    goal: End | None = None
    over: Over | None = None
    moves: int | None = None


# Of twenty questions so many are of each sort.
_ORDER = (
    *(Ask.LOCATE, Ask.SNAP, Ask.PROBE, Ask.ROUTE, Ask.LOW_CELL),
    *(Ask.CENTRE, Ask.SNAP, Ask.PROBE, Ask.SHAPE, Ask.LANE),
    *(Ask.LOCATE, Ask.SNAP, Ask.CELLS, Ask.ROUTE, Ask.LOW_CELL),
    *(Ask.SHAPE, Ask.SNAP, Ask.PROBE, Ask.ROUTE, Ask.LINKS),
)
# How far beyond the grid points and cells lie at times, in cells.
_FAR = (1, 3, 1_000, 1_000_000)


def questions(plan: Plan, seed: int = 0, count: int = 1000) -> list[Question]:
    """The first `count` of a row without end: question k depends on the plan, the seed and k alone."""
    asking = _Asking(plan, seed)
    return [asking.question(k) for k in range(count)]


class _Asking:
    def __init__(self, plan: Plan, seed: int) -> None:
        self._plan, self._seed = plan, seed
        self._numbers = plan.register.numbers()
        self._kinds = list(plan.kinds)
        self._roads = np.argwhere(plan.road != 0)
        self._rng = np.random.default_rng(0)
        self._makers: dict[Ask, Callable[[int], Question]] = {
            Ask.LOCATE: lambda k: Question(k, Ask.LOCATE, world=self._world()),
            Ask.CENTRE: lambda k: Question(k, Ask.CENTRE, cell=self._cell()),
            Ask.SNAP: self._snap,
            Ask.LOW_CELL: self._low_cell,
            Ask.CELLS: lambda k: self._of_kind(k, Ask.CELLS),
            Ask.PROBE: lambda k: self._of_kind(k, Ask.PROBE),
            Ask.ROUTE: self._route,
            Ask.LINKS: lambda k: Question(k, Ask.LINKS),
            Ask.SHAPE: lambda k: Question(k, Ask.SHAPE, cell=self._road_cell()),
            Ask.LANE: self._lane,
        }

    def question(self, k: int) -> Question:
        """Number k."""
        self._rng = np.random.default_rng([self._seed, k])
        ask = _ORDER[k % len(_ORDER)]
        if ask in (Ask.CELLS, Ask.PROBE) and not self._kinds:
            ask = Ask.LOCATE
        return self._makers[ask](k)

    def _one(self, count: int) -> int:
        return int(self._rng.integers(count))

    # --- points and cells -----------------------------------------------------------------------------

    def _world(self, step: tuple[float, float] | None = None) -> Point:
        """On a line of the lattice, on a half, a hair beside either, or anywhere; now and then far outside."""
        spec = self._plan.spec
        width = step or (spec.cell_w, spec.cell_h)
        span = spec.cols * spec.cell_w, spec.rows * spec.cell_h
        origin = spec.origin_x, spec.origin_y
        found = []
        for way in (0, 1):
            low, size = origin[way], span[way]
            beyond = float(_FAR[self._one(len(_FAR))]) * width[way] if not self._one(6) else 0.0
            at = low - beyond + float(self._rng.random()) * (size + 2 * beyond)
            what = self._one(5)
            if what < 4:
                # The lattice line, or the half, that lies nearest below.
                at = (
                    low
                    + (math.floor((at - low) / width[way]) + (0.5 if what & 1 else 0.0))
                    * width[way]
                )
            if what in (2, 3):
                at = math.nextafter(at, math.inf if self._one(2) else -math.inf)
            found.append(at)
        return Point(*found)

    def _cell(self, margin: int = 2) -> Cell:
        """Within the grid, on its border, or a little outside."""
        spec = self._plan.spec
        where = self._one(4)
        if where == 0:
            corners = (spec.first, spec.last)
            return Cell(corners[self._one(2)].col, corners[self._one(2)].row)
        out = margin if where == 1 else 0
        return Cell(
            int(self._rng.integers(spec.first_col - out, spec.last.col + out + 1)),
            int(self._rng.integers(spec.first_row - out, spec.last.row + out + 1)),
        )

    def _road_cell(self) -> Cell:
        if len(self._roads) and self._one(5):
            return self._plan.spec.cell_of_slot(self._roads[self._one(len(self._roads))].tolist())
        return self._cell(0)

    def _snap(self, k: int) -> Question:
        spec = self._plan.spec
        rule = list(Rule)[self._one(3)]
        step = None
        if self._one(3) == 0:
            factors = (0.5, 1.0, 2.0, 3.0, 0.3, 1.7)
            step = (
                spec.cell_w * factors[self._one(len(factors))],
                spec.cell_h * factors[self._one(len(factors))],
            )
        return Question(k, Ask.SNAP, world=self._world(step), rule=rule, step=step)

    def _low_cell(self, k: int) -> Question:
        holding = 1 + self._one(6), 1 + self._one(6)
        return Question(k, Ask.LOW_CELL, world=self._world(), holding=holding)

    # --- placement ------------------------------------------------------------------------------------

    def _of_kind(self, k: int, ask: Ask) -> Question:
        kind = self._kinds[self._one(len(self._kinds))]
        turns = [turn for turn in range(4) if kind.may_turn(turn)] or [0]
        turn = turns[self._one(len(turns))]
        cell = self._cell()
        if self._one(2) and self._numbers:
            # Beside or upon something that stands.
            row = self._plan.register[self._numbers[self._one(len(self._numbers))]]
            cell = row.cell.moved(int(self._rng.integers(-3, 4)), int(self._rng.integers(-3, 4)))
        elif self._one(2) and len(self._roads):
            cell = self._road_cell().moved(self._one(2), self._one(2))
        return Question(k, ask, cell=cell, kind=kind.key, turn=turn)

    # --- ways -----------------------------------------------------------------------------------------

    def _end(self) -> End:
        if self._numbers and self._one(3):
            return self._numbers[self._one(len(self._numbers))]
        return self._road_cell() if self._one(2) else self._cell(0)

    def _route(self, k: int) -> Question:
        over = Over.ROADS if self._one(2) else Over.GROUND
        moves = 4 if over is Over.ROADS or self._one(2) else 8
        start, goal = self._end(), self._end()
        return Question(k, Ask.ROUTE, start=start, goal=goal, over=over, moves=moves)

    def _lane(self, k: int) -> Question:
        return Question(k, Ask.LANE, start=self._end(), goal=self._end())
