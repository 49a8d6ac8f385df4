"""How a cell of the register's table is drawn, and how some are changed."""

from __future__ import annotations

import math

from PyQt6.QtCore import QAbstractItemModel, QModelIndex, Qt
from PyQt6.QtGui import QPainter, QPalette
from PyQt6.QtWidgets import (
    QComboBox,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from woven_locus.core.kinds.turns import turn_words
from woven_locus.core.register_table import Column, Heading
from woven_locus.ui.language import tr
from woven_locus.ui.parts.texts import Face
from woven_locus.ui.session.session import Session
from woven_locus.ui.tray.register_model import NUMBERS, RegisterModel

# Beside the words of a cell, pixels: what the style keeps free there.
_MARGIN = 3
# As numbers: a flag of Python's takes a microsecond to ask.
_ACTIVE, _FOCUS, _SELECTED = (
    flag.value
    for flag in (
        QStyle.StateFlag.State_Active,
        QStyle.StateFlag.State_HasFocus,
        QStyle.StateFlag.State_Selected,
    )
)


class CellDelegate(QStyledItemDelegate):
    """Draws words by itself, in half the time that the style takes: many rows are drawn anew with every edit.

    Headings, and the cell with the focus, are left to the style.
    """

    def __init__(self, table: QTableView, model: RegisterModel) -> None:
        super().__init__(table)
        self._model = model
        self._face = Face(table.font())

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        assert painter is not None
        model = self._model
        state: int = option.state.value  # type: ignore[assignment] # it is a number, the stubs say a flag
        if state & _FOCUS or isinstance(model.what_at(index.row()), Heading):
            super().paint(painter, option, index)
            return
        rect, palette = option.rect, option.palette
        group = QPalette.ColorGroup.Active if state & _ACTIVE else QPalette.ColorGroup.Inactive
        role = QPalette.ColorRole.Text
        if state & _SELECTED:
            painter.fillRect(rect, palette.brush(group, QPalette.ColorRole.Highlight))
            role = QPalette.ColorRole.HighlightedText
        if self._face.font != option.font:
            self._face = Face(option.font)
        face = self._face
        painter.setFont(face.font)
        painter.setPen(palette.color(group, role))
        words = face.elided(model.words_at(index), rect.width() - 2 * _MARGIN)
        left: float = rect.left() + _MARGIN
        if index.column() in NUMBERS:
            left = rect.right() + 1 - _MARGIN - face.width(words)
        face.draw(
            painter, left, rect.top() + (rect.height() - math.ceil(face.height) + 1) // 2, words
        )


class ChoiceDelegate(CellDelegate):
    """A list of what may be chosen, for the kind or the turn of a row."""

    def __init__(self, session: Session, table: QTableView, model: RegisterModel) -> None:
        super().__init__(table, model)
        self._session = session

    def createEditor(
        self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> QWidget | None:
        box, plan = QComboBox(parent), self._session.plan
        if index.column() == Column.KIND:
            for kind in plan.kinds:
                box.addItem(kind.name, kind.key)
        else:
            number = self._model.number_at(index.row())
            kind = plan.kinds[plan.register[number].kind]
            for turn in kind.all_turns:
                box.addItem(tr(turn_words(turn)), turn)
        box.setAccessibleName(tr("Kind") if index.column() == Column.KIND else tr("Turn"))
        return box

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        assert isinstance(editor, QComboBox)
        editor.setCurrentIndex(editor.findData(index.data(Qt.ItemDataRole.EditRole)))
        editor.activated.connect(lambda _at: self._done(editor))

    def _done(self, editor: QComboBox) -> None:
        self.commitData.emit(editor)
        self.closeEditor.emit(editor)

    def setModelData(
        self, editor: QWidget | None, model: QAbstractItemModel | None, index: QModelIndex
    ) -> None:
        assert isinstance(editor, QComboBox)
        assert model is not None
        model.setData(index, editor.currentData())
