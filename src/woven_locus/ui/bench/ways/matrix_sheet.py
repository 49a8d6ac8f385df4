"""The cost by road between every two structures, worked out in a worker, as a table that can be taken out."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QProgressBar,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.errors import WovenError
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.routing.trips import Matrix, route_matrix
from woven_locus.files.atomic import write_bytes
from woven_locus.files.way_tables import matrix_csv
from woven_locus.ui.desk import Desk
from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.language import tr
from woven_locus.ui.parts.file_names import file_name
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.parts.widgets import muted
from woven_locus.ui.theme import em, number_font, row_height

# A map of n structures has n x n costs, 8 bytes each.
MOST_STRUCTURES = 5000


class MatrixModel(QAbstractTableModel):
    """matrix : None while it is being worked out."""

    def __init__(self) -> None:
        super().__init__()
        self.matrix: Matrix | None = None

    def show(self, matrix: Matrix) -> None:
        self.beginResetModel()
        self.matrix = matrix
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if self.matrix is None or parent.isValid() else len(self.matrix.numbers)

    columnCount = rowCount  # noqa: N815 - Qt's name

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if self.matrix is None:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            cost = float(self.matrix.cost[index.row(), index.column()])
            return "\N{EN DASH}" if math.isinf(cost) else f"{cost:g}"
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        return None

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if self.matrix is None or role != Qt.ItemDataRole.DisplayRole:
            return None
        return structure_id(self.matrix.numbers[section])


class MatrixSheet(Dialog):
    """Of the selected structures when there are several, else of all."""

    def __init__(self, desk: Desk, parent: QWidget | None) -> None:
        super().__init__(parent)
        session = desk.session
        self.setWindowTitle(tr("Costs between structures"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        open_as(self, 760, 480)
        self._routes, self._session = desk.routes, session
        self.choose_out: Callable[[str, str], str] = self._ask_out
        chosen = (
            session.selection.numbers
            if len(session.selection.numbers) > 1
            else session.plan.register.numbers()
        )
        self.numbers = tuple(sorted(chosen))[:MOST_STRUCTURES]
        self.words = muted(
            tr(
                "The cheapest cost by road from the structure of the row to that of the column; a dash where "
                "there is no way."
            )
        )
        self.model = MatrixModel()
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName(tr("Costs between structures"))
        self.table.setFont(number_font(9))
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        for header in (self.table.horizontalHeader(), self.table.verticalHeader()):
            assert header is not None
            header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.table.horizontalHeader().setDefaultSectionSize(em(64))  # type: ignore[union-attr]
        self.table.verticalHeader().setDefaultSectionSize(row_height(number_font(9), 6, 22))  # type: ignore[union-attr]
        self.bar = QProgressBar()
        self.bar.setAccessibleName(tr("Progress of the costs"))
        self.stop = QPushButton(tr("Stop"))
        self.out = QPushButton(tr("Export as CSV…"))
        self.out.setEnabled(False)
        shut = QPushButton(tr("Close"))
        shut.setDefault(True)
        self.stop.clicked.connect(self._stop)
        self.out.clicked.connect(self._take_out)
        shut.clicked.connect(self.accept)
        self.finished.connect(lambda _code: self._stop())
        self.table.clicked.connect(self._ask_route)
        row = QHBoxLayout()
        row.addWidget(self.out)
        row.addWidget(self.bar, 10)
        # Once the bar is gone, the buttons keep their size.
        row.addStretch(1)
        row.addWidget(self.stop)
        row.addWidget(shut)
        column = QVBoxLayout(self)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)
        column.addLayout(row)
        self._job: Job | None = None
        self._begin()

    def _begin(self) -> None:
        session, numbers = self._session, self.numbers
        if not session.plan.network.has_graph:
            self.words.setText(tr("The fast search is not ready yet; open this again in a moment."))
            self._ended()
            return

        def done(matrix: Matrix | None) -> None:
            if sip.isdeleted(self) or matrix is None:
                return
            self.model.show(matrix)
            self.out.setEnabled(True)
            self._ended()

        def dropped() -> None:
            if not sip.isdeleted(self):
                self.words.setText(
                    tr("Dropped, since the plan changed meanwhile; open this again.")
                )
                self._ended()

        self._job = session.asking.ask(
            tr("Costs between {count:,} structures", count=len(numbers)),
            lambda plan, control: route_matrix(plan, numbers, control, control.tell),
            done,
            at_once=False,
            of=Plan.snapshot,
            dropped=dropped,
            stopped=self._stopped,
        )
        self.bar.setRange(0, 100)
        self._timer = self.startTimer(100)

    def timerEvent(self, event: object) -> None:
        if self._job is not None:
            self.bar.setValue(int(self._job.control.share * 100))

    def _stop(self) -> None:
        if self._job is not None and self.model.matrix is None:
            self._job.stop()
        self._ended()

    def _stopped(self) -> None:
        """Here, or by the window's own Stop."""
        if not sip.isdeleted(self):
            self.words.setText(tr("Stopped."))
            self._ended()

    def _ended(self) -> None:
        self.stop.hide()
        self.bar.hide()

    def _ask_route(self, index: QModelIndex) -> None:
        """A cost that is clicked is shown as a route."""
        matrix = self.model.matrix
        if matrix is not None and index.row() != index.column():
            self._routes.ask(matrix.numbers[index.row()], matrix.numbers[index.column()])

    def _ask_out(self, title: str, start: str) -> str:
        return QFileDialog.getSaveFileName(self, title, start)[0]

    def _take_out(self) -> None:
        chosen = self.choose_out(
            tr("Costs as CSV"), file_name(tr("{plan} costs", plan=self._session.plan.name), ".csv")
        )
        if not chosen or self.model.matrix is None:
            return
        try:
            write_bytes(Path(chosen), matrix_csv(self.model.matrix).encode())
        except WovenError as err:
            self.words.setText(tr(err))
            return
        self.words.setText(tr("Wrote {chosen}", chosen=chosen))
