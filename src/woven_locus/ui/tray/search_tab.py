"""A search explained: the heuristics side by side, its steps with a slider, what stands at the pointer."""

from __future__ import annotations

import math

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QSlider,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.geometry import cell_text
from woven_locus.core.routing import Route
from woven_locus.core.routing.explain import CLOSED, UNSEEN, WEIGHT, Explained, Heuristic
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.tables import reading_table
from woven_locus.ui.parts.widgets import ComboBox, figures, muted, quietly
from woven_locus.ui.theme import number_font

COLUMNS = (tr("Heuristic"), tr("Cost"), tr("Explored"), tr("Milliseconds"), tr("Cheapest?"))
_TITLES = {
    Heuristic.ZERO: (tr("zero"), tr("Nothing is thought to be left: the search spreads evenly")),
    Heuristic.MANHATTAN: (tr("Manhattan"), tr("Columns and rows that are left, added up")),
    Heuristic.OCTILE: (tr("octile"), tr("The way that is left with diagonals")),
    Heuristic.WEIGHTED: (
        tr("weighted × {weight:g}", weight=WEIGHT),
        tr("The best of the others, overrated on purpose"),
    ),
}


class SearchTab(QWidget):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        widths = {1: 72, 2: 72, 3: 92, 4: 80}
        self.table = reading_table(COLUMNS, tr("Heuristics side by side"), 0, widths)
        self.table.setFont(number_font(9))
        self.words = muted()
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(tr("Step of the search"))
        self.play = QPushButton(tr("Play"))
        self.play.setCheckable(True)
        self.by = ComboBox()
        self.by.setAccessibleName(tr("What cells are coloured by"))
        self.by.addItem(tr("Coloured by order"), False)
        self.by.addItem(tr("Coloured by cost"), True)
        self.all = QPushButton(tr("Compare all"))
        # Short, so that the table beside it has room for its words.
        self.shut = QPushButton(tr("Close"))
        self.shut.setToolTip(tr("Close the search"))
        self.shut.setAccessibleName(tr("Close the search"))
        self.reading = figures()
        self.reading.setMinimumWidth(230)
        middle = QHBoxLayout()
        middle.setSpacing(6)
        middle.addWidget(self.play)
        middle.addWidget(self.slider, 1)
        buttons = QHBoxLayout()
        buttons.setSpacing(6)
        for widget in (self.by, self.all, self.shut):
            buttons.addWidget(widget)
        buttons.addStretch(1)
        right = QVBoxLayout()
        right.setContentsMargins(10, 6, 10, 6)
        right.setSpacing(6)
        right.addWidget(self.words)
        right.addLayout(middle)
        right.addLayout(buttons)
        right.addWidget(self.reading)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.table, 3)
        row.addLayout(right, 2)
        search = desk.search
        self.slider.valueChanged.connect(search.set_step)
        self.play.clicked.connect(search.play)
        self.by.currentIndexChanged.connect(lambda _at: search.set_by_cost(self.by.currentData()))
        self.all.clicked.connect(self._compare)
        self.shut.clicked.connect(search.put_away)
        self.table.itemSelectionChanged.connect(self._choose)
        search.changed.connect(self._show)
        search.stepped.connect(self._show_step)
        session.pointer.moved.connect(self._read)
        self._show()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._read()

    def _compare(self) -> None:
        pin = self._desk.search.asked or self._desk.routes.current
        if pin is not None:
            self._desk.search.compare(pin)

    def _all(self) -> list[Explained]:
        search = self._desk.search
        return search.compared or ([search.explained] if search.explained is not None else [])

    def _show(self) -> None:
        search, found = self._desk.search, self._all()
        with QSignalBlocker(self.table):
            self.table.setRowCount(len(found))
            for row, each in enumerate(found):
                sure = tr("yes") if each.heuristic.sure(each.moves) else tr("not sure")
                cost = f"{each.cost:g}" if math.isfinite(each.cost) else tr("no way")
                texts = (
                    _TITLES[each.heuristic][0],
                    cost,
                    f"{each.steps:,}",
                    f"{each.seconds * 1000:.2f}",
                    sure,
                )
                for column, text in enumerate(texts):
                    item = QTableWidgetItem(text)
                    item.setToolTip(_TITLES[each.heuristic][1])
                    if column:
                        item.setTextAlignment(
                            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                        )
                    self.table.setItem(row, column, item)
            if search.explained in found:
                self.table.selectRow(found.index(search.explained))
        some = search.explained is not None
        for widget in (self.slider, self.play, self.by, self.shut, self.reading):
            widget.setVisible(some)
        self.all.setVisible(some and not search.compared)
        self.table.setVisible(some)
        self.words.setText(self._title())
        if search.explained is not None:
            most = search.explained.steps
            quietly(self.slider, lambda: self.slider.setRange(0, most))
            self.slider.setPageStep(max(1, most // 20))
        self._show_step()

    def _title(self) -> str:
        search = self._desk.search
        if search.explained is None:
            return tr("No search is being explained. Choose a route in Routes, then “Explain it”.")
        title = search.asked.title if search.asked is not None else ""
        answer = search.asked.answer if search.asked is not None else None
        if isinstance(answer, Route):
            return tr(
                "{title}: {detour:.2f} times the straight line.", title=title, detour=answer.detour
            )
        return tr("{title}: no way.", title=title)

    def _show_step(self) -> None:
        search = self._desk.search
        quietly(self.slider, lambda: self.slider.setValue(search.step))
        quietly(self.play, lambda: self.play.setChecked(search.playing))
        self.play.setText(tr("Pause") if search.playing else tr("Play"))
        self._read()

    def _read(self) -> None:
        """Step, and f, g and h of the cell under the pointer."""
        search, hover = self._desk.search, self._session.pointer.hover
        said = search.explained
        if said is None or not self.isVisible():
            return
        lines = [tr("step    {step:,} of {steps:,}", step=search.step, steps=said.steps)]
        if hover is not None and hover.inside:
            slot = self._session.plan.spec.slot(hover.cell)
            state = said.state(slot, search.step)
            cell, order = cell_text(hover.cell), int(said.order[slot])
            if state == CLOSED:
                lines.append(
                    tr("cell    {cell}: closed as number {order:,}", cell=cell, order=order)
                )
            else:
                value = (tr("not seen"), tr("open"))[state]
                lines.append(tr("cell    {cell}: {value}", cell=cell, value=value))
            if state != UNSEEN:
                g, h = float(said.g[slot]), said.h(slot)
                lines.append(f"f       {g + h:g}\ng + h   {g:g} + {h:g}")
        self.reading.setText("\n".join(lines))

    def _choose(self) -> None:
        rows = self.table.selectionModel().selectedRows() if self.table.selectionModel() else []  # type: ignore[union-attr]
        found = self._all()
        if rows and rows[0].row() < len(found):
            chosen = found[rows[0].row()]
            if chosen is not self._desk.search.explained:
                self._desk.search.look_at(chosen)
