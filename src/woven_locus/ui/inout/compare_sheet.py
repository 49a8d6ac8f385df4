"""The sheet of two plans: a list of what is another, which goes there."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QCloseEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.files.compare_lines import Line
from woven_locus.ui.answers.compared import ComparedKeeper
from woven_locus.ui.language import counted, shown, tr
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.parts.widgets import Label, List
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import number_font


class CompareSheet(Dialog):
    """Stays open beside the window; closing it ends the comparison."""

    def __init__(
        self, session: Session, compared: ComparedKeeper, turn: QAction, parent: QWidget
    ) -> None:
        """turn : the window's action that shows the other plan."""
        super().__init__(parent)
        self.setWindowTitle(tr("Compare"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session, self._compared = session, compared
        self.head = Label()
        self.head.setWordWrap(True)
        self.words = QLineEdit()
        self.words.setPlaceholderText(tr("Only lines with these words"))
        self.words.setAccessibleName(tr("Only lines with these words"))
        self.words.setClearButtonEnabled(True)
        self.words.textChanged.connect(self._show)
        self.list = List()
        self.list.setFont(number_font())
        self.list.setAccessibleName(tr("Compare"))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._go)
        self.list.itemActivated.connect(self._go)
        self.take = QPushButton(tr("Take over"))
        self.take.setToolTip(tr("Have it as in the other plan; one step, which can be undone"))
        self.take.clicked.connect(self._take)
        self.turn = QPushButton(tr("Show the other plan"))
        self.turn.setCheckable(True)
        self.turn.setToolTip(
            tr(
                "The other plan on the sheet, and back ({key})",
                key=turn.shortcut().toString(),
            )
        )
        self.turn.clicked.connect(compared.turn)
        # Its key works here as it does in the window.
        self.addAction(turn)
        buttons = QHBoxLayout()
        for button in (self.take, self.turn):
            button.setAutoDefault(False)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        for widget in (self.head, self.words, self.list):
            column.addWidget(widget)
        column.addLayout(buttons)
        open_as(self, 520, 420)
        compared.changed.connect(self._show)
        compared.turned_round.connect(self._turned)
        self._show()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        self._compared.changed.disconnect(self._show)
        self._compared.turned_round.disconnect(self._turned)
        self._compared.end()
        event.accept()

    def reject(self) -> None:
        """Esc closes it as its button does."""
        self.close()

    def _show(self) -> None:
        path, lines = self._compared.path, self._compared.lines
        if path is None:
            self.close()
            return
        name = path.name
        if lines is None:
            self.head.setText(tr("Reading {name} …", name=name))
        elif not lines:
            self.head.setText(tr("The same as {name}.", name=name))
        else:
            self.head.setText(
                tr(
                    "Since {name}: {lines}. + came, - went, ~ is another; choose one to go there.",
                    name=name,
                    lines=counted(len(lines), "{n:,} line", "{n:,} lines"),
                )
            )
        kept = self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        wanted = self.words.text().casefold().split()
        for line in lines or ():
            text = f"{line.sign} {shown(line.words)}"
            if all(word in text.casefold() for word in wanted):
                item = QListWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, line)
                # One that just fits is drawn with its end cut off.
                item.setToolTip(text)
                self.list.addItem(item)
        self.list.setCurrentRow(min(kept, self.list.count() - 1))
        self.list.blockSignals(False)
        self._may_take()

    @property
    def line(self) -> Line | None:
        """The one that is chosen."""
        item = self.list.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item is not None else None

    def _may_take(self) -> None:
        line = self.line
        self.take.setEnabled(line is not None and line.thing is not None)
        self.turn.setEnabled(self._compared.other is not None)

    def _take(self) -> None:
        if self.line is not None:
            self._compared.take_over(self.line)

    def _turned(self) -> None:
        self.turn.setChecked(self._compared.turned)

    def _go(self, item: QListWidgetItem | None, *_before: object) -> None:
        self._may_take()
        line: Line | None = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if line is None or line.low is None or not self._session.plan.spec.contains(line.low):
            return
        self._session.reveal.emit(line.low)
        who = self._session.plan.occupant_at(line.low)
        if who > 0:
            self._session.selection.select(who)
