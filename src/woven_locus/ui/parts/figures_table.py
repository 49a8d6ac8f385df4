"""A table of figures that is only read, sorted by a click on a heading; made anew while it is looked at.

Heads and words of ours stay English in it, and are translated where they are shown: it is saved as CSV too.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import QTableView

from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.tables import only_read, select_rows
from woven_locus.ui.theme import number_font, text_font

Value = str | int | float | None
# How a column shows its values.
Show = Callable[[Any], str]


def plain(value: Value) -> str:
    """A text, or a whole number."""
    if isinstance(value, str):
        return shown(value)
    return f"{value:,}" if isinstance(value, int) else str(value)


def tenths(value: Value) -> str:
    """Seconds, say; nothing for what is not known."""
    return f"{value:,.1f}" if isinstance(value, int | float) else ""


def change(value: Value) -> str:
    """With its sign."""
    return f"{value:+,.1f}" if isinstance(value, int | float) else ""


class FiguresModel(QAbstractTableModel):
    def __init__(self, columns: Sequence[tuple[str, Show]]) -> None:
        super().__init__()
        self.columns = list(columns)
        self.rows: list[tuple[Value, ...]] = []
        self.keys: list[object] = []
        self._by, self._falls = -1, False

    def take(self, rows: Sequence[tuple[Value, ...]], keys: Sequence[object]) -> None:
        """Other rows. keys : what each is of."""
        order = self._order(rows)
        self.beginResetModel()
        self.rows, self.keys = [rows[at] for at in order], [keys[at] for at in order]
        self.endResetModel()

    def _order(self, rows: Sequence[tuple[Value, ...]]) -> list[int]:
        order = list(range(len(rows)))
        if self._by >= 0:
            # What is not known comes last, whichever way it is sorted.
            def key(at: int) -> tuple[bool, Any]:
                value = rows[at][self._by]
                return (value is None) != self._falls, value if value is not None else 0

            order.sort(key=key, reverse=self._falls)
        return order

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._by, self._falls = column, order == Qt.SortOrder.DescendingOrder
        self.take(self.rows, self.keys)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.columns)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return tr(self.columns[section][0])
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        value = self.rows[index.row()][index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return "" if value is None else self.columns[index.column()][1](value)
        if role == Qt.ItemDataRole.TextAlignmentRole and not isinstance(value, str):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.FontRole and isinstance(value, str):
            return text_font(9)
        return None


class FiguresTable(QTableView):
    """picked : the key of the row that the user chose."""

    picked = pyqtSignal(object)

    def __init__(
        self, name: str, columns: Sequence[tuple[str, Show]], widths: Sequence[int]
    ) -> None:
        super().__init__()
        self.figures = FiguresModel(columns)
        self.setModel(self.figures)
        self.setFont(number_font(9))
        select_rows(self, name)
        only_read(self, enumerate(widths))
        head = self.horizontalHeader()
        assert head is not None
        head.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        self.setSortingEnabled(True)
        self.clicked.connect(self._pick)
        self.activated.connect(self._pick)

    def _pick(self, index: QModelIndex) -> None:
        self.picked.emit(self.figures.keys[index.row()])

    def take(self, rows: Sequence[tuple[Value, ...]], keys: Sequence[object]) -> None:
        """Other rows; what was selected stays so, and the place that is looked at."""
        bar, chosen = self.verticalScrollBar(), self._chosen()
        assert bar is not None
        at = bar.value()
        self.figures.take(rows, keys)
        bar.setValue(at)
        if chosen is not None and chosen in self.figures.keys:
            self.selectRow(self.figures.keys.index(chosen))

    def _chosen(self) -> object:
        model = self.selectionModel()
        rows = model.selectedRows() if model is not None else []
        return self.figures.keys[rows[0].row()] if rows else None
