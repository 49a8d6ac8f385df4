"""Findings as rows of a table: worded where they show, since hundreds are listed and a dozen are in sight."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from woven_locus.core.geometry import cell_text
from woven_locus.core.proof.finding import Finding, Severity
from woven_locus.core.proof.table import CHECKS, OUTDATED
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.widgets import tip
from woven_locus.ui.theme import Theme, colour

COLUMNS = (tr("What"), tr("Cell"), tr("Finding"), tr("Mend"))
# A mark for each severity, so that no hue is needed.
MARKS = {Severity.ERROR: "✕", Severity.WARNING: "△", Severity.NOTE: "·"}
_TITLES = {check.code: check.title for check in (*CHECKS, OUTDATED)}


class FindingsModel(QAbstractTableModel):
    """rows : what is listed."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.rows: list[Finding] = []

    def take(self, rows: list[Finding]) -> None:
        """Other rows, in place of those that are there: what is scrolled to stays."""
        before, count, nothing = len(self.rows), len(rows), QModelIndex()
        if count < before:
            self.beginRemoveRows(nothing, count, before - 1)
            self.rows = rows
            self.endRemoveRows()
        elif count > before:
            self.beginInsertRows(nothing, before, count - 1)
            self.rows = rows
            self.endInsertRows()
        self.rows = rows
        if rows:
            self.dataChanged.emit(self.index(0, 0), self.index(count - 1, len(COLUMNS) - 1))

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(COLUMNS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return COLUMNS[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        each = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return _text(each, index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip(_text(each, index.column()))
        if role == Qt.ItemDataRole.ForegroundRole and each.reason:
            return colour(self._theme.palette.muted)
        return None


def _text(each: Finding, column: int) -> str:
    match column:
        case 0:
            return f"{MARKS[each.severity]} {tr(_TITLES[each.code])}"
        case 1:
            return cell_text(each.cell) if each.cell is not None else ""
        case 2:
            return shown(each.message)
        case _:
            if each.reason:
                return tr("accepted: {reason}", reason=each.reason)
            return shown(each.mend_words)
