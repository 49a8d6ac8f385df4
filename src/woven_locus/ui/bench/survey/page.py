"""Survey: the snapping rule, its step, and the grid's figures."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QButtonGroup,
    QFormLayout,
    QPushButton,
    QRadioButton,
)

from woven_locus.core.grid import Rule, SnapSettings
from woven_locus.ui.bench.survey.facts import grid_facts
from woven_locus.ui.session import Session
from woven_locus.ui.widgets import Page, WorldBox, figures, heading, muted, rule

_RULES = {
    Rule.CORNER: "Corner of the cell under the pointer",
    Rule.CENTRE: "Centre of the cell under the pointer",
    Rule.INTERSECTION: "Nearest intersection of grid lines",
}


class SurveyPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__("bench")
        self._session = session
        self.column.addWidget(heading("Snapping rule"))
        self._group = QButtonGroup(self)
        self.rules: dict[Rule, QRadioButton] = {}
        for each, words in _RULES.items():
            button = QRadioButton(each.value.capitalize())
            button.setToolTip(words)
            button.setAccessibleDescription(words)
            button.toggled.connect(self._choose)
            self._group.addButton(button)
            self.column.addWidget(button)
            self.rules[each] = button
        self.column.addWidget(heading("Step"))
        form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        self.step_x, self.step_y = self._step_box("across"), self._step_box("down")
        form.addRow("Across", self.step_x)
        form.addRow("Down", self.step_y)
        self.column.addLayout(form)
        self.column.addWidget(muted("World units; 0 is the size of a cell."))
        self.column.addWidget(rule())
        self.column.addWidget(heading("Grid"))
        self.facts = figures()
        self.column.addWidget(self.facts)
        self.new_plan = QPushButton("New plan with another grid…")
        self.column.addWidget(self.new_plan)
        self.column.addStretch(1)
        session.replaced.connect(self._show)
        session.tool_changed.connect(self._show)
        self._show()

    def _step_box(self, way: str) -> WorldBox:
        box = WorldBox(0, 0, 1e6)
        box.setSpecialValueText("cell")
        box.setAccessibleName(f"Step {way}, world units")
        box.valueChanged.connect(self._choose)
        return box

    def _choose(self) -> None:
        chosen = next((r for r, button in self.rules.items() if button.isChecked()), Rule.CENTRE)
        steps = (self.step_x.value() or None, self.step_y.value() or None)
        settings = SnapSettings(chosen, *steps)
        if settings != self._session.snap_settings:
            self._session.set_snap(settings)

    def _show(self) -> None:
        settings = self._session.snap_settings
        for widget, value in (
            (self.step_x, settings.step_x or 0.0),
            (self.step_y, settings.step_y or 0.0),
        ):
            widget.blockSignals(True)
            widget.setValue(value)
            widget.blockSignals(False)
        self.rules[settings.rule].setChecked(True)
        facts = grid_facts(self._session.plan.spec)
        width = max(len(name) for name, _ in facts)
        self.facts.setText("\n".join(f"{name:<{width}}  {value}" for name, value in facts))
