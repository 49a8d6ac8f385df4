"""The recovery journal: every step of an open plan, so that a killed process loses nothing.

One SQLite file for each open plan, with a lock file that its process holds for as long as it lives, and
a file beside it for each thing that is too large to be written while the window waits.
A journal without a living holder is left over and can be replayed: the plan as it was opened or last
saved (a file, or the document's bytes), then each step. See docs/format.md.
"""

from __future__ import annotations

import fcntl
import os
import sqlite3
import uuid
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

import msgspec

from woven_locus.core.editing import Edit, History
from woven_locus.core.errors import FileProblem, WovenError
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.files.atomic import read_bytes, write_bytes
from woven_locus.files.edit_pack import pack, unpack

SUFFIX = ".journal"

PACK = ".pack"
# Bytes of an edit that are written within a frame.
LARGE = 1 << 20

# run(work, done): work somewhere, then done(its answer) here.
Run = Callable[[Callable[[], str], Callable[[str], None]], None]


def _at_once(work: Callable[[], str], done: Callable[[str], None]) -> None:
    done(work())


class Journal:
    """The journal of one open plan. Nothing here raises: what fails is kept in `problem`."""

    def __init__(self, folder: Path) -> None:
        self.problem = ""
        self._database: sqlite3.Connection | None = None
        self._lock: int | None = None
        self._ready: tuple[Edit, str] | None = None
        self._packs = 0
        # Steps that a replay would have done, and undone, by now.
        self._done = self._undone = 0
        self._path = folder / f"{uuid.uuid4().hex}{SUFFIX}"
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._lock = os.open(self._path.with_suffix(".lock"), os.O_CREAT | os.O_RDWR, 0o600)
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self._database = sqlite3.connect(self._path, isolation_level=None)
            # A killed process loses nothing that was handed to the system; only a power cut could.
            self._database.execute("pragma journal_mode = wal")
            self._database.execute("pragma synchronous = off")
            self._database.execute(
                "create table base (name text, path text, digest text, pack text, unsaved integer)"
            )
            self._database.execute(
                "create table steps (seq integer primary key, action text, edit blob, pack text)"
            )
        except (sqlite3.Error, OSError) as err:
            self._fail(err)

    def begin(
        self,
        plan: Plan,
        path: Path | None,
        *,
        unsaved: bool = False,
        digest: str | None = None,
        run: Run | None = None,
    ) -> None:
        """Start again from the plan as it is now.

        path : its file, or None.  digest : of that file, where it is known already.
        unsaved : it is not as that file holds it (it was restored).
        run : how to do work elsewhere, for a large plan that no file holds; at once by default.
        """
        if path is None or unsaved:
            digest = None
        elif digest is None:
            try:
                digest = plan_json.digest(read_bytes(path))
            except FileProblem as err:
                self._fail(err)
        file = str(path.absolute()) if path is not None else None
        self._run("begin")
        self._run("delete from base")
        self._run("delete from steps")
        self._run("insert into base values (?, ?, ?, null, ?)", (plan.name, file, digest, unsaved))
        self._run("commit")
        self._done = self._undone = 0
        self._ready = None
        for old in _packs_of(self._path):
            old.unlink(missing_ok=True)
        if digest is None:
            # A worker must not see the steps that come after this one, which are recorded too.
            twin = plan.snapshot()
            (run or _at_once)(
                lambda: self._put_by(zlib.compress(plan_json.dump(twin), 1)),
                lambda name: self._run("update base set pack = ?", (name,)),
            )

    def prepare(self, edit: Edit) -> None:
        """Write a large edit ahead, on whatever thread it was made on; `record` then only names it."""
        self._ready = (edit, self._put_by(pack(edit)))

    def _put_by(self, data: bytes) -> str:
        """Bytes into a file beside the journal; returns its name, or nothing when that failed."""
        self._packs += 1
        file = self._path.with_suffix(f".{self._packs}{PACK}")
        try:
            write_bytes(file, data)
        except FileProblem as err:
            self._fail(err)
            return ""
        return file.name

    def knows(self, action: str) -> bool:
        """Whether a replay could follow: it cannot undo what was done before the journal began."""
        if action == "undo":
            return self._done > 0
        return action != "redo" or self._undone > 0

    def record(self, action: str, edit: Edit) -> None:
        """A step was done (by itself, or joined to the one before), undone or redone; see `knows`."""
        data, name = None, None
        if action == "undo":
            self._done, self._undone = self._done - 1, self._undone + 1
        elif action == "redo":
            self._done, self._undone = self._done + 1, self._undone - 1
        else:
            self._done, self._undone = self._done + (action == "do"), 0
            action = "do"
        if action == "do":
            ready, self._ready = self._ready, None
            if ready is not None and ready[0] is edit:
                name = ready[1]
            else:
                packed = pack(edit)
                if len(packed) > LARGE:
                    name = self._put_by(packed)
                else:
                    data = packed
        self._run("insert into steps (action, edit, pack) values (?, ?, ?)", (action, data, name))

    def close(self) -> None:
        """The plan was closed in good order: nothing is left over."""
        self._release()
        _remove(self._path)

    def abandon(self) -> None:
        """Let go as a killed process would; the files stay. For tests."""
        self._release()

    def _release(self) -> None:
        if self._database is not None:
            self._database.close()
            self._database = None
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def _run(self, command: str, values: tuple[object, ...] = ()) -> None:
        if self._database is None or self.problem:
            return
        try:
            self._database.execute(command, values)
        except sqlite3.Error as err:
            self._fail(err)

    def _fail(self, err: Exception) -> None:
        self.problem = f"the recovery journal cannot be written ({err}); save your work to a file"


