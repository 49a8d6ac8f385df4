"""The clock of the waves: go, pause, step, faster, begin again; and how it stands."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from woven_locus.ui.answers.run_clock import SPEEDS
from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.clock_buttons import ClockButtons
from woven_locus.ui.parts.widgets import figures, heading
from woven_locus.ui.theme import Theme


class WaveClockPanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._waves = desk.waves
        waves = desk.waves
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("Clock"))
        self.buttons = ClockButtons(theme, SPEEDS, waves.set_running, waves.step, waves.set_speed)
        self.run, self.step = self.buttons.run, self.buttons.step
        column.addWidget(self.buttons)
        self.figures = figures()
        column.addWidget(self.figures)
        self.clear = QPushButton("Begin again")
        self.clear.setToolTip("Take all attackers off the map; the next run begins at 0")
        self.clear.clicked.connect(waves.clear)
        column.addWidget(self.clear)
        waves.changed.connect(self._show)
        waves.moved.connect(self._show_figures)
        self._show()

    def _show(self) -> None:
        waves = self._waves
        self.buttons.show_clock(waves.running, waves.speed)
        self.step.setEnabled(not waves.running)
        self.clear.setEnabled(waves.run is not None)
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
