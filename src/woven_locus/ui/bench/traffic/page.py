"""Traffic: the side of the road, the trips, the clock of the run, what is looked at."""

from __future__ import annotations

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QRadioButton

from woven_locus.core.edits.roads import keep_to
from woven_locus.core.lanes import KeepSide
from woven_locus.ui.bench.traffic.clock_panel import TrafficClockPanel
from woven_locus.ui.bench.traffic.junction_panel import JunctionPanel
from woven_locus.ui.bench.traffic.people_sheet import PeopleSheet
from woven_locus.ui.bench.traffic.rules_sheet import RulesSheet
from woven_locus.ui.bench.traffic.show_panel import ShowPanel
from woven_locus.ui.bench.traffic.signals_sheet import SignalsSheet
from woven_locus.ui.bench.traffic.trips_panel import TripsPanel
from woven_locus.ui.bench.traffic.trips_sheet import TripsSheet
from woven_locus.ui.bench.traffic.vehicles_sheet import VehiclesSheet
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import Page, heading, rule
from woven_locus.ui.theme import Theme


class TrafficPage(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, self._session, self._theme = desk, desk.session, theme
        self.clock = TrafficClockPanel(desk, theme)
        self.show_panel = ShowPanel(desk, theme)
        self.junction = JunctionPanel(desk)
        self.trips = TripsPanel(desk, theme)
        for panel in (self.clock, self.junction, self.show_panel, self.trips):
            self.column.addWidget(panel)
            self.column.addWidget(rule())
        self._make_side()
        self.column.addStretch(1)
        self.junction.signals_wanted.connect(self._open_signals)
        self.trips.trips_wanted.connect(self._open_trips)
        self.trips.kinds_wanted.connect(self._open_vehicles)
        self.trips.people_wanted.connect(self._open_people)
        self.trips.rules_wanted.connect(self._open_rules)
        self._session.changed.connect(lambda _notice: self._edited())
        self._session.replaced.connect(self._edited)
        self._edited()

    def _make_side(self) -> None:
        self.column.addWidget(heading(tr("Side of the road")))
        row = QHBoxLayout()
        group = QButtonGroup(self)
        self.sides: dict[KeepSide, QRadioButton] = {}
        for side in KeepSide:
            button = QRadioButton(tr("Keep left") if side is KeepSide.LEFT else tr("Keep right"))
            button.clicked.connect(lambda _on, side=side: self._keep(side))
            group.addButton(button)
            row.addWidget(button)
            self.sides[side] = button
        row.addStretch(1)
        self.column.addLayout(row)

    def _open_signals(self) -> None:
        if self._desk.junctions.cell is not None:
            SignalsSheet(self._desk, self._theme, self.window()).open()

    def _open_trips(self) -> None:
        TripsSheet(self._desk, self.window()).open()

    def _open_vehicles(self) -> None:
        VehiclesSheet(self._session, self.window()).open()

    def _open_people(self) -> None:
        PeopleSheet(self._session, self.window()).open()

    def _open_rules(self) -> None:
        RulesSheet(self._session, self.window()).open()

    def _keep(self, side: KeepSide) -> None:
        self._session.attempt(keep_to, self._session.plan, side)
        self._edited()

    def _edited(self) -> None:
        self.sides[self._session.plan.keep].setChecked(True)
