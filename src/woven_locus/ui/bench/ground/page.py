"""Ground: what is painted with what, obstacles, heights, and how the ground is shown."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton

from woven_locus.ui.bench.ground.classes_sheet import ClassesSheet
from woven_locus.ui.bench.ground.coats import Coats
from woven_locus.ui.bench.ground.make_sheet import MakeSheet
from woven_locus.ui.bench.ground.scatter_sheet import ScatterSheet
from woven_locus.ui.bench.ground.tool_panel import (
    BRUSHES,
    BrushPanel,
    GroundTools,
    ObstaclePanel,
    SculptPanel,
)
from woven_locus.ui.bench.ground.view_panel import ViewPanel
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import Page, heading, rule, side_by_side
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import GroundTool
from woven_locus.ui.theme import Theme


class GroundPage(Page):
    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__("bench")
        self._session, self._theme = session, theme
        self.column.setSpacing(6)
        self.column.addWidget(heading(tr("Tool")))
        self.tools = GroundTools(session, theme)
        self.column.addWidget(self.tools)
        self.brush = BrushPanel(session)
        self.sculpt = SculptPanel(session)
        self.obstacle = ObstaclePanel(session)
        for panel in (self.brush, self.sculpt, self.obstacle):
            self.column.addWidget(panel)
        self.column.addWidget(rule())
        self.coats = Coats(session, theme)
        self.column.addWidget(heading(tr("Coat to paint")))
        self.column.addWidget(self.coats)
        self.classes = QPushButton(tr("Classes…"))
        self.classes.setToolTip(tr("Add, rename, merge or remove terrain classes"))
        self.classes.clicked.connect(self.edit_classes)
        self.make = QPushButton(tr("Make…"))
        self.make.setToolTip(tr("Seeded heights and terrain for tests"))
        self.make.clicked.connect(self.make_ground)
        self.column.addWidget(side_by_side(self.classes, self.make))
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Show")))
        self.view = ViewPanel(session, theme)
        self.column.addWidget(self.view)
        self.column.addStretch(1)
        self.obstacle.scatter.clicked.connect(self.scatter)
        session.choices.on("ground", self._show)
        session.reformed.connect(self._show)
        self._show()

    def prepare(self) -> bool:
        return self.coats.prepare()

    @property
    def buttons(self) -> list[QPushButton]:
        """One for each coat."""
        return self.coats.buttons  # type: ignore[return-value]

    def _show(self) -> None:
        tool = self._session.choices.ground.tool
        self.brush.setVisible(tool in BRUSHES)
        self.sculpt.setVisible(tool is GroundTool.SCULPT)
        self.obstacle.setVisible(tool is GroundTool.OBSTACLE)

    def edit_classes(self) -> None:
        ClassesSheet(self._session, self._theme, self.window()).open()

    def make_ground(self) -> None:
        MakeSheet(self._session, self.window()).open()

    def scatter(self) -> None:
        ScatterSheet(self._session, self.window()).open()
