"""Edits of obstacles: placed and cleared singly, and scattered by seed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from woven_locus.core import names
from woven_locus.core.derived.rules import BIT
from woven_locus.core.editing import Edit, ObstaclesChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Box, Cell, cell_text
from woven_locus.core.ground.obstacles import LARGEST_OBSTACLE, LOOKS, Obstacle
from woven_locus.core.phrase import phrase
from woven_locus.core.placing import Reason, judge_ground
from woven_locus.core.plan import Plan
from woven_locus.core.register import LARGEST_NUMBER

# Obstacles of one scatter; each is a thing of its own with a name.
MOST_AT_ONCE = 20_000
# Rows that are looked at in one go.
STRIP = 256


def next_number(plan: Plan) -> int:
    """The lowest number that no obstacle of the plan has had so far."""
    return max(plan.obstacles, default=0) + 1


def fresh_name(plan: Plan, name: str) -> str:
    """The name as it is, or with a number behind it when another obstacle has it."""
    return names.fresh_name(name, {item.name for item in plan.obstacles.values()})


def block_of(low: Cell, cols: int, rows: int) -> tuple[Cell, ...]:
    """The cells of an obstacle of cols x rows."""
    return tuple(low.moved(c, r) for r in range(rows) for c in range(cols))


def place_obstacle(plan: Plan, name: str, look: str, cells: Sequence[Cell]) -> Edit:
    """Put an obstacle on cells that are free of structures, roads and other obstacles, whatever the
    terrain. Raises Refused in the judge's words."""
    cells = tuple(dict.fromkeys(cells))
    _check(name, look, len(cells))
    verdict = judge_ground(plan, cells)
    if not verdict:
        raise Refused(
            phrase(
                "{name} cannot stand at {cells}: {sentence}",
                name=name,
                cells=cell_text(cells[0]),
                sentence=verdict.sentence(),
            )
        )
    number = next_number(plan)
    if number >= LARGEST_NUMBER:
        raise Refused(
            phrase(
                "there are too many obstacles: their numbers end at {largest_number:,}",
                largest_number=LARGEST_NUMBER - 1,
            )
        )
    item = Obstacle(number, name, look, cells)
    return Edit(
        phrase("Placed {name} at {cells}", name=name, cells=cell_text(cells[0])),
        (ObstaclesChange((), (item,)),),
    )


def _check(name: str, look: str, cells: int) -> None:
    if not name.strip():
        raise Refused(phrase("an obstacle needs a name"))
    if look not in LOOKS:
        raise Refused(
            phrase(
                "an obstacle looks like one of {names}, not {look!r}",
                names=", ".join(LOOKS),
                look=look,
            )
        )
    if not 1 <= cells <= LARGEST_OBSTACLE:
        raise Refused(
            phrase(
                "an obstacle covers 1 to {largest_obstacle} cells, not {cells}",
                largest_obstacle=LARGEST_OBSTACLE,
                cells=cells,
            )
        )


def clear_obstacles(plan: Plan, numbers: Sequence[int]) -> Edit:
    """Take obstacles away; numbers that are not there are passed over."""
    gone = [plan.obstacles[number] for number in numbers if number in plan.obstacles]
    if len(gone) == 1:
        label = phrase("Cleared {gone}", gone=gone[0].name)
    else:
        label = phrase("Cleared {count:,} obstacles", count=len(gone))
    return Edit(label, (ObstaclesChange(tuple(gone), ()),) if gone else ())


def obstacles_in(plan: Plan, box: Box) -> list[int]:
    """Numbers of the obstacles of which a cell lies in a block of slots."""
    occupant = plan.occupant[box.clipped(plan.spec.shape).slices]
    return sorted((-np.unique(occupant[occupant < 0])).tolist())


def scatter(
    plan: Plan,
    name: str,
    look: str,
    codes: Sequence[int],
    density: float,
    seed: int,
    size: tuple[int, int] = (1, 1),
) -> Edit:
    """Obstacles at random on some terrain classes.

    codes : of the terrain they may stand on, with every cell.  density : obstacles a free cell, 0 to 1.
    size : columns and rows of each. The same seed on the same plan gives the same obstacles. They keep
    off structures, roads, reserved ground and each other. Raises Refused.
    """
    _check(name, look, size[0] * size[1])
    if not 0 < density <= 1:
        raise Refused(
            phrase("the density is a share above 0 and up to 1, not {density:g}", density=density)
        )
    wanted = np.zeros(256, bool)
    wanted[list(codes)] = True
    others = ~np.uint8(BIT[Reason.TERRAIN])
    rng = np.random.default_rng(seed)
    free = np.empty(plan.spec.shape, bool)
    chosen = []
    # By strips, so that other threads get their turn in between.
    for row in range(0, plan.spec.rows, STRIP):
        part = slice(row, row + STRIP)
        free[part] = wanted[plan.terrain[part]]
        free[part] &= (plan.blocks[part] & others) == 0
        lots = free[part] & (rng.random(free[part].shape, np.float32) < density)
        chosen.append(np.argwhere(lots) + np.array([row, 0]))
    expected = int(np.count_nonzero(free) * density)
    if expected > MOST_AT_ONCE:
        raise Refused(
            phrase(
                "that would be about {count:,} obstacles; the most at once is {most:,}: lower the density or choose fewer classes",
                count=expected,
                most=MOST_AT_ONCE,
            )
        )
    slots = np.concatenate(chosen)
    slots = slots[rng.permutation(len(slots))]
    cols, rows = size
    found, number = [], next_number(plan)
    for row, col in slots.tolist():
        # Each takes its block out of what is free, so that the next keeps off it.
        block = free[row : row + rows, col : col + cols]
        if block.shape == (rows, cols) and block.all():
            block[:] = False
            found.append((row, col))
    found.sort()
    made = []
    for at, slot in enumerate(found):
        cells = block_of(plan.spec.cell_of_slot(slot), cols, rows)
        item = Obstacle(number + at, f"{name} {number + at}", look, cells)
        made.append(item)
    change = (ObstaclesChange((), tuple(made)),) if made else ()
    return Edit(phrase("Scattered {count:,} of {name}", count=len(made), name=name), change)
