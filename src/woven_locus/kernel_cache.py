"""The compiled kernels' cache: where it is, whether it is filled, and how to fill it.

``python -m woven_locus.kernel_cache`` fills it; set-up does so, and the window does so in a process of its
own when it finds the cache empty, since compiling holds the interpreter for seconds.
"""

from __future__ import annotations

import hashlib
import os
import platform
import subprocess
import sys
from pathlib import Path

import platformdirs

from woven_locus.core import kernels


def cache_folder() -> Path:
    """A folder for this version of kernels, Numba, Python and machine."""
    from importlib import metadata  # late: it is not needed before the first frame

    digest = hashlib.sha256()
    folder = Path(kernels.__file__).parent
    for file in sorted(folder.glob("*.py")):
        digest.update(file.read_bytes())
    for part in ("numba", "llvmlite", "numpy"):
        digest.update(metadata.version(part).encode())
    digest.update(f"{sys.version}{platform.machine()}{platform.processor()}".encode())
    digest.update(str(Path(__file__).parent).encode())
    return Path(platformdirs.user_cache_dir("woven-locus")) / "kernels" / digest.hexdigest()[:16]


def _stamp() -> Path:
    return cache_folder() / "ready"


def is_filled() -> bool:
    """Whether `install` will load rather than compile."""
    return _stamp().exists()


def install() -> None:
    """Use the compiled kernels in this process, from the cache or by compiling (seconds)."""
    folder = cache_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        # A read-only home: Numba then compiles without keeping, which only costs time.
        os.environ.pop("NUMBA_CACHE_DIR", None)
    else:
        os.environ["NUMBA_CACHE_DIR"] = str(folder)
        if "numba" in sys.modules:
            # It looked at the environment when it was imported, by whomever.
            sys.modules["numba"].config.CACHE_DIR = str(folder)
    kernels.install()
    try:
        _stamp().touch()
    except OSError:
        return


def fill_in_process() -> subprocess.Popen[bytes]:
    """Fill the cache in a process of its own; poll the returned process."""
    return subprocess.Popen(
        [sys.executable, "-m", "woven_locus.kernel_cache"],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


if __name__ == "__main__":
    install()
