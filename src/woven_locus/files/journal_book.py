"""One book of the recovery journal: a file of steps that can be replayed; see `files.journal`."""

from __future__ import annotations

import fcntl
import itertools
import os
import sqlite3
import uuid
from contextlib import suppress
from pathlib import Path

from woven_locus.core.editing import Edit, GridChange
from woven_locus.core.value import Value
from woven_locus.files.atomic import write_bytes
from woven_locus.files.edit_pack import pack

SUFFIX = ".journal"
PACK = ".pack"
# Bytes of an edit that are written within a frame.
LARGE = 1 << 20

_SCHEMA = (
    # A killed process loses nothing that was handed to the system; only a power cut could.
    "pragma journal_mode = wal",
    "pragma synchronous = off",
    "create table base (name text, path blob, digest text, pack text, unsaved integer, follows text)",
    "create table steps (seq integer primary key, action text, edit blob, pack text)",
)

# What a row of a book may say: what happened in the history (see `editing.history`), and beside that "back"
# and "forth": undone and redone by itself, of a step that was done before the book began.
ACTIONS = ("do", "join", "undo", "redo", "part", "commit", "cancel", "back", "forth")


class Base(Value):
    """What a book begins with.

    name : the plan's.  path : its file, or None.  digest : of that file's bytes as they were when they
    were last read or written.  unsaved : no file holds the plan as it is.
    """

    name: str
    path: Path | None
    digest: str | None
    unsaved: bool


class Row(Value):
    """One thing that happened, and the revision of the plan after it."""

    revision: int
    action: str
    edit: Edit


class CannotFollow(Exception):
    """A step goes back behind a book's beginning and cannot be told by itself."""


class Book:
    """One file of steps. Raises OSError, sqlite3.Error or FileProblem, which `Journal` deals with."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / f"{uuid.uuid4().hex}{SUFFIX}"
        # Names are taken from two threads.
        self._packs = itertools.count(1)
        # Steps that a replay would have done, and undone, by now; and those undone before its beginning.
        self._done = self._undone = self._behind = 0
        folder.mkdir(parents=True, exist_ok=True)
        self._lock: int | None = os.open(
            self.path.with_suffix(".lock"), os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600
        )
        fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        self._database: sqlite3.Connection | None = None

    def put_by(self, data: bytes) -> str:
        """Bytes into a file beside the book, on whatever thread; returns its name. Raises FileProblem."""
        file = self.path.with_suffix(f".{next(self._packs)}{PACK}")
        write_bytes(file, data)
        return file.name

    def take_over(self, pack_: Path) -> str:
        """Another book's pack as one of this book's, without writing it again. Raises OSError."""
        file = self.path.with_suffix(f".{next(self._packs)}{PACK}")
        os.link(pack_, file)
        return file.name

    def begin(self, base: Base, pack_: str, rows: list[Row], follows: str, packs: Packs) -> None:
        """From here on the book counts. rows : what happened since its base."""
        database = self._database = sqlite3.connect(self.path, isolation_level=None)
        for command in _SCHEMA:
            database.execute(command)
        database.execute("begin")
        for row in rows:
            self.record(row, packs)
        file = os.fsencode(base.path.absolute()) if base.path is not None else None
        database.execute(
            "insert into base values (?, ?, ?, ?, ?, ?)",
            (_text(base.name), file, base.digest, pack_, base.unsaved, follows),
        )
        database.execute("commit")

    def record(self, row: Row, packs: Packs) -> None:
        """Write down a step. Raises CannotFollow."""
        action = self._told(row)
        data, name = None, None
        if action in ("do", "join", "part", "back", "forth"):
            known = packs.of(row.edit)
            if known is not None:
                name = (
                    known.name if known.name.startswith(self.path.stem) else self.take_over(known)
                )
            else:
                packed = pack(row.edit)
                if len(packed) > LARGE:
                    name = self.put_by(packed)
                    packs.keep(row.edit, self.path.with_name(name))
                else:
                    data = packed
        elif action == "commit":
            data = _text(row.edit.label).encode()
        assert self._database is not None
        self._database.execute(
            "insert into steps (action, edit, pack) values (?, ?, ?)", (action, data, name)
        )

    def _told(self, row: Row) -> str:
        """How a replay has to hear of it: it cannot undo what was done before the book began."""
        action = row.action
        if action == "undo":
            if self._done:
                self._done, self._undone = self._done - 1, self._undone + 1
                return "undo"
            if any(isinstance(change, GridChange) for change in row.edit.changes):
                raise CannotFollow
            self._behind += 1
            return "back"
        if action == "redo":
            if self._behind:
                self._behind -= 1
                return "forth"
            if self._undone:
                self._done, self._undone = self._done + 1, self._undone - 1
                return "redo"
            self._done += 1
            return "do"
        if action in ("do", "commit"):
            self._done, self._undone, self._behind = self._done + 1, 0, 0
        return action

    def release(self) -> None:
        """Close the file and let go of its lock; it stays to be replayed."""
        if self._database is not None:
            self._database.close()
            self._database = None
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def remove(self) -> None:
        """Nothing of it is needed any more. The lock is held to the last: others keep their hands off."""
        if self._database is not None:
            self._database.close()
            self._database = None
        remove_files(self.path)
        self.release()


class Packs:
    """Large edits of which a file exists already, so that another book can take it over."""

    def __init__(self) -> None:
        self._held: dict[int, tuple[Edit, Path]] = {}

    def keep(self, edit: Edit, file: Path) -> None:
        """A file holds this edit."""
        self._held[id(edit)] = edit, file

    def of(self, edit: Edit) -> Path | None:
        """The file that holds an edit, if it is still there."""
        found = self._held.get(id(edit))
        return found[1] if found is not None and found[1].exists() else None

    def moved(self, old: Book, new: Book) -> None:
        """What the old book held is the new one's from now on."""
        for key, (edit, file) in list(self._held.items()):
            if file.name.startswith(new.path.stem):
                continue
            try:
                name = new.take_over(file)
            except OSError:
                del self._held[key]
            else:
                self._held[key] = edit, new.path.with_name(name)


def _text(text: str) -> str:
    """Text that any encoder takes: what is no character (half a surrogate) is a question mark."""
    return text.encode("utf-8", "replace").decode("utf-8")


def remove_files(path: Path) -> None:
    """A book's files: first the one that makes it a book, its lock last."""
    for suffix in (SUFFIX, f"{SUFFIX}-wal", f"{SUFFIX}-shm"):
        with suppress(OSError):
            path.with_suffix(suffix).unlink(missing_ok=True)
    for pack_ in path.parent.glob(f"{path.stem}.*{PACK}"):
        with suppress(OSError):
            pack_.unlink(missing_ok=True)
    with suppress(OSError):
        path.with_suffix(".lock").unlink(missing_ok=True)
