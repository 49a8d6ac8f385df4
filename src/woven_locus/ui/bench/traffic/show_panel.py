"""What of a run lies over the map, and how vehicles are coloured."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFormLayout, QVBoxLayout, QWidget

from woven_locus.core.traffic.maps import Measure
from woven_locus.ui.bench.ways.study_panel import Ramp
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import ComboBox, heading, muted, quietly
from woven_locus.ui.session.stages import VehicleDyes
from woven_locus.ui.sheet.overlays.measures import short, tops
from woven_locus.ui.theme import Theme

_ABOUT = {
    Measure.FLOW: tr("Vehicles a minute through each cell, both ways."),
    Measure.SPEED: tr("Mean speed, {unit} a second; darker is slower."),
    Measure.DENSITY: tr("Vehicles in each cell, on average."),
    Measure.QUEUE: tr("Standing vehicles in each cell, on average."),
    Measure.LOST: tr("Seconds that all vehicles lost in each cell."),
}


class ShowPanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading(tr("Look")))
        self.shown = ComboBox()
        self.shown.setAccessibleName(tr("What of the run lies over the map"))
        self.shown.addItem(tr("Nothing"), None)
        for measure in Measure:
            self.shown.addItem(tr(measure.value), measure)
        self.dyes = ComboBox()
        self.dyes.setAccessibleName(tr("How vehicles are coloured"))
        for dyes in VehicleDyes:
            self.dyes.addItem(tr(dyes.value), dyes)
        form = QFormLayout()
        form.addRow(tr("Show"), self.shown)
        form.addRow(tr("Colour"), self.dyes)
        column.addLayout(form)
        self.ramp = Ramp(theme)
        self.words = muted()
        column.addWidget(self.ramp)
        column.addWidget(self.words)
        self.follow = QCheckBox(tr("Follow the vehicle clicked"))
        self.follow.clicked.connect(desk.traffic.set_follow)
        column.addWidget(self.follow)
        choices = desk.session.choices
        self.shown.currentIndexChanged.connect(
            lambda _at: choices.set_traffic(shown=self.shown.currentData())
        )
        self.dyes.currentIndexChanged.connect(
            lambda _at: choices.set_traffic(dyes=self.dyes.currentData())
        )
        choices.on("traffic", self._show)
        desk.traffic.looked_at.connect(self._show)
        desk.traffic.changed.connect(self._show)
        desk.measures.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        traffic, chosen = self._desk.traffic, self._session.choices.traffic
        quietly(self.shown, lambda: self.shown.setCurrentIndex(self.shown.findData(chosen.shown)))
        quietly(self.dyes, lambda: self.dyes.setCurrentIndex(self.dyes.findData(chosen.dyes)))
        self.follow.setEnabled(traffic.chosen != 0)
        self.follow.setChecked(traffic.follow)
        measure = chosen.shown
        self.ramp.setVisible(measure is not None and self._desk.measures.most > 0)
        self.words.setVisible(measure is not None)
        if measure is not None:
            unit = self._session.plan.spec.unit or "units"
            self.words.setText(
                _ABOUT[measure].format(unit=unit)
                if traffic.run is not None
                else tr("It shows once traffic runs.")
            )
            self.ramp.words = [short(top) for top in tops(measure, self._desk.measures.most)]
            self.ramp.update()
