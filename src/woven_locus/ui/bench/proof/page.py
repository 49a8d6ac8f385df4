"""Proof: how many findings there are, which are listed, and traffic that is let pass."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QPushButton

from woven_locus.core.proof.finding import Part, Severity
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import inside, tr
from woven_locus.ui.parts.widgets import (
    ComboBox,
    Page,
    figures,
    heading,
    muted,
    quietly,
    rule,
    side_by_side,
    whole_box,
)
from woven_locus.ui.theme import Theme

_NAMES = {
    Severity.ERROR: tr("Errors"),
    Severity.WARNING: tr("Warnings"),
    Severity.NOTE: tr("Notes"),
}


class ProofPage(Page):
    """shown : a box to tick for each severity."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._proof = desk.proof
        keeper, column = desk.proof, self.column
        column.addWidget(heading(tr("Findings")))
        self.figures = figures()
        column.addWidget(self.figures)
        self.words = muted()
        column.addWidget(self.words)
        column.addWidget(rule())
        column.addWidget(heading(tr("Listed")))
        self.shown: dict[Severity, QCheckBox] = {}
        for severity, name in _NAMES.items():
            box = QCheckBox(name)
            box.toggled.connect(lambda on, severity=severity: keeper.show_severity(severity, on))
            column.addWidget(box)
            self.shown[severity] = box
        self.accepted = QCheckBox(tr("Accepted"))
        self.accepted.toggled.connect(lambda on: keeper.set_filter(accepted=on))
        column.addWidget(self.accepted)
        self.part = ComboBox()
        self.part.setAccessibleName(tr("Findings of which stage are listed"))
        self.part.addItem(tr("All stages"), None)
        for part in Part:
            self.part.addItem(tr(part.value), part)
        self.part.currentIndexChanged.connect(
            lambda _at: keeper.set_filter(part=self.part.currentData())
        )
        column.addWidget(self.part)
        self.word = QLineEdit()
        self.word.setPlaceholderText(tr("with this in it"))
        self.word.setAccessibleName(tr("List only findings that hold these words"))
        self.word.setClearButtonEnabled(True)
        self.word.textChanged.connect(lambda text: keeper.set_filter(word=text))
        column.addWidget(self.word)
        column.addWidget(rule())
        column.addWidget(heading(tr("Traffic")))
        self.seconds = whole_box(60, 1, 3600, tr("Seconds of traffic"))
        self.seconds.setSuffix(" s")
        self.let_pass = QPushButton(tr("Try the traffic"))
        self.let_pass.setToolTip(
            tr("Let all trips set off, and look for gridlock and for vehicles that find no room")
        )
        self.let_pass.clicked.connect(lambda: keeper.let_pass(float(self.seconds.value())))
        column.addWidget(side_by_side(self.seconds, self.let_pass))
        self.passed = muted()
        column.addWidget(self.passed)
        column.addStretch(1)
        keeper.changed.connect(self._look)
        desk.session.replaced.connect(self._look)
        self._session = desk.session
        self._show()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._show()

    def _look(self) -> None:
        # To put all findings together takes as long as an edit.
        if self.isVisible():
            self._show()

    def _show(self) -> None:
        keeper = self._proof
        proof, chosen = keeper.proof, keeper.filter
        lines = [f"{inside(name):9} {proof.count(key):6,}" for key, name in _NAMES.items()]
        lines.append(tr("accepted  {count:6,}", count=len(proof.accepted)))
        self.figures.setText("\n".join(lines))
        for severity, box in self.shown.items():
            quietly(box, lambda box=box, on=severity in chosen.severities: box.setChecked(on))  # type: ignore[misc]
        quietly(self.accepted, lambda: self.accepted.setChecked(chosen.accepted))
        part = self.part.findData(chosen.part)
        quietly(self.part, lambda: self.part.setCurrentIndex(max(0, part)))
        if keeper.working:
            self.words.setText(tr("Being checked …"))
        elif keeper.current:
            self.words.setText(tr("All checks are of the plan as it is."))
        else:
            self.words.setText(tr("Some checks are still to come."))
        traffic = self._session.plan.traffic
        some = bool(traffic.trips or traffic.rules)
        self.let_pass.setEnabled(some and not keeper.working)
        if not some:
            self.passed.setText(tr("There are no trips."))
        elif keeper.seconds:
            self.passed.setText(
                tr("{seconds:.0f} s of traffic were looked at.", seconds=keeper.seconds)
            )
        else:
            self.passed.setText(tr("Not tried since the last edit."))
