"""The file of the open plan, written by another program: noticed at once, and whose is kept is asked."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from woven_locus.core.editing import Edit
from woven_locus.core.edits.becoming import becoming
from woven_locus.core.errors import FileProblem, WovenError
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.files.atomic import Stamp, digest, read_bytes, stamp
from woven_locus.ui.bars import AskBar
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.jobs.watching import PathWatch
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

# After the last of several writes, and before another try while something else is asked or written.
SOON_MSEC, LATER_MSEC = 150, 400
# After a plan was opened or saved.
FIRST_MSEC = 1000
LABELS = (tr("Reload"), tr("Compare"), tr("Keep mine"))


class FileWatch(QObject):
    """compare : shows the open plan beside a file."""

    def __init__(
        self, session: Session, ask_bar: AskBar, compare: Callable[[Path], object]
    ) -> None:
        super().__init__(session)
        self._session, self._ask_bar, self._compare = session, ask_bar, compare
        self._gone = self._looking = False
        self._seen: Stamp | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._look)
        self._files = PathWatch(self)
        self._files.written.connect(self._written)
        session.replaced.connect(self._follow)
        session.saved.connect(self._follow)
        self._follow()

    def _follow(self) -> None:
        """Another file, or none."""
        self._gone, self._seen = False, None
        self._watch()
        if self._session.document.path is not None:
            # Not among the first frames of a plan.
            self._soon.start(FIRST_MSEC)

    def _watch(self) -> None:
        path = self._session.document.path
        self._files.hold(*([path] if path is not None else []))

    def _written(self) -> None:
        if self._session.document.path is not None:
            self._soon.start(SOON_MSEC)

    def _look(self) -> None:
        """Whether the file is another than the one that is known, in a worker."""
        session = self._session
        document, path = session.document, session.document.path
        if path is None or document.digest is None:
            return
        if self._looking or session.jobs.acting or self._ask_bar.isVisible():
            # What is being written is ours, as a rule, and one question is enough.
            self._soon.start(LATER_MSEC)
            return
        now = stamp(path)
        if now == self._seen and now is not None:
            return  # something else in the folder was written
        self._looking = True
        self._watch()

        def work(_control: Control) -> str | None:
            try:
                return digest(read_bytes(path))
            except FileProblem:
                return None

        def done(mark: str | None) -> None:
            self._looking, self._seen = False, now
            if session.document is not document or document.path != path:
                return
            if session.jobs.acting or self._ask_bar.isVisible():
                self._seen = None
                self._soon.start(LATER_MSEC)
            elif mark is None:
                self._say_gone(path)
            elif mark != document.digest:
                self._gone = False
                self._ask(path, mark)

        def failed(_error: WovenError) -> None:
            self._looking = False

        def stopped() -> None:
            self._looking = False

        session.jobs.start(tr("Looking at {path}", path=path.name), work, done, failed, stopped)

    def _say_gone(self, path: Path) -> None:
        if self._gone or path.exists():
            return
        self._gone = True
        self._session.document.stays_apart(None)
        self._session.settled.emit()
        self._session.say(
            tr("{path} is gone. The plan is still open; Save writes it anew.", path=path), "no"
        )

    def _ask(self, path: Path, mark: str) -> None:
        session = self._session
        document = session.document
        mine = (
            "" if document.history.saved else tr(" After a reload, undo brings your changes back.")
        )
        words = tr("{path} was written by another program.", path=path.name)

        def answered(word: str) -> None:
            if session.document is not document:
                return
            if word == "save":
                self.reload(tr("Reloaded {path}", path=path.name))
            elif word == "discard":
                self._compare(path)
                # Seen, it is still to be decided.
                QTimer.singleShot(0, lambda: self._ask_again(path, mark))
            else:
                document.stays_apart(mark)
                session.settled.emit()
                session.say(tr("Your plan stays; Save writes over {path}", path=path.name))

        self._ask_bar.ask(words + mine, answered, LABELS)

    def _ask_again(self, path: Path, mark: str) -> None:
        if self._session.document.path == path and self._session.document.digest != mark:
            self._ask(path, mark)

    def reload(self, label: str) -> None:
        """Have the plan as its file has it, as a step that can be undone. What cannot be read is said."""
        session = self._session
        document, path = session.document, session.document.path
        if path is None:
            session.say(tr("This plan was never saved, and has no file to go back to"), "no")
            return
        if document.history.in_gesture:
            session.say(tr("Not now: end the stroke in hand first"), "no")
            return

        def work(plan: Plan, _control: Control) -> tuple[Edit, str]:
            found, _data, known = plan_json.read(path)
            edit = becoming(plan, found, label)
            document.prepare(edit)
            return edit, known

        def done(answer: tuple[Edit, str]) -> None:
            edit, mark = answer
            if document.history.in_gesture:
                session.say(
                    tr("{label}: dropped, since a stroke was in hand; do it again", label=label),
                    "no",
                )
                return
            document.history.do(edit)
            document.is_in_file(mark)
            session.settled.emit()
            session.say(
                label if edit.changes else tr("The plan is as {path} has it", path=path.name)
            )

        def refused(error: WovenError) -> None:
            session.say(tr("{error}. The open plan is as it was.", error=error), "error")

        session.asking.ask(label, work, done, at_once=False, refused=refused)
