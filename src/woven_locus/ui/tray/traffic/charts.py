"""The charts of a run: trip times, the road over time, a stretch in time and space, flow against density."""

from __future__ import annotations

from html import escape

import numpy as np
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.stretch import fundamental, model_curve
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.charts import Chart, curve_looks
from woven_locus.ui.parts.widgets import Elided
from woven_locus.ui.theme import Theme, colour


class RunChart(QWidget):
    """A chart of the run with a line of words over it."""

    def __init__(self, desk: Desk, theme: Theme, name: str) -> None:
        super().__init__()
        self._desk, self._theme = desk, theme
        self.words = Elided()
        self.chart = Chart(desk.session.jobs, theme, name, self.draw)
        self.head = QHBoxLayout()
        self.head.setContentsMargins(10, 2, 8, 0)
        self.head.addWidget(self.words, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(self.head)
        column.addWidget(self.chart, 1)

    def want(self) -> None:
        """See `Wanted`."""
        self.chart.want()

    def show_run(self, run: TrafficRun) -> None:
        """The run as it is now."""
        self.draw()

    def draw(self) -> None:
        if self.chart.plot is not None:
            self.chart.plot.clear()
            self._draw()

    def _draw(self) -> None:
        raise NotImplementedError


class TimesChart(RunChart):
    """How many vehicles took how long, beside what an empty road takes."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Trip times"))

    def _draw(self) -> None:
        run, plot, palette = self._desk.traffic.run, self.chart.plot, self._theme.palette
        if run is None or not len(run.arrivals):
            self.words.setText(tr("Nobody has arrived yet."))
            return
        took = np.array(run.arrivals.took)
        free = took - np.array(run.arrivals.delay)
        top = float(max(took.max(), free.max())) * 1.0001
        edges = np.linspace(0.0, top, 31)
        plot.setLabel("bottom", tr("seconds"))
        plot.setLabel("left", tr("vehicles"))
        for values, dye, dashes, fill in (
            (free, palette.woad, (4, 3), 0),
            (took, palette.madder, (), 60),
        ):
            counts, _ = np.histogram(values, edges)
            plot.plot(
                edges,
                counts,
                stepMode="center",
                pen=self.chart.pen(dye, 2, dashes),
                fillLevel=0 if fill else None,
                brush=colour(dye, fill) if fill else None,
            )
        self.words.setText(
            tr(
                "{count:,} arrived: mean {mean:.1f} s, on an empty road (dashed) {mean2:.1f} s",
                count=len(took),
                mean=took.mean(),
                mean2=free.mean(),
            )
        )


class MomentsChart(RunChart):
    """The road over time: who is under way, who stands, who is held back, who has arrived."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Traffic over time"))

    def _draw(self) -> None:
        run, plot = self._desk.traffic.run, self.chart.plot
        moments = run.record.moments() if run is not None else []
        if run is None or not moments:
            self.words.setText(tr("Let traffic run: it shows here over time."))
            return
        rows = np.array(moments)
        arrived = np.searchsorted(np.array(run.arrivals.at), rows[:, 0], side="right")
        plot.setLabel("bottom", tr("seconds"))
        plot.setLabel("left", tr("vehicles"))
        names = (tr("under way"), tr("standing"), tr("held back"), tr("arrived"))
        looks = curve_looks(self._theme.palette)
        for (dye, dashes), values in zip(
            looks, (rows[:, 1], rows[:, 3], rows[:, 2], arrived), strict=False
        ):
            plot.plot(rows[:, 0], values, pen=self.chart.pen(dye, 2, dashes))
        marks = ("—", "- -", "· ·", "— ·")
        self.words.setText("   ".join(f"{m} {n}" for m, n in zip(marks, names, strict=True)))


