"""The register as a Qt model: sorted, filtered and grouped by itself, edited in place.

A proxy would ask Python for every comparison; 20 000 rows would be felt.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QFont

from woven_locus.core import edits
from woven_locus.core.editing import Edit, Notice
from woven_locus.core.numbers import parse_cell
from woven_locus.core.register import structure_id
from woven_locus.core.register_table import (
    TITLES,
    Column,
    Filter,
    Heading,
    Known,
    State,
    passing,
    under_headings,
    value,
)
from woven_locus.core.routing.links import Links
from woven_locus.ui.language import shown, tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import number_font

EDITABLE = (Column.KIND, Column.CELL, Column.TURN)
# Columns whose figures stand on the right.
NUMBERS = frozenset((Column.CELLS, Column.PRICE))


# More structures than this that change at once are read anew with all the others.
_FEW = 50


# Asked thousands of times while a selection is drawn.
_SHOWN = Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemNeverHasChildren
_TYPED = _SHOWN | Qt.ItemFlag.ItemIsEditable


# A view asks for a dozen more of each cell that it draws.
_ANSWERED = frozenset(
    {
        Qt.ItemDataRole.DisplayRole,
        Qt.ItemDataRole.EditRole,
        Qt.ItemDataRole.FontRole,
        Qt.ItemDataRole.TextAlignmentRole,
        Qt.ItemDataRole.ToolTipRole,
    }
)


class RegisterModel(QAbstractTableModel):
    """Rows are the register's in the order asked for; only what an edit names is told anew."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.filter = Filter()
        self._known = Known(
            lambda: session.document.unsound(),
            lambda number: session.document.is_linked(number),
            lambda: session.selection.numbers,
        )
        self._rows: list[int | Heading] = list(session.plan.register.numbers())
        self._passed: list[int] = []  # through the filter, when it is not plain
        self._at: dict[int, int] | None = None
        self._sorted_by: tuple[int, bool] = (Column.NO, False)
        self.seen: Callable[[], bool] = lambda: True  # whether a view of it is; the view sets it
        self._links: Links | None = None  # when they were last looked at
        self.changing = False  # rows come or go: a view's selection may wander meanwhile
        self._bold = QFont(number_font(9))
        self._bold.setBold(True)
        session.changed.connect(self._changed)
        session.replaced.connect(self.renew)

    # --- Qt's questions ----------------------------------------------------------------------

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(TITLES)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return tr(TITLES[section])
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        if isinstance(self._rows[index.row()], Heading):
            return Qt.ItemFlag.ItemIsEnabled
        return _TYPED if index.column() in EDITABLE else _SHOWN

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role not in _ANSWERED or not index.isValid():
            return None
        what = self._rows[index.row()]
        if isinstance(what, Heading):
            return self._heading_data(what, index.column(), role)
        if role == Qt.ItemDataRole.DisplayRole:
            return self.words_at(index)
        if role == Qt.ItemDataRole.EditRole:
            row = self._session.plan.register[what]
            if index.column() == Column.CELL:
                return f"{row.cell.col}, {row.cell.row}"
            return row.kind if index.column() == Column.KIND else row.turn
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() in NUMBERS:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ToolTipRole and index.column() in EDITABLE:
            return tr("Double-click, or F2, changes it")
        return None

    def words_at(self, index: QModelIndex) -> str:
        """What a cell of a structure's row says."""
        plan, what = self._session.plan, self._rows[index.row()]
        assert isinstance(what, int)
        return shown(value(plan, plan.register[what], index.column(), self._known)[0])

    def _heading_data(self, what: Heading, column: int, role: int) -> Any:
        if role == Qt.ItemDataRole.FontRole:
            return self._bold
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        if column == Column.NO:
            return "▸" if what.kind in self.filter.folded else "▾"
        if column == Column.KIND:
            return self._session.plan.kinds[what.kind].name
        return f"{what.count:,}" if column == Column.CELL else None

    def setData(self, index: QModelIndex, given: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Change what may be changed, by the rules; a refusal is said, and the row stays as it was."""
        what = self._rows[index.row()]
        if role != Qt.ItemDataRole.EditRole or isinstance(what, Heading):
            return False
        session, plan = self._session, self._session.plan
        row = plan.register[what]
        make: Callable[[], Edit]
        if index.column() == Column.CELL:
            cell = parse_cell(str(given))
            if cell is None:
                session.say(
                    tr("A cell is written as column, row; not {given!r}", given=str(given)[:40]),
                    "no",
                )
                return False
            make = lambda: edits.move(plan, what, cell, row.turn)  # noqa: E731
        elif index.column() == Column.TURN:
            make = lambda: edits.move(plan, what, row.cell, int(given))  # noqa: E731
        elif given == row.kind:
            return False
        else:
            kind = plan.kinds[str(given)]
            turn = row.turn if kind.may_turn(row.turn) else kind.all_turns[0]
            when = session.document.now()
            make = lambda: edits.replace_with(plan, what, kind.key, row.cell, turn, when)  # noqa: E731
        return session.attempt(make)

    # --- rows --------------------------------------------------------------------------------

    def what_at(self, row: int) -> int | Heading:
        return self._rows[row]

    def number_at(self, row: int) -> int:
        """The structure of a row; 0 for a heading."""
        what = self._rows[row]
        return 0 if isinstance(what, Heading) else what

    def row_of(self, number_: int) -> int:
        """Raises ValueError when it is not shown."""
        if self._ascending:
            at = bisect_left(self._rows, number_)  # type: ignore[type-var] # all of them are numbers
            if at < len(self._rows) and self._rows[at] == number_:
                return at
            raise ValueError(tr("{structure_id} is not shown", structure_id=structure_id(number_)))
        if self._at is None:
            self._at = {what: at for at, what in enumerate(self._rows) if isinstance(what, int)}
        try:
            return self._at[number_]
        except KeyError:
            raise ValueError(
                tr("{structure_id} is not shown", structure_id=structure_id(number_))
            ) from None

    @property
    def _ascending(self) -> bool:
        """Whether the rows are those of the register in its own order."""
        return self.filter.plain and self._sorted_by == (Column.NO, False)

    @property
    def shown(self) -> list[int]:
        """The structures that the filter lets through, folded ones too, in order."""
        return self._through() if self.filter.plain else list(self._passed)

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._sorted_by = (column, order == Qt.SortOrder.DescendingOrder)
        self.renew()

    def set_filter(self, wanted: Filter) -> None:
        if wanted != self.filter:
            self.filter = wanted
            self.renew()

    def fold(self, kind: str) -> None:
        """Open or shut a group."""
        folded = self.filter.folded ^ {kind}
        old = self.filter
        self.set_filter(Filter(old.text, old.kind, old.state, old.grouped, folded))

    def _through(self) -> list[int]:
        """Numbers that pass, sorted."""
        column, down = self._sorted_by
        return passing(self._session.plan, self.filter, self._known, column, down)

    def _in_order(self) -> list[int | Heading]:
        numbers = self._passed = self._through()
        if not self.filter.grouped:
            return list(numbers)
        return under_headings(self._session.plan, numbers, self.filter.folded)

    def renew(self) -> None:
        """All rows anew."""
        self.changing = True
        self.beginResetModel()
        if self.filter.kind and self.filter.kind not in self._session.plan.kinds:
            self.filter = Filter()
        self._rows, self._at, self._links = self._in_order(), None, None
        self.endResetModel()
        self.changing = False

    def _changed(self, notice: Notice) -> None:
        self.changing = True
        self._follow(notice)
        self.changing = False

    def _follow(self, notice: Notice) -> None:
        if notice.reformed:
            self.renew()
            return
        about = bool(notice.structures) or "road" in notice.layers
        if not self.filter.plain:
            if about or (self.filter.state in (State.SOUND, State.UNSOUND) and notice.boxes):
                self.renew()
            return
        if len(notice.structures) > _FEW:
            self.renew()
            return
        register = self._session.plan.register
        known = {number_ for number_ in notice.structures if self._is_shown(number_)}
        come = sorted(n for n in notice.structures if n in register and n not in known)
        gone = [n for n in notice.structures if n not in register and n in known]
        in_order = self._sorted_by == (Column.NO, False)
        last = self._rows[-1] if self._rows else 0
        between = bool(come and isinstance(last, int) and come[0] < last)
        if (come and not in_order) or between:
            self.renew()
            return
        for number_ in gone:
            at = self.row_of(number_)
            self.beginRemoveRows(QModelIndex(), at, at)
            del self._rows[at]
            self._at = None
            self.endRemoveRows()
        if come:
            at = len(self._rows)
            self.beginInsertRows(QModelIndex(), at, at + len(come) - 1)
            self._rows += come
            if self._at is not None:
                self._at.update({number_: at + k for k, number_ in enumerate(come)})
            self.endInsertRows()
        for number_ in known:
            if number_ in register:
                at = self.row_of(number_)
                self.dataChanged.emit(self.index(at, 0), self.index(at, len(TITLES) - 1))
        if self._rows and about and self._reach_changed():
            # Any of them may be joined or cut off now.
            end = self.index(len(self._rows) - 1, Column.ROAD)
            self.dataChanged.emit(self.index(0, Column.ROAD), end)

    def _reach_changed(self) -> bool:
        """Whether others than before may be joined or cut off. Drawing all that is seen takes longer than to find out;
        what is not seen is drawn when it is."""
        if not self.seen():
            self._links = None
            return True
        before, self._links = self._links, self._session.document.links()
        return before is None or not self._links.same_reach(before)

    def _is_shown(self, number_: int) -> bool:
        try:
            self.row_of(number_)
        except ValueError:
            return False
        return True
