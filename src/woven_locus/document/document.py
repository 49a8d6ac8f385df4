"""An open plan."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from woven_locus.core.editing import History, Notice
from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.proof.soundness import Soundness
from woven_locus.core.routing import Connections, Links
from woven_locus.document.journaled import Journaled
from woven_locus.document.misses import MissBook
from woven_locus.document.restoring import restored
from woven_locus.document.routes import RouteBook
from woven_locus.document.saving import Saving
from woven_locus.files import plan_json
from woven_locus.files.journal_book import Base
from woven_locus.files.left_over import LeftOver

Listener = Callable[[Notice], None]


class Document(Journaled):
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
        self._begin_without_journal()
        self.routes = RouteBook(plan)
        self.misses = MissBook(plan)
        self._connections: Connections | None = None
        self._links: Links | None = None
        self._soundness: Soundness | None = None
        self.history.listen(self._changed)

    @classmethod
    def open(cls, path: Path) -> Document:
        """Raises FileProblem. What takes longest to derive is worked out here, off the interface
        when the interface asks in a job."""
        plan, data, known = plan_json.read(path)
        document = cls(plan, path)
        document.digest, document._source = known, data
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
            raise ValueError(phrase("a plan that was never saved needs a path"))
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
            raise ValueError(phrase("half a stroke belongs into no file"))
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
        return self._links

    def is_linked(self, number: int) -> bool:
        """Whether a structure reaches another by road."""
        return self.links().reaches_another(number)

    def unsound(self) -> frozenset[int]:
        """Structures that the judge would refuse where they stand, after terrain changed, say."""
        if self._soundness is None:
            self._soundness = Soundness(self.plan)
        return self._soundness.unsound

    def known_unsound(self, seconds: float = 0.0) -> tuple[frozenset[int], bool]:
        """`unsound` as far as it is known after working on it for so long, and whether that is all: for
        whoever may not wait."""
        if self._soundness is None:
            self._soundness = Soundness(self.plan)
        until = time.perf_counter() + seconds
        return self._soundness.known(lambda: time.perf_counter() >= until)

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
