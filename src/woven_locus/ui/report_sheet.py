"""Shows what was written down about a failure of the program, to be read before it is passed on."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import Dialog
from woven_locus.ui.parts.widgets import Label, copy_text
from woven_locus.ui.theme import em, number_font


class ReportSheet(Dialog):
    """The whole text, which can be copied."""

    def __init__(self, path: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Failure report"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.text = QPlainTextEdit(path.read_text("utf-8", "replace"))
        self.text.setReadOnly(True)
        self.text.setFont(number_font(9))
        self.text.setAccessibleName(tr("The report"))
        self.text.setMinimumSize(em(560), em(300))
        words = Label(
            tr(
                "Nothing of your plan is in it: where in the program, which versions, and the last actions by name. Send it along when you report what happened. It is kept in {path}",
                path=path,
            )
        )
        words.setWordWrap(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        copy = buttons.addButton(tr("Copy"), QDialogButtonBox.ButtonRole.ActionRole)
        assert copy is not None
        self.copy = copy
        self.copy.clicked.connect(lambda: copy_text(self.text.toPlainText()))
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addWidget(self.text, 1)
        column.addWidget(buttons)
