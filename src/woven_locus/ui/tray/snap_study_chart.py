"""The chart of the snap study: raw against snapped position, where the rules part, and the pointer on it."""

from __future__ import annotations

from html import escape
from typing import Any

import numpy as np
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from woven_locus.core.grid.snap_study import Study
from woven_locus.ui.language import inside, shown, tr
from woven_locus.ui.parts.charts import Chart, curve_looks
from woven_locus.ui.parts.widgets import Label, Strip
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour

# Steps to either side of the middle that are drawn.
REACH = 4.0


class SnapStudyChart(QWidget):
    """study : what is drawn, or None.  shown : keys of the curves that are switched on, in order.
    flag : where the curves differ, in words."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.study: Study | None = None
        self.shown: list[str] = []
        self._drawn_range = (0.0, 0.0)
        self._pointer_line: tuple[Any, Any] | None = None
        self.flag = Label()
        self.flag.setObjectName("muted")
        self.flag.setContentsMargins(6, 0, 6, 0)
        self.chart = Chart(session.jobs, theme, tr("Raw against snapped position"), self._draw)
        flag = Strip()
        flag.row.setContentsMargins(0, 0, 0, 0)
        flag.row.addWidget(self.flag, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(0)
        column.addWidget(flag)
        # On a narrow screen the bench and the Reading keep their widths.
        self.chart.setMinimumWidth(150)
        column.addWidget(self.chart, 1)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._follow_pointer)
        session.pointer.moved.connect(self._hovered)

    def show_study(self, study: Study | None, shown: list[str]) -> None:
        """Draw another study, or other curves of it."""
        self.study, self.shown = study, shown
        self._draw()

    def _range(self) -> tuple[float, float]:
        """Around the origin, or around the pointer when that is far off it."""
        assert self.study is not None
        middle, reach = self.study.origin, REACH * self.study.step
        raw = self._raw()
        if raw is not None and abs(raw - middle) > reach:
            middle = round((raw - middle) / self.study.step) * self.study.step + middle
        return middle - reach, middle + reach

    def _raw(self) -> float | None:
        hover = self._session.pointer.hover
        if hover is None:
            return None
        return hover.point.x if self.study is not None and self.study.axis == "x" else hover.point.y

    def _draw(self) -> None:
        if self.study is None or self.chart.plot is None:
            return
        plot, chart = self.chart.plot, self.chart
        plot.clear()
        self._pointer_line = None
        low, high = self._range()
        self._drawn_range = (low, high)
        looks = curve_looks(self._theme.palette)
        unit = self._session.plan.spec.unit
        plot.setLabel("bottom", tr("raw {axis}, {unit}", axis=self.study.axis, unit=escape(unit)))
        plot.setLabel("left", tr("snapped"))
        for at, curve in enumerate(self.study.curves):
            if curve.key not in self.shown:
                continue
            dye, dashes = looks[at % len(looks)]
            pieces = self.study.segments(curve.key, low, high)
            x = np.array([end for piece in pieces for end in piece[:2]])
            y = np.array([value for *_ends, value in pieces for _ in range(2)])
            plot.plot(
                x, y, connect="pairs", pen=chart.pen(dye, 2.4 if not curve.wrong else 1.8, dashes)
            )
            # A full disc where a level begins: the jump belongs to the upper level.
            starts = pieces[1:]
            plot.plot(
                [piece[0] for piece in starts],
                [piece[2] for piece in starts],
                pen=None,
                symbol="o",
                symbolSize=5,
                symbolBrush=colour(dye),
                symbolPen=None,
            )
        self._draw_disagreements(low, high)
        plot.setXRange(low, high, padding=0.02)
        self._say_disagreements(low, high)
        plot.getAxis("left").setWidth(48)
        self._follow_pointer()

    def _pairs(self) -> list[tuple[str, str]]:
        """Which of the curves shown are compared: each wrong variant with its rule, and the rules
        with one another."""
        assert self.study is not None
        right = [c.key for c in self.study.curves if not c.wrong and c.key in self.shown]
        pairs = [(a, b) for k, a in enumerate(right) for b in right[k + 1 :]]
        wrong = [(c.key, c.like) for c in self.study.curves if c.wrong and c.key in self.shown]
        return wrong or pairs

    def _draw_disagreements(self, low: float, high: float) -> None:
        """Bands where a wrong variant differs from its rule, and crosses at single places."""
        assert self.study is not None
        palette = self._theme.palette
        package, plot = self.chart.package, self.chart.plot
        for a, b in self._pairs():
            if not self.study.curve(a).wrong:
                continue
            stretches, single = self.study.disagreements(a, b, low, high)
            for ends in stretches[:80]:
                band = package.LinearRegionItem(
                    ends,
                    movable=False,
                    brush=colour(palette.madder, 28),
                    pen=self.chart.pen(palette.madder, 0.5),
                )
                plot.addItem(band)
            if single:
                values = self.study.curve(a).snap(np.array(single))
                plot.plot(
                    single,
                    values,
                    pen=None,
                    symbol="x",
                    symbolSize=11,
                    symbolPen=self.chart.pen(palette.paper, 0.8),
                    symbolBrush=colour(palette.madder),
                )

    def _say_disagreements(self, low: float, high: float) -> None:
        assert self.study is not None
        parts = []
        for a, b in self._pairs():
            stretches, single = self.study.disagreements(a, b, low, high)
            one, two = self.study.curve(a), self.study.curve(b)
            share = sum(right - left for left, right in stretches) / (high - low)
            if not stretches and not single:
                parts.append(tr("{one} = {two} here", one=one.name, two=inside(shown(two.name))))
            elif not stretches:
                parts.append(
                    tr(
                        "{one} ≠ {two} at {count} exact places",
                        one=one.name,
                        two=inside(shown(two.name)),
                        count=len(single),
                    )
                )
            else:
                parts.append(
                    tr(
                        "{one} ≠ {two} on {share:.0%}",
                        one=one.name,
                        two=inside(shown(two.name)),
                        share=share,
                    )
                )
        text = " · ".join(parts[:3])
        self.flag.setText(text or tr("Switch two curves on to compare them"))
        wrong = [c for c in self.study.curves if c.wrong and c.key in self.shown]
        self.flag.setToolTip("\n".join(f"{shown(c.name)}: {shown(c.wrong)}" for c in wrong))

    def _hovered(self) -> None:
        if self.isVisible():
            self._soon.start()

    def _follow_pointer(self) -> None:
        """The pointer as a moving mark on the chart."""
        raw, plot = self._raw(), self.chart.plot
        if plot is None or self.study is None or not self.isVisible():
            return
        if raw is None:
            if self._pointer_line is not None:
                for item in self._pointer_line:
                    item.hide()
            return
        low, high = self._drawn_range
        if not low <= raw <= high:
            # Once; `_draw` comes back here with the pointer in range.
            if (low, high) != self._range():
                self._draw()
            return
        palette = self._theme.palette
        if self._pointer_line is None:
            line = self.chart.package.InfiniteLine(
                angle=90, pen=self.chart.pen(palette.ink, 1, (2, 3))
            )
            dots = self.chart.package.ScatterPlotItem(
                size=9, pen=self.chart.pen(palette.paper, 1), brush=colour(palette.ink)
            )
            plot.addItem(line)
            plot.addItem(dots)
            self._pointer_line = (line, dots)
        line, dots = self._pointer_line
        line.show()
        dots.show()
        line.setValue(raw)
        shown = [self.study.curve(key) for key in self.shown]
        at = np.array([raw])
        dots.setData([raw] * len(shown), [float(curve.snap(at)[0]) for curve in shown])
