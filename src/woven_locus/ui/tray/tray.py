"""The tray: register, history, routes, traffic, findings, a search explained, charts, funds and the snap study."""

from __future__ import annotations

from PyQt6.QtWidgets import QTabWidget, QWidget

from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme
from woven_locus.ui.tray.charts_tab import ChartsTab
from woven_locus.ui.tray.findings_tab import FindingsTab
from woven_locus.ui.tray.funds_tab import FundsTab
from woven_locus.ui.tray.history_list import HistoryList
from woven_locus.ui.tray.register_table import RegisterTab
from woven_locus.ui.tray.routes_table import RoutesTable
from woven_locus.ui.tray.search_tab import SearchTab
from woven_locus.ui.tray.snap_study_tab import SnapStudyTab
from woven_locus.ui.tray.traffic.tab import TrafficTab
from woven_locus.ui.tray.waves.tab import WavesTab


class Tray(QTabWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self.setObjectName("tray")
        self.setDocumentMode(True)
        self._session = session
        self._said: object = None
        self.register_tab = RegisterTab(session)
        self.register = self.register_tab.table
        self.funds = FundsTab(desk, theme)
        self.history = HistoryList(session, theme)
        self.routes = RoutesTable(desk)
        self.traffic = TrafficTab(desk, theme)
        self.waves = WavesTab(desk, theme)
        self.study = SnapStudyTab(session, theme)
        self.charts = ChartsTab(session, theme)
        self.findings = FindingsTab(desk, theme)
        self.search = SearchTab(desk)
        for tab, name in (
            (self.register_tab, tr("Register")),
            (self.history, tr("History")),
            (self.routes, tr("Routes")),
            (self.traffic, tr("Traffic")),
            (self.waves, tr("Waves")),
            (self.findings, tr("Findings")),
            (self.search, tr("Search")),
            (self.charts, tr("Charts")),
            (self.funds, tr("Funds")),
            (self.study, tr("Snap study")),
        ):
            self.addTab(tab, name)
        self.setMinimumHeight(96)
        self.setAccessibleName(tr("Tray"))
        self._at_stage: dict[Stage, QWidget] = {
            Stage.SURVEY: self.study,
            Stage.GROUND: self.history,
            Stage.BUILD: self.register_tab,
            Stage.WAYS: self.routes,
            Stage.TRAFFIC: self.traffic,
            Stage.WAVES: self.waves,
            Stage.PROOF: self.findings,
        }
        session.choices.stage_changed.connect(self._stage)
        session.choices.profiled.connect(self._show_profile)
        session.changed.connect(lambda _notice: self._count())
        session.settled.connect(self._count)
        session.replaced.connect(self._count)
        desk.routes.changed.connect(self._count)
        desk.search.changed.connect(self._explained)
        self._count()
        self._stage()

    def _stage(self) -> None:
        """A stage brings the tab that goes with it."""
        tab = self._at_stage.get(self._session.choices.stage)
        if tab is not None:
            self.setCurrentWidget(tab)

    def show_rewards(self) -> None:
        """When each of the list of purchases can be paid, with what the waves bring in."""
        self.setCurrentWidget(self.funds)
        self.funds.with_waves.setChecked(True)

    def _explained(self) -> None:
        """An explained search brings its tab, once."""
        said = self._desk.search.explained
        if said is not None and self._said is None:
            self.setCurrentWidget(self.search)
        elif said is None and self._said is not None and self.currentWidget() is self.search:
            self.setCurrentWidget(self.routes)
        self._said = said

    def _show_profile(self) -> None:
        if self._session.choices.profile is not None:
            self.setCurrentWidget(self.charts)

    def _count(self) -> None:
        for at, (name, count) in enumerate(
            (
                (tr("Register"), len(self._session.plan.register)),
                (tr("History"), self._session.document.history.position),
                (tr("Routes"), len(self._desk.routes.pins)),
            )
        ):
            text = f"{name} {count}" if count else name
            if self.tabText(at) != text:
                self.setTabText(at, text)
