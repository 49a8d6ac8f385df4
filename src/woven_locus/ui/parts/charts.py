"""Charts in the program's own colours. The chart package takes long to import, so that it is brought in when the
first chart is wanted.

It has to be imported on the interface's thread: the bindings to Qt make their types as these are first used, and two
threads that do so at once end in a crash. A thread of its own reads the files before, and imports what has nothing to
do with Qt.
"""

from __future__ import annotations

import contextlib
import importlib
import importlib.util
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QStackedLayout

from woven_locus.core.render import Palette
from woven_locus.ui.collector import bringing_in, set_aside
from woven_locus.ui.jobs.pool import Control, Job, Jobs
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.widgets import Label
from woven_locus.ui.theme import Theme, colour, number_font

# The first frames of a window go before its charts.
AFTER_MSEC = 120
_PACKAGE = "pyqtgraph"
# What the package imports: of Python's own library, and of Qt, with frames between. Were it to import others one day, they
# would come with it.
_OF_PYTHON = ("multiprocessing.connection", "pydoc", "cProfile", "importlib.resources")
_OF_QT = ("PyQt6.QtOpenGLWidgets", "PyQt6.QtTest", "PyQt6.uic")


def _prepare(_stopped: Control) -> None:
    """On a thread of its own, before the package is imported. Read once, its files are at hand."""
    with bringing_in:
        for name in _OF_PYTHON:
            importlib.import_module(name)
    found = importlib.util.find_spec(_PACKAGE)
    if found is None or found.origin is None:
        return  # importing it will tell
    with contextlib.suppress(OSError):
        for path in Path(found.origin).parent.rglob("*.pyc"):
            path.read_bytes()


class Chart(Drawn):
    """A place for one chart. `drawn` is called with it whenever it has to be drawn anew: once it is
    there, and when the theme changes; `plot` is None before."""

    def __init__(
        self, jobs: Jobs, theme: Theme, name: str, drawn: Callable[[], object], wait: str = ""
    ) -> None:
        super().__init__()
        self._jobs, self._theme, self._drawn = jobs, theme, drawn
        self.plot: Any = None
        self._worded = False  # words take its place
        self._job: Job | None = None
        self._names = [*_OF_QT, _PACKAGE]
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self._import)
        self.setAccessibleName(name)
        self.setMinimumSize(220, 90)
        self._stack = QStackedLayout(self)
        self._waiting = wait or tr("Preparing the chart …")
        self._wait = Label(self._waiting)
        self._wait.setObjectName("muted")
        self._wait.setContentsMargins(12, 8, 12, 8)
        self._wait.setWordWrap(True)
        self._stack.addWidget(self._wait)
        theme.changed.connect(self._dress)

    def want(self) -> None:
        """The chart is about to be seen; it comes once the window has been drawn."""
        QTimer.singleShot(AFTER_MSEC, self._fetch)

    def _fetch(self) -> None:
        if self.plot is not None or self._job is not None:
            return
        if _PACKAGE in sys.modules:
            self._build()
            return

        def go_on() -> None:
            # Stopped or not: what was prepared only makes it quicker.
            if not sip.isdeleted(self):
                self._next.start(0)

        self._job = self._jobs.start(
            tr("Preparing charts"), _prepare, lambda _nothing: go_on(), stopped=go_on
        )

    def _import(self) -> None:
        """One package, and after a frame the next."""
        if not bringing_in.acquire(blocking=False):
            self._next.start(AFTER_MSEC)
            return
        try:
            importlib.import_module(self._names.pop(0))
        finally:
            bringing_in.release()
        if self._names:
            self._next.start(0)
        else:
            self._build()

    def _build(self) -> None:
        self.package = sys.modules[_PACKAGE]
        self.package.setConfigOptions(antialias=True)
        self.plot = self.package.PlotWidget(enableMenu=False)
        # An axis grows to the right in every language.
        self.plot.plotItem.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
        # The chart takes the focus, not the picture in it too.
        self.plot.viewport().setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.plot.hideButtons()
        self.plot.setAccessibleName(self.accessibleName())
        self._stack.addWidget(self.plot)
        self._show()
        self._dress()
        set_aside()

    def _dress(self) -> None:
        if self.plot is None:
            return
        palette = self._theme.palette
        self.plot.setBackground(colour(palette.paper))
        for side in ("left", "bottom"):
            axis = self.plot.getAxis(side)
            axis.setPen(colour(palette.muted))
            axis.setTextPen(colour(palette.ink))
            axis.setStyle(tickFont=number_font(8))
            axis.enableAutoSIPrefix(False)
        self.plot.showGrid(x=True, y=True, alpha=0.18)
        self._drawn()

    def show_words(self, words: str) -> None:
        """Words in place of the chart, or the chart again for none."""
        self._worded = bool(words)
        self._wait.setText(words or self._waiting)
        self._show()

    def _show(self) -> None:
        instead = self._worded or self.plot is None
        self._stack.setCurrentWidget(self._wait if instead else self.plot)

    def pen(self, dye: str, width: float = 2.0, dashes: tuple[float, ...] = ()) -> Any:
        made = self.package.mkPen(colour(dye), width=width)
        if dashes:
            made.setDashPattern(list(dashes))
        return made


# Dashes beside dyes, so that curves are told apart without hue.
def curve_looks(palette: Palette) -> tuple[tuple[str, tuple[float, ...]], ...]:
    return (
        (palette.indigo, ()),
        (palette.madder, (6, 3)),
        (palette.walnut, (2, 2)),
        (palette.ink, (9, 3, 2, 3)),
        (palette.weld, (1, 2)),
        (palette.heather, (5, 2, 1, 2, 1, 2)),
        (palette.lichen, (8, 6)),
        (palette.woad, (3, 5)),
        (palette.muted, (12, 4)),
    )
