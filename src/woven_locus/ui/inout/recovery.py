"""Journals of the open plan, and those that a killed process left behind."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from woven_locus.core.errors import WovenError
from woven_locus.core.phrase import with_capital
from woven_locus.document import Document
from woven_locus.document.journals import journal_folder
from woven_locus.files.left_over import LeftOver, left_over
from woven_locus.ui.bars import AskBar
from woven_locus.ui.inout.files import Files
from woven_locus.ui.language import counted, shown, tr
from woven_locus.ui.session.session import Session

LABELS = (tr("Restore"), tr("Discard"), tr("Later"))
# How often a journal that could not be written is tried again while nobody edits.
MEND_MSEC = 2000


def folder() -> Path:
    """Where journals are kept."""
    return journal_folder()


class Recovery(QObject):
    """Gives every document that is opened a journal, and offers what was left over."""

    def __init__(self, session: Session, files: Files, ask_bar: AskBar) -> None:
        super().__init__(session)
        self._session, self._files, self._ask_bar = session, files, ask_bar
        files.before_showing = self.prepare
        self._document: Document | None = None
        self._started = False
        self._problem = ""
        self._mend = QTimer(self)
        self._mend.setInterval(MEND_MSEC)
        self._mend.timeout.connect(self._try_again)
        session.replaced.connect(self._follow)
        session.changed.connect(lambda _notice: self._look())
        session.settled.connect(self._look)

    def start(self) -> None:
        """After the first frame: offer what was left over, then keep a journal."""
        waiting = list(left_over(folder()))
        self._started = True
        self._follow()
        if waiting:
            self._offer(waiting[0])

    def prepare(self, document: Document) -> None:
        """Put by what a document's journal begins with, before it is shown; on any thread."""
        if self._started and document.journal is None:
            document.prepare_journal(folder())

    def _follow(self) -> None:
        """Another document is open: it gets a journal, the old one's goes."""
        document = self._session.document
        if document is not self._document and self._started:
            small = self._session.asking.is_small()
            document.keep_journal(folder(), None if small else self._elsewhere)
            self.end()
            self._document = document
            self._look()

    def _elsewhere(
        self,
        work: Callable[[Callable[[], bool]], int],
        done: Callable[[int], None],
        failed: Callable[[Exception], None],
    ) -> None:
        self._session.jobs.act(tr("Beginning the journal"), work, done, failed)

    def end(self) -> None:
        if self._document is not None:
            self._document.close()
            self._document = None

    def _look(self) -> None:
        """Say when the journal cannot be written, and when it can again."""
        journal = self._document.journal if self._document is not None else None
        problem = journal.problem if journal is not None else ""
        if bool(problem) == bool(self._problem):
            return
        self._problem = problem
        if problem:
            self._session.say(with_capital(shown(problem)), "error")
            self._mend.start()
        else:
            self._session.say(tr("The recovery journal is kept again, from now on"))
            self._mend.stop()

    def _try_again(self) -> None:
        if self._document is not None:
            self._document.mend_journal()
            self._look()

    def _offer(self, journal: LeftOver) -> None:
        steps = counted(journal.steps, "{n} step", "{n} steps") if journal.steps else tr("its work")

        def answered(word: str) -> None:
            if word == "save":
                self._restore(journal)
            elif word == "discard":
                journal.throw_away()

        self._ask_bar.ask(
            tr(
                "“{journal}” was not closed in good order; {steps} can be restored.",
                journal=journal.name,
                steps=steps,
            ),
            answered,
            LABELS,
        )

    def _restore(self, journal: LeftOver) -> None:
        """Its own journal goes only once the restored plan has one."""
        session = self._session

        def refused(error: WovenError) -> None:
            session.say(
                tr("It could not be restored: {error}. It was left as it is.", error=error), "error"
            )

        self._files.bring(
            tr("Restoring {journal}", journal=journal.name),
            lambda: Document.restore(journal),
            tr("Restored “{journal}”: save it when you have looked at it", journal=journal.name),
            refused=refused,
        )
