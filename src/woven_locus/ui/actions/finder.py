"""Find anything: an action, a kind, a structure, a finding or a cell by its words, and do or go there with Enter."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QHeaderView,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.register import structure_id
from woven_locus.core.value import Value
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.actions.menus import Actions
from woven_locus.ui.actions.table import ACTIONS
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.session.stages import Stage

# What is listed at most: in all, and of one sort that may have thousands.
MOST, MOST_OF_A_SORT = 60, 12
_CELL = re.compile(r"\s*(-?\d+)\s*[,; ]\s*(-?\d+)\s*")
_NUMBER = re.compile(r"\s*[sS]?(\d+)\s*")


class Found(Value):
    """sort : what it is.  words : its name.  more : its key, or where it is.  run : do it, or go there; None for what cannot
    be done now."""

    sort: str
    words: str
    more: str
    run: Callable[[], object] | None


class Search:
    """Everything that can be found in a window, as it is now."""

    def __init__(self, host: Host, actions: Actions) -> None:
        self._host, self._actions = host, actions

    def find(self, query: str) -> list[Found]:
        """What has all words of a query, what begins with it first; all actions for an empty one."""
        exact = [*self._cells(query), *self._numbers(query)]
        words = query.casefold().split()
        found = [
            item
            for source in (self._actions_, self._kinds, self._structures, self._findings)
            for item in source(words)
        ]
        start = query.strip().casefold()
        found.sort(key=lambda item: (item.run is None, not item.words.casefold().startswith(start)))
        return [*exact, *found][:MOST]

    def _cells(self, query: str) -> Iterator[Found]:
        match = _CELL.fullmatch(query)
        if match is None:
            return
        cell = Cell(int(match[1]), int(match[2]))
        there = self._host.session.plan.spec.contains(cell)
        more = "" if there else tr("outside the grid")
        yield Found(tr("Cell"), cell_text(cell), more, (lambda: self._go(cell)) if there else None)

    def _numbers(self, query: str) -> Iterator[Found]:
        match = _NUMBER.fullmatch(query)
        number = int(match[1]) if match is not None else 0
        if number in self._host.session.plan.register:
            yield self._structure(number)

    def _actions_(self, words: list[str]) -> Iterator[Found]:
        for action in ACTIONS:
            menu = action.menu.replace("&", "")
            if _has(words, f"{menu} {action.words}") and action.name != "help.find":
                key = QKeySequence(self._actions.key_of(action.name))
                shown = key.toString(QKeySequence.SequenceFormat.NativeText)
                can = action.enabled(self._host)
                yield Found(menu, action.words, shown, self._run(action) if can else None)

    def _run(self, action: Action) -> Callable[[], object]:
        return lambda: action.do(self._host)

    def _kinds(self, words: list[str]) -> Iterator[Found]:
        session = self._host.session
        for kind in session.plan.kinds:
            if words and _has(words, tr("kind {kind} {key}", kind=kind.name, key=kind.key)):

                def take(key: str = kind.key) -> None:
                    session.set_stage(Stage.BUILD)
                    session.arm(key)

                yield Found(tr("Kind"), kind.name, tr("take it off the shelf"), take)

    def _structures(self, words: list[str]) -> Iterator[Found]:
        plan = self._host.session.plan
        kinds = {kind.key for kind in plan.kinds if _has(words, f"{kind.name} {kind.key}")}
        if not words or not kinds:
            return
        count = 0
        for row in plan.register:
            if row.kind in kinds:
                yield self._structure(row.number)
                count += 1
                if count >= MOST_OF_A_SORT:
                    return

    def _structure(self, number: int) -> Found:
        session = self._host.session
        row = session.plan.register[number]
        name = f"{structure_id(number)} {session.plan.kinds[row.kind].name}"
        where = tr("at {cell}", cell=cell_text(row.cell))
        return Found(tr("Structure"), name, where, lambda: session.select(number, reveal=True))

    def _findings(self, words: list[str]) -> Iterator[Found]:
        count = 0
        for item in self._host.desk.proof.proof.findings if words else ():
            if not _has(
                words, tr("finding {code} {message}", code=item.code, message=item.message)
            ):
                continue
            cell = item.cell
            more = cell_text(cell) if cell is not None else ""
            yield Found(
                tr("Finding"),
                shown(item.message),
                more,
                None if cell is None else self._going(cell),
            )
            count += 1
            if count >= MOST_OF_A_SORT:
                return

    def _going(self, cell: Cell) -> Callable[[], object]:
        return lambda: self._go(cell)

    def _go(self, cell: Cell) -> None:
        self._host.sheet.put_cursor(cell)
        self._host.sheet.setFocus()


def _has(words: list[str], text: str) -> bool:
    text = text.casefold()
    return all(word in text for word in words)


class Finder(Dialog):
    """Type, choose with the arrow keys, Enter."""

    def __init__(self, search: Search, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Find anything"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._search = search
        self.words = QLineEdit()
        self.words.setPlaceholderText(tr("An action, a kind, S12, a finding, or a cell as 14, 9"))
        self.words.setAccessibleName(tr("What to find"))
        self.list = QTreeWidget()
        self.list.setAccessibleName(tr("What was found"))
        self.list.setColumnCount(3)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        header = self.list.header()
        assert header is not None
        header.setStretchLastSection(False)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        for column_ in (0, 2):
            header.setSectionResizeMode(column_, QHeaderView.ResizeMode.ResizeToContents)
        column = QVBoxLayout(self)
        for widget in (self.words, self.list):
            column.addWidget(widget)
        open_as(self, 660, 400)
        self.words.textChanged.connect(self._show)
        self.words.installEventFilter(self)
        self.list.itemClicked.connect(lambda _item: self._take())
        self._show("")

    def _show(self, query: str) -> None:
        self.list.clear()
        for found in self._search.find(query):
            item = QTreeWidgetItem([found.sort, found.words, found.more])
            item.setData(0, Qt.ItemDataRole.UserRole, found)
            item.setToolTip(1, found.words)
            item.setTextAlignment(2, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            item.setDisabled(found.run is None)
            self.list.addTopLevelItem(item)
        first = self.list.topLevelItem(0)
        if first is not None:
            self.list.setCurrentItem(first)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The arrow keys choose while one types."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = event.key()
            if key in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
                QApplication.sendEvent(self.list, event)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take()
                return True
        return super().eventFilter(watched, event)

    def _take(self) -> None:
        item = self.list.currentItem()
        found: Found | None = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        if found is not None and found.run is not None:
            self.accept()
            # What is done is of a plan that nothing covers any more.
            found.run()
