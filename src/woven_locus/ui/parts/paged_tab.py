"""A tab of the tray with a list of pages at its left."""

from __future__ import annotations

from typing import Protocol, runtime_checkable

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import List
from woven_locus.ui.theme import em


@runtime_checkable
class Wanted(Protocol):
    """A page that is made ready once it is wanted: a chart."""

    def want(self) -> None:
        """It is about to be seen."""


class PagedTab(QWidget):
    """views : the list of `pages`.  stack : the page that is shown.  out : the button that saves what is shown."""

    def __init__(self, pages: dict[str, QWidget], name: str) -> None:
        """name : what the list is of."""
        super().__init__()
        self.pages = pages
        self.views, self.stack = List(), QStackedWidget()
        self.views.setAccessibleName(name)
        self.views.setFixedWidth(em(146))
        self.views.setFrameShape(QFrame.Shape.NoFrame)
        self.views.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for title, page in pages.items():
            self.views.addItem(title)
            self.stack.addWidget(page)
        self.out = QPushButton("CSV…")
        self.out.setToolTip(tr("Save what is shown as a table"))
        self.out.setAccessibleName(tr("Save what is shown as CSV"))
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.refresh)
        self.views.currentTextChanged.connect(self._show)

    def refresh(self) -> None:
        """The page that is shown, as it is now."""
        raise NotImplementedError

    def _show(self, name: str) -> None:
        page = self.pages[name]
        self.stack.setCurrentWidget(page)
        if isinstance(page, Wanted):
            page.want()
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def _soon(self, msec: int) -> None:
        """Look again then, unless it was about to: what is not looked at is not worked out."""
        if self.isVisible() and not self._timer.isActive():
            self._timer.start(msec)

    def _lay_out(self, head: QLayout, *above: QWidget) -> None:
        """head : over the page.  above : what may stand between."""
        head.setContentsMargins(10, 2, 8, 0)
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(2)
        right.addLayout(head)
        for part in above:
            right.addWidget(part)
        right.addWidget(self.stack, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(self.views)
        row.addLayout(right, 1)

    def show_view(self, name: str) -> None:
        """One of `pages`."""
        self.views.setCurrentRow(list(self.pages).index(name))
