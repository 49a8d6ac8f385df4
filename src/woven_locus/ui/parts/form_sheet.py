"""A sheet of questions with the answer worked out beside them while they are filled in."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.parts.sizes import Dialog
from woven_locus.ui.parts.widgets import Label


class FormSheet(Dialog):
    """form : the questions.  side : what they give.  `show_problem` says why it cannot be done."""

    def __init__(self, title: str, make: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.form = QFormLayout()
        self.side = QVBoxLayout()
        self.top = QHBoxLayout()
        self.top.addLayout(self.form)
        self.top.addSpacing(16)
        self.top.addLayout(self.side, 1)
        self.problem = Label()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        kinds = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        button = self.buttons.button(kinds.Ok)
        assert button is not None
        self.make: QPushButton = button
        self.make.setText(make)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        self.column = QVBoxLayout(self)
        self.column.addLayout(self.top)
        self.column.addWidget(self.problem)
        self.column.addWidget(self.buttons)

    def show_problem(self, words: str) -> None:
        """Why not, or nothing when it can be done."""
        self.problem.setText(words)
        self.problem.setVisible(bool(words))
        self.make.setEnabled(not words)
