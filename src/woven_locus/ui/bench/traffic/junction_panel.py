"""The junction that was clicked: its rule, what came of it, its signals."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from woven_locus.core.geometry import cell_text
from woven_locus.core.junction_rules import RULE_WORDS, Rule
from woven_locus.core.phrase import with_capital
from woven_locus.core.traffic.report import junction_figures_at
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import ComboBox, figures, heading, muted, quietly


class JunctionPanel(QWidget):
    signals_wanted = pyqtSignal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.title = heading(tr("Junction"))
        self.words = muted(tr("Click a three-way or a crossing to see and to set who goes first."))
        self.rule = ComboBox()
        self.rule.setAccessibleName(tr("Who goes first at the junction"))
        for rule in Rule:
            self.rule.addItem(with_capital(tr(RULE_WORDS[rule])), rule)
        self.rule.activated.connect(lambda _at: desk.junctions.set_rule(self.rule.currentData()))
        self.figures = figures()
        self.signals = QPushButton(tr("Signals…"))
        self.signals.setToolTip(tr("Phases, green times and the offset"))
        self.signals.clicked.connect(self.signals_wanted)
        for widget in (self.title, self.words, self.rule, self.figures, self.signals):
            column.addWidget(widget)
        desk.traffic.looked_at.connect(self._show)
        desk.traffic.changed.connect(self._show)
        desk.traffic.moved.connect(self._show_figures)
        desk.session.changed.connect(lambda _notice: self._show())
        desk.session.replaced.connect(self._show)
        self._show()

    def _show(self) -> None:
        cell = self._desk.junctions.cell
        for widget in (self.rule, self.figures, self.signals):
            widget.setVisible(cell is not None)
        self.words.setVisible(cell is None)
        self.title.setText(
            tr("Junction") if cell is None else tr("Junction at {cell}", cell=cell_text(cell))
        )
        if cell is None:
            return
        rule = self._desk.junctions.rule
        now = rule.rule if rule is not None else Rule.FIRST
        quietly(self.rule, lambda: self.rule.setCurrentIndex(self.rule.findData(now)))
        self.rule.setEnabled(not self._desk.junctions.working)
        self.signals.setVisible(now is Rule.SIGNALS)
        self._show_figures()

    def _show_figures(self) -> None:
        cell, run = self._desk.junctions.cell, self._desk.traffic.run
        found = junction_figures_at(run, cell) if run is not None and cell is not None else None
        self.figures.setVisible(found is not None)
        if found is not None:
            self.figures.setText(
                tr(
                    "passed        {passed:7,}\nmean wait     {mean_wait:7.1f} s\nmean delay    {mean_delay:7.1f} s\nlongest queue {longest_queue:7,}",
                    passed=found.passed,
                    mean_wait=found.mean_wait,
                    mean_delay=found.mean_delay,
                    longest_queue=found.longest_queue,
                )
            )
