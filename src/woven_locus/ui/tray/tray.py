"""The tray: register, history, routes, traffic, findings, a search explained, charts, funds and the snap study."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QEvent, QSignalBlocker, QTimer
from PyQt6.QtWidgets import QTabWidget, QWidget

from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme

if TYPE_CHECKING:
    from woven_locus.ui.tray.charts_tab import ChartsTab
    from woven_locus.ui.tray.findings_tab import FindingsTab
    from woven_locus.ui.tray.funds_tab import FundsTab
    from woven_locus.ui.tray.history_list import HistoryList
    from woven_locus.ui.tray.register_table import RegisterTab, RegisterTable
    from woven_locus.ui.tray.routes_table import RoutesTable
    from woven_locus.ui.tray.search_tab import SearchTab
    from woven_locus.ui.tray.snap_study_tab import SnapStudyTab
    from woven_locus.ui.tray.traffic.tab import TrafficTab
    from woven_locus.ui.tray.waves.tab import WavesTab

Page = TypeVar("Page", bound=QWidget)

# The tabs in order: the names that they have here, and their words.
_TABS = {
    "register_tab": tr("Register"),
    "history": tr("History"),
    "routes": tr("Routes"),
    "traffic": tr("Traffic"),
    "waves": tr("Waves"),
    "findings": tr("Findings"),
    "search": tr("Search"),
    "charts": tr("Charts"),
    "funds": tr("Funds"),
    "study": tr("Snap study"),
}
_NAMES = tuple(_TABS)
# The one that goes with each stage.
_AT_STAGE = {
    Stage.SURVEY: "study",
    Stage.GROUND: "history",
    Stage.BUILD: "register_tab",
    Stage.WAYS: "routes",
    Stage.TRAFFIC: "traffic",
    Stage.WAVES: "waves",
    Stage.PROOF: "findings",
}


# So long does the window have to draw the rest before a tab is built.
A_FRAME_MSEC = 16


class Tray(QTabWidget):
    """A tab is imported and built when it is first shown or asked for; an empty widget keeps its place until then.

    save : how a table is saved as text.  bring_in, take_out : the register from a file, and to one. The window sets them.
    """

    save: Callable[[str, str], object]
    bring_in: Callable[[], None]
    take_out: Callable[[], None]

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, self._theme = desk, theme
        self._session = session = desk.session
        self.setObjectName("tray")
        self.setDocumentMode(True)
        self._said: object = None
        # The tab of the stage, until it is built.
        self._coming: str | None = None
        for words in _TABS.values():
            self.addTab(QWidget(), words)
        self.setMinimumHeight(96)
        self.setAccessibleName(tr("Tray"))
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(A_FRAME_MSEC)
        self._late.timeout.connect(self._bring)
        session.choices.stage_changed.connect(self._stage)
        session.choices.profiled.connect(self._show_profile)
        session.changed.connect(lambda _notice: self._count())
        session.settled.connect(self._count)
        session.replaced.connect(self._count)
        desk.routes.changed.connect(self._count)
        desk.search.changed.connect(self._explained)
        self.currentChanged.connect(self._page)
        self._count()
        self._coming = _AT_STAGE[session.choices.stage]
        self._bring()

    # --- the tabs --------------------------------------------------------------------------------

    @cached_property
    def register_tab(self) -> RegisterTab:
        from woven_locus.ui.tray.register_table import RegisterTab

        page = RegisterTab(self._session)
        page.bring_in = lambda: self.bring_in()
        page.take_out = lambda: self.take_out()
        return self._put("register_tab", page)

    @cached_property
    def history(self) -> HistoryList:
        from woven_locus.ui.tray.history_list import HistoryList

        return self._put("history", HistoryList(self._session, self._theme))

    @cached_property
    def routes(self) -> RoutesTable:
        from woven_locus.ui.tray.routes_table import RoutesTable

        return self._put("routes", RoutesTable(self._desk))

    @cached_property
    def traffic(self) -> TrafficTab:
        from woven_locus.ui.tray.traffic.tab import TrafficTab

        page = TrafficTab(self._desk, self._theme)
        page.save = lambda *what: self.save(*what)
        return self._put("traffic", page)

    @cached_property
    def waves(self) -> WavesTab:
        from woven_locus.ui.tray.waves.tab import WavesTab

        page = WavesTab(self._desk, self._theme)
        page.save = lambda *what: self.save(*what)
        return self._put("waves", page)

    @cached_property
    def findings(self) -> FindingsTab:
        from woven_locus.ui.tray.findings_tab import FindingsTab

        return self._put("findings", FindingsTab(self._desk, self._theme))

    @cached_property
    def search(self) -> SearchTab:
        from woven_locus.ui.tray.search_tab import SearchTab

        return self._put("search", SearchTab(self._desk))

    @cached_property
    def charts(self) -> ChartsTab:
        from woven_locus.ui.tray.charts_tab import ChartsTab

        return self._put("charts", ChartsTab(self._session, self._theme))

    @cached_property
    def funds(self) -> FundsTab:
        from woven_locus.ui.tray.funds_tab import FundsTab

        return self._put("funds", FundsTab(self._desk, self._theme))

    @cached_property
    def study(self) -> SnapStudyTab:
        from woven_locus.ui.tray.snap_study_tab import SnapStudyTab

        return self._put("study", SnapStudyTab(self._session, self._theme))

    @property
    def register(self) -> RegisterTable:
        """The table of the register's tab."""
        return self.register_tab.table

    def prepare(self, stage: Stage) -> bool:
        """Build the tab that goes with a stage, without showing it; False, since that is all of it."""
        getattr(self, _AT_STAGE[stage])
        return False

    def has(self, name: str) -> bool:
        """Whether a tab is there yet."""
        return name in self.__dict__

    def _put(self, name: str, page: Page) -> Page:
        """Into the place that was kept for it."""
        at, current = _NAMES.index(name), self.currentIndex()
        place, words = self.widget(at), self.tabText(at)
        with QSignalBlocker(self):
            self.removeTab(at)
            self.insertTab(at, page, words)
            self.setCurrentIndex(current)
        if place is not None:
            place.deleteLater()
        return page

    def _page(self, at: int) -> None:
        self._coming = None
        getattr(self, _NAMES[at])

    # --- which one is shown ----------------------------------------------------------------------

    def _stage(self) -> None:
        """A stage brings the tab that goes with it. One that is not built yet follows a frame later: the page of the bench
        takes as long."""
        self._coming = name = _AT_STAGE[self._session.choices.stage]
        if self.has(name):
            self._bring()
        else:
            # From the next turn of the event loop on: the page may have taken longer than a frame.
            QTimer.singleShot(0, self._late.start)

    def _bring(self) -> None:
        """The tab that a stage brings, unless another one was chosen meanwhile."""
        name, self._coming = self._coming, None
        if name is not None:
            self.setCurrentWidget(getattr(self, name))

    def show_rewards(self) -> None:
        """When each of the list of purchases can be paid, with what the waves bring in."""
        self.setCurrentWidget(self.funds)
        self.funds.purchases.with_waves.setChecked(True)

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

    def event(self, event: QEvent | None) -> bool:
        """A count that changes asks for a layout; Qt would draw the whole tray anew for it."""
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            bar = self.tabBar()
            if bar is not None and bar.height() == bar.sizeHint().height():
                self.updateGeometry()
                return True
        return super().event(event)

    def _count(self) -> None:
        bar = self.tabBar()
        assert bar is not None
        for at, (name, count) in enumerate(
            (
                (tr("Register"), len(self._session.plan.register)),
                (tr("History"), self._session.document.history.position),
                (tr("Routes"), len(self._desk.routes.pins)),
            )
        ):
            text = f"{name} {count}" if count else name
            if self.tabText(at) != text:
                bar.setTabText(at, text)
