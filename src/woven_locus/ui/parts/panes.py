"""Panes side by side that the user can make wider or narrower."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QSplitter, QWidget


class Panes(QSplitter):
    """As wide as is asked for, and the one that grows takes what is left, until the user moves a border: Qt alone deals
    out the widths before the window has its own, and panes then stay as narrow as they may be."""

    def __init__(self, panes: Sequence[QWidget], widths: Sequence[int], grows: int) -> None:
        """widths : pixels, of which that of the pane `grows` does not count."""
        super().__init__(Qt.Orientation.Horizontal)
        self._widths, self._grows, self._moved = widths, grows, False
        for pane in panes:
            self.addWidget(pane)
        self.setStretchFactor(grows, 1)
        self.splitterMoved.connect(self._keep)

    def _keep(self) -> None:
        self._moved = True

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if not self._moved:
            sizes = list(self._widths)
            sizes[self._grows] = 0
            borders = self.handleWidth() * (len(sizes) - 1)
            sizes[self._grows] = max(1, self.width() - sum(sizes) - borders)
            self.setSizes(sizes)


class Sideways(QScrollArea):
    """Scrolls sideways where there is less room than what is in it must have: Qt would lay its parts over one another."""

    def __init__(self, inner: QWidget) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        # As low as may be: parts with much in them scroll by themselves.
        inner.setMinimumHeight(1)
        self.setWidget(inner)

    def minimumSizeHint(self) -> QSize:
        # As if it were not scrolled, so that a tray has the room that the words on its other tabs need, too. It is scrolled where
        # the window has less.
        inner = self.widget()
        return inner.minimumSizeHint() if inner is not None else super().minimumSizeHint()
