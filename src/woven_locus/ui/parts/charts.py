"""Charts in the program's own colours. The chart package takes long to import, so that it is brought
in by a thread when the first chart is wanted."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from typing import Any

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


class Chart(Drawn):
    """A place for one chart. `drawn` is called with it whenever it has to be drawn anew: once it is
    there, and when the theme changes; `plot` is None before."""

    def __init__(
        self, jobs: Jobs, theme: Theme, name: str, drawn: Callable[[], object], wait: str = ""
    ) -> None:
        super().__init__()
        self._jobs, self._theme, self._drawn = jobs, theme, drawn
        self.plot: Any = None
        self._job: Job | None = None
        self.setAccessibleName(name)
        self.setMinimumSize(220, 90)
        self._stack = QStackedLayout(self)
        self._wait = Label(wait or tr("Preparing the chart …"))
        self._wait.setObjectName("muted")
        self._wait.setContentsMargins(12, 8, 12, 8)
        self._wait.setWordWrap(True)
        self._stack.addWidget(self._wait)
        theme.changed.connect(self._dress)

    def want(self) -> None:
        """The chart is about to be seen; it comes once the window has been drawn."""
        QTimer.singleShot(AFTER_MSEC, self._fetch)

    def _fetch(self) -> None:
        if self.plot is not None or (self._job is not None and not self._job.stopped):
            return

        def bring_in(_stopped: Control) -> Any:
            with bringing_in:
                return importlib.import_module("pyqtgraph")

        self._job = self._jobs.start(tr("Preparing charts"), bring_in, self._build)

    def _build(self, package: Any) -> None:
        package.setConfigOptions(antialias=True)
        self.package = package
        self.plot = package.PlotWidget()
        # An axis grows to the right in every language.
        self.plot.plotItem.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
        # The chart takes the focus, not the picture in it too.
        self.plot.viewport().setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setAccessibleName(self.accessibleName())
        self._stack.addWidget(self.plot)
        self._stack.setCurrentWidget(self.plot)
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
        if words:
            self._wait.setText(words)
            self._stack.setCurrentWidget(self._wait)
        elif self.plot is not None:
            self._stack.setCurrentWidget(self.plot)

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
