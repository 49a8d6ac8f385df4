"""Kernels that are not compiled yet, while the window works."""

import shutil
from pathlib import Path

import pytest

from tests.ui.conftest import Driver
from woven_locus import kernel_cache
from woven_locus.core import kernels


@pytest.mark.usefixtures("kept_to_users_cache")
def test_a_cold_cache_is_filled_by_a_process_while_the_window_works(
    vale: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    kernels.use_twins()
    # The chart of the study comes in by a job of its own.
    vale.qtbot.waitUntil(lambda: vale.window.tray.study.chart.plot is not None)
    vale.idle()
    here = kernel_cache.cache_folder()
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    # All but what is compiled soonest.
    there = kernel_cache.cache_folder()
    shutil.copytree(here, there)
    for gone in ("ready-cells", "ready-lanes", "cells.*", "lanes.*", "tracks.*", "chords.*"):
        for file in there.glob(gone):
            file.unlink()
    assert len(kernel_cache.filled()) == len(kernels.GROUPS) - 2
    vale.window.engine.start()
    # The checks of the plan may be on their way as well, and are shown before it.
    vale.qtbot.waitUntil(
        lambda: vale.window.status.work.text().startswith("Compiling fast kernels")
    )
    # The window is in use meanwhile, and routes are found by the plain search.
    vale.key("F5")
    pin = vale.desk.routes.ask(1, 10)
    assert pin is not None
    assert pin.answer
    assert not kernels.compiled_ready()
    vale.qtbot.waitUntil(kernels.compiled_ready)
    vale.qtbot.waitUntil(lambda: not vale.window.status.work.isVisible())
    assert kernel_cache.is_filled()
    kernels.use_twins()


@pytest.mark.usefixtures("kept_to_users_cache")
def test_closing_ends_the_process_that_fills_the_cache(
    vale: Driver, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    kernels.use_twins()
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    vale.window.engine.start()
    process = vale.window.engine._process
    assert process is not None
    vale.window.close()
    assert process.poll() is not None
