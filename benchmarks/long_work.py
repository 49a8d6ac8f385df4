"""Long work on a large plan in the real window: how long it takes, and for how long the window does not
answer meanwhile. Goal: nothing blocks for more than 50 ms.

Run as a program of its own (offscreen, software raster); prints JSON.
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path


def measure(side: int, structures: int) -> dict[str, list[float]]:
    """Case -> [seconds until done and drawn, longest gap between two turns of the event loop]."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    folder = tempfile.mkdtemp()
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = folder
    from benchmarks.towns import town
    from woven_locus import kernel_cache
    from woven_locus.core.editing import Keep, Regrid
    from woven_locus.core.edits import ground
    from woven_locus.core.edits.grid import regrid
    from woven_locus.core.edits.ground import made_ground
    from woven_locus.core.edits.kinds import change_kind
    from woven_locus.core.edits.obstacles import scatter
    from woven_locus.core.edits.terrain_classes import change_class
    from woven_locus.core.geometry import Cell
    from woven_locus.core.grid import GridSpec
    from woven_locus.core.ground.generate import Recipe
    from woven_locus.core.kinds import Footprint
    from woven_locus.core.render import GroundOverlay
    from woven_locus.document import Document
    from woven_locus.ui.session.stages import Filling, GroundTool, Stage, WhereShown
    from woven_locus.ui.start import make_app
    from woven_locus.ui.theme import Theme
    from woven_locus.ui.window import Window

    kernel_cache.install()
    app = make_app([])
    document = Document(town(side, structures))
    document.links()
    document.unsound()
    window = Window(document, Theme(app))
    window.resize(1280, 800)
    window.show()
    desk, session, sheet = window.desk, window.session, window.sheet
    document.keep_journal(Path(folder))
    session.set_stage(Stage.GROUND)
    found: dict[str, list[float]] = {}

    def settle() -> None:
        """Until nothing runs and every tile is drawn."""
        quiet = time.perf_counter() + 0.4
        while time.perf_counter() < quiet:
            app.processEvents()
            if session.jobs.running or sheet.unfinished:
                quiet = time.perf_counter() + 0.4

    last = longest = 0.0

    def turn() -> None:
        """One turn of the event loop, and how long it is since the last one ended."""
        nonlocal last, longest
        app.processEvents()
        now = time.perf_counter()
        longest, last = max(longest, now - last), now

    def case(name: str, act: Callable[[], object]) -> None:
        settle()
        nonlocal last, longest
        before = document.revision
        start = last = time.perf_counter()
        longest = 0.0
        act()
        done = False
        while not done:
            turn()
            now = last
            done = (
                not session.jobs.running
                and not sheet.unfinished
                and (document.revision != before or now - start > 0.3)
            )
            if now - start > 60:
                raise RuntimeError(f"{name} did not end")
        found[name] = [last - start, longest]

    coat = ground.Coat("terrain", 1)
    field = Cell(2, 2)
    history = document.history
    case("paint a stroke of 100 cells", lambda: _stroke(desk, Cell(40, 41), turn))
    case("fill a field", lambda: session.work("Fill", lambda p, _s: ground.fill(p, field, coat)))
    coat = ground.Coat("terrain", 2)
    case(
        "replace all of a terrain, the whole map",
        lambda: session.work("Replace", lambda p, _s: ground.replace_all(p, Cell(2, 2), coat)),
    )
    case("undo it", history.undo)
    case("redo it", history.redo)
    case(
        "scatter obstacles",
        lambda: session.work("Scatter", lambda p, _s: scatter(p, "Thorn", "rowan", [4], 0.006, 1)),
    )
    case("undo the scatter", history.undo)
    bog = session.plan.terrain_table[2]
    case(
        "change a class", lambda: history.do(change_class(session.plan, 2, replace(bog, cost=2.0)))
    )
    recipe = Recipe(5, 300.0, 96, 0.5, 0, 1, 2, 2, 3)
    case("make ground", lambda: session.work("Make", lambda p, s: made_ground(p, recipe, s)))
    case("colour by slope", lambda: session.choices.set_view(overlay=GroundOverlay.SLOPE))
    case(
        "shade hills and draw contours", lambda: session.choices.set_view(shade=True, contours=True)
    )
    session.choices.set_ground(tool=GroundTool.SCULPT)
    case("sculpt a stroke", lambda: _stroke(desk, Cell(60, 61), turn))
    case("undo made ground", lambda: (history.undo(), history.undo()))
    spec = session.plan.spec
    question = Regrid(
        GridSpec(spec.cols - 96, spec.rows, spec.cell_w, spec.cell_h, y_up=True), Keep.INDEX
    )
    case("change the grid", lambda: session.work("Grid", lambda p, _s: regrid(p, question)))
    case("undo the grid", history.undo)
    session.set_stage(Stage.BUILD)
    session.arm("dye-works")
    session.pointer.to(session.plan.spec.centre(Cell(60, 61)))
    case("show where a kind could go", lambda: session.choices.set_build(where=WhereShown.ANY))
    case("turn it", lambda: desk.building.turn(1))
    case("the nearest spot, from the far corner", lambda: _far(desk))
    session.choices.set_build(filling=Filling.ROWS)
    case("fill a rectangle with rows", lambda: _rows(desk, turn))
    case("undo the rows", history.undo)
    session.choices.set_build(where=WhereShown.OFF, filling=Filling.FREE)
    session.disarm()
    hall = session.plan.kinds["loom-hall"]
    wide = replace(hall, footprint=Footprint.block(3, 3))
    case(
        "change the footprint of all structures",
        lambda: session.work("Change", lambda p, _s: change_kind(p, "loom-hall", wide)),
    )
    case("undo the footprint", history.undo)
    case("select all structures", desk.building.select_everything)
    case("demolish all", desk.building.demolish)
    case("undo the demolition", history.undo)
    case("save", lambda: window.files._write(Path(folder) / "town.plan.json", None))
    history.mark_saved()
    window.close()
    return found


def _far(desk) -> None:  # type: ignore[no-untyped-def]
    """Ask for the nearest spot where there is none close by."""
    session = desk.session
    session.pointer.to(session.plan.spec.centre(session.plan.spec.last.moved(200, 200)))
    desk.building.go_near()


def _rows(desk, turn) -> None:  # type: ignore[no-untyped-def]
    """A rectangle of a thousand spots, drawn in ten moves."""
    session, spec, tool = desk.session, desk.session.plan.spec, desk.tools.current
    start = spec.first.moved(60, 61)
    session.pointer.to(spec.centre(start))
    tool.press(session.pointer.hover, False)
    for step in range(1, 10):
        session.pointer.to(spec.centre(start.moved(7 * step, 7 * step)))
        tool.drag(session.pointer.hover, False)
        turn()
    tool.release(session.pointer.hover, False)


def _stroke(desk, start, turn) -> None:  # type: ignore[no-untyped-def]
    """A drag of the tool in hand over ten cells with a brush of ten."""
    session = desk.session
    session.choices.set_brush(code=2, size=10)
    spec, tool = desk.session.plan.spec, desk.tools.current
    session.pointer.to(spec.centre(start))
    tool.press(session.pointer.hover, False)
    for step in range(1, 10):
        session.pointer.to(spec.centre(start.moved(step, 0)))
        tool.drag(session.pointer.hover, False)
        turn()
    tool.release(session.pointer.hover, False)


if __name__ == "__main__":
    print(json.dumps(measure(*map(int, sys.argv[1:3]))))
