"""The tables of a run: its trips, its junctions, and what would help."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.junction_rules import Rule
from woven_locus.core.remedies import Outcome
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.report import Baseline, junction_figures, trip_figures
from woven_locus.core.vehicles import Trip, TripEnd
from woven_locus.files.traffic_rows import end_text
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import mark, phrase, tr
from woven_locus.ui.parts.figures_table import FiguresTable, Value, change, plain, tenths
from woven_locus.ui.parts.widgets import muted

TRIPS = (
    *(
        (mark("Trip"), plain),
        (mark("Who"), plain),
        (mark("Wanted"), plain),
        (mark("Arrived"), plain),
    ),
    *((mark("Mean, s"), tenths), (mark("95 %, s"), tenths), (mark("Delay, s"), tenths)),
    (mark("± delay"), change),
)
JUNCTIONS = (
    *(
        (mark("Junction"), plain),
        (mark("Rule"), plain),
        (mark("Passed"), plain),
        (mark("Wait, s"), tenths),
    ),
    *(
        (mark("Delay, s"), tenths),
        (mark("All delay, s"), tenths),
        (mark("Queue"), plain),
        (mark("± delay"), change),
    ),
)
_SHORT = {
    Rule.FIRST: phrase("first come"),
    Rule.LARGER: phrase("larger road"),
    Rule.SIGNALS: phrase("signals"),
}
REMEDIES = (
    (mark("What"), plain),
    (mark("Saves, s"), change),
    (mark("Time of all, s"), tenths),
    (mark("Arrived"), plain),
)


class TripsTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Trips of the run"), TRIPS, (190, 104, 68, 68, 68, 68, 70, 68))
        self._desk = desk
        self.picked.connect(self._show_trip)

    def show_run(self, run: TrafficRun, before: Baseline | None) -> None:
        rows: list[tuple[Value, ...]] = []
        for trip, item in zip(run.trips, trip_figures(run), strict=True):
            was = before.trips.get(trip) if before is not None else None
            known = item.arrived > 0
            rows.append(
                (
                    f"{self._end(trip.start)} → {self._end(trip.goal)}",
                    self._desk.session.plan.traffic.name_of(trip.kind),
                    *(item.wanted, item.arrived),
                    *((item.mean, item.p95, item.delay) if known else (None, None, None)),
                    item.delay - was.delay if known and was is not None and was.arrived else None,
                )
            )
        # Those of the table come before those that rules made.
        made = len(run.trips) - len(self._desk.session.plan.traffic.trips)
        order = [*range(made, len(rows)), *range(made)] if made > 0 else range(len(rows))
        self.take([rows[at] for at in order], [run.trips[at] for at in order])

    def _end(self, end: TripEnd) -> str:
        plan = self._desk.session.plan
        if isinstance(end, Cell):
            return end_text(end)
        return plan.title_of(end) if end in plan.register else phrase("S{end}, gone", end=end)

    def _show_trip(self, trip: Trip) -> None:
        """Its start comes into sight."""
        session = self._desk.session
        if isinstance(trip.start, Cell):
            session.reveal.emit(trip.start)
        elif trip.start in session.plan.register:
            session.select(trip.start, reveal=True)


class JunctionsTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Junctions of the run"), JUNCTIONS, (110, 96, 64, 66, 70, 92, 62, 70))
        self._desk = desk
        self.picked.connect(self._go)

    def show_run(self, run: TrafficRun, before: Baseline | None) -> None:
        rows: list[tuple[Value, ...]] = []
        found = junction_figures(run)
        for item in found:
            was = before.junctions.get(item.cell) if before is not None else None
            rows.append(
                (
                    cell_text(item.cell),
                    _SHORT[item.rule],
                    item.passed,
                    *((item.mean_wait, item.mean_delay) if item.passed else (None, None)),
                    item.delay,
                    item.longest_queue,
                    item.mean_delay - was.mean_delay if was is not None else None,
                )
            )
        self.take(rows, [item.cell for item in found])

    def _go(self, cell: Cell) -> None:
        self._desk.traffic.choose_junction(cell)
        self._desk.session.reveal.emit(cell)


class RemediesPage(QWidget):
    """table : what was tried.  ask, do : buttons."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.words = muted()
        self.ask, self.do = QPushButton(tr("Try it out")), QPushButton(tr("Do it"))
        self.ask.setToolTip(
            tr("The junction where most time is lost, with other rules and one more cell of road")
        )
        self.ask.clicked.connect(desk.remedies.ask)
        self.do.clicked.connect(self._do)
        self.table = FiguresTable(tr("What would help"), REMEDIES, (220, 90, 110, 80))
        model = self.table.selectionModel()
        assert model is not None
        self.table.figures.modelReset.connect(self._chosen_changed)
        model.selectionChanged.connect(lambda _new, _old: self._chosen_changed())
        head = QHBoxLayout()
        head.addWidget(self.words, 1)
        head.addWidget(self.ask)
        head.addWidget(self.do)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 0)
        column.addLayout(head)
        column.addWidget(self.table, 1)
        column.addStretch(0)
        desk.remedies.changed.connect(self.show_found)
        desk.traffic.changed.connect(self.show_found)
        self.show_found()

    def show_found(self) -> None:
        keeper = self._desk.remedies
        self.ask.setEnabled(self._desk.traffic.run is not None and not keeper.working)
        found = keeper.found
        self.table.setVisible(found is not None)
        if keeper.working:
            self.words.setText(tr("Being tried …"))
        elif found is None:
            self.words.setText(
                tr(
                    "What would help most? Other rules, and one more cell of road, at the junction where most time was lost: "
                    "each is run as long as this run is old."
                )
            )
        else:
            assert keeper.cell is not None
            self.words.setText(
                tr(
                    "At {cell}, over {seconds:.0f} s: seconds that all vehicles spend on the road or waiting to set off.",
                    cell=cell_text(keeper.cell),
                    seconds=keeper.seconds,
                )
            )
        rows: list[tuple[Value, ...]] = [
            (f"{item.remedy.words}: {item.why}", None, None, None)
            if item.why
            else (item.remedy.words, item.saved, item.time, item.arrived)
            for item in found or []
        ]
        self.table.take(rows, list(found or []))
        self._chosen_changed()

    def _outcome(self) -> Outcome | None:
        model = self.table.selectionModel()
        rows = model.selectedRows() if model is not None else []
        found = self.table.figures.keys[rows[0].row()] if rows else None
        return found if isinstance(found, Outcome) else None

    def _chosen_changed(self) -> None:
        outcome = self._outcome()
        self.do.setEnabled(outcome is not None and not outcome.why)

    def _do(self) -> None:
        outcome = self._outcome()
        if outcome is not None:
            self._desk.remedies.do(outcome)
