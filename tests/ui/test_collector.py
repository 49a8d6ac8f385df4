"""Large packages and garbage: neither may trouble the thread that works in Qt."""

import gc
import sys
import threading
import weakref
from collections import Counter
from pathlib import Path

import pytest

from tests.ui.conftest import Driver
from woven_locus.core import kernels
from woven_locus.ui.collector import bringing_in
from woven_locus.ui.jobs.pool import Control, nothing
from woven_locus.ui.parts import charts
from woven_locus.ui.parts.charts import Chart


class Loop:
    """Garbage that only a collection finds."""

    me: "Loop"


def test_large_packages_are_brought_in_one_at_a_time(
    vale: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    vale.qtbot.waitUntil(lambda: vale.window.tray.study.chart.plot is not None)
    vale.idle()
    # A package of charts that has not been imported yet.
    (tmp_path / "more_charts.py").write_text("from pyqtgraph import *\n")
    monkeypatch.syspath_prepend(str(tmp_path))
    monkeypatch.setattr(charts, "_PACKAGE", "more_charts")
    kernels.use_twins()
    jobs, chart = vale.session.jobs, Chart(vale.session.jobs, vale.window.theme, "", nothing)

    def bringing() -> list[str]:
        # The plan may be checked meanwhile.
        return sorted(job.label for job in jobs.running if job.label != "Checking the plan")

    with bringing_in:
        vale.window.engine.start()
        chart.want()
        vale.qtbot.waitUntil(lambda: bringing() == ["Loading the fast search", "Preparing charts"])
        chart._import()
        vale.settle()
        assert "more_charts" not in sys.modules
        assert chart.plot is None
        assert not kernels.compiled_ready()
    vale.qtbot.waitUntil(lambda: chart.plot is not None and not jobs.running)
    assert kernels.compiled_ready()
    kernels.use_twins()
    chart.deleteLater()


def test_garbage_is_collected_on_the_thread_of_the_interface(vale: Driver) -> None:
    """Else what belongs to Qt, a dialog that was closed, say, could be destroyed beside the thread that works in Qt."""
    threads: Counter[bool] = Counter()
    alive: list[weakref.ref[Loop]] = []

    def look(phase: str, _info: dict[str, int]) -> None:
        if phase == "start":
            threads[threading.current_thread() is threading.main_thread()] += 1

    def make_garbage(_stopped: Control) -> None:
        for _ in range(20_000):
            loop = Loop()
            loop.me = loop
        alive.append(weakref.ref(loop))

    gc.callbacks.append(look)
    try:
        for _ in range(3):
            vale.session.jobs.start("Garbage", make_garbage, lambda _nothing: None)
        vale.idle()
        vale.qtbot.waitUntil(lambda: threads[True] > 0 and all(ref() is None for ref in alive))
    finally:
        gc.callbacks.remove(look)
    assert threads[False] == 0
    assert not gc.isenabled()
    vale.window.close()
    assert gc.isenabled()
