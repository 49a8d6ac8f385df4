"""The sheet of a trial: its table, its charts, run and stop, and a plan opened as one of its runs had it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from woven_locus.document import Document
from woven_locus.files.atomic import read_bytes
from woven_locus.trial.results import Results, setting
from woven_locus.trial.runs import with_settings
from woven_locus.trial.spec import Spec
from woven_locus.ui.answers.trial import TrialKeeper
from woven_locus.ui.desk import Desk
from woven_locus.ui.inout.files import Files
from woven_locus.ui.inout.trial_charts import LinesChart, SpreadChart
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.figures_table import FiguresTable, Value
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.parts.widgets import ComboBox, Elided, Label
from woven_locus.ui.theme import Theme, em

_NOT_SHOWN = ("problem", "digest")


class TrialSheet(Dialog):
    """Stays open beside the window; closing it stops the runs that were begun here."""

    def __init__(self, desk: Desk, theme: Theme, files: Files, path: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Trial {path}", path=path.name))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._desk, self._files = desk, files
        self.keeper = TrialKeeper(desk.session, path)
        self.state, self.problem, self.where = Label(), Label(), Elided()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        self.run, self.other = QPushButton(tr("Run")), QPushButton(tr("Another table…"))
        self.run.clicked.connect(self._run)
        self.other.clicked.connect(self._other_table)
        self.open_plan = QPushButton(tr("Open the plan as in this run"))
        self.open_plan.clicked.connect(self._open)
        self.table: FiguresTable | None = None
        self.spread = SpreadChart(desk.session.jobs, theme)
        self.lines = LinesChart(desk.session.jobs, theme)
        self.noted, self.by = ComboBox(), ComboBox()
        for box, name in ((self.noted, tr("Figure")), (self.by, tr("For each"))):
            box.setAccessibleName(name)
            box.currentIndexChanged.connect(lambda _at: self._draw())
        self._row = -1
        self._lay_out()
        self.keeper.changed.connect(self._show)
        self.finished.connect(lambda _result: self._end())
        self._show()
        self.keeper.read()
        for chart in (self.spread.chart, self.lines.chart):
            chart.want()

    def _lay_out(self) -> None:
        head, foot, choice = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        head.addWidget(self.state)
        head.addWidget(self.where, 1)
        for button in (self.other, self.run, self.open_plan):
            button.setAutoDefault(False)
        head.addWidget(self.other)
        head.addWidget(self.run)
        for words, box in ((tr("Figure"), self.noted), (tr("For each"), self.by)):
            choice.addWidget(Label(words))
            choice.addWidget(box, 1)
        charts = QTabWidget()
        charts.addTab(self.spread.chart, tr("Spread"))
        charts.addTab(self.lines.chart, tr("Every run"))
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(choice)
        column.addWidget(charts, 1)
        self.left = QVBoxLayout()
        left = QWidget()
        left.setLayout(self.left)
        self.left.setContentsMargins(0, 0, 0, 0)
        self.charts, self.middle = charts, QSplitter(Qt.Orientation.Horizontal)
        self.middle.addWidget(left)
        self.middle.addWidget(right)
        self.middle.setSizes([em(400), em(500)])
        foot.addWidget(self.open_plan)
        foot.addStretch(1)
        whole = QVBoxLayout(self)
        whole.addLayout(head)
        whole.addWidget(self.problem)
        whole.addWidget(self.middle, 1)
        whole.addLayout(foot)
        open_as(self, 900, 480)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        self._end()
        event.accept()

    def _end(self) -> None:
        self.keeper.end()

    # --- what it shows ------------------------------------------------------------------------

    def _show(self) -> None:
        keeper, spec, results = self.keeper, self.keeper.spec, self.keeper.results
        self.problem.setText(keeper.problem)
        self.problem.setVisible(bool(keeper.problem))
        self.where.setText(str(keeper.table))
        self.run.setText(tr("Stop") if keeper.running else tr("Run"))
        known = spec is not None and results is not None
        done = len(results.rows) if results is not None else 0
        count = spec.count if spec is not None else 0
        self.run.setEnabled(keeper.running or (known and done < count))
        self.state.setText(
            tr("{done:,} of {count:,} runs", done=done, count=count) if known else tr("Reading …")
        )
        if results is not None and results.stale:
            stale = len(results.stale)
            self.problem.setText(
                tr(
                    counted(
                        stale,
                        "{n:,} row is of a plan as it is no more, or of other seconds: name another table, and run it",
                        "{n:,} rows are of a plan as it is no more, or of other seconds: name another table, and run it",
                    )
                )
            )
            self.problem.show()
            self.run.setEnabled(keeper.running)
        if spec is not None and results is not None:
            self._fill(spec, results)
        self.open_plan.setEnabled(0 <= self._row < done)
        self._draw()

    def _fill(self, spec: Spec, results: Results) -> None:
        """The table, and what can be chosen; made anew for another trial."""
        heads = [results.short(name) for name in results.columns]
        if self.table is None or [name for name, _ in self.table.figures.columns] != heads:
            if self.table is not None:
                self.table.deleteLater()
            columns = [(name, _cell) for name in heads]
            self.table = FiguresTable(tr("Runs"), columns, [76] * len(columns))
            self.table.picked.connect(self._pick)
            self.left.addWidget(self.table)
        rows: list[tuple[Value, ...]] = [tuple(map(_value, row)) for row in results.rows]
        self.table.take(rows, list(range(len(rows))))
        settings = [name for name in results.columns if name not in (*spec.note, "problem")]
        numeric = [name for name in spec.note if results.is_numeric(name)]
        for box, names in ((self.noted, numeric), (self.by, settings)):
            if [box.itemText(k) for k in range(box.count())] != names:
                box.blockSignals(True)
                box.clear()
                box.addItems(names)
                box.blockSignals(False)
        # The setting with fewest values says most; a seed is one for each run.
        if self.by.count() and not self._by_chosen and results.rows:
            sizes = [len(results.groups(name)) for name in settings]
            several = [k for k, size in enumerate(sizes) if size > 1] or [0]
            self.by.setCurrentIndex(min(several, key=lambda k: sizes[k]))
            self._by_chosen = len(results.rows) == spec.count

    _by_chosen = False

    def _draw(self) -> None:
        spec, results = self.keeper.spec, self.keeper.results
        if spec is None or results is None:
            return
        noted, by = self.noted.currentText(), self.by.currentText()
        self.spread.show(results, noted, by)
        axes = [
            name
            for name in results.columns
            if not name.endswith(_NOT_SHOWN) and (results.is_numeric(name) or name not in spec.note)
        ]
        self.lines.show(results, axes, by, self._row)

    # --- what is done -------------------------------------------------------------------------

    def _pick(self, row: object) -> None:
        assert isinstance(row, int)
        self._row = row
        self.open_plan.setEnabled(True)
        self._draw()

    def _run(self) -> None:
        if self.keeper.running:
            self.keeper.stop()
        else:
            self.keeper.run()

    def choose_table(self) -> str:
        """Ask for a table, old or new; may be replaced."""
        start = str(self.keeper.table)
        options = QFileDialog.Option.DontConfirmOverwrite
        return QFileDialog.getSaveFileName(
            self,
            tr("The table of this trial"),
            start,
            tr("Tables (*.csv);;All files (*)"),
            "",
            options,
        )[0]

    def _other_table(self) -> None:
        if chosen := self.choose_table():
            self.keeper.hold(Path(chosen).with_suffix(".csv"))

    def _open(self) -> None:
        spec, row = self.keeper.spec, self._row
        if spec is None or row < 0:
            return
        plan, settings = setting(spec, row)
        words = ", ".join(f"{name} {value}" for name, value in settings.items())
        seed = settings.get("seed", 0)

        def make() -> Document:
            made = with_settings(read_bytes(plan), str(plan), settings)
            made.name = f"{made.name} ({words})" if words else made.name
            document = Document(made)
            document.history.mark_unsaved()
            return document

        def shown() -> None:
            # What chance there is goes as in the run.
            self._desk.traffic.seed = self._desk.waves.seed = seed

        label = tr("Opening {plan} as in run {row}", plan=plan.name, row=row + 1)
        self._files.bring(
            label,
            make,
            tr("{plan} with {words}", plan=plan.name, words=words or tr("no change")),
            shown=shown,
        )


def _value(cell: str) -> Value:
    """A number where it is one, so that it sorts as one."""
    for kind in (int, float):
        try:
            return kind(cell)
        except ValueError:
            continue
    return cell


def _cell(value: Any) -> str:
    return f"{value:,.6g}" if isinstance(value, float) else str(value)
