"""The clock of the run: go, pause, step, faster, back."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.traffic.timeline import seconds_words
from woven_locus.ui.answers.run_clock import SPEEDS
from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.clock_buttons import ClockButtons
from woven_locus.ui.parts.widgets import figures, heading, muted, quietly
from woven_locus.ui.theme import Theme


class ClockPanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._traffic = desk.traffic
        traffic = desk.traffic
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("Clock"))
        self.buttons = ClockButtons(
            theme, SPEEDS, traffic.set_running, traffic.step, traffic.set_speed
        )
        self.run, self.step, self.speeds = (
            self.buttons.run,
            self.buttons.step,
            self.buttons.speeds,
        )
        column.addWidget(self.buttons)
        self.back = QSlider(Qt.Orientation.Horizontal)
        self.back.setAccessibleName("Time shown: drag to turn the run back")
        self.back.setToolTip("Turn the run back, and on again as far as it was")
        self.back.valueChanged.connect(traffic.seek)
        column.addWidget(self.back)
        self.since = muted()
        column.addWidget(self.since)
        self.figures = figures()
        column.addWidget(self.figures)
        self.clear = QPushButton("Begin again")
        self.clear.setToolTip("Take all vehicles off the road; the next run begins at 0")
        self.clear.clicked.connect(traffic.clear)
        column.addWidget(self.clear)
        traffic.changed.connect(self._show_clock)
        traffic.moved.connect(self._show_figures)
        self._show_clock()

    def _show_clock(self) -> None:
        traffic = self._traffic
        self.buttons.show_clock(traffic.running, traffic.speed)
        self.run.setEnabled(not traffic.working)
        self.step.setEnabled(not traffic.working and not traffic.running)
        self.clear.setEnabled(traffic.run is not None)
        self._show_figures()

    def _show_figures(self) -> None:
        run, timeline = self._traffic.run, self._traffic.timeline
        self.back.setEnabled(timeline is not None)
        self.since.setVisible(timeline is not None and timeline.first > 0)
        if run is None or timeline is None:
            quietly(self.back, lambda: self.back.setRange(0, 0))
            self.figures.setText("not begun")
            return
        # A drag must not be answered by the slider that makes it.
        if not self.back.isSliderDown():
            quietly(self.back, lambda: self._show_time(timeline.first, timeline.last, run.steps))
        if timeline.first > 0:
            began = seconds_words(timeline.first * run.step)
            self.since.setText(f"Back to {began}: what was before was another plan.")
        counts = run.counts()
        delays = run.arrivals.delay
        delay = float(np.mean(delays)) if delays else 0.0
        lines = [
            f"time       {run.seconds:10.2f} s",
            f"under way  {counts.under_way:10,}",
            f"arrived    {counts.arrived:10,}",
            f"held back  {counts.held_back:10,}",
            f"no way     {counts.no_way:10,}",
            f"mean delay {delay:10.1f} s",
        ]
        if counts.taken_off:
            lines.append(f"taken off  {counts.taken_off:10,}")
        if self._traffic.rings:
            lines.append(f"gridlock   {sum(map(len, self._traffic.rings)):10,}")
        if self._traffic.behind:
            lines.append("slower than asked for")
        self.figures.setText("\n".join(lines))

    def _show_time(self, first: int, last: int, now: int) -> None:
        self.back.setRange(first, last)
        self.back.setPageStep(max(1, (last - first) // 10))
        self.back.setValue(now)
