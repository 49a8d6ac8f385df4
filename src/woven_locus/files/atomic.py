"""Whole-file reads, bounded, and atomic writes."""

from __future__ import annotations

import ctypes
import errno
import fcntl
import hashlib
import os
import secrets
import stat
import sys
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from functools import partial
from pathlib import Path

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import mark, phrase

# Far above any plan (16 M cells of noise make about 40 MB), far below what would fill memory.
LARGEST_FILE = 1 << 30
_CHUNK = 1 << 20
# Ending of the file that takes a name over once it is whole.
_PART = ".part"
_READ, _WRITTEN = mark("cannot be read: {err}"), mark("cannot be written: {err}")
# Names by which standard input and output are meant.
STANDARD_INPUT, STANDARD_OUTPUT = ("-", "/dev/stdin"), ("-", "/dev/stdout")


class FileChanged(FileProblem):
    """A file is not as it was when it was last read or written: another program wrote it."""


def digest(data: bytes) -> str:
    """SHA-256 of bytes, by which a document is known again."""
    return hashlib.sha256(data).hexdigest()


def read_bytes(
    path: Path, most: int | None = None, stopped: Callable[[], bool] = lambda: False
) -> bytes:
    """The whole of a regular file of up to `most` bytes (LARGEST_FILE), which is counted while it is read.
    Raises FileProblem: also for a pipe, a device or a folder, at which one would wait for ever. Standard
    input (see STANDARD_INPUT) is read to its end."""
    most = LARGEST_FILE if most is None else most
    if str(path) in STANDARD_INPUT:
        data = sys.stdin.buffer.read(most + 1)
        _check_size(path, len(data), most)
        return data
    handle: int | None = None
    try:
        with _as_problem(path, _READ):
            # Not blocking: opening a pipe would wait for somebody to write to it.
            handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
            found = os.fstat(handle)
            if not stat.S_ISREG(found.st_mode):
                raise FileProblem(
                    path, "", phrase("is {sort}; expected a file", sort=_sort(found.st_mode))
                )
            _check_size(path, found.st_size, most)
            parts, size = [], 0
            while chunk := os.read(handle, _CHUNK):
                size += len(chunk)
                _check_size(path, size, most)
                parts.append(chunk)
                if stopped():
                    raise FileProblem(path, "", phrase("was not read to its end: stopped"))
            return b"".join(parts)
    finally:
        if handle is not None:
            os.close(handle)


@contextmanager
def _as_problem(path: Path, words: str) -> Iterator[None]:
    """What the system says of a file that is read or written, in our words, with `err` in them."""
    try:
        yield
    except OSError as err:
        raise FileProblem(path, "", phrase(words, err=err.strerror or err)) from err
    except ValueError as err:  # a name with a null character
        raise FileProblem(repr(str(path)), "", phrase(words, err=err)) from err


def _check_size(path: Path, size: int, most: int) -> None:
    if size > most:
        raise FileProblem(
            path,
            "",
            phrase(
                "is {size:,} bytes long; the most that is read is {most:,}", size=size, most=most
            ),
        )


def _sort(mode: int) -> str:
    for test, words in (
        (stat.S_ISDIR, phrase("a folder")),
        (stat.S_ISFIFO, phrase("a pipe")),
        (stat.S_ISSOCK, phrase("a socket")),
    ):
        if test(mode):
            return words
    return phrase("a device")


def unpacked(data: bytes, most: int) -> bytes:
    """The content of a zlib stream (RFC 1950) of up to `most` bytes. Raises zlib.error: a few bytes may
    unpack to gigabytes."""
    stream = zlib.decompressobj()
    out = stream.decompress(data, most + 1)
    if len(out) > most:
        raise zlib.error(f"holds more than the {most:,} bytes that were expected")
    if not stream.eof:
        raise zlib.error("ends too early")
    return out


def write_bytes(path: Path, data: bytes, expected: str | None = None) -> None:
    """Write so that the file holds either the old or the new content, never a part; see `streamed`."""
    with streamed(path, expected) as put:
        put(data)


