"""The road classes as a table. Every change is a step of the history at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QColorDialog,
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.editing import Edit
from woven_locus.core.errors import WovenError
from woven_locus.core.tools import road_classes
from woven_locus.core.ways.roads import MOST_LANES, RoadClass
from woven_locus.ui.session import Session
from woven_locus.ui.tables import plain_table
from woven_locus.ui.theme import Theme
from woven_locus.ui.widgets import WorldBox, muted, whole_box

COLUMNS = ("Name", "Speed", "Move cost", "Lanes", "Dye", "Cells")


class RoadsSheet(QDialog):
    def __init__(self, session: Session, theme: Theme, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Road classes")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(640, 320)
        self._session = session
        self._filling = False
        self.choose_dye: Callable[[str], str] = self._ask_dye
        self.table = plain_table(COLUMNS, "Road classes", 34)
        for column, width in enumerate((180, 90, 90, 70, 100, 80)):
            self.table.setColumnWidth(column, width)
        self.problem = QLabel()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        self.add, self.remove = QPushButton("Add a class"), QPushButton("Remove it")
        self.shut = QPushButton("Close")
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(
            lambda: self._do(lambda: road_classes.remove_class(session.plan, self.code))
        )
        self.shut.clicked.connect(self.accept)
        self.shut.setDefault(True)
        row = QHBoxLayout()
        row.addWidget(self.add)
        row.addWidget(self.remove)
        row.addStretch(1)
        row.addWidget(self.shut)
        unit = session.plan.spec.unit or "units"
        column = QVBoxLayout(self)
        column.addWidget(
            muted(
                f"Speed is in {unit} a second, for travel times and agents; routes go by move cost. "
                "Each change is one step of the history."
            )
        )
        column.addWidget(self.table, 1)
        column.addWidget(self.problem)
        column.addLayout(row)
        session.changed.connect(self._fill)
        self._fill()
        self.table.selectRow(0)

    @property
    def code(self) -> int:
        """The class that is selected."""
        return max(0, self.table.currentRow())

    def _fill(self, _notice: object = None) -> None:
        table, chosen = self._session.plan.road_table, self.code
        counts = road_classes.usage(self._session.plan)
        self._filling = True
        self.table.setRowCount(len(table))
        for code, item in enumerate(table):
            self._fill_row(code, item, counts[code])
        self.table.selectRow(min(chosen, len(table) - 1))
        self._filling = False

    def _fill_row(self, code: int, item: RoadClass, count: int) -> None:
        name = QLineEdit(item.name)
        name.editingFinished.connect(lambda: self._change(code, name=name.text().strip()))
        speed, cost = WorldBox(item.speed, 0.0001, 1e6), WorldBox(item.cost, 0.0001, 1e6)
        speed.editingFinished.connect(lambda: self._change(code, speed=speed.value()))
        cost.editingFinished.connect(lambda: self._change(code, cost=cost.value()))
        lanes = whole_box(item.lanes, 1, MOST_LANES, "")
        lanes.editingFinished.connect(lambda: self._change(code, lanes=lanes.value()))
        dye = QPushButton(item.dye)
        dye.setStyleSheet(f"border-left: 18px solid {item.dye};")
        dye.clicked.connect(lambda: self._change(code, dye=self.choose_dye(item.dye)))
        for column, (widget, words) in enumerate(
            (
                (name, "Name of"),
                (speed, "Speed on"),
                (cost, "Move cost of"),
                (lanes, "Lanes of"),
                (dye, "Dye of"),
            )
        ):
            widget.setAccessibleName(f"{words} {item.name}")
            self.table.setCellWidget(code, column, widget)
        cells = QTableWidgetItem(f"{count:,}")
        cells.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        cells.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
        self.table.setItem(code, len(COLUMNS) - 1, cells)

    def _ask_dye(self, now: str) -> str:
        chosen = QColorDialog.getColor(QColor(now), self, "Dye")
        return chosen.name().upper() if chosen.isValid() else now

    def _change(self, code: int, **changes: object) -> None:
        plan = self._session.plan
        if self._filling or code >= len(plan.road_table):
            return
        item = replace(plan.road_table[code], **changes)  # type: ignore[arg-type]
        self._do(lambda: road_classes.change_class(plan, code, item))

    def _do(self, make: Callable[[], Edit]) -> None:
        self.problem.setText("")
        try:
            edit = make()
        except WovenError as err:
            self.problem.setText(str(err))
            return
        self._session.document.history.do(edit)

    def _add(self) -> None:
        plan = self._session.plan
        self._do(lambda: road_classes.add_class(plan, plan.road_table[self.code], "New road"))
        self.table.selectRow(len(plan.road_table) - 1)
        name = self.table.cellWidget(self.code, 0)
        if isinstance(name, QLineEdit):
            name.setFocus()
            name.selectAll()
