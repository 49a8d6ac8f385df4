"""The clock of the waves: go, pause, step, faster, begin again; and how it stands."""

from __future__ import annotations

from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.ui.answers.run_clock import SPEEDS
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.parts.widgets import figures, heading, side_by_side
from woven_locus.ui.theme import Theme


class WaveClockPanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._waves, self._session, self._theme = desk.waves, desk.session, theme
        waves = desk.waves
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("Clock"))
        self.run = QPushButton("Run")
        self.run.setCheckable(True)
        self.run.clicked.connect(waves.set_running)
        self.step = QPushButton("Step")
        self.step.setToolTip("Let one thirtieth of a second pass")
        self.step.clicked.connect(waves.step)
        column.addWidget(side_by_side(self.run, self.step))
        grid, group = QGridLayout(), QButtonGroup(self)
        grid.setSpacing(4)
        self.speeds: dict[int, QPushButton] = {}
        for at, speed in enumerate(SPEEDS):
            button = QPushButton(f"×{speed}")
            button.setCheckable(True)
            button.setAccessibleName(f"Speed times {speed}")
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            button.clicked.connect(lambda _on, speed=speed: waves.set_speed(speed))
            group.addButton(button)
            grid.addWidget(button, at // 3, at % 3)
            self.speeds[speed] = button
        column.addLayout(grid)
        self.figures = figures()
        column.addWidget(self.figures)
        self.clear = QPushButton("Begin again")
        self.clear.setToolTip("Take all attackers off the map; the next run begins at 0")
        self.clear.clicked.connect(waves.clear)
        column.addWidget(self.clear)
        waves.changed.connect(self._show)
        waves.moved.connect(self._show_figures)
        theme.changed.connect(self._dress)
        self._show()

    def _dress(self) -> None:
        palette = self._theme.palette
        dress(self.run, "pause" if self._waves.running else "run", palette)
        dress(self.step, "step", palette)

    def _show(self) -> None:
        waves = self._waves
        self.run.setChecked(waves.running)
        self.run.setText("Pause" if waves.running else "Run")
        self.step.setEnabled(not waves.running)
        self.clear.setEnabled(waves.run is not None)
        self.speeds[waves.speed].setChecked(True)
        self._dress()
        self._show_figures()

    def _show_figures(self) -> None:
        run = self._waves.run
        if run is None:
            self.figures.setText("not begun")
            return
        come = [n for n, tally in enumerate(run.waves, 1) if tally.sent]
        lines = [
            f"time     {run.seconds:10.2f} s",
            f"wave     {f'{come[-1] if come else 0}/{len(run.waves)}':>10}",
            f"on map   {run.attackers.count_there:10,}",
            f"stopped  {sum(tally.stopped for tally in run.waves):10,}",
            f"through  {sum(tally.through for tally in run.waves):10,}",
            f"lives    {run.lives:10,}",
            f"funds    {run.funds:10,}",
        ]
        if run.over:
            lines.append("lost" if run.lost else "held")
        if self._waves.behind:
            lines.append("slower than asked for")
        self.figures.setText("\n".join(lines))
