"""The trips of the plan: one made from the current route, and the sheets of all."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFormLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.grid.snapping import number
from woven_locus.core.routing import LaneWay, NoRoute, Route
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.language import counted, shown, tr
from woven_locus.ui.parts.widgets import (
    ComboBox,
    heading,
    muted,
    side_by_side,
    whole_box,
    world_box,
)
from woven_locus.ui.theme import Theme

# The most that a box takes; a plan may have more.
_MOST_VEHICLES, _MOST_SECONDS = 100_000, 86_400.0


class TripsPanel(QWidget):
    trips_wanted = pyqtSignal()
    kinds_wanted = pyqtSignal()
    people_wanted = pyqtSignal()
    rules_wanted = pyqtSignal()

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, self._session, self._theme = desk, desk.session, theme
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading(tr("Trips")))
        self.route = ComboBox()
        self.route.setAccessibleName(tr("Route of the trip"))
        self.route.setMinimumContentsLength(12)
        self.route.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.route.activated.connect(self._choose)
        column.addWidget(self.route)
        self.why = muted()
        column.addWidget(self.why)
        self.count = whole_box(1, 1, _MOST_VEHICLES, tr("Vehicles of the trip"))
        self.every = world_box(5, 0, _MOST_SECONDS, tr("Seconds between two vehicles"))
        self.every.setSuffix(" s")
        self.who = ComboBox()
        self.who.setAccessibleName(tr("Who makes the trip"))
        self.who.setMinimumContentsLength(8)
        form = QFormLayout()
        form.addRow(tr("Who"), self.who)
        form.addRow(tr("How many"), self.count)
        form.addRow(tr("One every"), self.every)
        column.addLayout(form)
        self.add = QPushButton(tr("Add as a trip"))
        self.add.setToolTip(tr("Vehicles drive from the start of the route to its goal"))
        self.add.clicked.connect(
            lambda: desk.traffic.add_trip(
                desk.routes.current,
                self.every.value(),
                self.count.value(),
                self.who.currentData() or "",
            )
        )
        column.addWidget(self.add)
        self.trips = muted()
        column.addWidget(self.trips)
        self._make_sheets(column)
        session = desk.session
        for signal in (desk.routes.changed, desk.lanes.changed, session.replaced):
            signal.connect(self._show_routes)
        session.changed.connect(lambda _notice: self._edited())
        session.replaced.connect(self._edited)
        theme.changed.connect(self._dress)
        self._dress()
        self._edited()
        self._show_routes()

    def _make_sheets(self, column: QVBoxLayout) -> None:
        """Buttons that open the sheets."""
        self.all = QPushButton(tr("Trips…"))
        self.all.setToolTip(tr("All trips as a table, to change and to take away"))
        self.all.clicked.connect(self.trips_wanted)
        self.kinds = QPushButton(tr("Vehicles…"))
        self.kinds.setToolTip(tr("The kinds of vehicle"))
        self.kinds.clicked.connect(self.kinds_wanted)
        self.people = QPushButton(tr("People…"))
        self.people.setToolTip(tr("The kinds of people on foot, and how they cross"))
        self.people.clicked.connect(self.people_wanted)
        self.rules = QPushButton(tr("Rules…"))
        self.rules.setToolTip(tr("Rules that make trips of the structures that there are"))
        self.rules.clicked.connect(self.rules_wanted)
        column.addWidget(side_by_side(self.all, self.rules))
        column.addWidget(side_by_side(self.kinds, self.people))

    def _dress(self) -> None:
        dress(self.add, "agent", self._theme.palette)

    def _choose(self, at: int) -> None:
        pins = self._desk.routes.pins
        if 0 <= at < len(pins):
            self._desk.routes.choose(pins[at])

    def _edited(self) -> None:
        traffic = self._session.plan.traffic
        self._show_kinds()
        trips, rules = traffic.trips, len(traffic.rules)
        vehicles = sum(trip.count for trip in trips)
        words = tr(
            "{trips}, {vehicles}.",
            trips=counted(len(trips), "{n:,} trip", "{n:,} trips"),
            vehicles=counted(vehicles, "{n:,} vehicle", "{n:,} vehicles"),
        )
        more = (
            " " + tr(counted(rules, "{n} rule makes more.", "{n} rules make more."))
            if rules
            else ""
        )
        self.trips.setText((words if trips else tr("No trips yet.")) + more)

    def _show_kinds(self) -> None:
        traffic, chosen = self._session.plan.traffic, self.who.currentData()
        self.who.clear()
        if not traffic.vehicles:
            self.who.addItem(shown(traffic.name_of("")), "")
        for kind in traffic.vehicles:
            self.who.addItem(kind.name, kind.key)
        for person in traffic.people:
            self.who.addItem(tr("{person}, on foot", person=person.name), person.key)
        self.who.setCurrentIndex(max(0, self.who.findData(chosen)))

    def _show_routes(self) -> None:
        keeper = self._desk.routes
        self.route.clear()
        for pin in keeper.pins:
            self.route.addItem(shown(pin.title))
        if keeper.current in keeper.pins:
            self.route.setCurrentIndex(keeper.pins.index(keeper.current))
        answer = keeper.current.answer if keeper.current is not None else None
        self.add.setEnabled(isinstance(answer, Route))
        if keeper.current is None:
            text = tr("No route yet: in Ways, take the tool “Route” and click two structures.")
        elif isinstance(answer, Route):
            text = self._about(answer)
        else:
            text = tr("This route is broken.")
        self.why.setText(text)

    def _about(self, route: Route) -> str:
        """How long the current route is, and by its lanes how long it takes."""
        unit, way = self._session.plan.spec.unit, self._desk.lanes.way
        if isinstance(way, LaneWay):
            seconds = tr("{seconds:.1f} s at the speed of the roads", seconds=way.seconds)
            return tr(
                "By its lanes {length} {unit}, {seconds}.",
                length=number(round(way.length, 1)),
                unit=unit,
                seconds=seconds,
            )
        text = tr("{length:g} {unit} long.", length=route.length, unit=unit)
        return (
            tr("{text} No way by lanes: {why}.", text=text, why=way.why)
            if isinstance(way, NoRoute)
            else text
        )
