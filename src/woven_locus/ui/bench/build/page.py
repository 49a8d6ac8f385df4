"""Build: the shelf of kinds, what is in hand, and where it could go."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton

from woven_locus.core.edits import kinds
from woven_locus.ui.bench.build.hand_panel import HandPanel
from woven_locus.ui.bench.build.kind_sheet import KindSheet
from woven_locus.ui.bench.build.shelf import Shelf, ShelfButton
from woven_locus.ui.bench.build.where_panel import WherePanel
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import Page, heading, rule, side_by_side
from woven_locus.ui.theme import Theme


class BuildPage(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, session = desk, desk.session
        self._session, self._theme = session, theme
        self.column.setSpacing(6)
        self.column.addWidget(heading(tr("In hand")))
        self.hand = HandPanel(desk, theme)
        self.column.addWidget(self.hand)
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Where could it go")))
        self.where = WherePanel(desk, theme)
        self.column.addWidget(self.where)
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Shelf")))
        self.new, self.change = QPushButton(tr("New…")), QPushButton(tr("Change…"))
        self.double, self.remove = QPushButton(tr("Duplicate")), QPushButton(tr("Remove"))
        for button, words in (
            (self.new, tr("Draw a new kind")),
            (self.change, tr("Change the kind in hand, or that of the selection")),
            (self.double, tr("A second kind like the one in hand, to be changed")),
            (self.remove, tr("Take the kind in hand off the shelf for good, if none stands")),
        ):
            button.setToolTip(words)
        self.new.clicked.connect(self.new_kind)
        self.change.clicked.connect(self.change_kind)
        self.double.clicked.connect(self._double)
        self.remove.clicked.connect(self._remove)
        self.shelf = Shelf(session, theme)
        # Above it: however long it is, they stay in sight.
        self.column.addWidget(side_by_side(self.new, self.change))
        self.column.addWidget(side_by_side(self.double, self.remove))
        self.column.addWidget(self.shelf)
        self.column.addStretch(1)
        session.hand.changed.connect(self.refresh)
        session.selection.changed.connect(self.refresh)
        session.changed.connect(lambda _notice: self.refresh())
        self.refresh()

    @property
    def buttons(self) -> dict[str, ShelfButton]:
        """One for each kind, by key."""
        return self.shelf.buttons

    def _key(self) -> str | None:
        """The kind that is meant: in hand, or that of the selection."""
        session = self._session
        if session.hand.kind is not None:
            return session.hand.kind
        return (
            session.plan.register[session.selection.front].kind if session.selection.front else None
        )

    def refresh(self) -> None:
        meant = self._key() is not None
        for button in (self.change, self.double, self.remove):
            button.setEnabled(meant)

    def new_kind(self) -> None:
        """Draw a kind that is not there yet."""
        KindSheet(self._session, self._theme, None, self.window()).open()

    def change_kind(self) -> None:
        """Draw the meant kind anew."""
        key = self._key()
        if key is None:
            self._session.say(
                tr("Take a kind in hand, or select a structure, to change its kind"), "no"
            )
            return
        KindSheet(self._session, self._theme, key, self.window()).open()

    def _double(self) -> None:
        key, session = self._key(), self._session
        if key is not None and session.attempt(kinds.copy_kind, session.plan, key):
            session.arm(session.plan.kinds.keys()[-1])

    def _remove(self) -> None:
        key = self._key()
        if key is not None:
            self._session.attempt(kinds.remove_kind, self._session.plan, key)
