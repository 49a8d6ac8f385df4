"""Starts the window."""

from __future__ import annotations

import gc
import logging
import os
import sys
import traceback
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from woven_locus.core.errors import WovenError
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.integration import APP_ID
from woven_locus.reports import left_behind, reporter
from woven_locus.ui import kept, language
from woven_locus.ui.display import check_display
from woven_locus.ui.icons import app_icon
from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import open_within_screen
from woven_locus.ui.recent import last_plan
from woven_locus.ui.theme import Theme
from woven_locus.version import __version__

if TYPE_CHECKING:
    from woven_locus.ui.window import Window

log = logging.getLogger("woven_locus")

# For so long the interface's thread waits for one that works in Python, each time it has let go of the interpreter, which
# drawing does many times a frame. Python's own 5 ms add up to a tenth of a second.
_SWITCH_SECONDS = 0.001


def make_app(arguments: list[str] | None = None) -> QApplication:
    """The application object with its name and style; the one that is there, if there is one."""
    known = QApplication.instance()
    if isinstance(known, QApplication):
        return known
    sys.setswitchinterval(_SWITCH_SECONDS)
    # The style is asked for by its argument: to set it would make names of all that styles know.
    words = (arguments if arguments is not None else sys.argv[:1]) or ["woven-locus"]
    app = QApplication([*words, "-style", "Fusion"])
    app.setApplicationName("woven-locus")
    app.setApplicationDisplayName("Woven Locus")
    app.setOrganizationName("woven-locus")
    app.setApplicationVersion(__version__)
    # The desktop finds the window's entry and icon by it; see `woven-locus integrate`.
    app.setDesktopFileName(APP_ID)
    app.setWindowIcon(app_icon())
    return app


def open_window(document: Document) -> tuple[QApplication, Window]:
    """The application and its window, shown but not yet running."""
    # What is loaded and built now stays: to go through all of it meanwhile takes as long as several frames. Later the
    # window's collector does it.
    gc.disable()
    # Late: its modules take their words as they are loaded, when the language is known.
    from woven_locus.ui.window import Window

    app = make_app()
    window = Window(document, Theme(app))
    _catch_bugs(window)
    geometry = kept.blob("window")
    if geometry is None or not window.restoreGeometry(geometry):
        open_within_screen(window, window.size())
    window.show()
    if names := kept.left_out():
        window.session.say(
            tr("Settings that cannot be read were left out: {names}", names=", ".join(names)), "no"
        )
    # Nothing that can wait stands before the first frame.
    window.drawn.connect(lambda: QTimer.singleShot(0, window.engine.start))
    QTimer.singleShot(0, window.recovery.start)
    QTimer.singleShot(0, lambda: _tell_left_behind(window))
    # Not to somebody who has come to open a file or has work to get back.
    if document.path is None:
        QTimer.singleShot(0, window.offer_tour)
    return app, window


def last_or_demo() -> tuple[Document, str]:
    """The plan that was open when the window was last closed; the demo where there is none, or it cannot be read, and why."""
    make_app()
    path = last_plan()
    if path is not None:
        try:
            return Document.open(path), ""
        except WovenError as err:
            return Document(open_demo()), tr("{err}. The demo is open instead.", err=err)
    return Document(open_demo()), ""


def start(document: Document | None) -> int:
    """Open the window on a document, on the last one without, and run until it is closed; returns the exit code.

    Raises NoDisplay where there is no screen to open it on; Qt itself would only abort.
    """
    check_display()
    app = make_app()
    language.install(language.wished(), app)
    path = document.path if document is not None else last_plan()
    if path is not None and _is_elsewhere(path):
        sys.stderr.write(f"{path} is open in another window, which was asked to come up\n")
        return 0
    words = ""
    if document is None:
        document, words = last_or_demo()
    app, window = open_window(document)
    if words:
        window.session.say(words, "no")
    # Versions take a moment to look up.
    window.drawn.connect(lambda: QTimer.singleShot(0, reporter.watch))
    code = app.exec()
    reporter.end()
    if not window.session.jobs.wait(0):
        # A worker that did not stop in time. All is written, and the interpreter cannot be taken down
        # under a thread that runs in it: that would end in a crash.
        logging.shutdown()
        os._exit(code)
    return code


def _is_elsewhere(path: Path) -> bool:
    # Late: a plan without a file needs no network.
    from woven_locus.ui.one_window import raised_elsewhere

    return raised_elsewhere(path)


def _tell_left_behind(window: Window) -> None:
    """A window before this one ended with a fault: its work is back by its journal, and what happened can be read."""
    if found := left_behind():
        window.tell_report(tr("The program ended with a fault the last time."), found[-1])


def _catch_bugs(window: Window) -> None:
    """A bug must not close the window on work that is not saved."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            window.close()
            return
        log.error("".join(traceback.format_exception(kind, error, trace)))
        path = reporter.write(error)
        window.tell_report(
            tr(
                "Something went wrong in the program ({name}: {error}). The plan is still open; save it under another name.",
                name=kind.__name__,
                error=error,
            ),
            path,
        )

    sys.excepthook = hook
    # An error of one listener is told; the others hear of the edit all the same.
    window.session.tell_bugs(lambda error: hook(type(error), error, error.__traceback__))
