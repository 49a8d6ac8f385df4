"""Opening and saving, with nothing lost: a broken file leaves the open plan alone, and unsaved
changes are asked about in the window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from woven_locus.core.errors import WovenError
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.document.document import new_plan
from woven_locus.files import plan_json
from woven_locus.ui.bench.survey.grid_sheet import GridSheet

if TYPE_CHECKING:
    from woven_locus.ui.window import Window

_FILTER = f"Plans (*{plan_json.SUFFIX});;All files (*)"
# Plans up to this many cells are written within a frame.
AT_ONCE = 256 * 256


class Files:
    """The window's Plan menu. `choose_open` and `choose_save` may be replaced."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self.choose_open: Callable[[], str] = self._ask_open
        self.choose_save: Callable[[], str] = self._ask_save

    # --- choosing ----------------------------------------------------------------------------

    def _ask_open(self) -> str:
        return QFileDialog.getOpenFileName(self._window, "Open a plan", "", _FILTER)[0]

    def _ask_save(self) -> str:
        document = self._window.session.document
        start = str(document.path or Path(f"{document.plan.name}{plan_json.SUFFIX}"))
        return QFileDialog.getSaveFileName(self._window, "Save the plan", start, _FILTER)[0]

    # --- the menu ----------------------------------------------------------------------------

    def new(self) -> None:
        sheet = GridSheet(self._window.theme, self._window)
        sheet.accepted.connect(lambda: self._make(sheet))
        sheet.open()

    def _make(self, sheet: GridSheet) -> None:
        spec, name = sheet.spec, sheet.name.text().strip() or "Untitled plan"
        if spec is not None:
            self.when_safe(lambda: self._begin(Document(new_plan(spec, name))))

    def _begin(self, document: Document) -> None:
        self._window.session.open(document)
        self._window.session.say(
            "An empty plan: paint the ground (F3), then take a kind off the shelf (F4) and place it"
        )

    def change_grid(self) -> None:
        """Another grid under the plan that is open."""
        GridSheet(self._window.theme, self._window, self._window.session).open()

    def open_demo(self) -> None:
        self.when_safe(lambda: self._window.session.open(Document(open_demo())))

    def open(self) -> None:
        chosen = self.choose_open()
        if chosen:
            self.open_path(Path(chosen))

    def open_path(self, path: Path) -> None:
        """Read the file first; only a plan that was read whole takes the open one's place."""
        session = self._window.session

        def done(document: Document) -> None:
            self.when_safe(lambda: self._show(document))

        session.jobs.start(
            f"Opening {path.name}", lambda _stopped: Document.open(path), done, self._failed
        )

    def _show(self, document: Document) -> None:
        self._window.session.open(document)
        self._window.session.say(f"Opened {document.path}")

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, WovenError):
            raise error
        self._window.session.say(f"{error}. The open plan is as it was.", "error")

    def save(self, then: Callable[[], object] | None = None) -> None:
        """Save; `then` is called only when that went well."""
        path = self._window.session.document.path
        if path is None:
            self.save_as(then)
        else:
            self._write(path, then)

    def save_as(self, then: Callable[[], object] | None = None) -> None:
        chosen = self.choose_save()
        if not chosen:
            return
        path = Path(chosen)
        if not path.suffix:
            path = path.with_name(path.name + plan_json.SUFFIX)
        self._write(path, then)

    def _write(self, path: Path, then: Callable[[], object] | None) -> None:
        session = self._window.session
        document = session.document
        if document.history.in_gesture:
            session.say("Not saved: end the stroke in hand first, or drop it with Esc", "no")
            return
        revision = document.revision

        def done(digest: str) -> None:
            document.now_saved(path, revision, digest)
            self._window.show_title()
            session.say(f"Saved {path}")
            if then is not None:
                then()

        if document.plan.terrain.size <= AT_ONCE:
            try:
                digest = plan_json.save(document.plan, path)
            except WovenError as err:
                session.say(f"{err}. Nothing was lost: the plan is still open.", "error")
                return
            done(digest)
            return
        plan = document.plan

        def write(_stopped: Callable[[], bool]) -> str:
            nonlocal revision
            while True:
                revision = document.revision
                twin = plan.snapshot()
                if revision == document.revision:
                    return plan_json.save(twin, path)

        session.jobs.start(
            f"Saving {path.name}",
            write,
            done,
            lambda err: session.say(f"{err}. Nothing was lost: the plan is still open.", "error"),
        )

    # --- unsaved changes ---------------------------------------------------------------------

    def when_safe(self, go_on: Callable[[], object]) -> None:
        """Do `go_on` at once when nothing would be lost, else ask first."""
        document = self._window.session.document
        if document.history.saved:
            go_on()
            return

        def answered(word: str) -> None:
            if word == "discard":
                go_on()
            elif word == "save":
                self.save(go_on)

        self._window.ask_bar.ask(f"“{document.title}” has changes that are not saved.", answered)
