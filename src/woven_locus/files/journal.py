"""The recovery journal: every step of an open plan, so that a killed process loses nothing.

A journal is a chain of *books*, of which one is in use. A book is an SQLite file with a base (the whole
document as it was opened, saved or restored) and the steps since, a lock file that its process holds for as
long as it lives, and a file beside it for each thing that is too large for a row.

A new book begins whenever the plan was saved. It is written while the old one goes on; only when its base
is on disk does it count, by one row in one transaction that names the book it follows, and only then is
the old one removed. So at every moment there is a book that can be replayed. See docs/format.md.
"""

from __future__ import annotations

import sqlite3
import zlib
from pathlib import Path

from woven_locus.core.editing import Edit
from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.files.edit_pack import pack
from woven_locus.files.journal_book import LARGE, Base, Book, CannotFollow, Packs, Row
from woven_locus.files.left_over import LeftOver

# Bytes of a document that tell whether the whole packs well; where its layers are.
_SAMPLE = 1 << 16


class Renewal:
    """A book that is being begun. `put_base` may run on any thread; the rest belongs to `Journal`."""

    def __init__(self, book: Book) -> None:
        self.book = book
        self.rows: list[Row] = []
        self.pack = ""

    def put_base(self, data: bytes) -> None:
        """The bytes of the document that the book begins with. Raises FileProblem."""
        # Heights are packed already: they would take seconds, and give back a quarter of their bytes.
        at = len(data) * 3 // 4
        sample = data[at : at + _SAMPLE]
        packs_well = len(zlib.compress(sample, 1)) < len(sample) / 2
        self.pack = self.book.put_by(zlib.compress(data, 1 if packs_well else 0))


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
        self._packs = Packs()
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
        row = Row(revision, action, edit)
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
        self.problem = phrase(
            "the recovery journal cannot be written ({why}); it is tried again, but save your work to a file",
            why=why,
        )
