"""Tables that are read, and tables whose cells are widgets, made alike."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QAbstractTableModel, Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QTableWidget

from woven_locus.ui.theme import em, number_font
from woven_locus.ui.theme import row_height as row

# Pixels of a row that is read.
_READ = 22


def plain_table(columns: Sequence[str], name: str, row_height: int) -> QTableWidget:
    """A table of whole rows, one of which can be selected. name : its accessible name."""
    table = QTableWidget(0, len(columns))
    table.setHorizontalHeaderLabels(list(columns))
    select_rows(table, name, row_height)
    return table


def reading_table(
    columns: Sequence[str], name: str, stretch: int, widths: dict[int, int]
) -> QTableWidget:
    """A table that is only read. stretch : the column that takes the room that is left."""
    table = plain_table(columns, name, _READ)
    _stretch(table, stretch)
    only_read(table, widths.items())
    return table


def reading_view(
    model: QAbstractTableModel, name: str, stretch: int, widths: dict[int, int]
) -> QTableView:
    """The same for many rows: a model is asked for those that show."""
    view = QTableView()
    view.setModel(model)
    select_rows(view, name, _READ)
    _stretch(view, stretch)
    only_read(view, widths.items())
    return view


def select_rows(table: QTableView, name: str, row_height: int = 0) -> None:
    """Whole rows, one of which can be selected. name : accessible.  row_height : pixels at least."""
    table.setAccessibleName(name)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setShowGrid(False)
    table.setWordWrap(False)
    rows = table.verticalHeader()
    assert rows is not None
    rows.hide()
    rows.setDefaultSectionSize(max(row_height, row(number_font(9), 6)))
    head = table.horizontalHeader()
    assert head is not None
    # A head in bold, as of what is selected, needs more room than it has.
    head.setHighlightSections(False)
    head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)


def _stretch(table: QTableView, column: int) -> None:
    header = table.horizontalHeader()
    assert header is not None
    header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
    header.setMinimumSectionSize(40)


def only_read(table: QTableView, widths: Iterable[tuple[int, int]]) -> None:
    """Nothing is typed into it; widths : of its columns, as `set_widths` takes them."""
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    table.setAlternatingRowColors(True)
    table.setTabKeyNavigation(False)
    set_widths(table, widths)


def set_widths(table: QTableView, widths: Iterable[tuple[int, int]]) -> None:
    """Widths of columns in pixels of the plain font; a head that needs more, in whatever language, has it. The table is
    laid out left to right, whatever the window is."""
    head, model = table.horizontalHeader(), table.model()
    assert head is not None
    assert model is not None
    # Figures and names: their order is that of the page, also where the window is laid out right to left.
    table.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
    for column, width in widths:
        words = str(model.headerData(column, Qt.Orientation.Horizontal) or "")
        table.setColumnWidth(
            column, max(em(width), head.fontMetrics().horizontalAdvance(words) + 18)
        )
