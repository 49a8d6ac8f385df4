"""The recovery journal: every step of an open plan, so that a killed process loses nothing.

A journal is a chain of *books*, of which one is in use. A book is an SQLite file with a base (the whole
document as it was opened, saved or restored) and the steps since, a lock file that its process holds for as
long as it lives, and a file beside it for each thing that is too large for a row.

A new book begins whenever the plan was saved. It is written while the old one goes on; only when its base
is on disk does it count, by one row in one transaction that names the book it follows, and only then is
the old one removed. So at every moment there is a book that can be replayed. See docs/format.md.
"""

from __future__ import annotations

import fcntl
import itertools
import os
import sqlite3
import uuid
import zlib
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from woven_locus.core.editing import Edit, GridChange
from woven_locus.core.errors import FileProblem
from woven_locus.files.atomic import write_bytes
from woven_locus.files.edit_pack import pack

if TYPE_CHECKING:
    from woven_locus.files.left_over import LeftOver

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


@dataclass(frozen=True, slots=True)
class Base:
    """What a book begins with.

    name : the plan's.  path : its file, or None.  digest : of that file's bytes as they were when they
    were last read or written.  unsaved : no file holds the plan as it is.
    """

    name: str
    path: Path | None
    digest: str | None
    unsaved: bool


@dataclass(frozen=True, slots=True)
class _Row:
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

    def begin(self, base: Base, pack_: str, rows: list[_Row], follows: str, packs: _Packs) -> None:
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

    def record(self, row: _Row, packs: _Packs) -> None:
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

    def _told(self, row: _Row) -> str:
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


class _Packs:
    """Large edits of which a file exists already, so that another book can take it over."""

    def __init__(self) -> None:
        self._held: dict[int, tuple[Edit, Path]] = {}

    def keep(self, edit: Edit, file: Path) -> None:
        self._held[id(edit)] = edit, file

    def of(self, edit: Edit) -> Path | None:
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


class Renewal:
    """A book that is being begun. `put_base` may run on any thread; the rest belongs to `Journal`."""

    def __init__(self, book: Book) -> None:
        self.book = book
        self.rows: list[_Row] = []
        self.pack = ""

    def put_base(self, data: bytes) -> None:
        """The bytes of the document that the book begins with. Raises FileProblem."""
        self.pack = self.book.put_by(zlib.compress(data, 1))


class Journal:
    """The journal of one open plan. Nothing here raises: what fails is kept in `problem`, and from then
    on no step is recorded until a new book was begun.

    follows : a left-over journal whose work this one goes on with; it goes when this one counts.
    """

    def __init__(self, folder: Path, follows: LeftOver | None = None) -> None:
        self.problem = ""
        self.folder = folder
        self._book: Book | None = None
        self._coming: list[Renewal] = []
        self._packs = _Packs()
        self._left = follows
        self._closed = False

    @property
    def path(self) -> Path | None:
        """Of the book in use."""
        return self._book.path if self._book is not None else None

    def renew(self) -> Renewal | None:
        """Open a new book; all that happens from now on belongs into it. None when that fails."""
        try:
            renewal = Renewal(Book(self.folder))
        except OSError as err:
            self._fail(err)
            return None
        self._coming.append(renewal)
        return renewal

    def begun(self, renewal: Renewal, base: Base, revision: int) -> bool:
        """The new book's base, the plan as of `revision`, is on disk: the book counts from now on, and
        the old one goes. False when that fails, or another one has taken its place."""
        if renewal not in self._coming:
            renewal.book.remove()
            return False
        rows = [row for row in renewal.rows if row.revision > revision]
        old, left = self._book, self._left
        follows = old.path.stem if old is not None else left.path.stem if left is not None else ""
        try:
            renewal.book.begin(base, renewal.pack, rows, follows, self._packs)
        except (OSError, sqlite3.Error, FileProblem) as err:
            self.failed(renewal, err)
            return False
        except CannotFollow:
            # Whoever asked begins again from the plan as it is now.
            self.drop(renewal)
            return False
        # Renewals that were begun earlier than this one would only go back behind it.
        for each in self._coming[: self._coming.index(renewal)]:
            self.drop(each)
        self._coming.remove(renewal)
        self._book, self._left, self.problem = renewal.book, None, ""
        if old is not None:
            self._packs.moved(old, renewal.book)
            old.remove()
        if left is not None:
            left.throw_away()
        return True

    def failed(self, renewal: Renewal, error: Exception) -> None:
        """A new book could not be begun."""
        self.drop(renewal)
        self._fail(error)

    def drop(self, renewal: Renewal) -> None:
        """A new book is not wanted after all: the file could not be written, say."""
        if renewal in self._coming:
            self._coming.remove(renewal)
            renewal.book.remove()

    def prepare(self, edit: Edit) -> None:
        """Write a large edit ahead, on whatever thread it was made on; `record` then only names it."""
        book = self._book
        if book is None or self.problem or self._closed:
            return
        try:
            packed = pack(edit)
            if len(packed) > LARGE // 4:
                self._packs.keep(edit, book.path.with_name(book.put_by(packed)))
        except FileProblem:
            return  # recording it says so

    def record(self, action: str, edit: Edit, revision: int) -> bool:
        """Something happened; see `editing.history`. False when a new book is needed at once, since this
        cannot be told as it is."""
        row = _Row(revision, action, edit)
        for renewal in self._coming:
            renewal.rows.append(row)
        if self._book is None or self.problem:
            return True
        try:
            self._book.record(row, self._packs)
        except CannotFollow:
            return False
        except (OSError, sqlite3.Error, FileProblem) as err:
            self._fail(err)
        return True

    def close(self) -> None:
        """The plan was closed in good order: nothing is left over."""
        self._closed = True
        for renewal in list(self._coming):
            self.drop(renewal)
        if self._book is not None:
            self._book.remove()
            self._book = None

    def abandon(self) -> None:
        """Let go as a killed process would; the files stay. For tests."""
        for renewal in self._coming:
            renewal.book.release()
        if self._book is not None:
            self._book.release()
        self._coming, self._book = [], None

    def _fail(self, err: Exception) -> None:
        why = getattr(err, "what", None) or getattr(err, "strerror", None) or err
        self.problem = (
            f"the recovery journal cannot be written ({why}); it is tried again, but save your work "
            "to a file"
        )


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
