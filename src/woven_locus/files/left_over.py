"""What killed processes left behind: journals that nobody holds any more."""

from __future__ import annotations

import fcntl
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from woven_locus.core.editing import Edit
from woven_locus.core.errors import FileProblem, words_of
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value
from woven_locus.files.atomic import LARGEST_FILE, read_bytes, unpacked
from woven_locus.files.edit_pack import unpack
from woven_locus.files.journal_book import ACTIONS, PACK, SUFFIX, Base, remove_files

# An action and its edit; the edit is None for "undo", "redo" and "cancel", a label for "commit".
Step = tuple[str, Edit | str | None]


class LeftOver(Value):
    """A book whose process is gone.  steps : how many it holds, a stroke being one."""

    name: str
    steps: int
    path: Path

    def read(self) -> tuple[bytes, Base, list[Step]]:
        """The document that it begins with, and the steps to replay. Raises FileProblem."""
        try:
            with _reading(self.path) as database:
                row = database.execute(
                    "select name, path, digest, pack, unsaved from base"
                ).fetchone()
                if row is None:
                    raise FileProblem(self.path, "", phrase("this journal was never finished"))
                rows = database.execute(
                    "select action, edit, pack from steps order by seq"
                ).fetchall()
            name, file, digest, pack_, unsaved = row
            base = Base(str(name), Path(os.fsdecode(file)) if file else None, digest, bool(unsaved))
            data = unpacked(self._put_by(pack_), LARGEST_FILE)
            return data, base, [self._step(*row) for row in rows]
        except FileProblem:
            raise
        except Exception as err:
            raise unreadable(self.path, err) from err

    def _step(self, action: str, edit: bytes | None, name: str | None) -> Step:
        if action not in ACTIONS:
            raise ValueError(phrase("no step is called {action!r}", action=action))
        if action in ("undo", "redo", "cancel"):
            return action, None
        if action == "commit":
            return action, (edit or b"").decode("utf-8", "replace")
        data = self._put_by(name) if name else edit
        if not data:
            raise ValueError(phrase("a step ({action}) without its edit", action=action))
        return action, unpack(data)

    def _put_by(self, name: str | None) -> bytes:
        """What was put by under a name. Raises FileProblem."""
        if not isinstance(name, str) or not name or "/" in name or not name.endswith(PACK):
            raise FileProblem(self.path, "", phrase("this journal was never finished"))
        return read_bytes(self.path.with_name(name))

    def throw_away(self) -> None:
        """Remove all of its files."""
        remove_files(self.path)


def unreadable(path: Path, err: Exception) -> FileProblem:
    """Whatever went wrong with a journal, in one line."""
    return FileProblem(
        path, "", phrase("this journal cannot be read: {words_of}", words_of=words_of(err)[:200])
    )


def left_over(folder: Path) -> Iterator[LeftOver]:
    """The journals in a folder that nobody holds any more, newest first. Those with nothing to restore, or
    of which another one tells all, are cleared away; those that cannot be read are left for a person to
    look at."""
    _sweep(folder)
    found = sorted(
        (path for path in _listed(folder, SUFFIX) if not _is_held(path)), key=_age, reverse=True
    )
    counting: dict[Path, tuple[str, list[str], bool]] = {}
    followed: set[str] = set()
    for path in found:
        try:
            with _reading(path) as database:
                tables = database.execute(
                    "select count(*) from sqlite_master where name in ('base', 'steps')"
                ).fetchone()[0]
                base = (
                    database.execute("select name, unsaved, follows from base").fetchone()
                    if tables == 2
                    else None
                )
                if base is None:
                    # It never came to count: the one before it tells all.
                    remove_files(path)
                    continue
                actions = [
                    row[0] for row in database.execute("select action from steps order by seq")
                ]
        except (sqlite3.Error, OSError, UnicodeError, OverflowError):
            continue
        name, unsaved, follows = base
        counting[path] = str(name), actions, bool(unsaved)
        followed.add(str(follows))
    for path, (name, actions, unsaved) in counting.items():
        # A stroke that was being drawn counts, its parts do not.
        steps = sum(action not in ("part", "join", "cancel") for action in actions)
        journal = LeftOver(name, steps + (actions[-1:] == ["part"]), path)
        if path.stem not in followed and (actions or unsaved):
            yield journal
        else:
            journal.throw_away()


def _listed(folder: Path, suffix: str) -> list[Path]:
    try:
        return [entry for entry in folder.iterdir() if entry.name.endswith(suffix)]
    except OSError:
        return []


def _age(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0


def _sweep(folder: Path) -> None:
    """What is left of books that are gone: a process was killed while it removed or began one."""
    for suffix in (PACK, ".lock", f"{SUFFIX}-wal", f"{SUFFIX}-shm", ".part"):
        for path in _listed(folder, suffix):
            book = folder / f"{path.name.lstrip('.').split('.')[0]}{SUFFIX}"
            if not book.exists() and not _is_held(book):
                with suppress(OSError):
                    path.unlink(missing_ok=True)


def _is_held(path: Path) -> bool:
    """Whether a living process has the journal open."""
    try:
        lock = os.open(path.with_suffix(".lock"), os.O_RDWR | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError:
        return False
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(lock)
    return False


@contextmanager
def _reading(path: Path) -> Iterator[sqlite3.Connection]:
    """A connection that is closed at the end of the block (sqlite3's own block only commits)."""
    if not path.is_file():
        raise FileProblem(path, "", phrase("is no file"))
    database = sqlite3.connect(path)
    try:
        yield database
    finally:
        database.close()