def _packs_of(path: Path) -> list[Path]:
    return sorted(path.parent.glob(f"{path.stem}.*{PACK}"))


def _remove(path: Path) -> None:
    for pack_ in _packs_of(path):
        with suppress(OSError):
            pack_.unlink(missing_ok=True)
    for suffix in (SUFFIX, ".lock", f"{SUFFIX}-wal", f"{SUFFIX}-shm"):
        with suppress(OSError):
            path.with_suffix(suffix).unlink(missing_ok=True)


@dataclass(frozen=True, slots=True)
class LeftOver:
    """A journal whose process is gone.  steps : how many it holds."""

    name: str
    steps: int
    path: Path

    def restore(self) -> tuple[Plan, Path | None, list[tuple[str, Edit | None]]]:
        """The plan to begin with, its file, and the steps to replay. Raises FileProblem."""
        try:
            with _reading(self.path) as database:
                _name, file, digest, base, _unsaved = database.execute(
                    "select * from base"
                ).fetchone()
                rows = database.execute(
                    "select action, edit, pack from steps order by seq"
                ).fetchall()
            steps = [(action, self._step(edit, pack_)) for action, edit, pack_ in rows]
            if digest is None:
                path = Path(file) if file is not None else None
                data = zlib.decompress(self._put_by(base))
                return plan_json.parse(data, self.path), path, steps
        except (sqlite3.Error, msgspec.DecodeError, zlib.error, ValueError, TypeError) as err:
            raise FileProblem(self.path, "", f"this journal cannot be read: {err}") from err
        path = Path(file)
        saved = read_bytes(path)
        if plan_json.digest(saved) != digest:
            raise FileProblem(
                path, "", "has changed since; the unsaved steps no longer fit and were left alone"
            )
        return plan_json.parse(saved, path), path, steps

    def _step(self, edit: bytes | None, name: str | None) -> Edit | None:
        data = self._put_by(name) if name else edit
        return unpack(data) if data else None

    def _put_by(self, name: str | None) -> bytes:
        """What was put by under a name. Raises FileProblem."""
        if not name or "/" in name:
            raise FileProblem(self.path, "", "this journal was never finished")
        return read_bytes(self.path.with_name(name))

    def throw_away(self) -> None:
        _remove(self.path)


def replay(history: History, steps: list[tuple[str, Edit | None]]) -> None:
    """Do recorded steps again on the plan that they began with."""
    for action, edit in steps:
        if edit is not None:
            history.do(edit)
        elif action == "undo":
            history.undo()
        else:
            history.redo()


def left_over(folder: Path) -> Iterator[LeftOver]:
    """The journals in a folder that nobody holds any more, newest first. Those with nothing to
    restore are cleared away; those that cannot be read are left for a person to look at."""
    try:
        found = sorted(folder.glob(f"*{SUFFIX}"), key=lambda p: p.stat().st_mtime, reverse=True)
    except OSError:
        return
    for path in found:
        if _is_held(path):
            continue
        try:
            with _reading(path) as database:
                base = database.execute("select name, unsaved from base").fetchone()
                count = database.execute("select count(*) from steps").fetchone()[0]
        except (sqlite3.Error, WovenError):
            continue
        name, unsaved = base or ("", False)
        journal = LeftOver(name, count, path)
        if count or unsaved:
            yield journal
        else:
            journal.throw_away()


def _is_held(path: Path) -> bool:
    """Whether a living process has the journal open."""
    try:
        lock = os.open(path.with_suffix(".lock"), os.O_RDWR)
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
    database = sqlite3.connect(path)
    try:
        yield database
    finally:
        database.close()
