"""What of a document is kept in the recovery journal, and when a new book of it begins."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from woven_locus.core.editing import Edit, History
from woven_locus.core.errors import FileProblem
from woven_locus.core.plan import Plan
from woven_locus.document.saving import settled_snapshot
from woven_locus.files import height_rows, plan_json
from woven_locus.files.atomic import give_back
from woven_locus.files.journal import Journal, Renewal
from woven_locus.files.journal_book import Base
from woven_locus.files.left_over import LeftOver

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


class Journaled:
    """A plan with a history and a file, of which every step goes into a journal.

    digest : of the file's bytes as they were when they were last read or written, or None.
    """

    plan: Plan
    path: Path | None
    digest: str | None
    history: History

    def _begin_without_journal(self) -> None:
        self.journal: Journal | None = None
        # The bytes that the plan was read from, until the journal has them.
        self._source: bytes | None = None
        self._left: LeftOver | None = None
        self._ready: Renewal | None = None
        self._run: Run = _at_once
        self._mending = False
        self._tried = 0.0

    @property
    def revision(self) -> int:
        """Which state the plan is in: moves with every edit that changes anything that is saved. Work done
        for another one is out of date."""
        return self.plan.revision

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
        if self.plan.terrain.size > height_rows.LARGE:
            # All that opening took for a while.
            give_back()

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
        """Ahead of doing a large edit, on the thread that made it: pack it for the journal, and work out what it will need."""
        for change in edit.changes:
            change.prepare()
        if self.journal is not None:
            self.journal.prepare(edit)
