"""Traffic: the side of the road, the trips, and the clock of the run."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QRadioButton,
)

from woven_locus.core.edits.roads import keep_to
from woven_locus.core.grid.snapping import number
from woven_locus.core.lanes import KeepSide
from woven_locus.core.routing import LaneWay, NoRoute, Route
from woven_locus.ui.answers.traffic import SPEEDS
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.parts.widgets import (
    Page,
    figures,
    heading,
    muted,
    rule,
    side_by_side,
    whole_box,
    world_box,
)
from woven_locus.ui.theme import Theme

# The most that a box takes; a plan may have more.
_MOST_VEHICLES, _MOST_SECONDS = 100_000, 86_400.0


class TrafficPage(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, self._session, self._theme = desk, desk.session, theme
        self._make_side()
        self.column.addWidget(rule())
        self._make_trips()
        self.column.addWidget(rule())
        self._make_clock()
        self.column.addStretch(1)
        session = desk.session
        for signal in (desk.routes.changed, desk.lanes.changed, session.replaced):
            signal.connect(self._show_routes)
        session.changed.connect(lambda _notice: self._edited())
        session.replaced.connect(self._edited)
        desk.traffic.changed.connect(self._show_clock)
        desk.traffic.moved.connect(self._show_figures)
        theme.changed.connect(self._dress)
        self._edited()
        self._show_routes()
        self._show_clock()
        self._dress()

    # --- its parts ----------------------------------------------------------------------------------

    def _make_side(self) -> None:
        self.column.addWidget(heading("Side of the road"))
        row = QHBoxLayout()
        group = QButtonGroup(self)
        self.sides: dict[KeepSide, QRadioButton] = {}
        for side in KeepSide:
            button = QRadioButton(f"Keep {side.value}")
            button.clicked.connect(lambda _on, side=side: self._keep(side))
            group.addButton(button)
            row.addWidget(button)
            self.sides[side] = button
        row.addStretch(1)
        self.column.addLayout(row)

    def _make_trips(self) -> None:
        self.column.addWidget(heading("Trips"))
        self.route = QComboBox()
        self.route.setAccessibleName("Route of the trip")
        self.route.setMinimumContentsLength(12)
        self.route.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.route.activated.connect(self._choose)
        self.column.addWidget(self.route)
        self.why = muted()
        self.column.addWidget(self.why)
        self.count = whole_box(1, 1, _MOST_VEHICLES, "Vehicles of the trip")
        self.every = world_box(5, 0, _MOST_SECONDS, "Seconds between two vehicles")
        self.every.setSuffix(" s")
        form = QFormLayout()
        form.addRow("Vehicles", self.count)
        form.addRow("One every", self.every)
        self.column.addLayout(form)
        self.add = QPushButton("Add as a trip")
        self.add.setToolTip("Vehicles drive from the start of the route to its goal")
        self.add.clicked.connect(
            lambda: self._desk.traffic.add_trip(
                self._desk.routes.current, self.every.value(), self.count.value()
            )
        )
        self.column.addWidget(self.add)
        self.trips = muted()
        self.column.addWidget(self.trips)
        self.none = QPushButton("Take all trips away")
        self.none.clicked.connect(self._desk.traffic.take_trips_away)
        self.column.addWidget(self.none)

    def _make_clock(self) -> None:
        traffic = self._desk.traffic
        self.column.addWidget(heading("Clock"))
        self.run = QPushButton("Run")
        self.run.setCheckable(True)
        self.run.clicked.connect(traffic.set_running)
        self.step = QPushButton("Step")
        self.step.setToolTip("Let one thirtieth of a second pass")
        self.step.clicked.connect(traffic.step)
        self.column.addWidget(side_by_side(self.run, self.step))
        grid, group = QGridLayout(), QButtonGroup(self)
        grid.setSpacing(4)
        self.speeds: dict[int, QPushButton] = {}
        for at, speed in enumerate(SPEEDS):
            button = QPushButton(f"×{speed}")
            button.setCheckable(True)
            button.setAccessibleName(f"Speed times {speed}")
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            button.clicked.connect(lambda _on, speed=speed: traffic.set_speed(speed))
            group.addButton(button)
            grid.addWidget(button, at // 3, at % 3)
            self.speeds[speed] = button
        self.column.addLayout(grid)
        self.figures = figures()
        self.column.addWidget(self.figures)
        self.clear = QPushButton("Begin again")
        self.clear.setToolTip("Take all vehicles off the road; the next run begins at 0")
        self.clear.clicked.connect(traffic.clear)
        self.column.addWidget(self.clear)

    def _dress(self) -> None:
        palette = self._theme.palette
        dress(self.add, "agent", palette)
        dress(self.run, "pause" if self._desk.traffic.running else "run", palette)
        dress(self.step, "step", palette)

    # --- what is done -------------------------------------------------------------------------------

    def _keep(self, side: KeepSide) -> None:
        self._session.attempt(keep_to, self._session.plan, side)
        self._edited()

    def _choose(self, at: int) -> None:
        pins = self._desk.routes.pins
        if 0 <= at < len(pins):
            self._desk.routes.choose(pins[at])

    # --- what is shown ------------------------------------------------------------------------------

    def _edited(self) -> None:
        plan = self._session.plan
        self.sides[plan.keep].setChecked(True)
        trips = plan.traffic.trips
        vehicles = sum(trip.count for trip in trips)
        words = f"{len(trips):,} trip{'s' * (len(trips) != 1)}, {vehicles:,} vehicle{'s' * (vehicles != 1)}."
        self.trips.setText(words if trips else "No trips yet.")
        self.none.setEnabled(bool(trips))

    def _show_routes(self) -> None:
        keeper = self._desk.routes
        self.route.clear()
        for pin in keeper.pins:
            self.route.addItem(pin.title)
        if keeper.current in keeper.pins:
            self.route.setCurrentIndex(keeper.pins.index(keeper.current))
        answer = keeper.current.answer if keeper.current is not None else None
        self.add.setEnabled(isinstance(answer, Route))
        if keeper.current is None:
            text = "No route yet: in Ways, take the tool “Route” and click two structures."
        elif isinstance(answer, Route):
            text = self._about(answer)
        else:
            text = "This route is broken."
        self.why.setText(text)

    def _about(self, route: Route) -> str:
        """How long the current route is, and by its lanes how long it takes."""
        unit, way = self._session.plan.spec.unit, self._desk.lanes.way
        if isinstance(way, LaneWay):
            seconds = f"{way.seconds:.1f} s at the speed of the roads"
            return f"By its lanes {number(round(way.length, 1))} {unit}, {seconds}."
        text = f"{route.length:g} {unit} long."
        return f"{text} No way by lanes: {way.why}." if isinstance(way, NoRoute) else text

    def _show_clock(self) -> None:
        traffic = self._desk.traffic
        self.run.setChecked(traffic.running)
        self.run.setText("Pause" if traffic.running else "Run")
        self.run.setEnabled(not traffic.working)
        self.step.setEnabled(not traffic.working and not traffic.running)
        self.clear.setEnabled(traffic.run is not None)
        self.speeds[traffic.speed].setChecked(True)
        self._dress()
        self._show_figures()

    def _show_figures(self) -> None:
        run = self._desk.traffic.run
        if run is None:
            self.figures.setText("not begun")
            return
        counts = run.counts()
        delays = run.arrivals.delay
        delay = sum(delays) / len(delays) if delays else 0.0
        lines = [
            f"time       {run.seconds:10.2f} s",
            f"under way  {counts.under_way:10,}",
            f"arrived    {counts.arrived:10,}",
            f"held back  {counts.held_back:10,}",
            f"no way     {counts.no_way:10,}",
            f"mean delay {delay:10.1f} s",
        ]
        if self._desk.traffic.rings:
            lines.append(f"gridlock   {sum(map(len, self._desk.traffic.rings)):10,}")
        if self._desk.traffic.behind:
            lines.append("slower than asked for")
        self.figures.setText("\n".join(lines))
