"""Row 7: frames of the whole window while panning, zooming, hovering and painting while vehicles drive, beside the blit.

Run as a program of its own (offscreen, software raster); prints JSON.
"""

from __future__ import annotations

import json
import sys
import time
from typing import Any

import numpy as np


def measure(
    side: int, structures: int, agents: int, frames: int, where: bool = False
) -> dict[str, float]:
    """Milliseconds. A frame is a real move of the mouse, what it edits, the vehicles' step, and every panel
    of the window painted that has something new to show."""
    from benchmarks.towns import town
    from benchmarks.windows import blit, look_around, open_window, rest

    plan = town(side, structures)
    app, window = open_window(plan)
    look_around(app, window)
    from PyQt6.QtCore import QEvent, QPointF, Qt
    from PyQt6.QtGui import QMouseEvent

    from woven_locus.ui.session.stages import Stage, WhereShown

    session, sheet = window.session, window.sheet
    bare = blit(app)
    _drive(window, side, agents)
    if where:
        session.set_stage(Stage.BUILD)
        session.choices.set_build(where=WhereShown.TURN)
        session.arm("dye-works")
        while window.desk.where.map is None:
            app.processEvents()
    else:
        session.set_stage(Stage.GROUND)
        session.choices.set_brush(code=2, size=9)
    window.tray.setCurrentWidget(window.tray.register_tab)
    sheet.show_whole()
    rest(app, 1.0)

    none, left = Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton
    moved, pressed, let_go = (
        QEvent.Type.MouseMove,
        QEvent.Type.MouseButtonPress,
        QEvent.Type.MouseButtonRelease,
    )
    down = False

    def send(kind: Any, at: QPointF, button: Any, buttons: Any) -> None:
        place = QPointF(sheet.mapToGlobal(at.toPoint()))
        app.sendEvent(
            sheet, QMouseEvent(kind, at, place, button, buttons, Qt.KeyboardModifier.NoModifier)
        )

    whole = []
    for frame in range(frames):
        phase = frame // 60 % 4
        at = QPointF(350 + frame % 60, 250)
        start = time.perf_counter()
        if phase == 0 and frame % 4 == 0:
            sheet.zoom(1)
        elif phase == 2 and frame % 4 == 0:
            sheet.zoom(-1)
        else:
            sheet.pan(-7 if phase < 2 else 6, -4 if phase < 2 else 5)
        send(moved, at, none, left if down else none)
        # One structure now and then, or a stroke of the brush for most of a second.
        if not down and frame % (20 if where else 60) == 5:
            send(pressed, at, left, left)
            down = True
        elif down and (where or frame % 60 == 50):
            send(let_go, at, left, none)
            down = False
        window.desk.traffic.step()
        app.processEvents()
        whole.append(time.perf_counter() - start)
    session.document.history.mark_saved()
    bare += blit(app)
    window.close()
    spent = np.array(whole) * 1000
    return {
        "median": float(np.median(spent)),
        "p95": float(np.percentile(spent, 95)),
        "most": float(spent.max()),
        "blit": float(np.median(bare)) * 1000,
    }


def _drive(window: Any, side: int, agents: int) -> None:
    """Everybody drives along a street from somewhere, so that the whole map is in motion."""
    from woven_locus.core.geometry import Cell
    from woven_locus.core.traffic import TrafficRun
    from woven_locus.core.vehicles import Trip

    rng = np.random.default_rng(11)
    rows = 8 + 16 * rng.integers(side // 16, size=agents)
    cols = rng.integers(side - 60, size=agents)
    trips = [
        Trip(Cell(col, row), Cell(col + 50, row))
        for col, row in zip(cols.tolist(), rows.tolist(), strict=True)
    ]
    traffic = window.desk.traffic
    traffic.take(TrafficRun(window.session.plan, trips))
    traffic.run.advance(30)


if __name__ == "__main__":
    print(json.dumps(measure(*map(int, sys.argv[1:5]), "where" in sys.argv)))
