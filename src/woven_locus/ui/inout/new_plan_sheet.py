"""The sheet that asks what a new plan is to be, where its kinds and classes come from, and for its grid."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QButtonGroup, QComboBox, QLineEdit, QRadioButton, QVBoxLayout, QWidget

from woven_locus.document.purposes import DEMO, NONE, PURPOSES, NewPlan, Purpose, Source
from woven_locus.ui.bench.survey.grid_form import GridForm
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import muted
from woven_locus.ui.theme import Theme, em

# Asks for a file, by the dialog's title; empty for none.
Choose = Callable[[str], str]


class SourceBox(QComboBox):
    """One of the demo's, none, or a file that is asked for."""

    def __init__(self, name: str, none: str, title: str, choose: Choose) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._title, self._choose = title, choose
        self._file: Path | None = None
        self.addItem(tr("The demo’s"), DEMO)
        self.addItem(none, NONE)
        self.addItem(tr("From a file…"), "")
        self._last = 0
        self.activated.connect(self._activated)

    @property
    def source(self) -> Source:
        if self._file is not None and self.currentIndex() == 2:
            return self._file
        return str(self.currentData())

    def propose(self, source: Source) -> None:
        """What goes with another purpose; a file that was chosen stays."""
        if self.currentIndex() != 2:
            self._last = self.findData(source)
            self.setCurrentIndex(self._last)

    def _activated(self, at: int) -> None:
        if at == 2:
            chosen = self._choose(self._title)
            if chosen:
                self._file = Path(chosen)
                self.setItemText(2, self._file.name)
                self.setToolTip(chosen)
            elif self._file is None:
                at = self._last
                self.setCurrentIndex(at)
        self._last = at


class NewPlanSheet(GridForm):
    """`asked` is the answer once it is accepted."""

    def __init__(self, theme: Theme, parent: QWidget, choose: Choose) -> None:
        super().__init__(tr("New plan"), tr("Make the plan"), theme, PURPOSES[0].spec, parent)
        self.name = QLineEdit(tr("Untitled plan"))
        self.name.setAccessibleName(tr("Name"))
        self._sized = False  # the user has said how large it is to be
        self.group = QButtonGroup(self)
        column = QVBoxLayout()
        for at, purpose in enumerate(PURPOSES):
            button = QRadioButton(tr(purpose.name))
            button.setToolTip(tr(purpose.words))
            self.group.addButton(button, at)
            column.addWidget(button)
        self.words = muted()
        self.words.setMinimumWidth(em(300))
        # Two lines of it have room whichever is chosen, so that nothing below moves.
        self.words.setMinimumHeight(2 * self.words.fontMetrics().lineSpacing() + 2)
        column.addWidget(self.words)
        self.kinds = SourceBox(
            tr("Kinds from"), tr("None"), tr("Kinds: a catalogue or a plan"), choose
        )
        self.terrain = SourceBox(
            tr("Terrain from"),
            tr("One plain class"),
            tr("Classes of terrain and road: a plan"),
            choose,
        )
        self.form.addRow(tr("Name"), self.name)
        self.form.addRow(tr("It is to be"), column)
        self.form.addRow(tr("Kinds"), self.kinds)
        self.form.addRow(tr("Terrain and roads"), self.terrain)
        self.add_grid()
        self.side.addStretch(1)
        self.group.idClicked.connect(self._propose)
        self.group.button(0).setChecked(True)  # type: ignore[union-attr]
        self._propose()
        for box in (self.cols, self.rows):
            box.valueChanged.connect(self._was_sized)
        self.begin()
        self.name.selectAll()

    @property
    def purpose(self) -> Purpose:
        return PURPOSES[max(0, self.group.checkedId())]

    @property
    def asked(self) -> NewPlan | None:
        """What is asked for, None as long as there is no such grid."""
        if self.spec is None:
            return None
        name = self.name.text().strip() or tr("Untitled plan")
        return NewPlan(self.spec, name, self.kinds.source, self.terrain.source, self.purpose)

    def _was_sized(self) -> None:
        self._sized = True

    def _propose(self) -> None:
        """What goes with the purpose. A size that was typed stays."""
        purpose = self.purpose
        self.words.setText(tr(purpose.words))
        self.kinds.propose(purpose.kinds)
        self.terrain.propose(purpose.terrain)
        if not self._sized:
            self.cols.setValue(purpose.spec.cols)
            self.rows.setValue(purpose.spec.rows)
            self._sized = False
