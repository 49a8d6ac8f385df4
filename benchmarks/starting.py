"""Rows 9 and 10: starting, opening, saving, memory. Each figure comes from a process of its own."""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.table import Row, seconds

_FIRST_FRAME = """
import sys, time
from woven_locus.cli import main, windows
def show(made):
    # As the verb does it, with an ear at the window.
    from woven_locus.ui import start
    opened = start.open_window
    def open_window(document):
        app, window = opened(document)
        def first():
            print(time.time() - float(sys.argv[1]), flush=True)
            window.sheet.painted.disconnect(first)
            window.close()
        window.sheet.painted.connect(first)
        return app, window
    start.open_window = open_window
    return shown(made)
shown, windows.show = windows.show, show
main.main(["demo"])
"""

_EMPTY = """
import sys, time
import numpy
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QApplication, QMainWindow, QWidget
app = QApplication(sys.argv[:1])
class Middle(QWidget):
    def paintEvent(self, event):
        painter = QPainter(self)
        painter.fillRect(self.rect(), 0)
        painter.end()
        QTimer.singleShot(0, told)
def told():
    print(time.time() - float(sys.argv[1]), flush=True)
    app.quit()
window = QMainWindow()
window.setCentralWidget(Middle())
window.resize(1280, 800)
window.show()
app.exec()
"""

_OPEN_SAVE = """
import json, sys, time
from pathlib import Path
import numpy
from woven_locus import kernel_cache
from woven_locus.document import Document
kernel_cache.install()
def used():
    for line in open("/proc/self/status"):
        if line.startswith("VmRSS"):
            return int(line.split()[1]) * 1024
path = Path(sys.argv[1])
empty = used()
start = time.perf_counter()
document = Document.open(path)
document.keep_journal(path.parent / "journals")
opened = time.perf_counter() - start
plan = document.plan
a, b = plan.register.numbers()[:2]
document.routes.pin(a, b)
document.routes.update()
document.links(), document.unsound(), document.misses.found, plan.network.graph
held = used() - empty
start = time.perf_counter()
document.save(path.with_name("again.plan.json"))
saved = time.perf_counter() - start
print(json.dumps([opened, saved, held / plan.terrain.size]))
document.close()
"""


def _python(code: str, *arguments: str) -> str:
    with tempfile.TemporaryDirectory() as folder:
        # No user's settings or journals: neither read nor written.
        own = {"QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": folder, "XDG_STATE_HOME": folder}
        command = [sys.executable, "-c", code, *arguments]
        done = subprocess.run(
            command, env={**os.environ, **own}, capture_output=True, text=True, check=True
        )
    return done.stdout


def rows(side: int, times: int) -> list[Row]:
    from benchmarks.towns import town
    from woven_locus.core.ground.generate import Recipe, generate
    from woven_locus.files import plan_json

    # The first of each fills the system's cache of files; the two take turns, so that both see the same machine.
    pairs = [
        [float(_python(code, str(time.time()))) for code in (_FIRST_FRAME, _EMPTY)]
        for _ in range(times)
    ][1:]
    first, empty = (statistics.median(each) for each in zip(*pairs, strict=True))
    made = [
        Row("9", "start to first painted frame", seconds(first), "", None, "≤ 1 s", first <= 1),
        Row(
            "9",
            "start beside an empty window",
            seconds(first),
            seconds(empty),
            first / empty,
            "≤ 3 ×",
            first <= 3 * empty,
        ),
    ]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "town.plan.json"
        plan = town(side, 20_000)
        for relief in (False, True):
            if relief:
                ground = Recipe(5, 300.0, 96, 0.5, 0, 1, 2, 2, 3)
                plan.heights = generate(plan.spec, ground)[1]
            plan_json.save(plan, path)
            opened, saved, a_cell = json.loads(_python(_OPEN_SAVE, str(path)))
            size = path.stat().st_size / 2**20
            what = " with heights" if relief else ""
            made += _file_rows(
                f"a {side}² plan{what} ({size:.0f} MiB of JSON)", opened, saved, a_cell
            )
    return made


def _file_rows(case: str, opened: float, saved: float, a_cell: float) -> list[Row]:
    return [
        Row("9", f"open {case}", seconds(opened), "", None, "≤ 2 s", opened <= 2),
        Row("9", f"save {case}", seconds(saved), "", None, "≤ 1 s", saved <= 1),
        Row("10", f"memory of {case}", f"{a_cell:.1f} B/cell", "", None, "≤ 24", a_cell <= 24),
    ]
