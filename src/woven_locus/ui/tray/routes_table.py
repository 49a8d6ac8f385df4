"""The routes that were asked for, with length, cost, cells explored, or why there is none."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.routing import NoRoute
from woven_locus.document import PinnedRoute
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.tables import reading_table
from woven_locus.ui.parts.widgets import muted, tip
from woven_locus.ui.theme import number_font

COLUMNS = (
    tr("Route"),
    tr("Over"),
    tr("Moves"),
    tr("Length"),
    tr("Cost"),
    tr("Cells"),
    tr("Explored"),
    tr("State"),
)


class RoutesTable(QWidget):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        widths = {1: 54, 2: 52, 3: 58, 4: 58, 5: 48, 6: 70, 7: 110}
        self.table = reading_table(COLUMNS, tr("Routes kept current"), 0, widths)
        self.table.setFont(number_font(9))
        self.empty = muted(
            tr(
                "No routes yet. In Ways, take the tool “Route”, then click two structures on the sheet."
            )
        )
        self.empty.setContentsMargins(12, 8, 12, 8)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.drop = QPushButton(tr("Remove"))
        self.explain, self.propose = (
            QPushButton(tr("Explain it")),
            QPushButton(tr("Propose a road")),
        )
        self.explain.setToolTip(tr("See the search step by step (I)"))
        self.propose.setToolTip(
            tr("The fewest cells of road that would mend it (U); Shift+U lays them")
        )
        self.drop.clicked.connect(self._drop)
        self.explain.clicked.connect(self._explain)
        self.propose.clicked.connect(desk.routes.propose)
        side = QVBoxLayout()
        side.setContentsMargins(8, 6, 8, 6)
        for button in (self.explain, self.propose, self.drop):
            side.addWidget(button)
        side.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.empty, 1)
        row.addWidget(self.table, 1)
        row.addLayout(side)
        desk.routes.changed.connect(self._show)
        session.replaced.connect(self._show)
        self.table.itemSelectionChanged.connect(self._choose)
        self._show()

    def _cells(self, pin: PinnedRoute) -> list[str]:
        manner = pin.manner
        wide = f" × {manner.size}" if manner.size > 1 else ""
        head = [pin.title, tr(manner.over.value), f"{manner.moves}{wide}"]
        answer = pin.answer
        if answer is None:
            return [*head, "", "", "", "", tr("searching …")]
        if isinstance(answer, NoRoute):
            explored = str(answer.explored) if answer.explored else ""
            state = f"{pin.note}: {answer.why}" if pin.note else answer.why
            return [*head, "", "", "", explored, state]
        return [
            *head,
            f"{answer.length:g}",
            f"{answer.cost:g}",
            str(len(answer.slots)),
            str(answer.explored),
            pin.note or "open",
        ]

    def _show(self) -> None:
        keeper = self._desk.routes
        with QSignalBlocker(self.table):
            self.table.setRowCount(len(keeper.pins))
            for row, pin in enumerate(keeper.pins):
                for column, text in enumerate(self._cells(pin)):
                    item = QTableWidgetItem(text)
                    item.setToolTip(tip(text))
                    if 2 <= column <= 6:
                        item.setTextAlignment(
                            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                        )
                    self.table.setItem(row, column, item)
            if keeper.current in keeper.pins:
                self.table.selectRow(keeper.pins.index(keeper.current))
            else:
                self.table.clearSelection()
        some = bool(keeper.pins)
        self.table.setVisible(some)
        current = keeper.current
        for button in (self.drop, self.explain, self.propose):
            button.setVisible(some)
        self.drop.setEnabled(current is not None)
        self.explain.setEnabled(current is not None and current.answer is not None)
        self.propose.setEnabled(current is not None and isinstance(current.answer, NoRoute))
        self.empty.setVisible(not some)

    def _choose(self) -> None:
        rows = self.table.selectionModel().selectedRows() if self.table.selectionModel() else []  # type: ignore[union-attr]
        if rows:
            self._desk.routes.choose(self._desk.routes.pins[rows[0].row()])

    def _explain(self) -> None:
        if self._desk.routes.current is not None:
            self._desk.search.explain(self._desk.routes.current)

    def _drop(self) -> None:
        if self._desk.routes.current is not None:
            self._desk.routes.drop(self._desk.routes.current)
