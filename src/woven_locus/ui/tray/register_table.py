"""The register in the tray: a table that selects with the map, and a bar to filter it."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from PyQt6.QtCore import (
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    Qt,
    QTimer,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.editing import Notice
from woven_locus.core.register_table import Column, Filter, Heading, State
from woven_locus.ui.language import tr
from woven_locus.ui.parts.tables import set_widths
from woven_locus.ui.parts.widgets import ComboBox, Label, Strip, quietly
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import number_font, row_height
from woven_locus.ui.tray.register_delegate import CellDelegate, ChoiceDelegate
from woven_locus.ui.tray.register_model import RegisterModel

# Selections up to this many are shown row by row.
MOST_CHOSEN = 400
_SOON_MSEC = 120


class RegisterTable(QTableView):
    """Rows and map select each other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.model_ = RegisterModel(session)
        self.model_.seen = self.isVisible
        self.setModel(self.model_)
        self.setAccessibleName(tr("Register of placed structures"))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        triggers = QAbstractItemView.EditTrigger
        self.setEditTriggers(triggers.DoubleClicked | triggers.EditKeyPressed)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setSortingEnabled(True)
        self.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        self.setTabKeyNavigation(False)
        self.setFont(number_font(9))
        self.setItemDelegate(CellDelegate(self, self.model_))
        delegate = ChoiceDelegate(session, self, self.model_)
        for column in (Column.KIND, Column.TURN):
            self.setItemDelegateForColumn(column, delegate)
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        assert rows is not None
        assert columns is not None
        rows.hide()
        rows.setDefaultSectionSize(row_height(number_font(9), 6, 22))
        columns.setStretchLastSection(True)
        columns.setHighlightSections(False)
        # A choice of its own, which stays empty: for every column that it draws, Qt asks whether each chosen row is in it.
        columns.setSelectionModel(QItemSelectionModel(self.model_, columns))
        columns.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        columns.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        set_widths(self, enumerate((52, 116, 74, 62, 46, 104, 56, 128, 60)))
        self.clicked.connect(self._clicked)
        session.selection.changed.connect(self._follow_map)
        session.changed.connect(lambda _notice: self._follow_map())

    def _clicked(self, index: QModelIndex) -> None:
        what = self.model_.what_at(index.row())
        if isinstance(what, Heading):
            self.model_.fold(what.kind)
            self._follow_map()

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        super().selectionChanged(selected, deselected)
        model = self.selectionModel()
        if self.model_.changing or model is None:
            return
        chosen = [self.model_.number_at(index.row()) for index in model.selectedRows()]
        chosen = [number for number in chosen if number]
        if chosen and set(chosen) != set(self._session.selection.numbers):
            front = self.model_.number_at(self.currentIndex().row())
            if front in chosen:
                chosen.remove(front)
                chosen.insert(0, front)
            self._session.selection.select_all(chosen)
            if len(chosen) == 1:
                self._session.reveal.emit(self._session.plan.register[chosen[0]].cell)

    def _follow_map(self) -> None:
        chosen, model = self._session.selection.numbers, self.selectionModel()
        if model is None:
            return
        shown = {
            self.model_.number_at(row)
            for part in model.selection()  # type: ignore[attr-defined] # it is a list, the stubs do not say so
            for row in range(part.top(), part.bottom() + 1)
        }
        wanted = {number for number in chosen[:MOST_CHOSEN] if self._row(number) is not None}
        if shown == wanted:
            return
        self.model_.changing = True
        picked = QItemSelection()
        rows = sorted(row for number in wanted if (row := self._row(number)) is not None)
        # Rows side by side as one range: each range costs as much as a row.
        starts = [k for k, row in enumerate(rows) if not k or row != rows[k - 1] + 1]
        for start, end in pairwise([*starts, len(rows)]):
            picked.select(self.model_.index(rows[start], 0), self.model_.index(rows[end - 1], 0))
        how = QItemSelectionModel.SelectionFlag
        model.select(picked, how.ClearAndSelect | how.Rows)
        front = self._row(chosen[0]) if chosen else None
        index = self.model_.index(front, 0) if front is not None else QModelIndex()
        model.setCurrentIndex(index, how.NoUpdate)
        self.model_.changing = False
        if front is not None:
            self.scrollTo(index)

    def _row(self, number: int) -> int | None:
        try:
            return self.model_.row_of(number)
        except ValueError:
            return None


