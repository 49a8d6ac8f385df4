"""A sheet for a new plan's grid, with the result worked out as it is typed."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.errors import WovenError
from woven_locus.core.grid import GridSpec
from woven_locus.ui.bench.survey.facts import grid_facts
from woven_locus.ui.widgets import WorldBox, figures, heading


class NewPlanSheet(QDialog):
    """`spec` and `name` hold the answer once accepted."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("New plan")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.spec: GridSpec | None = None
        self.name = QLineEdit("Untitled plan")
        self.cols, self.rows = _whole(64, 1, 65536), _whole(48, 1, 65536)
        self.cell_w, self.cell_h = _world(24), _world(24)
        self.anchor_x, self.anchor_y = _world(0), _world(0)
        self.centred = QCheckBox("Keep the middle there, rather than the low corner")
        self.first_col, self.first_row = _whole(0, -(10**9), 10**9), _whole(0, -(10**9), 10**9)
        self.unit = QLineEdit("units")
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Columns, rows", _pair(self.cols, self.rows, "Columns", "Rows"))
        form.addRow(
            "Cell width, height", _pair(self.cell_w, self.cell_h, "Cell width", "Cell height")
        )
        form.addRow("Origin x, y", _pair(self.anchor_x, self.anchor_y, "Origin x", "Origin y"))
        form.addRow("", self.centred)
        form.addRow(
            "First column, row", _pair(self.first_col, self.first_row, "First column", "First row")
        )
        form.addRow("Unit", self.unit)
        for label, widget in (("Name", self.name), ("Unit", self.unit)):
            widget.setAccessibleName(label)
        self.facts = figures()
        self.facts.setMinimumWidth(250)
        self.problem = QLabel()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        right = QVBoxLayout()
        right.addWidget(heading("That gives"))
        right.addWidget(self.facts)
        right.addStretch(1)
        top = QHBoxLayout()
        top.addLayout(form)
        top.addSpacing(16)
        top.addLayout(right)
        kinds = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        self.make = self.buttons.button(kinds.Ok)
        assert self.make is not None
        self.make.setText("Make the plan")
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(top)
        column.addWidget(self.problem)
        column.addWidget(self.buttons)
        for box in (
            self.cols,
            self.rows,
            self.cell_w,
            self.cell_h,
            self.anchor_x,
            self.anchor_y,
            self.first_col,
            self.first_row,
        ):
            box.valueChanged.connect(self._work_out)
        self.centred.toggled.connect(self._work_out)
        self.unit.textChanged.connect(self._work_out)
        self._work_out()

    def _work_out(self) -> None:
        try:
            self.spec = GridSpec(
                self.cols.value(),
                self.rows.value(),
                self.cell_w.value(),
                self.cell_h.value(),
                self.anchor_x.value(),
                self.anchor_y.value(),
                self.centred.isChecked(),
                self.first_col.value(),
                self.first_row.value(),
                self.unit.text() or "units",
            )
        except WovenError as err:
            self.spec = None
            self.problem.setText(f"This grid cannot be made: {err}")
            self.facts.setText("")
        else:
            self.problem.setText("")
            facts = grid_facts(self.spec)
            self.facts.setText("\n".join(f"{name:<9} {value}" for name, value in facts))
        assert self.make is not None
        self.make.setEnabled(self.spec is not None)


def _whole(value: int, low: int, high: int) -> QSpinBox:
    box = QSpinBox()
    box.setRange(low, high)
    box.setValue(value)
    return box


def _world(value: float) -> WorldBox:
    return WorldBox(value, -1e9, 1e9)


def _pair(a: QWidget, b: QWidget, name_a: str, name_b: str) -> QWidget:
    a.setAccessibleName(name_a)
    b.setAccessibleName(name_b)
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.addWidget(a)
    row.addWidget(b)
    return holder