class StretchChart(RunChart):
    """What is asked of a stretch. again : looks at another one."""

    def __init__(self, desk: Desk, theme: Theme, name: str) -> None:
        super().__init__(desk, theme, name)
        self.again = QPushButton(tr("Look at a stretch"))
        self.again.setToolTip(tr("The way of the vehicle clicked, or of the current route"))
        self.again.clicked.connect(desk.stretch.ask)
        self.head.addWidget(self.again)
        desk.stretch.changed.connect(self._found)

    def _found(self) -> None:
        self.again.setEnabled(not self._desk.stretch.working)
        if self.isVisible():
            self.draw()

    def show_run(self, run: TrafficRun) -> None:
        self.again.setEnabled(not self._desk.stretch.working)

    def _waits(self) -> bool:
        keeper = self._desk.stretch
        if keeper.seen is not None and len(keeper.seen.seconds):
            return False
        self.words.setText(
            tr("The run is done once more, to see it …")
            if keeper.working
            else tr("Nobody drove there so far.")
            if keeper.seen is not None
            else tr(
                "Click a vehicle, or choose a route in Trips; then look at its stretch of road."
            )
        )
        return True


class SpaceChart(StretchChart):
    """A time-space diagram: each vehicle a line, whose slope is its speed; flat where it stands."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Time and space"))

    def _draw(self) -> None:
        if self._waits():
            return
        keeper, plot, palette = self._desk.stretch, self.chart.plot, self._theme.palette
        assert keeper.seen is not None
        unit = self._desk.session.plan.spec.unit
        plot.setLabel("bottom", tr("seconds"))
        plot.setLabel("left", tr("{unit} along it", unit=escape(unit)))
        lines = keeper.seen.lines()
        for at in keeper.crossings:
            plot.addLine(y=at, pen=self.chart.pen(palette.weld, 1, (3, 3)))
        gap = [np.nan]
        x = np.concatenate([part for _, seconds, _ in lines for part in (seconds, gap)])
        y = np.concatenate([part for _, _, along in lines for part in (along, gap)])
        plot.plot(x, y, connect="finite", pen=self.chart.pen(palette.indigo, 1.4))
        for number, seconds, along in lines:
            if number == self._desk.traffic.chosen:
                plot.plot(seconds, along, pen=self.chart.pen(palette.madder, 2.6))
                break
        drives = counted(
            len(lines),
            "{n:,} drive along {of}, {length:.0f} {unit}; dashed: junctions",
            "{n:,} drives along {of}, {length:.0f} {unit}; dashed: junctions",
            of=keeper.of,
            length=keeper.seen.length,
            unit=unit,
        )
        self.words.setText(tr(drives))


class FlowChart(StretchChart):
    """The fundamental diagram: flow against density, with what the following model carries in equilibrium."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Flow and density"))

    def _draw(self) -> None:
        if self._waits():
            return
        keeper, plot, palette = self._desk.stretch, self.chart.plot, self._theme.palette
        assert keeper.seen is not None
        assert keeper.run is not None
        unit = escape(self._desk.session.plan.spec.unit)
        plot.setLabel("bottom", tr("density, vehicles in 100 {unit}", unit=unit))
        plot.setLabel("left", tr("flow, a minute"))
        density, flow = fundamental(keeper.seen)
        plot.plot(
            density * 100,
            flow * 60,
            pen=None,
            symbol="o",
            symbolSize=7,
            symbolPen=self.chart.pen(palette.paper, 1),
            symbolBrush=colour(palette.indigo),
        )
        looks = curve_looks(palette)[1:]
        for kind, (dye, dashes) in zip(keeper.run.kinds, looks, strict=False):
            of, carries = model_curve(kind, keeper.top)
            plot.plot(of * 100, carries * 60, pen=self.chart.pen(dye, 2, dashes))
        names = ", ".join(kind.name for kind in keeper.run.kinds)
        self.words.setText(
            tr(
                "Dots: {of} in quarters, over 20 s each. Lines: what the model carries ({names}).",
                of=keeper.of,
                names=names,
            )
        )
