"""What is wrong with the plan: every finding with where it is and what would mend it. Rows and map select each other; what is
as it should be is accepted, with a reason."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.edits.findings import accept, accept_no_more
from woven_locus.core.proof.finding import Finding
from woven_locus.core.proof.misses import NearMiss
from woven_locus.core.proof.table import OUTDATED
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.tables import reading_view
from woven_locus.ui.parts.widgets import muted
from woven_locus.ui.theme import Theme, em
from woven_locus.ui.tray.findings_model import FindingsModel

# More than this are counted, not listed.
MOST_ROWS = 500


class FindingsTab(QWidget):
    """reason : why the chosen one is as it should be."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.session
        self._proof = desk.proof
        self._filling = False
        self.model = FindingsModel(theme)
        self.table = reading_view(self.model, tr("Findings"), 2, {0: 132, 1: 54, 3: 104})
        self.empty = muted(tr("Nothing to find fault with."))
        self.empty.setContentsMargins(12, 8, 12, 8)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.mend = QPushButton(tr("Mend it"))
        self.mend.setToolTip(tr("Do what the last column says (Shift+M in Ways)"))
        self.mend_all = QPushButton(tr("Mend all"))
        self.reason = QLineEdit()
        self.reason.setPlaceholderText(tr("why it is so"))
        self.reason.setAccessibleName(tr("Why the finding is as it should be"))
        self.accept = QPushButton(tr("Accept"))
        self.accept.setToolTip(
            tr("Keep it apart from now on, for the reason above; the plan records both")
        )
        self.mend.clicked.connect(self.mend_chosen)
        self.mend_all.clicked.connect(lambda: self._proof.mend_all())
        self.accept.clicked.connect(self._accept)
        self.reason.returnPressed.connect(self._accept)
        self.reason.textChanged.connect(lambda _text: self._enable())
        side = QVBoxLayout()
        side.setContentsMargins(8, 6, 8, 6)
        for part in (self.mend, self.mend_all, self.reason, self.accept):
            part.setFixedWidth(em(132))
            side.addWidget(part)
        side.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.empty, 1)
        row.addWidget(self.table, 1)
        row.addLayout(side)
        self._proof.changed.connect(self.look)
        picked = self.table.selectionModel()
        assert picked is not None
        picked.selectionChanged.connect(self._choose)
        self.look()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._proof.watch(True)
        self.look()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self._proof.watch(False)

    def look(self) -> None:
        """List anew, as long as somebody sees it."""
        if not self.isVisible() or self._session.document.history.in_gesture:
            return
        chosen = self.chosen
        self._filling = True
        try:
            self.model.take(self._proof.listed()[:MOST_ROWS])
            self.table.clearSelection()
            if chosen in self.rows:
                self.table.selectRow(self.rows.index(chosen))
        finally:
            self._filling = False
        some = bool(self.rows)
        self.table.setVisible(some)
        self.empty.setVisible(not some)
        self.empty.setText(self._none())
        self._enable()

    def _none(self) -> str:
        proof = self._proof.proof
        left = len(proof.findings) + len(proof.accepted)
        if not left:
            return tr("Nothing to find fault with.")
        return tr(
            "Nothing of what is listed; {left:,} more by the boxes in Proof: notes, accepted ones.",
            left=left,
        )

    @property
    def rows(self) -> list[Finding]:
        """What is listed."""
        return self.model.rows

    @property
    def chosen(self) -> Finding | None:
        at = self.table.currentIndex().row()
        picked = self.table.selectionModel()
        if picked is None or not picked.hasSelection() or not 0 <= at < len(self.rows):
            return None
        return self.rows[at]

    def _enable(self) -> None:
        chosen = self.chosen
        self.mend.setEnabled(chosen is not None and chosen.can_mend)
        self.mend_all.setEnabled(any(isinstance(each.mend, NearMiss) for each in self.rows))
        taken = chosen is not None and bool(chosen.reason)
        self.accept.setText(tr("Accept it no longer") if taken else tr("Accept"))
        may = chosen is not None and chosen.code != OUTDATED.code
        self.reason.setEnabled(may and not taken)
        self.accept.setEnabled(taken or (may and bool(self.reason.text().strip())))

    def _choose(self) -> None:
        if self._filling:
            return
        chosen = self.chosen
        if chosen is not None:
            if chosen.structure in self._session.plan.register:
                self._session.select(chosen.structure)
            if chosen.cell is not None:
                self._session.reveal.emit(chosen.cell)
        self._enable()

    def mend_chosen(self) -> None:
        """Mend the chosen finding, or the first near miss."""
        chosen = self.chosen
        if chosen is None or not chosen.can_mend:
            every = self._proof.proof.findings
            chosen = next(
                (each for each in every if each.can_mend and each.code == "near-miss"), None
            )
        if chosen is None:
            self._session.say(tr("There is no near miss to mend"), "no")
            return
        self._proof.mend(chosen)

    def _accept(self) -> None:
        session, chosen = self._session, self.chosen
        if chosen is None or not self.accept.isEnabled():
            return
        if not chosen.reason:
            if session.attempt(accept, session.plan, chosen, self.reason.text()):
                self.reason.clear()
            return
        for known in session.plan.accepted:
            if known.key == chosen.key:
                session.attempt(accept_no_more, session.plan, known)
