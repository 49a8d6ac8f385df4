"""A search shown step by step: what was opened and expanded when, at what cost, by which heuristic."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.geometry import Box, Slot
from woven_locus.core.kernels import exploring
from woven_locus.core.phrase import mark
from woven_locus.core.routing.room import with_room
from woven_locus.core.routing.route import RouteQuery
from woven_locus.core.routing.search import NO_EXITS, open_ends
from woven_locus.core.value import Value


class Heuristic(Enum):
    """How the way that is left is estimated.  sure : by moves, whether the estimate is never too high,
    so that the path is a cheapest one."""

    ZERO = "zero"
    MANHATTAN = mark("Manhattan")
    OCTILE = "octile"
    WEIGHTED = "weighted"

    def sure(self, moves: int) -> bool:
        """Whether it never says more than the way costs, with 4 or 8 moves."""
        if self is Heuristic.WEIGHTED:
            return False
        return self is not Heuristic.MANHATTAN or moves == 4


_KINDS = {
    Heuristic.ZERO: exploring.ZERO,
    Heuristic.MANHATTAN: exploring.MANHATTAN,
    Heuristic.OCTILE: exploring.OCTILE,
}
WEIGHT = 2.0
Clock = Callable[[], float]


def _no_clock() -> float:
    return 0.0


# A cell's state at a step of the search.
UNSEEN, OPEN, CLOSED = 0, 1, 2


class Explained(Value, eq=False):
    """A search and all that it did.

    slots : (N, 2) int64 path of (row, col), empty without one.  cost : of it, inf without one.
    steps : cells expanded.  seconds : that it took.
    g : (H, W) float64, cost from the start, of cells that were opened.  order, opened : (H, W) int32, the
    step at which a cell was expanded and opened, 0 for never.  goals : where it was to end.
    highest : cost from the start of any cell that was expanded.  reached : the block around all cells that were opened.
    scale : (3,) what a column, a row and a diagonal cost at least.
    """

    heuristic: Heuristic
    slots: npt.NDArray[np.int64]
    cost: float
    steps: int
    seconds: float
    g: npt.NDArray[np.float64]
    order: npt.NDArray[np.int32]
    opened: npt.NDArray[np.int32]
    goals: tuple[Slot, ...]
    scale: tuple[float, float, float]
    moves: int
    highest: float
    reached: Box

    def h(self, slot: Slot) -> float:
        """The estimate at a cell."""
        rows, cols = [g.row for g in self.goals], [g.col for g in self.goals]
        d_col = max(min(cols) - slot.col, slot.col - max(cols), 0)
        d_row = max(min(rows) - slot.row, slot.row - max(rows), 0)
        kind, weight = kind_of(self.heuristic, self.moves)
        left = exploring.estimate(kind, d_col, d_row, *self.scale)  # type: ignore[no-untyped-call]
        return weight * float(left)

    def state(self, slot: Slot, step: int) -> int:
        """UNSEEN, OPEN or CLOSED once `step` cells have been expanded."""
        if 0 < self.order[slot] <= step:
            return CLOSED
        return OPEN if 0 < self.opened[slot] <= step else UNSEEN


def kind_of(heuristic: Heuristic, moves: int) -> tuple[int, float]:
    """The kernel's kind and weight: WEIGHTED is the exact one of the moves, times WEIGHT."""
    if heuristic is Heuristic.WEIGHTED:
        return (exploring.MANHATTAN if moves == 4 else exploring.OCTILE), WEIGHT
    return _KINDS[heuristic], 1.0


def best_heuristic(moves: int) -> Heuristic:
    """The one that is exact on open ground."""
    return Heuristic.MANHATTAN if moves == 4 else Heuristic.OCTILE


def explain(
    query: RouteQuery, heuristic: Heuristic | None = None, clock: Clock = _no_clock
) -> Explained:
    """Search the cells of a query and keep what was done. It reads the query's layer: take a snapshot of
    it first when the plan may change meanwhile. clock : seconds, since core has none; for `seconds`."""
    manner = query.manner
    chosen = heuristic or best_heuristic(manner.moves)
    layer = with_room(query.layer, query.costs, manner.size)
    rows, cols = layer.shape
    least = float(query.costs[np.isfinite(query.costs)].min())
    starts, goals = (open_ends(layer, query.costs, ends) for ends in query.ends())
    g = np.empty(layer.size)
    came = np.zeros(layer.size, np.uint8)
    order, opened = np.zeros(layer.size, np.int32), np.zeros(layer.size, np.int32)
    path: npt.NDArray[np.int64] = np.empty(0, np.int64)
    cost, steps, seconds = np.inf, 0, 0.0
    if len(starts) and len(goals):
        kind, weight = kind_of(chosen, manner.moves)
        begun = clock()
        path, cost, steps = kernels.explore(
            np.ascontiguousarray(layer).ravel(),
            cols,
            rows,
            query.costs,
            NO_EXITS if query.exits is None else query.exits,
            float(query.cell[0]),
            float(query.cell[1]),
            manner.moves,
            starts,
            goals,
            least,
            kind,
            weight,
            np.inf,
            g,
            came,
            order,
            opened,
        )
        seconds = clock() - begun
    width, height = query.cell
    return Explained(
        chosen,
        np.stack(np.divmod(path, cols), axis=1).astype(np.int64),
        float(cost),
        int(steps),
        seconds,
        g.reshape(layer.shape),
        order.reshape(layer.shape),
        opened.reshape(layer.shape),
        tuple(Slot(*divmod(at, cols)) for at in goals.tolist()),
        (width * least, height * least, float(np.hypot(width, height)) * least),
        manner.moves,
        float(g[order > 0].max()) if steps else 0.0,
        Box.around_mask(opened.reshape(layer.shape) > 0),
    )


def compare(
    query: RouteQuery, stopped: Callable[[], bool] = lambda: False, clock: Clock = _no_clock
) -> list[Explained]:
    """The same query by each heuristic."""
    found = []
    for heuristic in Heuristic:
        if stopped():
            break
        found.append(explain(query, heuristic, clock))
    return found
