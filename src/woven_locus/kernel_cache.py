"""The compiled kernels' cache: where it is, whether it is filled, and how to fill it.

``python -m woven_locus.kernel_cache`` fills it; set-up does so, and the window does so in a process of its
own when it finds the cache empty, since compiling holds the interpreter for seconds. The command line compiles a group
of kernels when it first needs one of them. ``--into FOLDER`` fills a folder that a package brings along; where it was
made for such a machine, nothing is compiled.
"""

from __future__ import annotations

import atexit
import gc
import hashlib
import os
import platform
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterable
from contextlib import suppress
from functools import cache
from pathlib import Path

import platformdirs

from woven_locus import kernel_files
from woven_locus.core import kernels

# About so long each takes to compile, the longest first.
SECONDS = {
    "roads": 13,
    "traffic": 12,
    "waves": 9,
    "journeys": 8,
    "reach": 6,
    "trips": 5,
    "routes": 5,
    "lanes": 4,
    "cells": 2,
}
# Groups that are compiled side by side; caches that are kept beside the one in use, for so many days without use.
PROCESSES, KEPT, KEPT_DAYS = max(1, min(4, os.cpu_count() or 1)), 3, 30


# What a package brings along.
READY_MADE = Path(__file__).parent / "compiled_kernels"


def cache_folder(place: Path | None = None) -> Path:
    """A folder for this version of kernels, Numba and Python, and for this kind of machine.  place : where it lies; None
    for this user's cache."""
    from importlib import metadata  # late: it is not needed before the first frame

    digest = _digest(tuple(metadata.version(part) for part in ("numba", "llvmlite", "numpy")))
    return (place or Path(platformdirs.user_cache_dir("woven-locus")) / "kernels") / digest[:16]


@cache
def _digest(versions: tuple[str, ...]) -> str:
    """Of everything that a compiled kernel depends on. The window asks several times a second while it waits."""
    digest = hashlib.sha256()
    folder = Path(kernels.__file__).parent
    for file in sorted(folder.glob("*.py")):
        digest.update(file.read_bytes())
    for version in versions:
        digest.update(version.encode())
    machine = kernel_files.processor() or f"{platform.machine()}{platform.processor()}"
    digest.update(f"{sys.implementation.cache_tag}{machine}".encode())
    return digest.hexdigest()


def _stamp(folder: Path, group: str) -> Path:
    return folder / f"ready-{group}"


def filled(place: Path | None = None) -> list[str]:
    """The groups of kernels that are loaded rather than compiled.  place : where to look; None for this user's cache,
    and what the package brought along."""
    folders = [cache_folder(place)] if place else [cache_folder(), cache_folder(READY_MADE)]
    return [
        group
        for group in kernels.GROUPS
        if any(_stamp(folder, group).exists() for folder in folders)
    ]


def is_filled() -> bool:
    """Whether all of them are."""
    return len(filled()) == len(kernels.GROUPS)


