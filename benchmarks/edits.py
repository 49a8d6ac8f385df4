"""Row 4: one edit in the real window, until everything that follows is current and every panel painted.

Run as a program of its own for one size (offscreen, software raster); prints JSON.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable

import numpy as np

GOAL = 0.016
WHEN = "2031-01-01T00:00:00Z"


def measure(side: int, structures: int, repeats: int) -> dict[str, list[float]]:
    """Case -> seconds of each of `repeats` edits: made, judged, done, journalled, told, painted."""
    from benchmarks.towns import town
    from benchmarks.windows import look_around, open_window, rest

    plan = town(side, structures)
    app, window = open_window(plan)
    look_around(app, window)
    from woven_locus.core import edits
    from woven_locus.core.editing import Edit
    from woven_locus.core.edits import ground, heights
    from woven_locus.core.edits.heights import Sculpt
    from woven_locus.core.geometry import Cell
    from woven_locus.core.lines import Brush, swept
    from woven_locus.core.placing import judge
    from woven_locus.ui.session.stages import Stage, WhereShown

    session = window.session
    document, history = session.document, session.document.history
    history.do(heights.set_heights(plan, heights.flat(plan), "Flat"))
    numbers = plan.register.numbers()
    window.desk.routes.ask(numbers[0], numbers[1])
    session.set_stage(Stage.BUILD)
    # The overlay of where a kind could go is on, and follows.
    session.choices.set_build(where=WhereShown.TURN)
    session.arm("dye-works")
    window.sheet.camera.zoom(60, 300, 200)
    window.tray.setCurrentWidget(window.tray.register_tab)
    middle = side // 2 // 16 * 16
    window.sheet.camera.reveal(Cell(middle, middle))
    session.pointer.to(plan.spec.centre(Cell(middle, middle)))
    while window.desk.where.map is None or session.jobs.running:
        app.processEvents()
    rest(app, 1.0)
    near = np.argwhere(plan.blocks[middle : middle + 8, middle : middle + 8] == 0)[0]
    bare = Cell(middle + int(near[1]), middle + int(near[0]))
    free = next(
        cell
        for cell in (Cell(c, r) for r in range(1, side - 4) for c in range(1, side - 4))
        if judge(plan, plan.kinds["loom-hall"], cell)
    )
    box, mask = swept([plan.spec.slot(bare)], Brush(10))
    street = Cell(middle + 3, middle + 8)
    cases: dict[str, Callable[[], Edit]] = {
        "place a structure": lambda: edits.place(plan, "loom-hall", free, 0, WHEN),
        "move one": lambda: edits.move(plan, numbers[6], free, 0),
        "demolish one": lambda: edits.demolish(plan, [numbers[5]]),
        "lay a road cell": lambda: edits.lay_road(plan, [bare]),
        "erase a road cell in a street": lambda: edits.erase_road(plan, [street]),
        "paint 100 cells": lambda: ground.paint_brush(
            plan, [bare], Brush(10), ground.Coat("terrain", 2)
        ),
        "raise 100 cells": lambda: heights.sculpt(plan, Sculpt.RAISE, box, mask, 1.0),
    }
    found: dict[str, list[float]] = {}
    for name, make in cases.items():
        times = found[name] = []
        for again in range(repeats + 1):
            before = document.revision
            start = time.perf_counter()
            session.attempt(make)
            # All that any panel may ask for.
            document.links()
            document.unsound()
            _ = document.misses.found
            app.processEvents()
            took = time.perf_counter() - start
            assert document.revision != before, name
            if again:
                times.append(took)
            history.undo()
            rest(app, 0.06)
    history.mark_saved()
    window.close()
    return found


if __name__ == "__main__":
    print(json.dumps(measure(*map(int, sys.argv[1:]))))