class RegisterTab(QWidget):
    """The table under its bar. `take_out` and `bring_in` are set by whoever knows about files."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.table = RegisterTable(session)
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("Filter: number, kind or cell"))
        self.text.setAccessibleName(tr("Show only rows with this text"))
        self.text.setClearButtonEnabled(True)
        self.kind, self.state = ComboBox(), ComboBox()
        self.kind.setAccessibleName(tr("Show only this kind"))
        self.state.setAccessibleName(tr("Show only structures in this state"))
        for each in State:
            self.state.addItem(tr(each.value), each)
        for box in (self.kind, self.state):
            # The widest entry must not push the rest out of a narrow tray.
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(7)
        self.text.setMinimumWidth(60)
        self.group = QCheckBox(tr("By kind"))
        self.group.setToolTip(
            tr("Group by kind, with how many there are; click a heading to fold it")
        )
        self.says = Label()
        self.says.setObjectName("muted")
        self.choose = QPushButton(tr("Select"))
        self.choose.setToolTip(tr("Select all that the filter shows, to demolish or copy them"))
        self.bring_in: Callable[[], None] = lambda: None
        self.take_out: Callable[[], None] = lambda: None
        self.incoming, self.outgoing = QPushButton(tr("Import…")), QPushButton(tr("Export…"))
        self.incoming.setToolTip(tr("Import structures from CSV, each judged"))
        self.outgoing.setToolTip(tr("Export the register as CSV"))
        self.incoming.clicked.connect(lambda: self.bring_in())
        self.outgoing.clicked.connect(lambda: self.take_out())
        self._lay_out()
        self._listen()
        self._fill()

    def _lay_out(self) -> None:
        strip = Strip()
        bar = strip.row
        bar.addWidget(self.text, 1)
        for widget in (
            self.kind,
            self.state,
            self.group,
            self.says,
            self.choose,
            self.incoming,
            self.outgoing,
        ):
            bar.addWidget(widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addWidget(strip)
        column.addWidget(self.table, 1)

    def _listen(self) -> None:
        session = self._session
        # Typing is answered when it pauses.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MSEC)
        self._soon.timeout.connect(self.apply)
        self.text.textChanged.connect(lambda _text: self._soon.start())
        self.kind.currentIndexChanged.connect(lambda _at: self.apply())
        self.state.currentIndexChanged.connect(lambda _at: self.apply())
        self.group.toggled.connect(lambda _on: self.apply())
        self.choose.clicked.connect(self._choose)
        session.replaced.connect(self._fill)
        session.changed.connect(self._changed)
        session.selection.changed.connect(self._count)

    def _changed(self, notice: Notice) -> None:
        if "kinds" in notice.layers or "grid" in notice.layers:
            self._fill()
        self._count()

    def _fill(self) -> None:
        """The kinds of the plan."""
        chosen = self.kind.currentData()

        def fill() -> None:
            self.kind.clear()
            self.kind.addItem(tr("All kinds"), "")
            for kind in self._session.plan.kinds:
                self.kind.addItem(kind.name, kind.key)
            self.kind.setCurrentIndex(max(0, self.kind.findData(chosen)))

        quietly(self.kind, fill)
        self.apply()

    def apply(self) -> None:
        """Show what the bar asks for."""
        old = self.table.model_.filter
        folded = old.folded if self.group.isChecked() else frozenset()
        self.table.model_.set_filter(
            Filter(
                self.text.text().strip(),
                self.kind.currentData() or "",
                self.state.currentData(),
                self.group.isChecked(),
                folded,
            )
        )
        self._count()

    def _count(self) -> None:
        model, total = self.table.model_, len(self._session.plan.register)
        plain = model.filter.plain
        shown = total if plain else len(model.shown)
        words = f"{total:,}" if plain else tr("{shown:,} of {total:,}", shown=shown, total=total)
        if len(self._session.selection.numbers) > 1:
            words += tr(", {count:,} selected", count=len(self._session.selection.numbers))
        if self.says.text() != words:
            self.says.setText(words)
        self.choose.setEnabled(shown > 0)

    def _choose(self) -> None:
        self._session.selection.select_all(self.table.model_.shown)
        self._session.say(
            tr("Selected {count:,} structures", count=len(self._session.selection.numbers))
        )