@contextmanager
def streamed(path: Path, expected: str | None = None) -> Iterator[Callable[[bytes], None]]:
    """Write piece by piece, by what is given; the file holds the old content until all is there, and for good where the
    block is left by an exception.

    The new content goes to a file beside it, is flushed to disk, and takes the name over.
    expected : the digest of what is to be replaced; FileChanged is raised when the file holds something
    else, or is gone. Raises FileProblem; the old file is then as it was.
    """
    if str(path) in STANDARD_OUTPUT:
        parts: list[bytes] = []
        yield parts.append
        # All or nothing here too.
        sys.stdout.buffer.write(b"".join(parts))
        sys.stdout.buffer.flush()
        return
    temporary: Path | None = None
    handle: int | None = None
    try:
        with _as_problem(path, _WRITTEN):
            path = Path(os.path.realpath(path))  # write through a link rather than replace it
            mode = _mode_of(path)
            _sweep(path)
            temporary = path.with_name(f".{path.name[:200]}.{secrets.token_hex(6)}{_PART}")
            handle = os.open(temporary, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o600)
            # Held while it is written, so that others can tell it from what a killed process left behind.
            fcntl.flock(handle, fcntl.LOCK_EX)
        # What goes wrong in the block is told as what it is: only writing is a problem of the file.
        yield partial(_put, path, handle)
        with _as_problem(path, _WRITTEN):
            os.fsync(handle)
            os.fchmod(handle, mode)
            if expected is not None:
                check_unchanged(path, expected)
            os.replace(temporary, path)
        temporary = None
    finally:
        if temporary is not None:
            with suppress(OSError):
                temporary.unlink(missing_ok=True)
        if handle is not None:
            os.close(handle)


def _put(path: Path, handle: int, data: bytes) -> None:
    with _as_problem(path, _WRITTEN):
        _write_all(handle, data)


def _write_all(handle: int, data: bytes) -> None:
    left = memoryview(data)
    while left:
        left = left[os.write(handle, left) :]


def check_unchanged(path: Path, expected: str) -> None:
    """Raises FileChanged when a file does not hold the bytes of a digest, FileProblem when it cannot be
    read."""
    try:
        held = digest(read_bytes(path))
    except FileProblem as err:
        if isinstance(err.__cause__, FileNotFoundError):
            raise FileChanged(
                path, "", phrase("is gone: another program moved or removed it")
            ) from err
        raise
    if held != expected:
        raise FileChanged(path, "", phrase("has changed since: another program or window wrote it"))


def _mode_of(path: Path) -> int:
    """The permissions that the file is to have. Raises OSError for one that is not to be written."""
    try:
        found = path.stat()
    except FileNotFoundError:
        umask = os.umask(0)
        os.umask(umask)
        return 0o666 & ~umask
    if not stat.S_ISREG(found.st_mode):
        raise OSError(errno.EINVAL, phrase("it is {sort}", sort=_sort(found.st_mode)))
    # Taking the name over would need no right to the file itself; its owner meant it to stay.
    if not found.st_mode & 0o222 or not os.access(path, os.W_OK):
        raise OSError(
            errno.EACCES, phrase("it is read-only; make it writable, or save under another name")
        )
    return stat.S_IMODE(found.st_mode)


def _sweep(path: Path) -> None:
    """Clear away what a process that was killed while it wrote this file has left beside it."""
    for old in path.parent.glob(f".{_literal(path.name[:200])}.*{_PART}"):
        with suppress(OSError):
            handle = os.open(old, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                old.unlink(missing_ok=True)
            finally:
                os.close(handle)


def _literal(name: str) -> str:
    """A name in which nothing is a pattern."""
    return "".join(f"[{ch}]" if ch in "*?[" else ch for ch in name)


def give_back() -> None:
    """Hand memory that is free back to the system: reading a large file leaves the allocator with
    a hundred megabytes that nobody will ask for again. Does nothing where that cannot be asked."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").malloc_trim(0)


Stamp = tuple[int, int, int]


def stamp(path: Path) -> Stamp | None:
    """What is another once a file was written; None for no file."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size, found.st_ino
