"""An open plan."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from woven_locus.core.editing import Edit, History, Notice
from woven_locus.core.errors import FileProblem
from woven_locus.core.plan import Plan
from woven_locus.core.proof.soundness import Soundness
from woven_locus.core.routing import Connections, Links
from woven_locus.document.misses import MissBook
from woven_locus.document.restoring import restored
from woven_locus.document.routes import RouteBook
from woven_locus.document.saving import Saving, settled_snapshot
from woven_locus.files import plan_json
from woven_locus.files.atomic import digest
from woven_locus.files.journal import Journal, Renewal
from woven_locus.files.journal_book import Base
from woven_locus.files.left_over import LeftOver

Listener = Callable[[Notice], None]
# run(work, done, failed): work somewhere, then done(its answer) or failed(its error) here, always one of
# them. work is given `stopped`, to be asked while it waits.
Run = Callable[
    [Callable[[Callable[[], bool]], int], Callable[[int], None], Callable[[Exception], None]], None
]
# How long to wait before a journal that could not be written is tried again.
RETRY_SECONDS = 1.0


def _at_once(
    work: Callable[[Callable[[], bool]], int],
    done: Callable[[int], None],
    failed: Callable[[Exception], None],
) -> None:
    try:
        answer = work(lambda: False)
    except FileProblem as error:
        failed(error)
    else:
        done(answer)


class Document:
    """Plan, history and where it is kept.

    path : the file, or None when it was never saved.
    digest : of the file's bytes as they were when this document last read or wrote them, or None.
    """

    def __init__(
        self, plan: Plan, path: Path | None = None, *, history: History | None = None
    ) -> None:
        self.plan, self.path = plan, path
        self.digest: str | None = None
        self.history = history if history is not None else History(plan)
        self.journal: Journal | None = None
        # The bytes that the plan was read from, until the journal has them.
        self._source: bytes | None = None
        self._left: LeftOver | None = None
        self._ready: Renewal | None = None
        self._run: Run = _at_once
        self._mending = False
        self._tried = 0.0
        self.routes = RouteBook(plan)
        self.misses = MissBook(plan)
        self._connections: Connections | None = None
        self._links: Links | None = None
        self._cut_off: frozenset[int] | None = None
        self._soundness: Soundness | None = None
        self.history.listen(self._changed)

    @property
    def revision(self) -> int:
        """Which state the plan is in: moves with every edit that changes anything that is saved. Work done
        for another one is out of date."""
        return self.plan.revision

    @classmethod
    def open(cls, path: Path) -> Document:
        """Raises FileProblem. What takes longest to derive is worked out here, off the interface
        when the interface asks in a job."""
        plan, data = plan_json.read(path)
        document = cls(plan, path)
        document.digest, document._source = digest(data), data
        document.links()
        document.unsound()
        return document

    @classmethod
    def restore(cls, journal: LeftOver) -> Document:
        """The document of a process that was killed, as it was shown last; its journal goes once this one
        has its own (see `keep_journal`). Raises FileProblem."""
        plan, history, base = restored(journal)
        document = cls(plan, base.path, history=history)
        document.digest, document._left = base.digest, journal
        document.history.mark_unsaved()
        return document

    # --- saving ------------------------------------------------------------------------------

    def save(self, path: Path | None = None, *, over: bool = False) -> Path:
        """Write the plan, to `path` from now on if given. Raises FileProblem, FileChanged when another
        program wrote the file since and `over` is not given."""
        target = path or self.path
        if target is None:
            raise ValueError("a plan that was never saved needs a path")
        saving = self.begin_save(target, over=over)
        try:
            saving.write()
        except FileProblem:
            self.not_saved(saving)
            raise
        self.saved(saving)
        return target

    def begin_save(self, path: Path, *, over: bool = False) -> Saving:
        """A file to be written by `Saving.write`, on any thread; then call `saved`, or `not_saved`."""
        if self.history.in_gesture:
            raise ValueError("half a stroke belongs into no file")
        expected = None if over or path != self.path else self.digest
        renewal = self.journal.renew() if self.journal is not None else None
        return Saving(self.plan, path, expected, renewal)

    def saved(self, saving: Saving) -> bool:
        """The file was written; whether it holds the plan as it is now. It may have changed since, while a
        large plan was being written."""
        self.path, self.digest = saving.path, saving.digest
        current = saving.revision == self.revision
        if current:
            self.history.mark_saved()
        else:
            # What was saved before is no longer in the file either.
            self.history.mark_unsaved()
        journal, renewal = self.journal, saving.renewal
        if journal is not None and renewal is not None:
            if saving.journal_error is not None:
                journal.failed(renewal, saving.journal_error)
            else:
                base = Base(self.plan.name, self.path, self.digest, unsaved=False)
                if not journal.begun(renewal, base, saving.revision) and not journal.problem:
                    self._begin_anew(self._run)
        return current

    def not_saved(self, saving: Saving) -> None:
        """The file could not be written: the journal goes on as it was."""
        if self.journal is not None and saving.renewal is not None:
            self.journal.drop(saving.renewal)

    # --- what others write -------------------------------------------------------------------

    def is_in_file(self, mark: str) -> None:
        """The plan is as the file has it now, which another program wrote. mark : the file's digest."""
        self.digest = mark
        self.history.mark_saved()
        if self.journal is not None:
            self._begin_anew(self._run)

    def stays_apart(self, mark: str | None) -> None:
        """The plan goes on as it is, whatever another program wrote to its file; saving writes over that. mark : the file's
        digest, None for a file that is gone."""
        self.digest = mark
        self.history.mark_unsaved()
        if self.journal is not None:
            self._begin_anew(self._run)

    # --- the journal -------------------------------------------------------------------------

    def prepare_journal(self, folder: Path) -> None:
        """Put by what the journal begins with, on any thread and before anybody edits."""
        self.journal = Journal(folder, self._left)
        self._left = None
        renewal = self._ready = self.journal.renew()
        if renewal is not None:
            try:
                renewal.put_base(self._source or plan_json.dump(self.plan))
            except FileProblem as err:
                self.journal.failed(renewal, err)
                self._ready = None
        self._source = None

    def keep_journal(self, folder: Path, run: Run | None = None) -> None:
        """Record every step from here on in a journal in `folder`.  run : how to do long work elsewhere;
        at once by default."""
        self._run = run or _at_once
        if self.journal is None:
            self.prepare_journal(folder)
        assert self.journal is not None
        if self._ready is not None:
            self.journal.begun(self._ready, self._base(), self.revision)
            self._ready = None
        self.history.settle()
        self.history.watch(self._record)

    def _base(self) -> Base:
        return Base(self.plan.name, self.path, self.digest, unsaved=not self.history.saved)

    def _record(self, action: str, edit: Edit) -> None:
        assert self.journal is not None
        if not self.journal.record(action, edit, self.revision):
            # It goes back behind the journal's beginning and cannot be told by itself.
            self._begin_anew(_at_once)
        elif self.journal.problem:
            self.mend_journal()

    def mend_journal(self) -> None:
        """Try again to keep a journal, after the disk was full, say; not more often than each second."""
        journal = self.journal
        if journal is None or not journal.problem or self._mending or self.history.in_gesture:
            return
        if time.monotonic() - self._tried >= RETRY_SECONDS:
            self._begin_anew(self._run)
            self._tried = time.monotonic()

    def _begin_anew(self, run: Run) -> None:
        """A new book, from the plan as it is now; the old one counts until it is on disk."""
        journal = self.journal
        assert journal is not None
        renewal = journal.renew()
        if renewal is None:
            return
        self._mending = True
        self.history.settle()

        def work(stopped: Callable[[], bool]) -> int:
            twin = settled_snapshot(self.plan, stopped)
            renewal.put_base(plan_json.dump(twin))
            return twin.revision

        def done(revision: int) -> None:
            self._mending = False
            if not journal.begun(renewal, self._base(), revision) and not journal.problem:
                self._begin_anew(self._run)

        def failed(error: Exception) -> None:
            self._mending = False
            journal.failed(renewal, error)

        run(work, done, failed)

    def prepare(self, edit: Edit) -> None:
        """Pack a large edit for the journal ahead of doing it, on the thread that made it."""
        if self.journal is not None:
            self.journal.prepare(edit)

    def close(self) -> None:
        """Closed in good order: the journal goes."""
        if self.journal is not None:
            self.journal.close()

    @property
    def title(self) -> str:
        """The name of the plan."""
        return self.plan.name

    def listen(self, listener: Listener) -> None:
        """Call `listener` after each change, once derived state is current."""
        self.history.listen(listener)

    def links(self) -> Links:
        """What is joined by road now; worked out once per change."""
        if self._links is None:
            if self._connections is None:
                self._connections = Connections(self.plan)
            self._links = self._connections.links()
            self._cut_off = None
        return self._links

    def is_linked(self, number: int) -> bool:
        """Whether a structure reaches another by road."""
        links = self.links()
        if self._cut_off is None:
            self._cut_off = frozenset(links.cut_off)
        return number not in self._cut_off

    def unsound(self) -> frozenset[int]:
        """Structures that the judge would refuse where they stand, after terrain changed, say."""
        if self._soundness is None:
            self._soundness = Soundness(self.plan)
        return frozenset(self._soundness.unsound)

    def known_unsound(self, seconds: float = 0.0) -> tuple[frozenset[int], bool]:
        """`unsound` as far as it is known after working on it for so long, and whether that is all: for
        whoever may not wait."""
        if self._soundness is None:
            self._soundness = Soundness(self.plan)
        until = time.perf_counter() + seconds
        found, done = self._soundness.known(lambda: time.perf_counter() >= until)
        return frozenset(found), done

    def now(self) -> str:
        """The time as the register keeps it."""
        return datetime.now(UTC).replace(microsecond=0).isoformat().replace("+00:00", "Z")

    def _changed(self, notice: Notice) -> None:
        if notice.reformed:
            # Whatever was worked out for the old classes, or the old grid, is void.
            self._soundness = None
        if notice.layers & {"grid", "kinds"}:
            # Doors lie elsewhere now.
            self._connections = self._links = None
        if self._connections is not None:
            self._connections.update(notice.structures)
        if self._soundness is not None:
            self._soundness.update(notice)
        if notice.structures or "road" in notice.layers:
            self._links = None
        self.routes.follow(notice)
        self.misses.follow(notice)
