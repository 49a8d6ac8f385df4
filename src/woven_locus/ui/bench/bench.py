"""The bench: the tools and settings of the stage in hand."""

from __future__ import annotations

from PyQt6.QtWidgets import QStackedWidget

from woven_locus.ui.bench.build.page import BuildPage
from woven_locus.ui.bench.ground.page import GroundPage
from woven_locus.ui.bench.survey.page import SurveyPage
from woven_locus.ui.bench.traffic.page import TrafficPage
from woven_locus.ui.bench.ways.page import WaysPage
from woven_locus.ui.desk import Desk
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme


class Bench(QStackedWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self.setObjectName("bench")
        self._session = session
        self.survey = SurveyPage(desk, theme)
        self.ground = GroundPage(session, theme)
        self.build = BuildPage(desk, theme)
        self.ways = WaysPage(desk, theme)
        self.traffic = TrafficPage(desk, theme)
        self._pages = {
            Stage.SURVEY: self.survey,
            Stage.GROUND: self.ground,
            Stage.BUILD: self.build,
            Stage.WAYS: self.ways,
            Stage.TRAFFIC: self.traffic,
        }
        for page in self._pages.values():
            self.addWidget(page)
        self.setMinimumWidth(200)
        session.choices.stage_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        self.setCurrentWidget(self._pages[self._session.choices.stage])
