"""Libraries of the system that a Python package cannot bring, and in which package of Debian each is."""

from __future__ import annotations

import re

# Those that Qt's window needs.
PACKAGES = {
    "libEGL.so.1": "libegl1",
    "libGL.so.1": "libgl1",
    "libX11-xcb.so.1": "libx11-xcb1",
    "libdbus-1.so.3": "libdbus-1-3",
    "libfontconfig.so.1": "libfontconfig1",
    "libfreetype.so.6": "libfreetype6",
    "libglib-2.0.so.0": "libglib2.0-0",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
    "libxkbcommon.so.0": "libxkbcommon0",
}
_MISSING = re.compile(r"(lib[\w.+-]+\.so[.\d]*): cannot open shared object file")


def missing_library(error: object) -> str:
    """What to do about an error of the loader; empty where it is none."""
    match = _MISSING.search(str(error))
    if match is None:
        return ""
    package = PACKAGES.get(match[1])
    how = f"install the package {package} (apt install {package})" if package else "install it"
    return f"the window needs {match[1]}, which is missing: {how}"
