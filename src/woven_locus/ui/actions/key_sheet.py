"""All keys on one page."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QVBoxLayout, QWidget

from woven_locus.ui.actions.table import ACTIONS, SHEET_KEYS
from woven_locus.ui.widgets import figures, heading, muted


class KeySheet(QDialog):
    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(4)
        groups: dict[str, list[tuple[str, str]]] = {}
        for action in ACTIONS:
            if action.key:
                rows = groups.setdefault(action.menu.replace("&", ""), [])
                rows.append((action.key, action.text.replace("&", "").rstrip("…")))
        groups["On the sheet"] = list(SHEET_KEYS)
        columns = (["Plan", "Edit", "Help"], ["View", "Stage"], ["On the sheet"])
        for at, names in enumerate(columns):
            line = 0
            for name in names:
                grid.addWidget(heading(name), line, 2 * at, 1, 2)
                for key, words in groups[name]:
                    line += 1
                    grid.addWidget(figures(key), line, 2 * at)
                    text = muted(words)
                    text.setWordWrap(False)
                    grid.addWidget(text, line, 2 * at + 1)
                line += 1
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(grid)
        column.addWidget(buttons)
