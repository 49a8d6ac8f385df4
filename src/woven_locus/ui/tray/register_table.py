"""The register as a table on a Qt model."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QItemSelection, QModelIndex, Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import cell_text
from woven_locus.core.grid.snapping import number
from woven_locus.core.register import Structure, structure_id
from woven_locus.ui.session import Session
from woven_locus.ui.theme import number_font

COLUMNS = ("No.", "Kind", "Cell", "Turn", "Cells", "Centre", "Price", "Placed", "By road")


class RegisterModel(QAbstractTableModel):
    """Rows are the register's in the order asked for; only what an edit names is told anew.

    It sorts by itself: a proxy would ask Python for every comparison.
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._numbers = session.plan.register.numbers()
        self._sorted_by = (0, False)
        self.changing = False  # rows come or go: a view's selection may wander meanwhile
        session.changed.connect(self._changed)
        session.replaced.connect(self._reset)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._numbers)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return COLUMNS[section]
        return None

    def number_at(self, row: int) -> int:
        return self._numbers[row]

    def row_of(self, number: int) -> int:
        """Raises ValueError when it is not there."""
        return self._numbers.index(number)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            row = self._session.plan.register[self._numbers[index.row()]]
            return self._value(row, index.column())[0]
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() in (3, 4, 6):
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        return None

    def _value(self, row: Structure, column: int) -> tuple[str, Any]:
        plan = self._session.plan
        footprint = plan.footprint_of(row)
        low = plan.spec.corner(row.cell)
        x = low.x + footprint.cols * plan.spec.cell_w / 2
        y = low.y + footprint.rows * plan.spec.cell_h / 2
        if column == 8:
            linked = self._session.document.is_linked(row.number)
            return ("joined" if linked else "cut off"), int(linked)
        values: tuple[tuple[str, Any], ...] = (
            (structure_id(row.number), row.number),
            (plan.kinds[row.kind].name, plan.kinds[row.kind].name),
            (cell_text(row.cell), row.cell.row * 2**32 + row.cell.col),
            (str(row.turn), row.turn),
            (str(len(footprint.cells)), len(footprint.cells)),
            (f"{number(x)}, {number(y)}", y * 1e6 + x),
            (str(row.price), row.price),
            (row.placed[:16].replace("T", " "), row.placed),
        )
        return values[column]

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._sorted_by = (column, order == Qt.SortOrder.DescendingOrder)
        self._reset()

    def _in_order(self) -> list[int]:
        register = self._session.plan.register
        column, down = self._sorted_by
        if column == 0:
            numbers = register.numbers()
            return numbers[::-1] if down else numbers
        rows = sorted(register, key=lambda row: self._value(row, column)[1], reverse=down)
        return [row.number for row in rows]

    def _reset(self) -> None:
        self.changing = True
        self.beginResetModel()
        self._numbers = self._in_order()
        self.endResetModel()
        self.changing = False

    def _changed(self, notice: Notice) -> None:
        self.changing = True
        self._follow(notice)
        self.changing = False

    def _follow(self, notice: Notice) -> None:
        register = self._session.plan.register
        if notice.reformed:
            self._reset()
            return
        known = set(self._numbers)
        come = sorted(n for n in notice.structures if n in register and n not in known)
        gone = [n for n in notice.structures if n not in register and n in known]
        plain = self._sorted_by == (0, False)
        between = bool(come and self._numbers and come[0] < self._numbers[-1])
        if len(come) + len(gone) > 50 or (come and not plain) or between:
            self._reset()
        else:
            for number_ in gone:
                at = self._numbers.index(number_)
                self.beginRemoveRows(QModelIndex(), at, at)
                del self._numbers[at]
                self.endRemoveRows()
            if come:
                at = len(self._numbers)
                self.beginInsertRows(QModelIndex(), at, at + len(come) - 1)
                self._numbers += come
                self.endInsertRows()
        if self._numbers and (notice.structures or "road" in notice.layers):
            last = self.index(len(self._numbers) - 1, len(COLUMNS) - 1)
            self.dataChanged.emit(self.index(0, 0), last)


class RegisterTable(QTableView):
    """Rows and map select each other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.model_ = RegisterModel(session)
        self.setModel(self.model_)
        self.setAccessibleName("Register of placed structures")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setSortingEnabled(True)
        self.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        self.setTabKeyNavigation(False)
        self.setFont(number_font(9))
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        assert rows is not None
        assert columns is not None
        rows.hide()
        rows.setDefaultSectionSize(22)
        columns.setStretchLastSection(True)
        columns.setHighlightSections(False)
        columns.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        columns.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column, width in enumerate((52, 106, 82, 46, 50, 108, 52, 132, 64)):
            self.setColumnWidth(column, width)
        session.selected.connect(self._follow_map)
        session.changed.connect(lambda _notice: self._follow_map())

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        super().selectionChanged(selected, deselected)
        if self.model_.changing:
            return
        rows = self.selectionModel().selectedRows() if self.selectionModel() else []  # type: ignore[union-attr]
        if rows:
            number_ = self.model_.number_at(rows[0].row())
            if number_ != self._session.selection:
                self._session.select(number_, reveal=True)

    def _follow_map(self) -> None:
        if not self._session.selection:
            if self.currentIndex().isValid():
                self.clearSelection()
                self.setCurrentIndex(QModelIndex())
            return
        try:
            row = self.model_.row_of(self._session.selection)
        except ValueError:
            return
        index = self.model_.index(row, 0)
        if index.row() != self.currentIndex().row() or not self.selectionModel().hasSelection():  # type: ignore[union-attr]
            self.selectRow(index.row())
            self.scrollTo(index)
