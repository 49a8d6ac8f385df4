"""A sheet with a table of classes, in which every change is a step of the history at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLayout,
    QLineEdit,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.editing import Edit
from woven_locus.core.errors import WovenError
from woven_locus.ui.language import tr
from woven_locus.ui.parts.dyes import DyeButton, ask_dye
from woven_locus.ui.parts.sizes import Dialog, open_within_screen, width_of_all
from woven_locus.ui.parts.tables import plain_table, set_widths
from woven_locus.ui.parts.widgets import Label, muted
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import em

Item = TypeVar("Item")


class ClassSheet(Dialog):
    """table : one class a row, the first column its name.  problem : why a change was refused.
    choose_dye : may be replaced."""

    def __init__(
        self,
        title: str,
        columns: Sequence[str],
        widths: Sequence[int],
        session: Session,
        parent: QWidget | None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session = session
        self._filling = False
        self.choose_dye: Callable[[str], str] = lambda now: ask_dye(self, now)
        self.table = plain_table(columns, title, 34)
        set_widths(self.table, enumerate(widths))
        self.problem = Label()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        self.add, self.remove = QPushButton(tr("Add a class")), QPushButton(tr("Remove it"))
        self.shut = QPushButton(tr("Close"))
        self.shut.clicked.connect(self.accept)

    @property
    def code(self) -> int:
        """The class that is selected."""
        return max(0, self.table.currentRow())

    def _dye_button(self, dye: str, change: Callable[[str], object]) -> QPushButton:
        button = DyeButton(dye)
        button.clicked.connect(lambda: change(self.choose_dye(dye)))
        return button

    def _put_row(self, row: int, name: str, widgets: Sequence[tuple[QWidget, str]]) -> None:
        """The widgets of a class, each with what it is of."""
        for column, (widget, words) in enumerate(widgets):
            widget.setAccessibleName(f"{words} {name}")
            self.table.setCellWidget(row, column, widget)

    def _lay_out(
        self, height: int, words: str, *below: QWidget | QLayout, beside: Sequence[QWidget] = ()
    ) -> None:
        """Words over the table, what goes below it, and the buttons with what goes beside them; from then on it
        follows the plan. height : at which it opens, in pixels of the plain font; as wide as its table."""
        self.shut.setDefault(True)
        column = QVBoxLayout(self)
        column.addWidget(muted(words))
        column.addWidget(self.table, 1)
        for part in below:
            if isinstance(part, QWidget):
                column.addWidget(part)
            else:
                column.addLayout(part)
        column.addWidget(self.problem)
        row = QHBoxLayout()
        row.addWidget(self.add)
        row.addWidget(self.remove)
        if beside:
            row.addSpacing(12)
        for part in beside:
            row.addWidget(part)
        row.addStretch(1)
        row.addWidget(self.shut)
        column.addLayout(row)
        # A method, not a lambda: Qt ends the connection when the sheet is closed, which deletes it.
        self._session.changed.connect(self._edited)
        self._fill()
        self.table.selectRow(0)
        sides = column.contentsMargins()
        width = width_of_all(self.table) + sides.left() + sides.right()
        open_within_screen(self, QSize(width, em(height)))

    def _edited(self, _notice: object) -> None:
        self._fill()

    def _fill(self) -> None:
        """Show the classes as the plan has them, with `_fill_all`."""
        raise NotImplementedError

    def _fill_all(self, items: Sequence[Item], fill: Callable[[int, Item], object]) -> None:
        """A row for each; the one that is selected stays so."""
        chosen = self.code
        self._filling = True
        self.table.setRowCount(len(items))
        for at, item in enumerate(items):
            fill(at, item)
        if items:
            self.table.selectRow(min(chosen, len(items) - 1))
        self._filling = False

    def _put_count(self, row: int, count: int | None) -> None:
        """How often a class is used, in the last column; None while that is not known yet."""
        cell = QTableWidgetItem("…" if count is None else f"{count:,}")
        to_the_right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        head = self.table.horizontalHeaderItem(self.table.columnCount() - 1)
        for part in (cell, head):
            if part is not None:
                part.setTextAlignment(to_the_right)
        cell.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
        self.table.setItem(row, self.table.columnCount() - 1, cell)

    def _do(self, make: Callable[[], Edit]) -> None:
        self.problem.setText("")
        try:
            edit = make()
        except WovenError as err:
            self.problem.setText(tr(err))
            return
        self._session.document.history.do(edit)

    def _name_last(self) -> None:
        """The last class is to be named."""
        self.table.selectRow(self.table.rowCount() - 1)
        name = self.table.cellWidget(self.code, 0)
        if isinstance(name, QLineEdit):
            name.setFocus()
            name.selectAll()
