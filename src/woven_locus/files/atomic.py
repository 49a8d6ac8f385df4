"""Whole-file reads and atomic writes."""

from __future__ import annotations

import ctypes
import os
import tempfile
from contextlib import suppress
from pathlib import Path

from woven_locus.core.errors import FileProblem

# Far above any plan (16 M cells of noise make about 40 MB), far below what would fill memory.
LARGEST_FILE = 1 << 30


def read_bytes(path: Path) -> bytes:
    """The whole file. Raises FileProblem."""
    try:
        if path.is_dir():
            raise FileProblem(path, "", "is a folder; expected a file")
        size = path.stat().st_size
        if size > LARGEST_FILE:
            raise FileProblem(
                path, "", f"is {size:,} bytes long; the most that is read is {LARGEST_FILE:,}"
            )
        return path.read_bytes()
    except OSError as err:
        raise FileProblem(path, "", f"cannot be read: {err.strerror or err}") from err


def write_bytes(path: Path, data: bytes) -> None:
    """Write so that the file holds either the old or the new content, never a part.

    The new content goes to a file beside it, is flushed to disk, and takes the name over.
    Raises FileProblem; the old file is then as it was.
    """
    path = Path(os.path.realpath(path))  # write through a link rather than replace it
    temporary = None
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        try:
            mode = path.stat().st_mode & 0o777
        except FileNotFoundError:
            umask = os.umask(0)
            os.umask(umask)
            mode = 0o666 & ~umask
        os.chmod(temporary, mode)
        os.replace(temporary, path)
    except OSError as err:
        if temporary:
            Path(temporary).unlink(missing_ok=True)
        raise FileProblem(path, "", f"cannot be written: {err.strerror or err}") from err


def give_back() -> None:
    """Hand memory that is free back to the system: reading a large file leaves the allocator with
    a hundred megabytes that nobody will ask for again. Does nothing where that cannot be asked."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").malloc_trim(0)
