"""The history in words; clicking a step goes back or forward to it."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem

from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour


class HistoryList(QListWidget):
    """First the plan as it was opened, then each step; undone ones are pale."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.setAccessibleName("History of this plan since it was opened")
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setUniformItemSizes(True)
        session.changed.connect(lambda _notice: self._show())
        session.settled.connect(self._show)
        session.replaced.connect(self._show)
        theme.changed.connect(self._show)
        self.itemActivated.connect(self._go)
        self.itemClicked.connect(self._go)
        self._show()

    def _show(self) -> None:
        history = self._session.document.history
        if history.in_gesture:
            return
        labels = ["Plan as it was opened", *history.entries]
        palette = self._theme.palette
        with QSignalBlocker(self):
            while self.count() > len(labels):
                self.takeItem(self.count() - 1)
            for at, label in enumerate(labels):
                item = self.item(at)
                if item is None:
                    item = QListWidgetItem()
                    self.addItem(item)
                done = at <= history.position
                text = f"{at:>4}  {label}" if done else f"{at:>4}  {label}  (undone)"
                if item.text() != text:
                    item.setText(text)
                item.setForeground(colour(palette.ink if done else palette.muted))
            self.setCurrentRow(history.position)
        self.scrollToItem(self.item(history.position))

    def _go(self, item: QListWidgetItem) -> None:
        self._session.document.history.go_to(self.row(item))
