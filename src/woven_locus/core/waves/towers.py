"""The towers of a plan, and whom they take."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Point
from woven_locus.core.kinds.tower import Takes, Tower
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class Placed(Value):
    """A tower that stands. number : of its structure.  height : world units, 0 where it is not known."""

    number: int
    kind: str
    tower: Tower
    centre: Point
    height: float


def towers_of(plan: Plan) -> tuple[Placed, ...]:
    """All towers, in order of number; kept until the plan is written to."""
    return plan.worked_out("towers", _towers)


def _towers(plan: Plan) -> tuple[Placed, ...]:
    found = []
    for row in sorted(plan.register, key=lambda row: row.number):
        tower = plan.kinds[row.kind].tower
        if tower is not None:
            centre = plan.middle_of(row)
            height = heights_at(plan, np.array([centre]))[0]
            found.append(Placed(row.number, row.kind, tower, centre, float(height)))
    return tuple(found)


def heights_at(plan: Plan, points: Floats) -> Floats:
    """(N,) heights of the cells under world points, 0 where none is known. points : (N, 2)."""
    if plan.heights is None or not len(points):
        return np.zeros(len(points))
    spec = plan.spec
    col = ((points[:, 0] - spec.origin_x) // spec.cell_w).astype(np.int64)
    row = ((points[:, 1] - spec.origin_y) // spec.cell_h).astype(np.int64)
    found = plan.heights[row.clip(0, spec.rows - 1), col.clip(0, spec.cols - 1)].astype(float)
    return np.where(np.isnan(found), 0.0, found)


class Targets(Value, eq=False):
    """Attackers that are on the map, in the order in which they came. at : (N, 2) world points.  left : how far they have
    to go.  health : of each.  flies : (N,) bool.  height : of the ground under them."""

    at: Floats
    left: Floats
    health: Floats
    flies: npt.NDArray[np.bool_]
    height: Floats

    def hit_by(self, tower: Tower) -> npt.NDArray[np.bool_]:
        """(N,) those that a tower can hit wherever they are."""
        return (self.health > 0) & np.where(self.flies, tower.can_hit(True), tower.can_hit(False))


def in_reach(placed: Placed, targets: Targets, height_reach: float) -> tuple[Ints, Floats]:
    """Places among targets of those that a tower can hit now, and how far away they are."""
    tower = placed.tower
    far = np.hypot(targets.at[:, 0] - placed.centre.x, targets.at[:, 1] - placed.centre.y)
    most: float | Floats = tower.most
    if height_reach:
        most = tower.most + (placed.height - targets.height) * height_reach
    found = np.flatnonzero((far <= most) & (far >= tower.least) & targets.hit_by(tower))
    return found, far[found]


def whom(takes: Takes, targets: Targets, some: Ints, far: Floats) -> int:
    """Which of some targets is taken; of equals the one that came first. some : at least one place, far : of each."""
    if takes is Takes.FURTHEST:
        best = np.argmin(targets.left[some])
    elif takes is Takes.NEAREST:
        best = np.argmin(far)
    elif takes is Takes.STRONGEST:
        best = np.argmax(targets.health[some])
    else:
        best = np.argmin(targets.health[some])
    return int(some[best])
