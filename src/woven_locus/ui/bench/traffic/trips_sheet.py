"""All trips as a table that can be written in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.editing import Notice
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.errors import WovenError
from woven_locus.core.grid.snapping import number
from woven_locus.core.numbers import parse_number, parse_whole
from woven_locus.core.value import replace
from woven_locus.core.vehicles import Trip
from woven_locus.files.traffic_rows import check_end, end_text, parse_trip_end
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.parts.tables import set_widths
from woven_locus.ui.parts.widgets import Label, muted
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import number_font, row_height

TITLES = (tr("From"), tr("To"), tr("Who"), tr("First at, s"), tr("One every, s"), tr("Vehicles"))


class TripsModel(QAbstractTableModel):
    """refused : why what was typed cannot be."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        # A method, not a lambda: Qt ends the connection when the model is deleted.
        session.changed.connect(self._edited)

    def _edited(self, notice: Notice) -> None:
        if "traffic" in notice.layers or "structures" in notice.layers:
            self.beginResetModel()
            self.endResetModel()

    @property
    def _trips(self) -> tuple[Trip, ...]:
        return self._session.plan.traffic.trips

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._trips)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(TITLES)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        return TITLES[section] if orientation == Qt.Orientation.Horizontal else str(section + 1)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        return super().flags(index) | Qt.ItemFlag.ItemIsEditable

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self._trips):
            return None
        trip, column = self._trips[index.row()], index.column()
        if role == Qt.ItemDataRole.EditRole:
            return self._typed(trip, column)
        if role == Qt.ItemDataRole.DisplayRole:
            return self._shown(trip, column)
        if role == Qt.ItemDataRole.TextAlignmentRole and column >= 3:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.FontRole and column >= 3:
            return number_font(9)
        return None

    def _typed(self, trip: Trip, column: int) -> str:
        return (
            end_text(trip.start),
            end_text(trip.goal),
            trip.kind,
            number(trip.depart),
            number(trip.every),
            str(trip.count),
        )[column]

    def _shown(self, trip: Trip, column: int) -> str:
        plan = self._session.plan
        if column < 2:
            end = trip.goal if column else trip.start
            if isinstance(end, int):
                return plan.title_of(end) if end in plan.register else tr("S{end}, gone", end=end)
            return tr("cell {end_text}", end_text=end_text(end))
        if column == 2:
            name = plan.traffic.name_of(trip.kind)
            return name if trip.kind else tr("{name} (the first)", name=name)
        return self._typed(trip, column) if column < 5 else f"{trip.count:,}"

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if role != Qt.ItemDataRole.EditRole:
            return False
        row, text = index.row(), str(value).strip()
        if text == self._typed(self._trips[row], index.column()):
            return False
        try:
            trip = self._changed(self._trips[row], index.column(), text)
            trips = (*self._trips[:row], trip, *self._trips[row + 1 :])
            edit = set_trips(self._session.plan, trips, tr("Changed trip {row}", row=row + 1))
        except (ValueError, WovenError) as err:
            self.refused.emit(tr(err))
            return False
        self.refused.emit("")
        self._session.document.history.do(edit)
        return True

    def _changed(self, trip: Trip, column: int, text: str) -> Trip:
        if column < 2:
            end = parse_trip_end(text)
            check_end(self._session.plan, end)
            return replace(trip, goal=end) if column else replace(trip, start=end)
        if column == 2:
            return replace(trip, kind=self._key_of(text))
        read: Callable[[str], float] = parse_whole if column == 5 else parse_number
        try:
            amount = read(text)
        except ValueError:
            what = tr("a whole number") if column == 5 else tr("a number of seconds")
            raise ValueError(
                tr(
                    "{split} must be {what}, not {text!r}",
                    split=TITLES[column].split(",")[0],
                    what=what,
                    text=text,
                )
            ) from None
        changes: dict[str, Any] = {("depart", "every", "count")[column - 3]: amount}
        return replace(trip, **changes)

    def _key_of(self, text: str) -> str:
        """A kind by key or by name."""
        traffic = self._session.plan.traffic
        keys = [kind.key for kind in traffic.vehicles] + [kind.key for kind in traffic.people]
        return next((key for key in keys if text in (key, traffic.name_of(key))), text)


class TripsSheet(Dialog):
    """Every change is a step of the history at once."""

    def __init__(self, desk: Desk, parent: QWidget | None) -> None:
        super().__init__(parent)
        self._desk, self._session = desk, desk.session
        self.setWindowTitle(tr("Trips"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.model = TripsModel(desk.session, self)
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName(tr("Trips"))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        rows, head = self.table.verticalHeader(), self.table.horizontalHeader()
        assert rows is not None
        assert head is not None
        rows.setDefaultSectionSize(row_height(number_font(9), 8))
        set_widths(self.table, enumerate((180, 180, 150, 88, 104, 84)))
        head.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        head.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.problem = Label()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        self.model.refused.connect(self.problem.setText)
        self.add, self.remove = (
            QPushButton(tr("Add a trip")),
            QPushButton(tr("Remove the selected")),
        )
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        self.shut = QPushButton(tr("Close"))
        self.shut.setDefault(True)
        self.shut.clicked.connect(self.accept)
        row = QHBoxLayout()
        row.addWidget(self.add)
        row.addWidget(self.remove)
        row.addStretch(1)
        row.addWidget(self.shut)
        column_ = QVBoxLayout(self)
        column_.addWidget(
            muted(
                tr(
                    "From and To: a structure as S12 or a cell as 14:9. Who: the name or the key of a kind of vehicle or people."
                )
            )
        )
        column_.addWidget(self.table, 1)
        column_.addWidget(self.problem)
        column_.addLayout(row)
        open_as(self, 860, 420)
        self._session.replaced.connect(self.reject)

    def _selected(self) -> list[int]:
        model = self.table.selectionModel()
        return sorted(index.row() for index in model.selectedRows()) if model is not None else []

    def _do(self, trips: tuple[Trip, ...], label: str) -> None:
        try:
            edit = set_trips(self._session.plan, trips, label)
        except WovenError as err:
            self.problem.setText(tr(err))
            return
        self.problem.setText("")
        self._session.document.history.do(edit)

    def _add(self) -> None:
        """Like the one that is selected; or between the first two structures."""
        plan, trips = self._session.plan, self._session.plan.traffic.trips
        numbers, chosen = plan.register.numbers(), self._selected()
        if chosen:
            made = trips[chosen[-1]]
        elif len(numbers) >= 2:
            made = Trip(numbers[0], numbers[1])
        else:
            self.problem.setText(tr("Place two structures first: a trip leads from one to another"))
            return
        self._do((*trips, made), tr("Added trip {count}", count=len(trips) + 1))
        self.table.selectRow(len(trips))
        self.table.scrollToBottom()

    def _remove(self) -> None:
        chosen, trips = set(self._selected()), self._session.plan.traffic.trips
        if not chosen:
            self.problem.setText(tr("Select the trips that are to go"))
            return
        left = tuple(trip for at, trip in enumerate(trips) if at not in chosen)
        some = (
            tr("{count:,} trips", count=len(chosen))
            if len(chosen) > 1
            else tr("trip {min}", min=min(chosen) + 1)
        )
        self._do(left, tr("Removed {some}", some=some))
