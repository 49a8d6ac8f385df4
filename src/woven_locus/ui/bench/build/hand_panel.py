"""How what is in hand lies, and what placing does."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFormLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.ui import kept
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import ComboBox, quietly, side_by_side, whole_box
from woven_locus.ui.session.stages import Filling
from woven_locus.ui.theme import Theme

LARGEST_GAP = 64


class HandPanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session, self._theme = session, theme
        self.turn_left, self.turn_right = QPushButton(tr("Left")), QPushButton(tr("Right"))
        self.mirror = QPushButton(tr("Mirror"))
        for button, words in (
            (self.turn_left, tr("Turn a quarter to the left (Shift+T)")),
            (self.turn_right, tr("Turn a quarter to the right (T)")),
            (self.mirror, tr("Change left and right for each other (V)")),
        ):
            button.setToolTip(words)
            button.setAccessibleName(words)
            # Three labels and icons share the width of the bench.
            button.setStyleSheet("padding-left: 1px; padding-right: 1px;")
        self.turn_left.clicked.connect(lambda: desk.building.turn(-1))
        self.turn_right.clicked.connect(lambda: desk.building.turn(1))
        self.mirror.clicked.connect(desk.building.mirror)
        self.filling = ComboBox()
        self.filling.setAccessibleName(tr("What a drag with a kind in hand does"))
        for each in Filling:
            self.filling.addItem(tr(each.value), each)
        self.gap_cols = whole_box(0, 0, LARGEST_GAP, tr("Free columns between neighbours"))
        self.gap_rows = whole_box(0, 0, LARGEST_GAP, tr("Free rows between neighbours"))
        self.stay = QCheckBox(tr("Keep in hand after placing"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(side_by_side(self.turn_left, self.turn_right, self.mirror))
        form = QFormLayout()
        form.addRow(tr("Drag"), self.filling)
        self._gaps = side_by_side(self.gap_cols, self.gap_rows)
        form.addRow(tr("Gaps"), self._gaps)
        self._form = form
        column.addLayout(form)
        column.addWidget(self.stay)
        self.filling.currentIndexChanged.connect(
            lambda _at: session.choices.set_build(filling=self.filling.currentData())
        )
        self.gap_cols.valueChanged.connect(lambda value: session.choices.set_build(gap_cols=value))
        self.gap_rows.valueChanged.connect(lambda value: session.choices.set_build(gap_rows=value))
        self.stay.toggled.connect(self._set_stay)
        session.choices.on("build", self.refresh)
        session.hand.changed.connect(self.refresh)
        session.reformed.connect(self.refresh)
        session.selection.changed.connect(self.refresh)
        theme.changed.connect(self._dress)
        self._dress()
        self.refresh()

    def _dress(self) -> None:
        palette = self._theme.palette
        dress(self.turn_left, "turn-left", palette)
        dress(self.turn_right, "turn-right", palette)
        dress(self.mirror, "mirror", palette)
        for button in (self.turn_left, self.turn_right, self.mirror):
            # Three labels and icons share the width of the bench.
            button.setStyleSheet("padding-left: 3px; padding-right: 3px;")

    def _set_stay(self, on: bool) -> None:
        kept.keep("build/stay", on)
        self._session.choices.set_build(stay=on)

    def refresh(self) -> None:
        session, build = self._session, self._session.choices.build
        can_turn = not session.hand.empty or bool(session.selection.front)
        for button in (self.turn_left, self.turn_right, self.mirror):
            button.setEnabled(can_turn)
        quietly(
            self.filling,
            lambda: self.filling.setCurrentIndex(self.filling.findData(build.filling)),
        )
        quietly(self.gap_cols, lambda: self.gap_cols.setValue(build.gap_cols))
        quietly(self.gap_rows, lambda: self.gap_rows.setValue(build.gap_rows))
        quietly(self.stay, lambda: self.stay.setChecked(build.stay))
        self._form.setRowVisible(self._gaps, build.filling is Filling.ROWS)
