"""Journals of the open plan, and those that a killed process left behind."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import platformdirs
from PyQt6.QtCore import QObject

from woven_locus.core.errors import WovenError
from woven_locus.document import Document
from woven_locus.files.journal import LeftOver, left_over
from woven_locus.ui.files import AT_ONCE

if TYPE_CHECKING:
    from woven_locus.ui.window import Window

LABELS = ("Restore it", "Throw it away", "Later")


def folder() -> Path:
    """Where journals are kept: the XDG state folder."""
    return Path(platformdirs.user_state_dir("woven-locus")) / "journals"


class Recovery(QObject):
    """Gives every document that is opened a journal, and offers what was left over."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._document: Document | None = None
        self._told = False
        window.session.replaced.connect(self._follow)
        window.session.changed.connect(lambda _notice: self._look())

    def start(self) -> None:
        """After the first frame: offer what was left over, then keep a journal."""
        waiting = list(left_over(folder()))
        self._follow()
        if waiting:
            self._offer(waiting[0])

    def _follow(self) -> None:
        """Another document is open: the old one's journal goes, this one gets its own."""
        document = self._window.session.document
        if document is not self._document:
            self.end()
            self._document = document
            large = document.plan.terrain.size > AT_ONCE
            document.keep_journal(folder(), self._elsewhere if large else None)
            self._look()

    def _elsewhere(self, work: Callable[[], bytes], done: Callable[[bytes], None]) -> None:
        jobs = self._window.session.jobs
        jobs.start("Beginning the journal", lambda _stopped: work(), done)

    def end(self) -> None:
        if self._document is not None:
            self._document.close()
            self._document = None

    def _look(self) -> None:
        journal = self._document.journal if self._document is not None else None
        if journal is not None and journal.problem and not self._told:
            self._told = True
            self._window.session.say(journal.problem[0].upper() + journal.problem[1:], "error")

    def _offer(self, journal: LeftOver) -> None:
        steps = f"{journal.steps} step{'s' * (journal.steps != 1)}" if journal.steps else "its work"

        def answered(word: str) -> None:
            if word == "save":
                self._restore(journal)
            elif word == "discard":
                journal.throw_away()

        self._window.ask_bar.ask(
            f"“{journal.name}” was not closed in good order; {steps} can be restored.",
            answered,
            LABELS,
        )

    def _restore(self, journal: LeftOver) -> None:
        session = self._window.session

        def done(document: Document) -> None:
            session.open(document)
            # It has a journal of its own now, which begins with all that was restored.
            journal.throw_away()
            session.say(f"Restored “{document.title}”: save it when you have looked at it")

        def failed(error: Exception) -> None:
            if not isinstance(error, WovenError):
                raise error
            session.say(f"It could not be restored: {error}", "error")

        session.jobs.start(
            f"Restoring {journal.name}", lambda _stopped: Document.restore(journal), done, failed
        )
