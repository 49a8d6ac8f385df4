"""Funds: what there is, the clock by which structures pay, the curve over time, and what could be bought
when."""

from __future__ import annotations

from html import escape
from typing import Any

import numpy as np
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QWidget,
)

from woven_locus.core.books.forecast import curve, with_rewards
from woven_locus.core.clock import clock_text
from woven_locus.core.editing import Notice
from woven_locus.core.edits import money
from woven_locus.ui.answers.clock import SPEEDS, STEPS, PlanClock
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.language import tr
from woven_locus.ui.parts.charts import Chart
from woven_locus.ui.parts.panes import Panes, Sideways
from woven_locus.ui.parts.widgets import (
    ComboBox,
    Page,
    figures,
    quietly,
    side_by_side,
    whole_box,
)
from woven_locus.ui.theme import Theme, colour, em
from woven_locus.ui.tray.purchases import Purchases

LARGEST_SHOWN = 2**31 - 1
# The curve goes on at least so far beyond the clock, seconds.
AHEAD = 600


class FundsTab(QWidget):
    """purchases : what could be bought when."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        session = desk.session
        self._session, self._theme, self._rewards = session, theme, desk.rewards
        self.clock = PlanClock(session)
        self.purchases = Purchases(desk)
        self.keep = QCheckBox(tr("Keep funds"))
        self.opening = whole_box(1000, 0, LARGEST_SHOWN, tr("Opening funds"))
        self.share = whole_box(50, 0, 100, tr("Share that demolishing returns"))
        self.share.setSuffix(" %")
        for box in (self.opening, self.share):
            box.setMinimumWidth(em(96))  # not room for the largest number
        self.says = figures()
        self.run = QPushButton(tr("Run"))
        self.run.setCheckable(True)
        self.step = QPushButton(tr("Step"))
        self.again = QPushButton(tr("Back to 0"))
        self.again.setToolTip(tr("The clock at 0, with all that stands as if placed then"))
        self.speed, self.step_size = ComboBox(), ComboBox()
        self.speed.setAccessibleName(tr("Speed of the clock"))
        self.step_size.setAccessibleName(tr("Length of a step"))
        for factor in SPEEDS:
            self.speed.addItem(f"× {factor:,}", factor)
        for seconds, words in STEPS:
            self.step_size.addItem(words, seconds)
        self.chart = Chart(session.jobs, theme, tr("Funds over time"), self._draw)
        self._lay_out()
        self._listen(desk)
        self.refresh()

    def _lay_out(self) -> None:
        left = Page("funds")
        column = left.column
        column.setContentsMargins(10, 4, 6, 4)
        column.setSpacing(4)
        form = QFormLayout()
        form.setSpacing(4)
        form.addRow(self.keep, self.opening)
        form.addRow(tr("Returned"), self.share)
        column.addLayout(form)
        column.addWidget(self.says)
        column.addWidget(side_by_side(self.run, self.speed))
        column.addWidget(side_by_side(self.step, self.step_size))
        column.addWidget(self.again)
        column.addStretch(1)
        self.chart.setMinimumWidth(180)
        across = Panes((left, self.chart, self.purchases), (em(244), 0, em(340)), grows=1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(Sideways(across))

    def _listen(self, desk: Desk) -> None:
        session = desk.session
        self.keep.toggled.connect(self._set)
        self.opening.editingFinished.connect(self._set)
        self.share.editingFinished.connect(self._set)
        self.run.toggled.connect(self.clock.set_running)
        self.step.clicked.connect(lambda: self.clock.step(self.step_size.currentData()))
        self.again.clicked.connect(lambda: session.attempt(money.begin_again, session.plan))
        self.speed.currentIndexChanged.connect(
            lambda _at: setattr(self.clock, "speed", self.speed.currentData())
        )
        self.clock.switched.connect(self._show_clock)
        self.purchases.changed.connect(self.refresh)
        self._rewards.changed.connect(self.refresh)
        desk.waves.changed.connect(self.refresh)
        session.settled.connect(self.refresh)
        session.replaced.connect(self._fill)
        session.changed.connect(self._changed)
        self._theme.changed.connect(self._show_clock)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.chart.want()
        self.refresh()

    # --- what the user does ------------------------------------------------------------------

    def _set(self, *_value: object) -> None:
        session = self._session
        opening = self.opening.value() if self.keep.isChecked() else None
        kept = session.plan.funds
        if kept is not None and opening == min(kept.opening, LARGEST_SHOWN):
            opening = kept.opening  # what the box cannot hold stays as it was
        if not session.document.history.in_gesture:
            session.attempt(money.set_funds, session.plan, opening, self.share.value())
        self.refresh()

    # --- what is shown -----------------------------------------------------------------------

    def _changed(self, notice: Notice) -> None:
        if "kinds" in notice.layers or "grid" in notice.layers:
            self._fill()
        elif notice.structures or "funds" in notice.layers or self.purchases.with_waves.isChecked():
            self.refresh()

    def _fill(self) -> None:
        """The kinds of the plan, and all that follows."""
        self.purchases.fill()
        self.refresh()

    def _show_clock(self) -> None:
        running = self.clock.running
        quietly(self.run, lambda: self.run.setChecked(running))
        self.run.setText(tr("Pause") if running else tr("Run"))
        dress(self.run, "pause" if running else "run", self._theme.palette)
        dress(self.step, "step", self._theme.palette)

    def refresh(self) -> None:
        """Everything that follows from the funds, if it can be seen."""
        if not self.isVisible():
            return
        plan = self._session.plan
        kept = plan.funds
        quietly(self.keep, lambda: self.keep.setChecked(kept is not None))
        for widget in (
            self.share,
            self.run,
            self.step,
            self.again,
            self.speed,
            self.step_size,
        ):
            widget.setEnabled(kept is not None)
        self._show_clock()
        self.purchases.refresh()
        self.opening.setSuffix(f" {plan.money}")
        if kept is None:
            self.says.setText("")
            self.chart.show_words(
                tr(
                    "This plan keeps no funds: everything can be placed whatever it costs. "
                    "Tick “Keep funds” to begin."
                )
            )
            return
        if not self.opening.hasFocus():
            quietly(self.opening, lambda: self.opening.setValue(min(kept.opening, LARGEST_SHOWN)))
        if not self.share.hasFocus():
            quietly(self.share, lambda: self.share.setValue(kept.share))
        earned = (
            tr("\nthe run   {earned:+,}", earned=plan.account.earned) if plan.account.earned else ""
        )
        self.says.setText(
            tr(
                "there is  {balance:,}{earned}\nclock     {clock_text}",
                balance=plan.account.balance,
                earned=earned,
                clock_text=clock_text(kept.clock),
            )
        )
        self.chart.show_words("")
        self._draw()

    def points(self) -> list[tuple[int, int]]:
        """What the chart shows: (time, balance)."""
        plan = self._session.plan
        if plan.funds is None:
            return []
        last = max((item.at or 0 for item in self.purchases.found), default=0)
        until = max(plan.funds.clock + AHEAD, plan.funds.clock * 3 // 2, last * 11 // 10)
        found = curve(plan.register, plan.kinds, plan.funds, until)
        return (
            with_rewards(found, self._rewards.found or ())
            if self.purchases.counts_rewards
            else found
        )

    def _draw(self) -> None:
        plot = self.chart.plot
        funds = self._session.plan.funds
        if plot is None or funds is None or not self.isVisible():
            return
        palette = self._theme.palette
        plot.clear()
        found = np.array(self.points(), np.float64)
        # A balance stays as it is until it changes: steps, not slopes.
        x, y = np.repeat(found[:, 0], 2)[1:], np.repeat(found[:, 1], 2)[:-1]
        past = x <= funds.clock
        plot.plot(x[past], y[past], pen=self.chart.pen(palette.indigo))
        plot.plot(x[~past], y[~past], pen=self.chart.pen(palette.indigo, 1.5, (4, 3)))
        line: Any = self.chart.package.InfiniteLine(
            funds.clock, pen=self.chart.pen(palette.madder, 1.5)
        )
        plot.addItem(line)
        bought = [item for item in self.purchases.found if item.at is not None]
        if bought:
            plot.plot(
                [item.at for item in bought],
                [item.left for item in bought],
                pen=None,
                symbol="d",
                symbolSize=9,
                symbolBrush=colour(palette.weld),
                symbolPen=self.chart.pen(palette.ink, 1),
            )
        plot.setLabel("bottom", tr("seconds on the clock"))
        plot.setLabel("left", escape(self._session.plan.money))
