"""Row 7: frames of the real widget while panning, zooming, painting and walking.

Run as a program of its own (offscreen, software raster); prints JSON.
"""

from __future__ import annotations

import json
import os
import sys
import time

import numpy as np


def measure(
    side: int, structures: int, agents: int, frames: int, where: bool = False
) -> dict[str, float]:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from benchmarks.towns import town
    from woven_locus import kernel_cache
    from woven_locus.core.geometry import Cell
    from woven_locus.document import Document
    from woven_locus.ui.session.stages import Stage, WhereShown
    from woven_locus.ui.start import make_app
    from woven_locus.ui.theme import Theme
    from woven_locus.ui.window import Window

    kernel_cache.install()
    app = make_app([])
    document = Document(town(side, structures))
    document.links()  # opening a file does so too
    document.unsound()
    window = Window(document, Theme(app))
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    session, sheet = window.session, window.sheet
    rng = np.random.default_rng(11)
    streets = [
        np.array([(x, (8.5 + 16 * row) * 24) for x in range(12, side * 24, 24)])
        for row in range(side // 16)
    ]
    routes = [streets[k] for k in rng.integers(0, len(streets), agents)]
    walkers = window.desk.walk.simulation.walkers
    # Everybody starts somewhere along a street, so that the whole map is in motion.
    walkers.send_all([route[int(rng.integers(len(route) - 1)) :] for route in routes])
    if where:
        session.set_stage(Stage.BUILD)
        session.choices.set_build(where=WhereShown.TURN)
        session.arm("dye-works")
        while window.desk.where.map is None:
            app.processEvents()
    else:
        session.set_stage(Stage.GROUND)
        session.choices.set_brush(code=2, size=9)
    sheet.show_whole()
    # A second of rest: what is made ready in idle moments is, as it would be for a user.
    rested = time.perf_counter() + 1.0
    while time.perf_counter() < rested:
        app.processEvents()

    whole, paint = [], []
    tool = window.desk.tools.current
    for frame in range(frames):
        phase = frame // 60 % 4
        start = time.perf_counter()
        if phase == 0 and frame % 4 == 0:
            sheet.zoom(1)
        elif phase == 2 and frame % 4 == 0:
            sheet.zoom(-1)
        else:
            sheet.pan(-7 if phase < 2 else 6, -4 if phase < 2 else 5)
        middle = sheet.camera.cell_at(350 + frame % 60, 250)
        session.pointer.to(session.plan.spec.centre(Cell(*middle)))
        if where:
            # One press, one structure, now and then.
            if frame % 20 == 5 and session.pointer.hover is not None:
                tool.press(session.pointer.hover, False)
                tool.release(session.pointer.hover, False)
        elif frame % 60 == 5 and session.pointer.hover is not None:
            tool.press(session.pointer.hover, False)
        elif 5 < frame % 60 < 50 and session.pointer.hover is not None:
            tool.drag(session.pointer.hover, False)
        elif frame % 60 == 50:
            tool.release(session.pointer.hover, False)
        walkers.step(1 / 60)
        painting = time.perf_counter()
        sheet.repaint()
        paint.append(time.perf_counter() - painting)
        whole.append(time.perf_counter() - start)
        app.processEvents()
    session.document.history.mark_saved()
    window.close()
    answer = {}
    for name, times in (("paint", paint), ("whole", whole)):
        spent = np.array(times) * 1000
        answer[f"{name} median"] = float(np.median(spent))
        answer[f"{name} p95"] = float(np.percentile(spent, 95))
        answer[f"{name} most"] = float(spent.max())
    return answer


if __name__ == "__main__":
    print(json.dumps(measure(*map(int, sys.argv[1:5]), "where" in sys.argv)))
