"""A stage's tools: one button each, two to a row."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from enum import Enum
from typing import Generic, TypeVar

from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QPushButton, QWidget

from woven_locus.ui.icons import dress
from woven_locus.ui.language import tr
from woven_locus.ui.theme import Theme

_Tool = TypeVar("_Tool", bound=Enum)


class ToolButtons(QWidget, Generic[_Tool]):
    """tools : icon, key and what it does, by tool.  take : called with the one that was chosen."""

    def __init__(
        self,
        tools: Mapping[_Tool, tuple[str, str, str]],
        theme: Theme,
        take: Callable[[_Tool], None],
    ) -> None:
        super().__init__()
        self._tools, self._theme = tools, theme
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        group = QButtonGroup(self)
        self.buttons: dict[_Tool, QPushButton] = {}
        for at, (tool, (_icon, key, words)) in enumerate(tools.items()):
            button = QPushButton(tr(tool.value))
            button.setCheckable(True)
            button.setToolTip(f"{words} ({key})")
            button.setStyleSheet("text-align: left; padding-left: 6px; padding-right: 4px;")
            button.clicked.connect(lambda _on, tool=tool: take(tool))
            group.addButton(button)
            grid.addWidget(button, at // 2, at % 2)
            self.buttons[tool] = button
        theme.changed.connect(self._dress)
        self._dress()

    def _dress(self) -> None:
        for tool, button in self.buttons.items():
            dress(button, self._tools[tool][0], self._theme.palette)

    def show_chosen(self, tool: _Tool) -> None:
        self.buttons[tool].setChecked(True)
