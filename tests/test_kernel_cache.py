"""The kernel cache: found again, told apart by what it depends on, and harmless when it cannot be."""

import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from tests.helpers import patience
from woven_locus import kernel_cache, kernel_files
from woven_locus.core import kernels

pytestmark = pytest.mark.usefixtures("kept_to_users_cache")


def test_the_folder_depends_on_the_sources(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    before = kernel_cache.cache_folder()
    assert before == kernel_cache.cache_folder()
    assert before.is_relative_to(tmp_path)
    monkeypatch.setattr("importlib.metadata.version", lambda part: f"{part} 99")
    assert kernel_cache.cache_folder() != before


# Those that are compiled soonest.
SOON = ("lanes", "cells")


def test_filling_makes_it_warm_for_the_next_process(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    monkeypatch.setattr(kernel_cache, "SECONDS", dict.fromkeys(SOON, 1))
    # One of nobody any more, and one that somebody else uses.
    caches = kernel_cache.cache_folder().parent
    for name, age in (("old", 60), ("other", 1)):
        stamp = caches / name / "ready-cells"
        stamp.parent.mkdir(parents=True)
        stamp.touch()
        os.utime(stamp, (time.time() - age * 86_400,) * 2)
    assert not kernel_cache.is_filled()
    told: list[str] = []
    assert kernel_cache.fill(told.append)
    assert set(kernel_cache.filled()) == set(SOON)
    assert [line.split(":")[0] for line in told] == ["1 of 2", "2 of 2"]
    assert not (caches / "old").exists()
    assert (caches / "other").exists()
    assert _loads()


def _loads(before: str = "", **environment: str) -> bool:
    """Whether a new process loads what is compiled soonest, and compiles nothing."""
    code = f"""
{before}
from woven_locus import kernel_cache
kernel_cache.install({SOON!r})
from woven_locus.core.kernels import compiled
assert compiled.search_lanes.stats.cache_hits and not compiled.search_lanes.stats.cache_misses
assert compiled.derive.stats.cache_hits and not compiled.derive.stats.cache_misses
"""
    done = subprocess.run([sys.executable, "-c", code], env=os.environ | environment, check=False)
    return done.returncode == 0


def test_a_package_brings_compiled_kernels_along(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    brought = tmp_path / "brought"
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    call = [sys.executable, "-m", "woven_locus.kernel_cache", "--into", str(brought), *SOON]
    subprocess.run(call, check=True)
    assert kernel_cache.filled() == []
    assert not (tmp_path / "cache").exists()
    monkeypatch.setattr(kernel_cache, "READY_MADE", brought)
    assert set(kernel_cache.filled()) == set(SOON)
    given = f"from pathlib import Path; from woven_locus import kernel_cache; kernel_cache.READY_MADE = Path({str(brought)!r})"
    assert _loads(given)
    # They are this user's from now on, so that what is missing can be added.
    monkeypatch.setattr(kernel_cache, "READY_MADE", tmp_path / "nothing")
    assert set(kernel_cache.filled()) == set(SOON)
    assert _loads()
    # Nothing is written where nothing may be, nor anywhere else that stays.
    shut = tmp_path / "file"
    shut.write_text("not a folder")
    (tmp_path / "rest").mkdir()
    assert _loads(given, XDG_CACHE_HOME=str(shut), TMPDIR=str(tmp_path / "rest"))
    assert list((tmp_path / "rest").iterdir()) == []


def test_a_bare_root_without_proc_has_the_same_processor(monkeypatch: pytest.MonkeyPatch) -> None:
    told = kernel_files.processor()
    read = Path.read_text

    def shut(path: Path, *arguments: str) -> str:
        if path == Path("/proc/cpuinfo"):
            raise FileNotFoundError
        return read(path, *arguments)

    monkeypatch.setattr(Path, "read_text", shut)
    kernel_files.processor.cache_clear()
    try:
        assert kernel_files.processor() == told
    finally:
        kernel_files.processor.cache_clear()


def test_what_others_compile_is_kept_where_they_keep_it(tmp_path: Path) -> None:
    """A script may use Numba for itself."""
    script = tmp_path / "script.py"
    script.write_text("""
import numba
from woven_locus import kernel_cache
kernel_cache.install(("cells",))
@numba.njit(cache=True)
def twice(x):
    return 2 * x
assert twice(2) == 4
""")
    subprocess.run([sys.executable, str(script)], check=True)
    assert list((tmp_path / "__pycache__").glob("*twice*.nbc"))


def test_a_group_is_compiled_when_it_is_first_needed_and_only_then(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    kernels.use_twins()
    told: list[str] = []
    kernel_cache.install_when_needed(told.append)
    try:
        assert kernel_cache.filled() == []
        assert not kernels.compiled_ready(["cells"])
        heights = np.zeros((4, 4))
        found = kernels.steep(heights, 1.0, 1.0, 1.0, np.zeros((2, 2), np.bool_))
        kernels.steep(heights, 1.0, 1.0, 1.0, np.zeros((2, 2), np.bool_))
        assert found is None or not np.any(found)
        assert kernel_cache.filled() == ["cells"]
        assert len(told) == 1
        assert "kernels for cells, once: about" in told[0]
    finally:
        kernels.use_twins()
        _use_cache_of_this_machine()


def test_groups_that_are_needed_together_are_compiled_side_by_side(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    monkeypatch.setattr(kernel_cache, "PROCESSES", 2)
    kernels.use_twins()
    told: list[str] = []
    kernel_cache.install_when_needed(told.append, ("cells", "lanes"))
    try:
        assert kernel_cache.filled() == []
        kernels.steep(np.zeros((4, 4)), 1.0, 1.0, 1.0, np.zeros((2, 2), np.bool_))
        assert kernels.compiled_ready(["cells"])
        assert not kernels.compiled_ready(["lanes"])
        with pytest.raises(TypeError):
            kernels.search_lanes()  # it is installed, then misses its arguments
    finally:
        ready, there = kernels.compiled_ready(["cells", "lanes"]), kernel_cache.filled()
        kernels.use_twins()
        _use_cache_of_this_machine()
    assert ready
    assert sorted(there) == ["cells", "lanes"]
    assert len(told) == 1
    assert told[0].startswith("compiling the kernels for lanes, cells, once: about ")


def test_what_cannot_be_compiled_elsewhere_is_compiled_here(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    """A process that was killed leaves nothing behind that would count as ready."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    monkeypatch.setattr(kernel_cache, "PROCESSES", 2)
    begin = kernel_cache._begin

    def killed(group: str, place: Path | None) -> subprocess.Popen[bytes]:
        process = begin(group, place)
        process.kill()
        return process

    monkeypatch.setattr(kernel_cache, "_begin", killed)
    kernels.use_twins()
    told: list[str] = []
    kernel_cache.install_when_needed(told.append, ("cells", "lanes"))
    try:
        kernels.steep(np.zeros((4, 4)), 1.0, 1.0, 1.0, np.zeros((2, 2), np.bool_))
        assert kernel_cache.filled() == ["cells"]
        assert len(told) == 2
    finally:
        kernels.use_twins()
        _use_cache_of_this_machine()


def _use_cache_of_this_machine() -> None:
    """Numba keeps the folder that it was told."""
    kernel_cache.install(())


def _children(number: int) -> list[int]:
    return [
        int(word) for word in Path(f"/proc/{number}/task/{number}/children").read_text().split()
    ]


def _runs(number: int) -> bool:
    """Whether a process is there and has not ended."""
    try:
        return Path(f"/proc/{number}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def test_who_fills_it_ends_with_all_that_it_began(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    process = kernel_cache.fill_in_process()
    until = time.monotonic() + patience.SECONDS
    while not (begun := _children(process.pid)) and time.monotonic() < until:
        time.sleep(0.02)
    assert begun
    process.terminate()
    assert process.wait(patience.SECONDS) == 1
    while any(_runs(child) for child in begun):
        assert time.monotonic() < until
        time.sleep(0.02)
    assert not kernel_cache.is_filled()


TOLD_WHILE_IT_BEGINS = """
import os, signal, sys
from woven_locus import kernel_cache
begin = kernel_cache._begin
def begun(group, place):
    process = begin(group, place)
    print(process.pid, flush=True)
    os.kill(os.getpid(), signal.SIGTERM)
    return process
kernel_cache._begin = begun
sys.exit(kernel_cache.main([]))
"""


def test_one_that_is_told_to_end_while_it_begins_another_ends_that_too(tmp_path: Path) -> None:
    env = os.environ | {"XDG_CACHE_HOME": str(tmp_path)}
    command = [sys.executable, "-c", TOLD_WHILE_IT_BEGINS]
    # Whatever it leaves behind holds its output open.
    done = subprocess.run(
        command, env=env, stdout=subprocess.PIPE, text=True, timeout=patience.SECONDS, check=False
    )
    assert done.returncode == 1
    (child,) = done.stdout.split()
    assert not _runs(int(child))
    assert list(tmp_path.rglob("ready-*")) == []


def test_every_kernel_is_in_one_group() -> None:
    grouped = [name for names in kernels.GROUPS.values() for name in names]
    assert sorted(grouped) == sorted(kernels._TWINS)
    assert set(kernel_cache.SECONDS) == set(kernels.GROUPS)


def test_a_home_that_cannot_be_written_only_costs_time(tmp_path: Path) -> None:
    shut = tmp_path / "file"
    shut.write_text("not a folder")
    code = "from woven_locus import kernel_cache; from woven_locus.core import kernels; kernel_cache.install(['cells']); assert kernels.compiled_ready(['cells']) and not kernel_cache.filled()"
    environment = {"XDG_CACHE_HOME": str(shut), "PATH": ""}
    done = subprocess.run(
        [sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr


def test_the_twins_serve_until_the_compiled_ones_are_there(compiled_kernels: None) -> None:
    assert kernels.compiled_ready()
    kernels.use_twins()
    assert not kernels.compiled_ready()
