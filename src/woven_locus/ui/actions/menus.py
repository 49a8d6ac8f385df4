"""Builds the menus and shortcuts from the table."""

from __future__ import annotations

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenu

from woven_locus.ui import kept, recent
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.actions.table import ACTIONS
from woven_locus.ui.language import tr


class Actions(QObject):
    """The table as Qt actions, by name."""

    def __init__(self, host: Host, window: QMainWindow) -> None:
        """host : what the actions use.  window : whose menus they are; the same thing."""
        super().__init__(window)
        self._host, self._window = host, window
        self.by_name: dict[str, QAction] = {}
        menus: dict[str, QMenu] = {}
        bar = window.menuBar()
        assert bar is not None
        for action in ACTIONS:
            if action.menu not in menus:
                menu = bar.addMenu(action.menu)
                assert menu is not None
                menus[action.menu] = menu
            menu = menus[action.menu]
            if action.gap_before:
                menu.addSeparator()
            if action.group:
                within = f"{action.menu}/{action.group}"
                if within not in menus:
                    inner = menu.addMenu(action.group)
                    assert inner is not None
                    menus[within] = inner
                menu = menus[within]
            menu.addAction(self._make(action))
            if action.name == "file.open":
                self._add_recent(menu)
        desk, session = host.desk, host.session
        for signal in (
            session.selection.changed,
            session.choices.changed,
            session.hand.changed,
            session.settled,
            desk.tools.stroked,
            session.choices.stage_changed,
            session.replaced,
            desk.routes.changed,
        ):
            signal.connect(self.refresh)
        session.changed.connect(lambda _notice: self.refresh())
        host.theme.changed.connect(self.refresh)
        host.desk.compared.turned_round.connect(self.refresh)
        self.refresh()

    def _add_recent(self, menu: QMenu) -> None:
        """The plans that were open, found when the menu opens."""
        found = menu.addMenu(tr("Open &recent"))
        assert found is not None
        self.recent = found
        found.aboutToShow.connect(self._fill_recent)

    def _fill_recent(self) -> None:
        self.recent.clear()
        paths = recent.recent()
        for path in paths:
            words = f"{path.name} — {path.parent}".replace("&", "&&")
            there = path.is_file()
            made = self.recent.addAction(words if there else tr("{words} (missing)", words=words))
            assert made is not None
            made.setEnabled(there)
            made.triggered.connect(lambda _on=False, path=path: self._host.files.open_path(path))
        self.recent.addSeparator()
        clear = self.recent.addAction(tr("&Clear this list"))
        assert clear is not None
        clear.setEnabled(bool(paths))
        clear.triggered.connect(recent.forget_all)

    def key_of(self, name: str) -> str:
        """The key in force, portable text; the user's own before the table's."""
        made = next(action.key for action in ACTIONS if action.name == name)
        return kept.text(f"keys/{name}", made)

    def holder_of(self, key: str) -> str | None:
        """The name of the action that a key belongs to."""
        if not key:
            return None
        return next((a.name for a in ACTIONS if self.key_of(a.name) == key), None)

    def set_key(self, name: str, key: str) -> None:
        """Give an action another key (or none), kept for the next start."""
        kept.keep(f"keys/{name}", key)
        self.by_name[name].setShortcut(QKeySequence(key))

    def reset_keys(self) -> None:
        kept.forget("keys")
        for action in ACTIONS:
            self.by_name[action.name].setShortcut(QKeySequence(action.key))

    def _make(self, action: Action) -> QAction:
        made = QAction(action.text, self._window)
        made.setShortcut(QKeySequence(self.key_of(action.name)))
        if action.on_sheet:
            made.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            self._host.sheet.addAction(made)
        made.triggered.connect(lambda _on=False, action=action: action.do(self._host))
        made.setCheckable(action.ticked is not None)
        self.by_name[action.name] = made
        return made

    def refresh(self) -> None:
        for action in ACTIONS:
            made = self.by_name[action.name]
            made.setEnabled(action.enabled(self._host))
            if action.ticked is not None:
                # Qt ticks what was clicked; what is in force is ticked here.
                made.setChecked(action.ticked(self._host))
