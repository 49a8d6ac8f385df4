"""The kernel cache: found again, told apart by what it depends on, and harmless when it cannot be."""

import subprocess
import sys
from pathlib import Path

import pytest

from woven_locus import kernel_cache
from woven_locus.core import kernels


def test_the_folder_depends_on_the_sources(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    before = kernel_cache.cache_folder()
    assert before == kernel_cache.cache_folder()
    assert before.is_relative_to(tmp_path)
    monkeypatch.setattr("importlib.metadata.version", lambda part: f"{part} 99")
    assert kernel_cache.cache_folder() != before


def test_filling_makes_it_warm_for_the_next_process(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    assert not kernel_cache.is_filled()
    assert kernel_cache.fill_in_process().wait(600) == 0
    assert kernel_cache.is_filled()
    code = """
from woven_locus import kernel_cache
from woven_locus.core.kernels import compiled
kernel_cache.install()
assert compiled.search.stats.cache_hits and not compiled.search.stats.cache_misses
"""
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_a_home_that_cannot_be_written_only_costs_time(tmp_path: Path) -> None:
    shut = tmp_path / "file"
    shut.write_text("not a folder")
    code = "from woven_locus import kernel_cache; from woven_locus.core import kernels; kernel_cache.install(); assert kernels.compiled_ready() and not kernel_cache.is_filled()"
    environment = {
        "XDG_CACHE_HOME": str(shut),
        "PATH": "",
        "NUMBA_CACHE_DIR": str(tmp_path / "other"),
    }
    done = subprocess.run(
        [sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr


def test_the_twins_serve_until_the_compiled_ones_are_there(compiled_kernels: None) -> None:
    assert kernels.compiled_ready()
    kernels.use_twins()
    assert not kernels.compiled_ready()
