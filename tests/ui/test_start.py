"""What stands before the first frame: what is not seen yet is neither imported nor built."""

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

from tests.ui.conftest import Driver
from woven_locus.ui.session.stages import Stage

START = """
import gc, json, sys
from PyQt6.QtCore import QTimer
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.ui.start import open_window
app, window = open_window(Document(open_demo()))
def first():
    found = [sorted(sys.modules), window.bench.count(), window.collector.at_work]
    QTimer.singleShot(500, lambda: print(json.dumps([*found, window.collector.at_work, gc.isenabled()]), flush=True) or app.quit())
window.drawn.connect(first)
app.exec()
window.close()
"""

CHART = """
import json, sys, threading
from PyQt6.QtCore import QTimer
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.ui.start import open_window
elsewhere, here = [], []
def look(event, args):
    if event == "import" and args[0].split(".")[0] in ("PyQt6", "pyqtgraph"):
        there = threading.current_thread() is not threading.main_thread()
        (elsewhere if there else here).append(args[0])
app, window = open_window(Document(open_demo()))
sys.addaudithook(look)
def end():
    if window.tray.study.chart.plot is not None and not window.session.jobs.running:
        print(json.dumps([elsewhere, here]), flush=True)
        app.quit()
timer = QTimer()
timer.timeout.connect(end)
timer.start(50)
app.exec()
window.close()
"""


def run(script: str, folder: Path) -> Any:
    """What a script in a process of its own prints, read."""
    environment = os.environ | {"XDG_CONFIG_HOME": str(folder), "XDG_STATE_HOME": str(folder)}
    done = subprocess.run(
        [sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def test_what_the_first_frame_does_not_show_is_not_imported(tmp_path: Path) -> None:
    modules, pages, *collects = run(START, tmp_path)
    heavy = {"numba", "scipy", "PIL", "email", "importlib.metadata", "pyqtgraph", "jsonschema"}
    heavy |= {"asyncio", "websockets", "woven_locus.core.compare", "woven_locus.trial"}
    heavy |= {"numpy.ma", "woven_locus.ui.tray.funds_tab", "woven_locus.ui.tray.waves.tab"}
    assert heavy.isdisjoint(modules)
    assert "woven_locus.ui.bench.build.kind_sheet" not in modules
    assert pages == 1
    # Garbage is collected once the window has been drawn, and by the window alone.
    assert collects == [False, True, False]


def test_nothing_of_qt_is_imported_beside_the_interface(tmp_path: Path) -> None:
    elsewhere, here = run(CHART, tmp_path)
    assert elsewhere == []
    assert any(name.startswith("pyqtgraph.") for name in here)


def test_a_page_is_built_when_its_stage_is_first_shown(vale: Driver) -> None:
    bench = vale.window.bench
    assert bench.count() == 1
    vale.session.set_stage(Stage.GROUND)
    assert bench.count() == 2
    assert bench.currentWidget() is bench.ground
    vale.session.set_stage(Stage.SURVEY)
    assert bench.currentWidget() is bench.survey
    assert bench.count() == 2
