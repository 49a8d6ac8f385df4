"""Writes what a desktop looks for, for one user or below a packager's folder, and takes it away again."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import click
from click.shell_completion import BashComplete, FishComplete, ShellComplete, ZshComplete

from woven_locus.core.errors import FileProblem, WovenError
from woven_locus.files.atomic import write_bytes
from woven_locus.integration import APP_ID
from woven_locus.integration.entries import desktop_entry, metainfo, mime_package
from woven_locus.integration.manual import manual
from woven_locus.package_data import package_data

# Pixels of the icons beside the one that has no size.
SIZES = (16, 24, 32, 48, 64, 128, 256)
_SHELLS: tuple[tuple[type[ShellComplete], str], ...] = (
    (BashComplete, "bash-completion/completions/woven-locus"),
    (ZshComplete, "zsh/site-functions/_woven-locus"),
    (FishComplete, "fish/vendor_completions.d/woven-locus.fish"),
)
# What has an index of the files that are there: program, folder.
_INDEXES = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
# One of these may wait on another program, seconds.
_PATIENCE = 30


def data_home() -> Path:
    """Of the user, as the XDG base directories have it."""
    given = os.environ.get("XDG_DATA_HOME", "")
    return Path(given) if os.path.isabs(given) else Path.home() / ".local" / "share"


def own_command() -> str:
    """The absolute path of the program that runs. Raises WovenError where it is no program that can be called."""
    found = shutil.which(sys.argv[0]) or shutil.which("woven-locus")
    beside = Path(sys.executable).with_name("woven-locus")
    if beside.is_file():
        return str(beside)
    if found is None or not os.path.isabs(found):
        raise WovenError("woven-locus is not installed as a command; give its path with --command")
    return found


def texts(command: str, group: click.Group) -> Iterator[tuple[str, bytes]]:
    """(place below the data folder, content) of everything but the icons with a size."""
    yield f"applications/{APP_ID}.desktop", desktop_entry(command).encode()
    yield "mime/packages/woven-locus.xml", mime_package().encode()
    yield f"metainfo/{APP_ID}.metainfo.xml", metainfo().encode()
    yield "man/man1/woven-locus.1", manual(group).encode()
    icon = package_data("woven_locus.ui", "icons/woven-locus.svg")
    yield f"icons/hicolor/scalable/apps/{APP_ID}.svg", icon
    for shell, place in _SHELLS:
        source = shell(group, {}, "woven-locus", "_WOVEN_LOCUS_COMPLETE").source()
        yield place, source.encode()


def icon_place(size: int) -> str:
    """Below the data folder."""
    return f"icons/hicolor/{size}x{size}/apps/{APP_ID}.png"


def places(group: click.Group) -> list[str]:
    """Of everything that is written."""
    return [*(place for place, _text in texts("", group)), *map(icon_place, SIZES)]


def install(
    folder: Path, command: str, group: click.Group, draw_icon: Callable[[int], bytes]
) -> list[Path]:
    """Write everything below a data folder. draw_icon(pixels) : a PNG. Raises FileProblem."""
    found = [*texts(command, group), *((icon_place(size), draw_icon(size)) for size in SIZES)]
    written = []
    for place, data in found:
        path = folder / place
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as err:
            raise FileProblem(path.parent, "", f"cannot be made: {err.strerror}") from err
        write_bytes(path, data)
        written.append(path)
    _renew_indexes(folder)
    return written


def remove(folder: Path, group: click.Group) -> list[Path]:
    """Take away what `install` writes, and folders that are empty then. Raises FileProblem."""
    removed = []
    for place in places(group):
        path = folder / place
        try:
            path.unlink()
        except FileNotFoundError:
            continue
        except OSError as err:
            raise FileProblem(path, "", f"cannot be removed: {err.strerror}") from err
        removed.append(path)
        for parent in path.parents:
            if parent == folder:
                break
            with suppress(OSError):
                parent.rmdir()
    _renew_indexes(folder)
    return removed


def _renew_indexes(folder: Path) -> None:
    for program, place in _INDEXES:
        if shutil.which(program) and (folder / place).is_dir():
            with suppress(OSError, subprocess.TimeoutExpired):
                subprocess.run(
                    [program, str(folder / place)],
                    check=False,
                    capture_output=True,
                    timeout=_PATIENCE,
                )
