"""The snap study: raw against snapped for several rules at once, where they jump and disagree, and a
table of worked cases."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.editing import Notice
from woven_locus.core.grid.snap_study import Case, Study, differs, standard_places, study, worked
from woven_locus.core.grid.snapping import number
from woven_locus.core.numbers import parse_number
from woven_locus.files.study_tables import snap_cases_csv
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.charts import curve_looks
from woven_locus.ui.parts.panes import Sideways
from woven_locus.ui.parts.widgets import ComboBox, Strip
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, em, number_font, row_height
from woven_locus.ui.tray.curve_switch import CurveSwitch
from woven_locus.ui.tray.snap_study_chart import SnapStudyChart

_SHOWN_FIRST = ("corner", "centre", "truncated")


class SnapStudyTab(QWidget):
    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.added: list[float] = []
        self.cases: list[Case] = []
        self.study: Study | None = None
        self._made_of: object = None
        self.axis = ComboBox()
        self.axis.addItem(tr("Across (x)"), "x")
        self.axis.addItem(tr("Along (y)"), "y")
        self.axis.setAccessibleName(tr("Axis that is studied"))
        self._switches: dict[str, CurveSwitch] = {}
        self.entry = QLineEdit()
        self.entry.setPlaceholderText(tr("Add a place, say −36.5"))
        self.entry.setAccessibleName(tr("Place to add to the worked cases"))
        self.entry.setMinimumWidth(64)
        self.entry.setMaximumWidth(230)
        self.add = QPushButton(tr("Add"))
        self.copy = QPushButton(tr("Copy CSV"))
        self.table = QTableWidget()
        self.table.setAccessibleName(tr("Worked cases of the snapping rules"))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        self.table.setFont(number_font(9))
        self.table.setTabKeyNavigation(False)
        rows = self.table.verticalHeader()
        assert rows is not None
        rows.hide()
        rows.setDefaultSectionSize(row_height(number_font(9), 5, 21))
        self.drawn = SnapStudyChart(session, theme)
        self.chart = self.drawn.chart
        self._lay_out()
        self.axis.currentIndexChanged.connect(self.refresh)
        self.add.clicked.connect(self._add)
        self.entry.returnPressed.connect(self._add)
        self.copy.clicked.connect(self.copy_csv)
        session.choices.on("snap", self._maybe_refresh)
        session.replaced.connect(self.refresh)
        session.changed.connect(self._edited)
        theme.changed.connect(self._theme_changed)

    def _lay_out(self) -> None:
        left = QWidget()
        self._row = QVBoxLayout(left)
        self._row.setContentsMargins(8, 4, 4, 0)
        self._row.setSpacing(0)
        self._row.addWidget(self.axis)
        self._row.addSpacing(4)
        self._row.addStretch(1)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(left)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._names = scroll
        scroll.setFixedWidth(em(132) + 14)
        strip = Strip()
        tools = strip.row
        tools.addWidget(self.entry, 1)
        tools.addWidget(self.add)
        tools.addWidget(self.copy)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(strip)
        column.addWidget(self.table, 1)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(self.drawn)
        split.addWidget(right)
        split.setStretchFactor(0, 1)
        split.setStretchFactor(1, 1)
        right.setMinimumWidth(em(120))
        split.setSizes([260, 340])
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(scroll)
        whole.addWidget(Sideways(split), 1)

    # --- what is studied ---------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.chart.want()
        self._maybe_refresh()

    def _maybe_refresh(self) -> None:
        if self.isVisible() and self._made_of != self._sources():
            self.refresh()

    def _sources(self) -> object:
        return (self._session.plan.spec, self._session.choices.snap, self.axis.currentData())

    def _edited(self, notice: Notice) -> None:
        if notice.reformed:
            self.refresh()

    def refresh(self) -> None:
        """Work the study out again."""
        if not self.isVisible():
            self._made_of = None
            return
        self._made_of = self._sources()
        spec, settings = self._session.plan.spec, self._session.choices.snap
        self.study = study(spec, settings, self.axis.currentData())
        self._set_switches()
        self._fill()
        self.drawn.show_study(self.study, self.shown)

    def _set_switches(self) -> None:
        assert self.study is not None
        keys = [curve.key for curve in self.study.curves]
        if list(self._switches) == keys:
            return
        on = {key for key, button in self._switches.items() if button.isChecked()}
        on = on or set(_SHOWN_FIRST)
        for button in self._switches.values():
            self._row.removeWidget(button)
            button.deleteLater()
        self._switches = {}
        looks = curve_looks(self._theme.palette)
        for at, curve in enumerate(self.study.curves):
            button = CurveSwitch(curve, at % len(looks), self._theme)
            button.setChecked(curve.key in on)
            button.toggled.connect(self._switched)
            self._row.insertWidget(self._row.count() - 1, button)
            self._switches[curve.key] = button
        widest = max(button.sizeHint().width() for button in self._switches.values())
        self._names.setFixedWidth(max(em(132), widest + em(14)) + 14)

    def switch(self, key: str) -> CurveSwitch:
        """The button that shows a curve."""
        return self._switches[key]

    def _switched(self) -> None:
        self._fill()
        self.drawn.show_study(self.study, self.shown)

    @property
    def shown(self) -> list[str]:
        """Keys of the curves that are switched on, in order."""
        return [key for key, button in self._switches.items() if button.isChecked()]

    # --- worked cases ------------------------------------------------------------------------

    def _add(self) -> None:
        try:
            value = parse_number(self.entry.text(), comma=True)
            assert self.study is not None
            worked(self.study, [(value, "")])
        except ValueError as err:
            self._session.say(
                tr("“{text}” is no place on the axis: {err}", text=self.entry.text(), err=err), "no"
            )
            return
        self.added.append(value)
        self.entry.clear()
        self._fill()
        self.table.scrollToTop()

    def _fill(self) -> None:
        if self.study is None:
            return
        places = [(value, "added") for value in reversed(self.added)]
        self.cases = worked(self.study, places + standard_places(self.study))
        at = [k for k, curve in enumerate(self.study.curves) if curve.key in self.shown]
        names = [tr("Raw"), *(shown(self.study.curves[k].name) for k in at), tr("Shows")]
        self.table.setColumnCount(len(names))
        self.table.setHorizontalHeaderLabels(names)
        self.table.setRowCount(len(self.cases))
        bad_dye = colour(self._theme.palette.madder)
        for row, case in enumerate(self.cases):
            wrong = set(differs(self.study, case))
            cells = [_exact(case.raw)]
            for k in at:
                curve = self.study.curves[k]
                cells.append(("✗ " if curve.key in wrong else "") + number(case.values[k]))
            cells.append(shown(case.why))
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if text.startswith("✗"):
                    item.setForeground(bad_dye)
                    item.setToolTip(tr("differs from the right rule"))
                self.table.setItem(row, column, item)
        for column in range(len(names)):
            last = column == len(names) - 1
            self.table.setColumnWidth(column, em(144 if last else 72 if column else 136))
        head = self.table.horizontalHeader()
        assert head is not None
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)

    def copy_csv(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None and self.study is not None:
            clipboard.setText(snap_cases_csv(self.study, self.cases))
            self._session.say(tr("Copied {count} worked cases as CSV", count=len(self.cases)))

    def _theme_changed(self) -> None:
        if self.isVisible():
            self._fill()


def _exact(value: float) -> str:
    """A number that reads back to the same float, with a true minus."""
    text = repr(value).removesuffix(".0")
    return text.replace("-", "\N{MINUS SIGN}")
