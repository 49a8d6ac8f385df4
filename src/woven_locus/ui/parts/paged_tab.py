"""A tab of the tray with a list of pages at its left."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLayout,
    QListWidget,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.theme import em


class PagedTab(QWidget):
    """views : the list of `pages`.  stack : the page that is shown."""

    def __init__(self, pages: dict[str, QWidget], name: str) -> None:
        """name : what the list is of."""
        super().__init__()
        self.pages = pages
        self.views, self.stack = QListWidget(), QStackedWidget()
        self.views.setAccessibleName(name)
        self.views.setFixedWidth(em(146))
        self.views.setFrameShape(QFrame.Shape.NoFrame)
        self.views.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for title, page in pages.items():
            self.views.addItem(title)
            self.stack.addWidget(page)

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
