"""Survey: the snapping rule, the window, the probe, the art check, and the grid itself."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton, QRadioButton

from woven_locus.core.editing import Notice
from woven_locus.core.grid import Rule
from woven_locus.ui.bench.survey.facts import grid_facts
from woven_locus.ui.bench.survey.probe_panel import ArtPanel, ProbePanel
from woven_locus.ui.bench.survey.rule_panel import RulePanel
from woven_locus.ui.bench.survey.window_panel import WindowPanel
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import Page, Section, figures, side_by_side
from woven_locus.ui.theme import Theme


class SurveyPage(Page):
    """`change_grid` and `new_plan` are for the window to connect."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, session = desk, desk.session
        self._session = session
        self.column.setSpacing(2)
        self.rule = RulePanel(session)
        self.window_panel = WindowPanel(desk)
        self.probe = ProbePanel(session, theme)
        self.art = ArtPanel(session)
        self.sections: dict[str, Section] = {}
        for title, panel, unfolded in (
            (tr("Snapping rule"), self.rule, True),
            (tr("Window"), self.window_panel, False),
            (tr("Probe ahead"), self.probe, False),
            (tr("Art check"), self.art, False),
        ):
            section = Section(title, unfolded)
            section.body.addWidget(panel)
            self.column.addWidget(section)
            self.sections[title] = section
        grid = Section(tr("Grid"))
        self.facts = figures()
        self.change_grid = QPushButton(tr("Change…"))
        self.change_grid.setToolTip(tr("Another grid under what stands on it"))
        self.new_plan = QPushButton(tr("New plan…"))
        grid.body.addWidget(self.facts)
        grid.body.addWidget(side_by_side(self.change_grid, self.new_plan))
        self.sections["Grid"] = grid
        self.column.addWidget(grid)
        self.column.addStretch(1)
        session.replaced.connect(self._show)
        session.changed.connect(self._edited)
        session.choices.on("survey", self._unfold)
        self._show()

    @property
    def rules(self) -> dict[Rule, QRadioButton]:
        return self.rule.rules

    def _unfold(self) -> None:
        """An actor in hand shows its figures."""
        if (
            self._session.choices.survey.actor is not None
            and not self.sections["Probe ahead"].title.isChecked()
        ):
            self.sections["Probe ahead"].title.setChecked(True)

    def _edited(self, notice: Notice) -> None:
        if notice.reformed:
            self._show()

    def _show(self) -> None:
        plan = self._session.plan
        facts = grid_facts(plan.spec, plan.heights is not None)
        width = max(len(name) for name, _ in facts)
        self.facts.setText("\n".join(f"{name:<{width}}  {value}" for name, value in facts))
