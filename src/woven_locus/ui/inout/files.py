"""Opening and saving, with nothing lost: a broken file leaves the open plan alone, unsaved changes are
asked about in the window, and what another program wrote is not written over unasked."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from woven_locus.core.errors import WovenError
from woven_locus.demo import NAMES, open_demo
from woven_locus.document import Document
from woven_locus.document.purposes import DEMO, NONE, NewPlan
from woven_locus.files import plan_json
from woven_locus.files.atomic import FileChanged
from woven_locus.ui.bars import AskBar
from woven_locus.ui.bench.survey.grid_sheet import GridSheet
from woven_locus.ui.inout.new_plan_sheet import NewPlanSheet
from woven_locus.ui.jobs.pool import AT_ONCE, Control, nothing, now
from woven_locus.ui.language import tr
from woven_locus.ui.parts.file_names import file_name
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme

PLANS = tr("Plans (*{suffix});;All files (*)", suffix=plan_json.SUFFIX)
SOURCES = tr(
    "Plans and catalogues (*{suffix} *.json *.csv);;All files (*)", suffix=plan_json.SUFFIX
)
CHANGED_LABELS = (tr("Save over it"), tr("Save under another name…"), tr("Keep working"))
THERE_LABELS = (tr("Write over it"), tr("Another name…"), tr("Keep working"))


class Files:
    """The window's Plan menu. `choose_open`, `choose_save` and `choose_source` may be replaced.

    before_showing : called with a document that was made, on whatever thread, before it is shown.
    """

    def __init__(self, window: QWidget, session: Session, theme: Theme, ask_bar: AskBar) -> None:
        self._window, self._session, self._theme, self._ask_bar = window, session, theme, ask_bar
        self.before_showing: Callable[[Document], object] = lambda _document: None
        self.choose_open: Callable[[], str] = self._ask_open
        self.choose_save: Callable[[], str] = self._ask_save
        self.choose_source: Callable[[str], str] = self._ask_source

    # --- choosing ----------------------------------------------------------------------------

    def _ask_open(self) -> str:
        return QFileDialog.getOpenFileName(self._window, tr("Open a plan"), "", PLANS)[0]

    def _ask_source(self, title: str) -> str:
        return QFileDialog.getOpenFileName(self._window, title, "", SOURCES)[0]

    def _ask_save(self) -> str:
        document = self._session.document
        start = str(document.path or file_name(document.plan.name, plan_json.SUFFIX))
        return QFileDialog.getSaveFileName(self._window, tr("Save the plan"), start, PLANS)[0]

    # --- the menu ----------------------------------------------------------------------------

    def new(self) -> None:
        sheet = NewPlanSheet(self._theme, self._window, self.choose_source)
        sheet.accepted.connect(lambda: self._make(sheet))
        sheet.open()

    def _make(self, sheet: NewPlanSheet) -> None:
        new = sheet.asked
        if new is not None:
            self.when_safe(lambda: self._begin(new))

    def _begin(self, new: NewPlan) -> None:
        reads = any(source not in (DEMO, NONE) for source in (new.kinds, new.terrain))
        self.bring(
            tr("Making {new}", new=new.name),
            lambda: Document(new.make()),
            tr("{new}: an empty plan", new=new.name),
            at_once=not reads and new.spec.cols * new.spec.rows <= AT_ONCE,
            safe=True,
            shown=lambda: self._session.set_stage(Stage(new.purpose.stage)),
        )

    def change_grid(self) -> None:
        """Another grid under the plan that is open."""
        GridSheet(self._theme, self._window, self._session).open()

    def open_demo(self, name: str = NAMES[0]) -> None:
        self.when_safe(lambda: self._session.open(Document(open_demo(name))))

    def open(self) -> None:
        chosen = self.choose_open()
        if chosen:
            self.open_path(Path(chosen))

    def open_path(self, path: Path) -> None:
        """Read the file first; only a plan that was read whole takes the open one's place. Where another window has it, that
        one comes up."""
        from woven_locus.ui.one_window import raised_elsewhere

        if path != self._session.document.path and raised_elsewhere(path):
            self._session.say(
                tr("{path} is open in another window, which was asked to come up", path=path.name)
            )
            return
        self.bring(
            tr("Opening {path}", path=path.name),
            lambda: Document.open(path),
            tr("Opened {path}", path=path),
        )

    def bring(
        self,
        label: str,
        make: Callable[[], Document],
        words: str,
        *,
        at_once: bool = False,
        safe: bool = False,
        refused: Callable[[WovenError], object] | None = None,
        shown: Callable[[], object] = nothing,
    ) -> None:
        """Make a document, put by what its journal begins with, and show it in place of the open one, which
        may have to be saved first.  safe : that was asked already.  shown : called when it is."""
        session, before = self._session, self.before_showing

        def made(_control: Control | None = None) -> Document:
            document = make()
            before(document)
            return document

        def show(document: Document) -> None:
            session.open(document)
            shown()
            session.say(words)

        def done(document: Document) -> None:
            if safe:
                show(document)
            else:
                # A document that is not wanted after all leaves no journal.
                self.when_safe(lambda: show(document), document.close)

        no = refused or self._failed
        if at_once:
            now(made, done, no)
            return
        session.jobs.start(label, made, done, no)

    def _failed(self, error: WovenError) -> None:
        self._session.say(tr("{error}. The open plan is as it was.", error=error), "error")

    # --- saving ------------------------------------------------------------------------------

    def save(self, then: Callable[[], object] | None = None) -> None:
        """Save; `then` is called only when the file holds the plan as it is."""
        path = self._session.document.path
        if path is None:
            self.save_as(then)
        else:
            self._write(path, then)

    def save_as(self, then: Callable[[], object] | None = None) -> None:
        chosen = self.choose_save()
        mine = self._session.document.path

        def write(path: Path) -> None:
            self._write(path, then, over=path != mine)

        if chosen:
            self.write_to(chosen, plan_json.SUFFIX, write, lambda: self.save_as(then), mine)

    def write_to(
        self,
        chosen: str,
        suffix: str,
        write: Callable[[Path], object],
        another: Callable[[], object],
        mine: Path | None = None,
    ) -> None:
        """Write to the file that was chosen in a dialog, with its ending. Where that is another name than
        the dialog asked about it is asked here, but for the file that is `mine`."""
        path = Path(chosen)
        if not path.suffix:
            path = path.with_name(path.name + suffix)
            if path.exists() and path != mine:
                words = tr("{path} is there already.", path=path)
                self._ask_over(words, THERE_LABELS, lambda: write(path), another)
                return
        write(path)

    def _ask_over(
        self,
        words: str,
        labels: tuple[str, str, str],
        go_on: Callable[[], object],
        another: Callable[[], object],
    ) -> None:
        """Ask before a file is written over."""

        def answered(word: str) -> None:
            if word == "save":
                go_on()
            elif word == "discard":
                another()

        self._ask_bar.ask(words, answered, labels, overwrites=True)

    def _write(self, path: Path, then: Callable[[], object] | None, over: bool = False) -> None:
        """over : whatever the file holds."""
        session = self._session
        document = session.document
        if document.history.in_gesture:
            session.say(tr("Not saved: end the stroke in hand first, or drop it with Esc"), "no")
            return
        if session.jobs.acting:
            # One after the other: each has to know what the one before has written.
            session.jobs.after_acting(lambda: self._write_on(document, path, then, over))
            return
        saving = document.begin_save(path, over=over)

        def done(_nothing: object) -> None:
            current = document.saved(saving)
            session.saved.emit()
            if current:
                session.say(tr("Saved {path}", path=path))
                if then is not None:
                    then()
                return
            session.say(tr("Saved {path}; what was changed since is not in it yet", path=path))
            if then is not None and session.document is document:
                self.when_safe(then)

        def failed(error: WovenError) -> None:
            document.not_saved(saving)
            if isinstance(error, FileChanged):
                self._ask_over(
                    tr("Not saved: {error}.", error=error),
                    CHANGED_LABELS,
                    lambda: self._write(path, then, over=True),
                    lambda: self.save_as(then),
                )
            else:
                session.say(
                    tr("{error}. Nothing was lost: the plan is still open.", error=error), "error"
                )

        if session.asking.is_small():
            now(saving.write, done, failed)
            return
        session.jobs.act(tr("Saving {path}", path=path.name), saving.write, done, failed)

    def _write_on(
        self, document: Document, path: Path, then: Callable[[], object] | None, over: bool
    ) -> None:
        if self._session.document is document:
            self._write(path, then, over)

    # --- unsaved changes ---------------------------------------------------------------------

    def when_safe(
        self, go_on: Callable[[], object], otherwise: Callable[[], object] = nothing
    ) -> None:
        """Do `go_on` at once when nothing would be lost, else ask first."""
        document = self._session.document
        if document.history.saved and not document.history.in_gesture:
            go_on()
            return

        def answered(word: str) -> None:
            if word == "discard":
                go_on()
            elif word == "save":
                self.save(go_on)
            else:
                otherwise()

        self._ask_bar.ask(
            tr("“{title}” has changes that are not saved.", title=document.title), answered
        )
