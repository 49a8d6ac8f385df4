"""Long work on a large plan in the real window: how long it takes, and for how long the window does not
answer meanwhile. Goal: nothing blocks for more than 50 ms, or a quarter of copying the plan's layers once.

Run as a program of its own (offscreen, software raster); prints JSON.
"""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from woven_locus.core.value import replace

Found = dict[str, list[float]]


class Watch:
    """Turns the event loop, and keeps the longest gap between two turns while something is done."""

    def __init__(self, app: Any, window: Any) -> None:
        self.app, self.window = app, window
        # Seconds without anything to do after which nothing more is to come; a small plan is only tried.
        self._quiet = 0.4 if window.session.plan.spec.cols > 512 else 0.05
        self.found: Found = {}
        self._last = self._longest = 0.0

    def settle(self) -> None:
        """Until nothing runs and every tile is drawn."""
        quiet = time.perf_counter() + self._quiet
        while time.perf_counter() < quiet:
            self.app.processEvents()
            if self.window.session.jobs.running or self.window.sheet.unfinished:
                quiet = time.perf_counter() + self._quiet

    def turn(self) -> None:
        """One turn of the event loop, and how long it is since the last one ended."""
        self.app.processEvents()
        now = time.perf_counter()
        self._longest, self._last = max(self._longest, now - self._last), now

    def case(self, name: str, act: Callable[[], object]) -> None:
        """[seconds until done and drawn, longest gap], by name."""
        self.settle()
        session, sheet = self.window.session, self.window.sheet
        before = session.document.revision
        start = self._last = time.perf_counter()
        self._longest = 0.0
        act()
        done = False
        while not done:
            self.turn()
            waited = self._last - start
            changed = session.document.revision != before or waited > 0.75 * self._quiet
            done = changed and not session.jobs.running and not sheet.unfinished
            if waited > 120:
                raise RuntimeError(f"{name} did not end")
        self.found[name] = [self._last - start, self._longest]

    def quiet(self) -> None:
        """Nobody does anything, and what first looks need is built."""
        self.settle()
        self._longest, start = 0.0, time.perf_counter()
        self._last = start
        while self.window.ahead.isActive():
            self.turn()
            if self._last - start > 120:
                raise RuntimeError("what first looks need was not built")
        self.found["build ahead of first looks"] = [self._last - start, self._longest]


def copying(plan: Any) -> list[float]:
    """Seconds to copy the recorded layers of a plan once."""
    from woven_locus.core.layers import LAYERS

    times = []
    for _ in range(5):
        start = time.perf_counter()
        for layer in LAYERS:
            array = getattr(plan, layer.name)
            if array is not None:
                array.copy()
        times.append(time.perf_counter() - start)
    return [min(times), 0.0]


def plain(side: int, structures: int) -> Found:
    """Ground, Build, and the file."""
    from benchmarks.towns import town
    from benchmarks.windows import open_window

    app, window = open_window(town(side, structures))
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
    from woven_locus.ui.session.stages import Filling, GroundTool, Stage, WhereShown

    desk, session = window.desk, window.session
    document, watch = session.document, Watch(app, window)
    case, turn = watch.case, watch.turn
    watch.quiet()
    session.set_stage(Stage.GROUND)
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
    case("undo the terrain", history.undo)
    case("redo the terrain", history.redo)
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
    case("move a copied block of 400² cells in hand", lambda: _block(desk, turn))
    session.hand.drop()
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
    case(
        "save",
        lambda: window.files._write(Path(os.environ["XDG_STATE_HOME"]) / "town.plan.json", None),
    )
    watch.found["copying the layers"] = copying(document.plan)
    history.mark_saved()
    window.close()
    return watch.found


def ways(side: int, structures: int, cells: int) -> Found:
    """Ways, on a network of so many cells."""
    from benchmarks.towns import winding_town
    from benchmarks.windows import open_window

    app, window = open_window(winding_town(side, cells, structures))
    from woven_locus.core.edits import erase_block
    from woven_locus.core.edits.road_classes import change_class
    from woven_locus.core.geometry import Cell
    from woven_locus.ui.session.stages import Stage, Trips, WaysOverlay

    desk, session = window.desk, window.session
    document, watch = session.document, Watch(app, window)
    case, plan = watch.case, session.plan
    numbers = plan.register.numbers()
    watch.quiet()
    for stage in Stage:
        if stage is not session.choices.stage:
            name = f"the first look at {stage.value}"
            case(name, lambda stage=stage: session.set_stage(stage))
    session.set_stage(Stage.WAYS)
    case("what is joined", lambda: desk.study.show(WaysOverlay.GROUPS))
    session.select(numbers[0])
    case("travel times", lambda: desk.study.show(WaysOverlay.TIME))
    session.selection.select_all(numbers[:100])
    session.choices.set_ways(trips=Trips.CHOSEN)
    case("load of the trips of 100 structures", lambda: desk.study.show(WaysOverlay.LOAD))
    case("weak points", lambda: desk.study.show(WaysOverlay.WEAK))
    desk.study.show(WaysOverlay.NOTHING)
    case("ask for a route", lambda: desk.routes.ask(numbers[0], numbers[-1]))
    pin = desk.routes.current
    case("explain it", lambda: desk.search.explain(pin))
    desk.search.put_away()
    cart = plan.road_table[0]
    other = replace(cart, cost=1.5)
    case(
        "another cost of a road class",
        lambda: document.history.do(change_class(plan, 0, other)),
    )
    case("undo the cost", document.history.undo)
    far = Cell(side // 2, side // 2)
    case(
        "erase a block of roads",
        lambda: session.attempt(erase_block, plan, far, far.moved(60, 60)),
    )
    case("undo the block", document.history.undo)
    watch.found["copying the layers"] = copying(document.plan)
    document.history.mark_saved()
    window.close()
    return watch.found


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


def _block(desk, turn) -> None:  # type: ignore[no-untyped-def]
    """What lies in a large block is copied, and follows the pointer in five moves."""
    from woven_locus.core.edits import many
    from woven_locus.core.geometry import Box

    session, spec, box = desk.session, desk.session.plan.spec, Box(0, 0, 400, 400)
    session.selection.select_all(many.within(session.plan, box), box)
    turn()
    desk.building.copy()
    turn()
    desk.building.paste()
    turn()
    for step in range(5):
        session.pointer.to(spec.centre(spec.first.moved(spec.cols // 2 + 9 * step, spec.rows // 2)))
        turn()


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
    which = {"plain": plain, "ways": ways}[sys.argv[1]]
    print(json.dumps(which(*map(int, sys.argv[2:]))))
