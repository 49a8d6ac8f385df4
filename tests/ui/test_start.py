"""What stands before the first frame: what is not seen yet is neither imported nor built."""

import json
import os
import subprocess
import sys
from pathlib import Path

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
    found = [sorted(sys.modules), window.bench.count(), gc.isenabled()]
    QTimer.singleShot(500, lambda: print(json.dumps([*found, gc.isenabled()]), flush=True) or app.quit())
window.drawn.connect(first)
app.exec()
window.close()
"""


def test_what_the_first_frame_does_not_show_is_not_imported(tmp_path: Path) -> None:
    environment = os.environ | {"XDG_CONFIG_HOME": str(tmp_path), "XDG_STATE_HOME": str(tmp_path)}
    done = subprocess.run(
        [sys.executable, "-c", START], env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    modules, pages, *collects = json.loads(done.stdout)
    heavy = {"numba", "scipy", "PIL", "email", "importlib.metadata", "pyqtgraph", "jsonschema"}
    heavy |= {"asyncio", "websockets", "woven_locus.core.compare", "woven_locus.trial"}
    heavy |= {"numpy.ma", "woven_locus.ui.tray.funds_tab", "woven_locus.ui.tray.waves.tab"}
    assert heavy.isdisjoint(modules)
    assert "woven_locus.ui.bench.build.kind_sheet" not in modules
    assert pages == 1
    # The garbage collector is off until the window has been drawn, and only until then.
    assert collects == [False, True]


def test_a_page_is_built_when_its_stage_is_first_shown(vale: Driver) -> None:
    bench = vale.window.bench
    assert bench.count() == 1
    vale.session.set_stage(Stage.GROUND)
    assert bench.count() == 2
    assert bench.currentWidget() is bench.ground
    vale.session.set_stage(Stage.SURVEY)
    assert bench.currentWidget() is bench.survey
    assert bench.count() == 2