@cache
def _folder_of_this_process() -> Path:
    """One that goes when the process ends."""
    folder = Path(tempfile.mkdtemp(prefix="woven-locus-kernels-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return folder


def _use_folder(place: Path | None) -> Path:
    """Have Numba keep what it compiles in the cache's folder, which is returned."""
    folder = cache_folder(place)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        tempfile.TemporaryFile(dir=folder).close()
    except OSError:
        # A read-only home, which only costs time.
        folder = _folder_of_this_process()
    brought = cache_folder(READY_MADE)
    if place is None and brought.is_dir():
        with suppress(OSError):
            kernel_files.copy_missing(brought, folder)
    kernel_files.hand_to_numba(folder)
    return folder


def install(groups: Iterable[str] = kernels.GROUPS, place: Path | None = None) -> None:
    """Use the compiled kernels of these groups in this process, from the cache or by compiling (seconds)."""
    folder = _use_folder(place)
    for group in groups:
        kernels.install((group,))
        with suppress(OSError):
            _stamp(folder, group).touch()


def install_when_needed(tell: Callable[[str], object], soon: Iterable[str] = ()) -> None:
    """Use them in this process, each group from its first use on.

    tell : called with one line when something has to be compiled first.  soon : groups that will all be needed; those that
    have to be compiled are compiled side by side from the first use of one of them on, in processes of their own.
    """
    soon = set(soon)
    begun: dict[str, subprocess.Popen[bytes]] = {}

    def compile_side_by_side() -> None:
        missing = [group for group in SECONDS if group in soon and group not in filled()]
        soon.clear()
        if len(missing) > 1 and PROCESSES > 1 and _use_folder(None) == cache_folder():
            longest = max(SECONDS[missing[0]], sum(SECONDS[group] for group in missing) / PROCESSES)
            tell(f"compiling the kernels for {', '.join(missing)}, once: about {longest:.0f} s ...")
            atexit.register(lambda: _end(begun.values()))
            for group in missing:
                begun[group] = _begin(group, None)

    def bring_in(group: str) -> None:
        if group in soon:
            compile_side_by_side()
        if group in begun:
            begun[group].wait()
        if group not in filled():
            tell(f"compiling the kernels for {group}, once: about {SECONDS[group]} s ...")
        install((group,))

    kernels.install_when_needed(bring_in)


def _end(processes: Iterable[subprocess.Popen[bytes]]) -> None:
    """Nobody waits for them any more."""
    for process in processes:
        process.terminate()


def remove_old() -> list[Path]:
    """Remove caches of other versions, sources and machines that were not used for a while; returns them."""
    mine = cache_folder()
    try:
        others = [folder for folder in mine.parent.iterdir() if folder.is_dir() and folder != mine]
    except OSError:
        return []
    used = {folder: max((file.stat().st_mtime for file in folder.glob("ready*")), default=0.0) for folder in others}  # fmt: skip
    newest = sorted(others, key=lambda folder: used[folder], reverse=True)[:KEPT]
    since = time.time() - KEPT_DAYS * 86_400
    gone = [folder for folder in others if folder not in newest or used[folder] < since]
    for folder in gone:
        shutil.rmtree(folder, ignore_errors=True)
    return gone


def fill(
    tell: Callable[[str], object],
    processes: int = PROCESSES,
    place: Path | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> bool:
    """Fill the cache in processes of their own, each of which takes the next group; whether that went well.

    tell : called with one line for each group that is done.  place : a folder to fill in place of this user's cache.
    stopped : ends it early, which is not well.
    """
    waiting = [group for group in SECONDS if group not in filled(place)]
    count, done, well = len(waiting), 0, True
    running: list[tuple[str, float, subprocess.Popen[bytes]]] = []
    try:
        while (waiting or running) and not stopped():
            while waiting and len(running) < processes and not stopped():
                group = waiting.pop(0)
                running.append((group, time.monotonic(), _begin(group, place)))
            time.sleep(0.05)
            for entry in [each for each in running if each[2].poll() is not None]:
                running.remove(entry)
                group, began, process = entry
                well, done = well and process.returncode == 0, done + 1
                words = "ready" if process.returncode == 0 else "cannot be compiled"
                tell(f"{done} of {count}: {group} {words} ({time.monotonic() - began:.0f} s)")
    finally:
        _end(process for _group, _began, process in running)
    if place is None:
        remove_old()
    return well and not waiting and not running


def _begin(group: str, place: Path | None) -> subprocess.Popen[bytes]:
    into = ["--into", str(place)] if place else []
    return subprocess.Popen(
        [sys.executable, "-m", "woven_locus.kernel_cache", *into, group], stdin=subprocess.DEVNULL
    )


def fill_in_process() -> subprocess.Popen[bytes]:
    """Fill the cache in a process of its own; poll the returned process."""
    return subprocess.Popen(
        [sys.executable, "-m", "woven_locus.kernel_cache"],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


def _print(line: str) -> None:
    sys.stdout.write(f"{line}\n")
    sys.stdout.flush()


def main(arguments: list[str]) -> int:
    """Compile the groups that are named; all of them, side by side, without a name."""
    import argparse  # late: a window starts without it

    parser = argparse.ArgumentParser(prog="python -m woven_locus.kernel_cache")
    parser.description = "Compile the kernels, once, and keep them."
    parser.add_argument(
        "group", nargs="*", choices=[*SECONDS, []], help="what to compile (default: all)"
    )
    parser.add_argument(
        "--into", type=Path, metavar="FOLDER", help="keep them there (default: this user's cache)"
    )
    asked = parser.parse_args(arguments)
    place = asked.into.absolute() if asked.into else None
    if asked.group:
        # Whoever works beside it goes first.
        os.nice(5)
        # It ends soon, and looking for circles in a compiler's many objects takes a tenth of its time.
        gc.disable()
        install(asked.group, place)
        return 0
    # Told to end, it ends those that it has begun. An exception that comes while it begins another would leave that behind.
    told: list[int] = []
    signal.signal(signal.SIGTERM, lambda number, _frame: told.append(number))
    return 0 if fill(_print, place=place, stopped=lambda: bool(told)) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
