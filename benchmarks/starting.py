"""Rows 9 and 10: starting, opening, saving, memory. Each figure comes from a process of its own."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.table import Row, seconds

_FIRST_FRAME = """
import sys, time
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.ui.start import open_window
app, window = open_window(Document(open_demo()))
def first():
    print(time.time() - float(sys.argv[1]), flush=True)
    window.sheet.painted.disconnect(first)
    window.close()
window.sheet.painted.connect(first)
app.exec()
"""

_OPEN_SAVE = """
import json, resource, sys, time
from pathlib import Path
import numpy
from woven_locus.files import plan_json
def used():
    for line in open("/proc/self/status"):
        if line.startswith("VmRSS"):
            return int(line.split()[1]) * 1024
path = Path(sys.argv[1])
empty = used()
start = time.perf_counter()
plan = plan_json.load(path)
opened = time.perf_counter() - start
plan.network.labels
held = used() - empty
start = time.perf_counter()
plan_json.save(plan, path.with_name("again.plan.json"))
saved = time.perf_counter() - start
print(json.dumps([opened, saved, held / plan.terrain.size]))
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


def rows(side: int) -> list[Row]:
    from benchmarks.towns import town
    from woven_locus.core.ground.generate import Recipe, generate
    from woven_locus.files import plan_json

    firsts = []
    for _ in range(5):
        firsts.append(float(_python(_FIRST_FRAME, str(time.time()))))
    first = sorted(firsts[1:])[1]
    made = [Row("9", "start to first painted frame", seconds(first), "", None, "≤ 1 s", first <= 1)]
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
