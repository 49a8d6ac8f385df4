"""Large packages and garbage: neither may trouble the thread that works in Qt."""

import gc
import sys
import threading
import weakref
from collections import Counter
from pathlib import Path

import pytest
from PyQt6 import sip
from PyQt6.QtTest import QTest

from tests.ui.conftest import Driver
from woven_locus.core import kernels
from woven_locus.ui.collector import bringing_in
from woven_locus.ui.jobs.pool import Control, nothing
from woven_locus.ui.parts import charts
from woven_locus.ui.parts.charts import Chart
from woven_locus.ui.parts.widgets import Label


class Loop:
    """Garbage that only a collection finds."""

    me: "Loop"


@pytest.fixture
def chart(vale: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Chart:
    """A chart whose package has not been imported yet."""
    vale.qtbot.waitUntil(lambda: vale.window.tray.study.chart.plot is not None)
    vale.idle()
    (tmp_path / "more_charts.py").write_text("from pyqtgraph import *\n")
    monkeypatch.syspath_prepend(str(tmp_path))
    monkeypatch.setattr(charts, "_PACKAGE", "more_charts")
    monkeypatch.delitem(sys.modules, "more_charts", raising=False)
    return Chart(vale.session.jobs, vale.window.theme, "", nothing)


def working(vale: Driver) -> list[str]:
    # The plan may be checked meanwhile.
    return sorted(
        job.label for job in vale.session.jobs.running if job.label != "Checking the plan"
    )


def test_large_packages_are_brought_in_one_at_a_time(vale: Driver, chart: Chart) -> None:
    kernels.use_twins()
    with bringing_in:
        vale.window.engine.start()
        chart.want()
        vale.qtbot.waitUntil(
            lambda: working(vale) == ["Loading the fast search", "Preparing charts"]
        )
        vale.settle()
        assert "more_charts" not in sys.modules
        assert not kernels.compiled_ready()
    vale.qtbot.waitUntil(lambda: chart.plot is not None and not vale.session.jobs.running)
    assert kernels.compiled_ready()
    kernels.use_twins()
    chart.deleteLater()


def test_a_chart_waits_while_another_brings_in_a_large_package(
    vale: Driver, chart: Chart, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(charts, "_prepare", lambda _stopped: None)
    with bringing_in:
        chart.want()
        vale.qtbot.waitUntil(chart._next.isActive)
        vale.settle()
        assert "more_charts" not in sys.modules
        assert chart.plot is None
    vale.qtbot.waitUntil(lambda: chart.plot is not None)
    chart.deleteLater()


def test_words_in_place_of_a_chart_stay_when_it_comes(vale: Driver, chart: Chart) -> None:
    chart.show()
    chart.want()
    (label,) = chart.findChildren(Label)
    before = label.text()
    chart.show_words("Nothing yet")
    chart.show_words("")
    assert label.text() == before
    chart.show_words("Nothing to draw")
    vale.qtbot.waitUntil(lambda: chart.plot is not None)
    assert label.isVisible()
    assert label.text() == "Nothing to draw"
    assert not chart.plot.isVisible()
    chart.show_words("")
    assert chart.plot.isVisible()
    assert not label.isVisible()
    chart.close()
    chart.deleteLater()


@pytest.mark.parametrize("begun", [False, True])
def test_a_chart_goes_while_it_is_prepared(vale: Driver, chart: Chart, begun: bool) -> None:
    """A sheet that is closed at once takes its charts with it."""
    with bringing_in:
        chart.want()
        if begun:
            vale.qtbot.waitUntil(lambda: working(vale) == ["Preparing charts"])
        sip.delete(chart)
        QTest.qWait(2 * charts.AFTER_MSEC)
    vale.qtbot.waitUntil(lambda: not vale.session.jobs.running)
    assert "more_charts" not in sys.modules


def test_a_chart_comes_though_its_preparing_was_stopped(vale: Driver, chart: Chart) -> None:
    with bringing_in:
        chart.want()
        vale.qtbot.waitUntil(lambda: working(vale) == ["Preparing charts"])
        vale.session.jobs.stop_all()
    vale.qtbot.waitUntil(lambda: chart.plot is not None)
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
