"""What is wrong with the plan: near misses with a mend, structures that are cut off or could not be placed
where they stand, weak points. Rows and map select each other."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.edits.mending import mend
from woven_locus.core.geometry import cell_text
from woven_locus.core.proof.findings import Finding, findings
from woven_locus.core.proof.misses import NearMiss
from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.tables import reading_table
from woven_locus.ui.parts.widgets import muted, tip
from woven_locus.ui.session.stages import WaysOverlay

COLUMNS = ("What", "Cell", "Finding", "Mend")
# More than this are counted, not listed.
MOST_ROWS = 500


class FindingsTab(QWidget):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.rows: list[Finding] = []
        self.table = reading_table(COLUMNS, "Findings", 2, {0: 130, 1: 58, 3: 80})
        self.empty = muted("Nothing to find fault with.")
        self.empty.setContentsMargins(12, 8, 12, 8)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.mend = QPushButton("Mend it")
        self.mend.setToolTip("Lay what is missing (Shift+M)")
        self.mend_all = QPushButton("Mend all")
        self.mend.clicked.connect(self.mend_chosen)
        self.mend_all.clicked.connect(self._mend_all)
        side = QVBoxLayout()
        side.setContentsMargins(8, 6, 8, 6)
        side.addWidget(self.mend)
        side.addWidget(self.mend_all)
        side.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.empty, 1)
        row.addWidget(self.table, 1)
        row.addLayout(side)
        session.changed.connect(lambda _notice: self.look())
        session.settled.connect(self.look)
        session.replaced.connect(self.look)
        desk.study.changed.connect(self.look)
        self.table.itemSelectionChanged.connect(self._choose)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.look()

    def look(self) -> None:
        """Fill the table anew, as long as somebody sees it."""
        if not self.isVisible() or self._session.document.history.in_gesture:
            return
        chosen = self.chosen
        self.rows = self._known()[:MOST_ROWS]
        with QSignalBlocker(self.table):
            self.table.setRowCount(len(self.rows))
            for row, each in enumerate(self.rows):
                mends = f"lay {cell_text(each.cell)}" if each.can_mend else ""
                for column, text in enumerate((each.what, cell_text(each.cell), each.words, mends)):
                    item = QTableWidgetItem(text)
                    item.setToolTip(tip(text))
                    self.table.setItem(row, column, item)
            self.table.clearSelection()
            if chosen in self.rows:
                self.table.selectRow(self.rows.index(chosen))
        some = bool(self.rows)
        self.table.setVisible(some)
        self.empty.setVisible(not some)
        self._enable()

    def _known(self) -> list[Finding]:
        session, study = self._session, self._desk.study
        document = session.document
        unsound, _all = document.known_unsound()
        shown = session.choices.ways.shown is WaysOverlay.WEAK
        weak = (study.weak or []) if shown else []
        cut_off, ways = document.links().cut_off, self._desk.wave_ways.ways
        return findings(session.plan, study.misses(), cut_off, unsound, weak, ways)

    @property
    def chosen(self) -> Finding | None:
        at = self.table.currentRow()
        picked = self.table.selectionModel()
        if picked is None or not picked.hasSelection() or not 0 <= at < len(self.rows):
            return None
        return self.rows[at]

    def _enable(self) -> None:
        chosen = self.chosen
        self.mend.setEnabled(chosen is not None and chosen.can_mend)
        self.mend_all.setEnabled(any(each.can_mend for each in self.rows))

    def _choose(self) -> None:
        chosen = self.chosen
        if chosen is not None:
            if chosen.structure in self._session.plan.register:
                self._session.select(chosen.structure)
            self._session.reveal.emit(chosen.cell)
        self._enable()

    def mend_chosen(self) -> None:
        """Mend the chosen near miss, or the first one."""
        session, chosen = self._session, self.chosen
        miss = chosen.miss if chosen is not None else None
        if miss is None:
            miss = next((each for each in self._desk.study.misses() if each.mend), None)
        if miss is None:
            session.say("No near miss is known to mend", "no")
            return
        session.attempt(mend, session.plan, miss)

    def _mend_all(self) -> None:
        """One after the other, since one mend may make another needless; one step of the history."""
        session = self._session
        refused: set[NearMiss] = set()
        with session.document.history.gesture("Mended near misses"):
            while True:
                left = [
                    miss for miss in self._desk.study.misses() if miss.mend and miss not in refused
                ]
                if not left:
                    break
                if not session.attempt(mend, session.plan, left[0]):
                    refused.add(left[0])
        self.look()
