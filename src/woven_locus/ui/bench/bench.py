"""The bench: the tools and settings of the stage in hand."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, pyqtSignal
from PyQt6.QtWidgets import QStackedWidget

from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.widgets import Page, has_room
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme, em

if TYPE_CHECKING:
    from woven_locus.ui.bench.build.page import BuildPage
    from woven_locus.ui.bench.ground.page import GroundPage
    from woven_locus.ui.bench.proof.page import ProofPage
    from woven_locus.ui.bench.survey.page import SurveyPage
    from woven_locus.ui.bench.traffic.page import TrafficPage
    from woven_locus.ui.bench.waves.page import WavesPage
    from woven_locus.ui.bench.ways.page import WaysPage


# Pixels of the plain font: as it opens, the least that one may make of it, and the most that words may ask for.
WIDTH, LEAST, WIDEST = 264, 200, 340


class Bench(QStackedWidget):
    """One page for each stage. Only the first one is there at the start; another is imported and built when
    it is first shown or asked for."""

    pulled = pyqtSignal(QPoint)  # a kind off the shelf: a place on the screen, with the button held
    let_go = pyqtSignal(QPoint)
    new_plan_wanted = pyqtSignal()
    other_grid_wanted = pyqtSignal()

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, self._session, self._theme = desk, desk.session, theme
        self.setObjectName("bench")
        self._session.choices.stage_changed.connect(self._show)
        self._show()

    @cached_property
    def survey(self) -> SurveyPage:
        from woven_locus.ui.bench.survey.page import SurveyPage

        page = SurveyPage(self._desk, self._theme)
        page.new_plan.clicked.connect(self.new_plan_wanted)
        page.change_grid.clicked.connect(self.other_grid_wanted)
        self.addWidget(page)
        return page

    @cached_property
    def ground(self) -> GroundPage:
        from woven_locus.ui.bench.ground.page import GroundPage

        page = GroundPage(self._session, self._theme)
        self.addWidget(page)
        return page

    @cached_property
    def build(self) -> BuildPage:
        from woven_locus.ui.bench.build.page import BuildPage

        page = BuildPage(self._desk, self._theme)
        page.shelf.pulled.connect(self.pulled)
        page.shelf.let_go.connect(self.let_go)
        self.addWidget(page)
        return page

    @cached_property
    def ways(self) -> WaysPage:
        from woven_locus.ui.bench.ways.page import WaysPage

        page = WaysPage(self._desk, self._theme)
        self.addWidget(page)
        return page

    @cached_property
    def traffic(self) -> TrafficPage:
        from woven_locus.ui.bench.traffic.page import TrafficPage

        page = TrafficPage(self._desk, self._theme)
        self.addWidget(page)
        return page

    @cached_property
    def waves(self) -> WavesPage:
        from woven_locus.ui.bench.waves.page import WavesPage

        page = WavesPage(self._desk, self._theme)
        self.addWidget(page)
        return page

    @cached_property
    def proof(self) -> ProofPage:
        from woven_locus.ui.bench.proof.page import ProofPage

        page = ProofPage(self._desk, self._theme)
        self.addWidget(page)
        return page

    def page_of(self, stage: Stage) -> Page:
        """The page of a stage."""
        match stage:
            case Stage.SURVEY:
                return self.survey
            case Stage.GROUND:
                return self.ground
            case Stage.BUILD:
                return self.build
            case Stage.WAYS:
                return self.ways
            case Stage.TRAFFIC:
                return self.traffic
            case Stage.WAVES:
                return self.waves
            case Stage.PROOF:
                return self.proof

    def prepare(self, stage: Stage) -> bool:
        """Build the page of a stage, or one more thing on it, without showing it; False when all of it is there."""
        return self.page_of(stage).prepare()

    def _show(self) -> None:
        self.setCurrentWidget(self.page_of(self._session.choices.stage))
        self.fit()

    def fit(self) -> None:
        """Be as wide as the pages need, where the window has the room: a splitter gives what it gets to the sheet."""
        page = self.currentWidget()
        assert isinstance(page, Page)
        # The widest page counts: the sheet keeps its place when another is shown.
        pages = map(self.widget, range(self.count()))
        needed = max(each.needed_width() for each in pages if isinstance(each, Page))
        if not has_room(self, needed):
            # Only words of another language, or a larger font, may need more than is given to it.
            needed = page.needed_width()
            if needed <= em(WIDTH):
                needed = LEAST
        self.setMinimumWidth(max(LEAST, min(needed, em(WIDEST))))
