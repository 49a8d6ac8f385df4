"""All keys on one page, where they can be changed too."""

from __future__ import annotations

from collections.abc import Collection
from itertools import zip_longest

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QKeySequenceEdit,
    QLabel,
    QPushButton,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.actions.menus import Actions
from woven_locus.ui.actions.table import ACTIONS, SHEET_KEYS
from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import Dialog, open_within_screen, room_for
from woven_locus.ui.parts.widgets import Label, figures, heading, muted
from woven_locus.ui.theme import em

_COLUMNS = (
    (tr("Plan"), tr("Stage"), tr("View")),
    (tr("Edit"), tr("Survey"), tr("Help")),
    (tr("Ground"), tr("Build")),
    (tr("Ways"), tr("Traffic"), tr("Waves")),
)
# Those that are made without a key stand on a page of their own.
_OTHERS = (
    (tr("Plan"),),
    (tr("View"), tr("Help"), tr("Survey")),
    (tr("Ground"), tr("Build"), tr("Ways"), tr("Traffic"), tr("Waves")),
)


class KeySheet(Dialog):
    """Click a key and press another to change it; one that is taken is refused, and said."""

    def __init__(self, actions: Actions, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle(tr("Keys"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._actions = actions
        self.edits: dict[str, QKeySequenceEdit] = {}
        pages = QTabWidget()
        pages.setDocumentMode(True)
        inner = self._fitting(_COLUMNS, keyed=True)
        pages.addTab(_scrolled(inner), tr("Keys"))
        pages.addTab(_scrolled(self._fitting(_OTHERS, keyed=False)), tr("Without a key"))
        self.problem = Label()
        self.problem.setObjectName("bad")
        self.reset = QPushButton(tr("Reset all shortcuts"))
        self.reset.clicked.connect(self._reset)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        foot = QHBoxLayout()
        foot.addWidget(self.problem, 1)
        foot.addWidget(self.reset)
        foot.addWidget(buttons)
        column = QVBoxLayout(self)
        column.addWidget(pages)
        column.addLayout(foot)
        open_within_screen(self, inner.sizeHint() + QSize(em(40), em(110)))
        # Not on a key: the next one pressed would become it.
        buttons.setFocus()

    def _fitting(self, columns: tuple[tuple[str, ...], ...], keyed: bool) -> QWidget:
        """A page in so many columns, or in half of them where the screen is not that wide."""
        page = self._page(columns, keyed)
        if page.sizeHint().width() + em(60) <= room_for(self).width():
            return page
        page.deleteLater()
        pairs = zip_longest(columns[::2], columns[1::2], fillvalue=())
        return self._page(tuple(left + right for left, right in pairs), keyed)

    def _page(self, columns: tuple[tuple[str, ...], ...], keyed: bool) -> QWidget:
        """Actions that are made with a key, or those without, menu by menu."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setVerticalSpacing(1)
        for at, menus in enumerate(columns):
            line, wide = 0, self._key_width(menus)
            for menu in menus:
                grid.addWidget(heading(menu), line, 2 * at, 1, 2)
                line = self._fill(grid, menu, 2 * at, line + 1, keyed, wide)
            grid.setRowStretch(line, 1)
        page = QWidget()
        column = QVBoxLayout(page)
        column.addLayout(grid)
        if keyed:
            column.addSpacing(6)
            column.addWidget(heading(tr("On the sheet")))
            column.addLayout(_sheet_keys(min(3, len(columns))))
        return page

    def _fill(
        self, grid: QGridLayout, menu: str, column: int, line: int, keyed: bool, wide: int
    ) -> int:
        for action in ACTIONS:
            if action.menu.replace("&", "") != menu or bool(action.key) is not keyed:
                continue
            text = action.words
            edit = QKeySequenceEdit(QKeySequence(self._actions.key_of(action.name)))
            edit.setMaximumSequenceLength(1)
            edit.setFixedWidth(wide)
            edit.setAccessibleName(tr("Key for: {text}", text=text))
            edit.editingFinished.connect(lambda name=action.name: self._change(name))
            self.edits[action.name] = edit
            grid.addWidget(edit, line, column)
            grid.addWidget(_words(text), line, column + 1)
            line += 1
        return line

    def _key_width(self, menus: Collection[str]) -> int:
        """Pixels for the longest key of some menus, as keys are called in this language."""
        wide, metrics = em(100), self.fontMetrics()
        for action in ACTIONS:
            if action.menu.replace("&", "") in menus:
                key = QKeySequence(self._actions.key_of(action.name))
                words = key.toString(QKeySequence.SequenceFormat.NativeText)
                wide = max(wide, metrics.horizontalAdvance(words) + em(18))
        return wide

    def _change(self, name: str) -> None:
        edit = self.edits[name]
        key = edit.keySequence().toString(QKeySequence.SequenceFormat.PortableText)
        if key == self._actions.key_of(name):
            return
        holder = self._actions.holder_of(key)
        if holder is not None:
            text = next(a.words for a in ACTIONS if a.name == holder)
            self.problem.setText(
                tr("{key} is taken by “{text}”; it was left as it was.", key=key, text=text)
            )
            edit.setKeySequence(QKeySequence(self._actions.key_of(name)))
            return
        self.problem.setText("")
        self._actions.set_key(name, key)

    def _reset(self) -> None:
        self._actions.reset_keys()
        self.problem.setText("")
        for name, edit in self.edits.items():
            edit.setKeySequence(QKeySequence(self._actions.key_of(name)))


def _sheet_keys(columns: int) -> QGridLayout:
    """What is pressed on the sheet and is no action."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(10)
    grid.setVerticalSpacing(2)
    for at, (key, words) in enumerate(SHEET_KEYS):
        row, pair = divmod(at, columns)
        grid.addWidget(figures(key), row, 2 * pair)
        grid.addWidget(_words(words), row, 2 * pair + 1)
    return grid


def _scrolled(page: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(page)
    area.setWidgetResizable(True)
    return area


def _words(text: str) -> QLabel:
    label = muted(text)
    label.setWordWrap(False)
    return label
