"""Traffic: agents on their way along a route."""

from __future__ import annotations

from PyQt6.QtWidgets import QButtonGroup, QComboBox, QHBoxLayout, QPushButton, QRadioButton

from woven_locus.core.edits.roads import keep_to
from woven_locus.core.grid.snapping import number
from woven_locus.core.lanes import KeepSide
from woven_locus.core.routing import LaneWay, NoRoute, Route
from woven_locus.ui.answers.walk import SPEEDS
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.parts.widgets import Page, figures, heading, muted, rule
from woven_locus.ui.theme import Theme


class TrafficPage(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, session = desk, desk.session
        self._session, self._theme = session, theme
        walk = desk.walk
        self.column.addWidget(heading("Side of the road"))
        keep = QHBoxLayout()
        self._sides = QButtonGroup(self)
        self.sides: dict[KeepSide, QRadioButton] = {}
        for side in KeepSide:
            radio = QRadioButton(f"Keep {side.value}")
            radio.clicked.connect(lambda _on, side=side: self._keep(side))
            self._sides.addButton(radio)
            keep.addWidget(radio)
            self.sides[side] = radio
        keep.addStretch(1)
        self.column.addLayout(keep)
        self.column.addWidget(rule())
        self.column.addWidget(heading("Route"))
        self.route = QComboBox()
        self.route.setAccessibleName("Route to walk")
        self.route.setMinimumContentsLength(12)
        self.route.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.route.activated.connect(self._choose)
        self.column.addWidget(self.route)
        self.why = muted()
        self.column.addWidget(self.why)
        self.send = QPushButton("Send an agent")
        self.send.clicked.connect(lambda: walk.send(desk.routes.current))
        self.column.addWidget(self.send)
        self.column.addWidget(rule())
        self.column.addWidget(heading("Clock"))
        row = QHBoxLayout()
        self.run = QPushButton("Run")
        self.run.setCheckable(True)
        self.run.clicked.connect(walk.set_running)
        self.step = QPushButton("Step")
        self.step.setToolTip("Let one sixtieth of a second pass")
        self.step.clicked.connect(walk.step)
        row.addWidget(self.run)
        row.addWidget(self.step)
        self.column.addLayout(row)
        speeds = QHBoxLayout()
        speeds.setSpacing(4)
        group = QButtonGroup(self)
        self.speeds: dict[int, QPushButton] = {}
        for speed in SPEEDS:
            button = QPushButton(f"×{speed}")
            button.setCheckable(True)
            button.setAccessibleName(f"Speed times {speed}")
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            button.clicked.connect(lambda _on, speed=speed: walk.set_speed(speed))
            group.addButton(button)
            speeds.addWidget(button)
            self.speeds[speed] = button
        self.column.addLayout(speeds)
        self.figures = figures()
        self.column.addWidget(self.figures)
        self.clear = QPushButton("Take all agents away")
        self.clear.clicked.connect(walk.clear)
        self.column.addWidget(self.clear)
        self.column.addStretch(1)
        desk.routes.changed.connect(self._show_routes)
        desk.lanes.changed.connect(self._show_routes)
        session.changed.connect(lambda _notice: self._show_side())
        session.replaced.connect(self._show_side)
        session.replaced.connect(self._show_routes)
        walk.changed.connect(self._show_clock)
        walk.moved.connect(self._show_figures)
        theme.changed.connect(self._dress)
        self._show_side()
        self._show_routes()
        self._show_clock()
        self._show_figures()
        self._dress()

    def _dress(self) -> None:
        palette = self._theme.palette
        dress(self.send, "agent", palette)
        dress(self.run, "pause" if self._desk.walk.running else "run", palette)
        dress(self.step, "step", palette)

    def _keep(self, side: KeepSide) -> None:
        self._session.attempt(keep_to, self._session.plan, side)
        self._show_side()

    def _show_side(self) -> None:
        self.sides[self._session.plan.keep].setChecked(True)

    def _choose(self, at: int) -> None:
        pins = self._desk.routes.pins
        if 0 <= at < len(pins):
            self._desk.routes.choose(pins[at])

    def _show_routes(self) -> None:
        keeper = self._desk.routes
        self.route.clear()
        for pin in keeper.pins:
            self.route.addItem(pin.title)
        if keeper.current in keeper.pins:
            self.route.setCurrentIndex(keeper.pins.index(keeper.current))
        whole = keeper.current is not None and isinstance(keeper.current.answer, Route)
        self.send.setEnabled(whole)
        if keeper.current is None:
            self.why.setText(
                "No route yet: in Ways, take the tool “Route” and click two structures."
            )
        elif whole:
            assert isinstance(keeper.current.answer, Route)
            self.why.setText(self._about(keeper.current.answer))
        else:
            self.why.setText("This route is broken.")

    def _about(self, route: Route) -> str:
        """How long the current route is, and by its lanes how long it takes."""
        unit, way = self._session.plan.spec.unit, self._desk.lanes.way
        if isinstance(way, LaneWay):
            seconds = f"{way.seconds:.1f} s at the speed of the roads"
            return f"By its lanes {number(round(way.length, 1))} {unit}, {seconds}."
        text = f"{route.length:g} {unit} long."
        return f"{text} No way by lanes: {way.why}." if isinstance(way, NoRoute) else text

    def _show_clock(self) -> None:
        walk = self._desk.walk
        self.run.setChecked(walk.running)
        self.run.setText("Pause" if walk.running else "Run")
        dress(self.run, "pause" if walk.running else "run", self._theme.palette)
        self.run.setEnabled(bool(len(walk.simulation)))
        self.step.setEnabled(bool(len(walk.simulation)))
        self.clear.setEnabled(bool(len(walk.simulation)))
        self.speeds[walk.speed].setChecked(True)
        self._show_figures()

    def _show_figures(self) -> None:
        walk = self._desk.walk
        arrived = walk.simulation.arrived
        self.figures.setText(
            f"time     {walk.simulation.seconds:8.2f} s\nagents   {len(walk.simulation):8d}\narrived  {arrived:8d}"
        )
