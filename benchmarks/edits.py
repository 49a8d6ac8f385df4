"""Row 4: one edit on a large plan, all derived state and a live route up to date."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np

from benchmarks.table import Row, seconds
from benchmarks.towns import town
from woven_locus.core import edits
from woven_locus.core.editing import Edit
from woven_locus.core.edits import ground, heights
from woven_locus.core.edits.heights import Sculpt
from woven_locus.core.geometry import Cell
from woven_locus.core.lines import Brush, swept
from woven_locus.core.placing import Feasibility, judge
from woven_locus.core.plan import Plan
from woven_locus.document import Document

GOAL = 0.016
REPEATS = 9
WHEN = "2031-01-01T00:00:00Z"


def rows(side: int, structures: int) -> list[Row]:
    plan = town(side, structures)
    document = Document(plan)
    document.links()
    document.unsound()
    document.history.do(heights.set_heights(plan, heights.flat(plan), "Flat"))
    first, second = plan.register.numbers()[:2]
    document.routes.pin(first, second)
    document.routes.update()
    # The overlay of where a kind could go is on, and follows.
    found = Feasibility(plan, plan.kinds["dye-works"], 0)
    document.listen(lambda notice: found.update(notice))
    middle = side // 2 // 16 * 16

    def settle() -> None:
        """All that a frame may ask for."""
        document.links()
        document.unsound()
        document.routes.update()
        _ = document.misses.found

    near = np.argwhere(plan.blocks[middle : middle + 8, middle : middle + 8] == 0)[0]
    bare = Cell(middle + int(near[1]), middle + int(near[0]))
    free = next(
        cell
        for cell in (Cell(c, r) for r in range(1, side - 4) for c in range(1, side - 4))
        if judge(plan, plan.kinds["loom-hall"], cell)
    )
    box, mask = swept([plan.spec.slot(bare)], Brush(10))
    cases: dict[str, Callable[[Plan], Edit]] = {
        "place a structure": lambda p: edits.place(p, "loom-hall", free, 0, WHEN),
        "move one": lambda p: edits.move(p, first + 6, free, 0),
        "demolish one": lambda p: edits.demolish(p, [first + 5]),
        "lay a road cell": lambda p: edits.lay_road(p, [bare]),
        "erase a road cell in a street": lambda p: edits.erase_road(
            p, [Cell(middle + 3, middle + 8)]
        ),
        "paint 100 cells": lambda p: ground.paint_brush(
            p, [bare], Brush(10), ground.Coat("terrain", 2)
        ),
        "raise 100 cells": lambda p: heights.sculpt(p, Sculpt.RAISE, box, mask, 1.0),
    }
    made = []
    for name, make in cases.items():
        times = []
        for _ in range(REPEATS):
            edit = make(plan)
            assert edit.changes, name
            start = time.perf_counter()
            document.history.do(edit)
            settle()
            times.append(time.perf_counter() - start)
            document.history.undo()
            settle()
        took = statistics.median(times)
        case = f"{name}, {side}², {structures:,} structures"
        made.append(Row("4", case, seconds(took), "", None, "≤ 16 ms", took <= GOAL))
    return made
