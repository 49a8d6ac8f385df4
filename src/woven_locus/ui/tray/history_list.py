"""The history in words; clicking a step goes back or forward to it."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem

from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour


class HistoryList(QListWidget):
    """First the plan as it was opened, then each step; undone ones are pale."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.setAccessibleName(tr("History of this plan since it was opened"))
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setUniformItemSizes(True)
        session.changed.connect(lambda _notice: self._show())
        session.settled.connect(self._show)
        session.replaced.connect(self._show)
        theme.changed.connect(self._show_all)
        # What is shown: of a long history an edit must not go through all rows.
        self._labels: list[str] = []
        self._position = 0
        self.itemActivated.connect(self._go)
        self.itemClicked.connect(self._go)
        self._show()

    def _show_all(self) -> None:
        self._labels = []
        self._show()

    def _show(self) -> None:
        history = self._session.document.history
        if history.in_gesture:
            return
        old, labels = self._labels, [tr("Plan as it was opened"), *history.entries]
        was, position = self._position, history.position
        self._labels, self._position = labels, position
        rows = {at for at, label in enumerate(labels) if at >= len(old) or label != old[at]}
        # Those that are done now, or no more.
        rows.update(range(min(was, position) + 1, min(max(was, position) + 1, len(labels))))
        palette = self._theme.palette
        with QSignalBlocker(self):
            while self.count() > len(labels):
                self.takeItem(self.count() - 1)
            for at in sorted(rows):
                item = self.item(at)
                if item is None:
                    item = QListWidgetItem()
                    self.addItem(item)
                done = at <= position
                undone = "" if done else tr("  (undone)")
                item.setText(f"{at:>4}  {tr(labels[at])}{undone}")
                item.setForeground(colour(palette.ink if done else palette.muted))
            self.setCurrentRow(position)
        self.scrollToItem(self.item(position))

    def _go(self, item: QListWidgetItem) -> None:
        self._session.document.history.go_to(self.row(item))
