"""The buttons of a clock: run, step, and how fast."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.ui.icons import dress
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import side_by_side
from woven_locus.ui.theme import Theme


class ClockButtons(QWidget):
    """run, step, and speeds by how many times as fast."""

    def __init__(
        self,
        theme: Theme,
        speeds: Sequence[int],
        run: Callable[[bool], object],
        step: Callable[[], object],
        set_speed: Callable[[int], object],
    ) -> None:
        super().__init__()
        self._theme, self._running = theme, False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.run = QPushButton(tr("Run"))
        self.run.setCheckable(True)
        self.run.clicked.connect(run)
        self.step = QPushButton(tr("Step"))
        self.step.setToolTip(tr("Let one thirtieth of a second pass"))
        self.step.clicked.connect(step)
        column.addWidget(side_by_side(self.run, self.step))
        grid, group = QGridLayout(), QButtonGroup(self)
        grid.setSpacing(4)
        self.speeds: dict[int, QPushButton] = {}
        for at, speed in enumerate(speeds):
            button = QPushButton(f"×{speed}")
            button.setCheckable(True)
            button.setAccessibleName(tr("Speed times {speed}", speed=speed))
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            button.clicked.connect(lambda _on, speed=speed: set_speed(speed))
            group.addButton(button)
            grid.addWidget(button, at // 3, at % 3)
            self.speeds[speed] = button
        column.addLayout(grid)
        theme.changed.connect(self._dress)

    def show_clock(self, running: bool, speed: int) -> None:
        """Whether time goes by, and how fast."""
        self._running = running
        self.run.setChecked(running)
        self.run.setText(tr("Pause") if running else tr("Run"))
        self.speeds[speed].setChecked(True)
        self._dress()

    def _dress(self) -> None:
        palette = self._theme.palette
        dress(self.run, "pause" if self._running else "run", palette)
        dress(self.step, "step", palette)
