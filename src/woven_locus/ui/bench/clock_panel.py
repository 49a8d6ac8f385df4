"""The clock of a run: go, pause, step, faster, back, begin again; and how it stands."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QSlider, QVBoxLayout, QWidget

from woven_locus.core.clock import seconds_words
from woven_locus.ui.answers.run_clock import SPEEDS
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.answers.waves import WaveKeeper
from woven_locus.ui.language import tr
from woven_locus.ui.parts.clock_buttons import ClockButtons
from woven_locus.ui.parts.widgets import figures, heading, muted, quietly
from woven_locus.ui.theme import Theme


class ClockPanel(QWidget):
    """back : the slider that turns the run back."""

    def __init__(self, keeper: TrafficKeeper | WaveKeeper, theme: Theme, clear_tip: str) -> None:
        super().__init__()
        self._keeper = keeper
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading(tr("Clock")))
        self.buttons = ClockButtons(
            theme, SPEEDS, keeper.set_running, keeper.step, keeper.set_speed
        )
        self.run, self.step, self.speeds = (
            self.buttons.run,
            self.buttons.step,
            self.buttons.speeds,
        )
        column.addWidget(self.buttons)
        self.back = QSlider(Qt.Orientation.Horizontal)
        self.back.setAccessibleName(tr("Time shown: drag to turn the run back"))
        self.back.setToolTip(tr("Turn the run back, and on again as far as it was"))
        self.back.valueChanged.connect(keeper.seek)
        column.addWidget(self.back)
        self.since = muted()
        column.addWidget(self.since)
        self.figures = figures()
        column.addWidget(self.figures)
        self.clear = QPushButton(tr("Begin again"))
        self.clear.setToolTip(clear_tip)
        self.clear.clicked.connect(keeper.clear)
        column.addWidget(self.clear)
        keeper.changed.connect(self._show_clock)
        keeper.moved.connect(self._show_figures)
        self._show_clock()

    def _lines(self) -> list[str]:
        """How the run stands; there is one."""
        raise NotImplementedError

    def _show_clock(self) -> None:
        keeper = self._keeper
        self.buttons.show_clock(keeper.running, keeper.speed)
        self.run.setEnabled(not keeper.working)
        self.step.setEnabled(not keeper.working and not keeper.running)
        self.clear.setEnabled(keeper.run is not None)
        self._show_figures()

    def _show_figures(self) -> None:
        keeper = self._keeper
        run, timeline = keeper.run, keeper.timeline
        self.back.setEnabled(timeline is not None)
        self.since.setVisible(timeline is not None and timeline.first > 0)
        if run is None or timeline is None:
            quietly(self.back, lambda: self.back.setRange(0, 0))
            self.figures.setText(tr("not begun"))
            return
        # A drag must not be answered by the slider that makes it.
        if not self.back.isSliderDown():
            quietly(self.back, lambda: self._show_time(timeline, run.steps))
        if timeline.first > 0:
            began = seconds_words(timeline.first * run.step)
            self.since.setText(
                tr("Back to {began}: what was before was another plan.", began=began)
            )
        lines = self._lines()
        if keeper.behind:
            lines.append(tr("slower than asked for"))
        self.figures.setText("\n".join(lines))

    def _show_time(self, timeline: Any, now: int) -> None:
        self.back.setRange(timeline.first, timeline.last)
        self.back.setPageStep(max(1, (timeline.last - timeline.first) // 10))
        self.back.setValue(now)
