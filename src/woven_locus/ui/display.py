"""Whether a window can be shown at all: Qt itself would only abort, without a word that helps.

Neither this module nor what it imports needs Qt.
"""

from __future__ import annotations

import ctypes
import os
import socket
from collections.abc import Mapping
from importlib.util import find_spec
from pathlib import Path

from woven_locus.core.errors import WovenError
from woven_locus.libraries import missing_library

# A display of another machine answers in this time, seconds, or not at all.
PATIENCE = 2.0
_X_PORT = 6000


class NoDisplay(WovenError):
    """A window was asked for where none can be shown."""


def check_display(environ: Mapping[str, str] = os.environ) -> None:
    """Raises NoDisplay where there is no display, where it cannot be reached, and where a library that Qt needs for it is
    missing; with what to do."""
    platform = environ.get("QT_QPA_PLATFORM", "").split(":")[0].split(";")[0]
    wayland, display = environ.get("WAYLAND_DISPLAY", ""), environ.get("DISPLAY", "")
    if not (platform or wayland or display):
        raise NoDisplay(
            "there is no display to open a window on: set DISPLAY or WAYLAND_DISPLAY, "
            "or use a verb that needs none (woven-locus --help)"
        )
    if platform not in ("", "xcb", "wayland"):
        return
    if platform != "xcb" and wayland and _wayland_answers(environ, wayland):
        return
    if display:
        _check_x(display)
        _check_plugin("libqxcb.so")
    elif platform != "xcb" and wayland:
        raise NoDisplay(f"the display {wayland!r} (WAYLAND_DISPLAY) cannot be reached")
    else:
        raise NoDisplay("QT_QPA_PLATFORM asks for X11, but DISPLAY is not set")


def _answers(family: int, address: object) -> bool:
    with socket.socket(family, socket.SOCK_STREAM) as line:
        line.settimeout(PATIENCE)
        try:
            line.connect(address)  # type: ignore[arg-type]
        except OSError:
            return False
    return True


def _wayland_answers(environ: Mapping[str, str], name: str) -> bool:
    return _answers(socket.AF_UNIX, str(Path(environ.get("XDG_RUNTIME_DIR", "/")) / name))


def _check_x(display: str) -> None:
    host, colon, rest = display.rpartition(":")
    number = rest.split(".")[0]
    if not colon or not number.isdecimal():
        raise NoDisplay(f"DISPLAY is {display!r}, which names no display; expected for instance :0")
    where = f"/tmp/.X11-unix/X{number}"
    if host in ("", "unix"):
        known = any(_answers(socket.AF_UNIX, name) for name in (f"\0{where}", where))
    else:
        try:
            with socket.create_connection((host, _X_PORT + int(number)), PATIENCE):
                known = True
        except (OSError, OverflowError):
            known = False
    if not known:
        raise NoDisplay(
            f"the display {display!r} (DISPLAY) cannot be reached: nobody answers there; "
            "use a verb that needs none (woven-locus --help)"
        )


def _check_plugin(name: str) -> None:
    """Whether the libraries that Qt's plugin needs are there."""
    found = find_spec("PyQt6")
    folders = found.submodule_search_locations if found is not None else None
    for folder in folders or ():
        path = Path(folder) / "Qt6" / "plugins" / "platforms" / name
        if path.is_file():
            try:
                ctypes.CDLL(str(path))
            except OSError as err:
                raise NoDisplay(missing_library(err) or str(err)) from None
