"""What came of the run: tables and charts, and a baseline to compare with."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QWidget,
)

from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.report import Baseline, baseline
from woven_locus.core.traffic.stretch import fundamental
from woven_locus.files import traffic_tables
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.paged_tab import PagedTab
from woven_locus.ui.parts.widgets import Elided, muted
from woven_locus.ui.theme import Theme
from woven_locus.ui.tray.traffic.charts import (
    FlowChart,
    MomentsChart,
    RunChart,
    SpaceChart,
    TimesChart,
)
from woven_locus.ui.tray.traffic.tables import JunctionsTable, RemediesPage, TripsTable

# Real milliseconds between two looks at a run that goes on.
_EVERY_MSEC = 500


class TrafficTab(PagedTab):
    """save : writes a table, given what it holds and its text; set by the window."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        self._desk = desk
        self.save: Callable[[str, str], object] = lambda _words, _text: None
        self._before: Baseline | None = None
        self.trips, self.junctions = TripsTable(desk), JunctionsTable(desk)
        self.times, self.moments = TimesChart(desk, theme), MomentsChart(desk, theme)
        self.space, self.flow = SpaceChart(desk, theme), FlowChart(desk, theme)
        self.remedies = RemediesPage(desk)
        pages: dict[str, QWidget] = {
            tr("Trips"): self.trips,
            tr("Trip times"): self.times,
            tr("Junctions"): self.junctions,
            tr("Over time"): self.moments,
            tr("Time and space"): self.space,
            tr("Flow and density"): self.flow,
            tr("What helps?"): self.remedies,
        }
        super().__init__(pages, tr("What of the run is shown"))
        self.empty = muted(
            tr("Traffic has not begun. Press Run on the bench: what comes of it shows here.")
        )
        self.empty.setContentsMargins(12, 8, 12, 8)
        self.compared = Elided()
        self.keep = QPushButton(tr("Baseline"))
        self.keep.setToolTip(tr("Keep the figures of now, to compare later ones with"))
        self.keep.clicked.connect(self.keep_baseline)
        self.out.clicked.connect(self._save)
        head = QHBoxLayout()
        head.addWidget(self.compared, 1)
        head.addWidget(self.keep)
        head.addWidget(self.out)
        self._lay_out(head, self.empty)
        desk.traffic.moved.connect(lambda: self._soon(_EVERY_MSEC))
        desk.traffic.changed.connect(self.refresh)
        desk.session.replaced.connect(self._replaced)
        self.views.setCurrentRow(0)
        self.refresh()

    def _replaced(self) -> None:
        self._before = None
        self.refresh()

    def keep_baseline(self) -> None:
        """The figures of now are what later ones are compared with."""
        run = self._desk.traffic.run
        if run is not None:
            self._before = baseline(run)
            self.refresh()

    def refresh(self) -> None:
        """The run as it is now."""
        run = self._desk.traffic.run
        begun = run is not None
        self.empty.setVisible(not begun)
        self.stack.setVisible(begun)
        self.keep.setEnabled(begun)
        page = self.stack.currentWidget()
        self.out.setEnabled(begun and page is not self.remedies)
        if run is None or not self.isVisible():
            return
        self.compared.setText(self._compared(run))
        if isinstance(page, TripsTable | JunctionsTable):
            page.show_run(run, self._before)
        elif isinstance(page, RunChart):
            page.show_run(run)

    def _compared(self, run: TrafficRun) -> str:
        before = self._before
        if before is None:
            return ""
        now, was = run.record.time_spent, before.time_spent
        words = tr("baseline of {seconds:.0f} s: ", seconds=before.seconds)
        if abs(run.seconds - before.seconds) > 0.5 * run.step:
            return words + tr(
                "{was:,.0f} s spent; the same time comes at {seconds:.0f} s",
                was=was,
                seconds=before.seconds,
            )
        return words + tr(
            "{now:+,.0f} s spent, {arrived:+,} arrived",
            now=now - was,
            arrived=run.arrived - before.counts.arrived,
        )

    def _save(self) -> None:
        run, page, keeper = self._desk.traffic.run, self.stack.currentWidget(), self._desk.stretch
        if run is None:
            return
        if page in (self.space, self.flow) and keeper.seen is None:
            self._desk.session.say(
                tr("Look at a stretch first: there is nothing to save yet"), "no"
            )
        elif page is self.space and keeper.seen is not None:
            self.save(tr("time and space"), traffic_tables.seen_table(keeper.seen))
        elif page is self.flow and keeper.seen is not None:
            text = traffic_tables.flow_table(*fundamental(keeper.seen))
            self.save(tr("flow and density"), text)
        elif page is self.trips:
            self.save(tr("trips of a run"), traffic_tables.trips_table(run))
        elif page is self.junctions:
            self.save(tr("junctions of a run"), traffic_tables.junctions_table(run))
        elif page is self.times:
            self.save("arrivals", traffic_tables.arrivals_table(run))
        else:
            self.save(tr("traffic over time"), traffic_tables.moments_table(run))
