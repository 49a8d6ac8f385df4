"""The sheet of the live link: begin, end, and what a game has to know to get in."""

from __future__ import annotations

import json

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.inout.live_link import LiveLink
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.sizes import Dialog
from woven_locus.ui.parts.widgets import Label, copy_text, muted
from woven_locus.ui.theme import em, number_font

_ABOUT = tr(
    "A running game on this machine reads, asks and edits the plan that is open, as JSON-RPC 2.0 over WebSocket. "
    "Each of its edits is a step that can be undone."
)


class LinkSheet(Dialog):
    """Stays open beside the window; the link goes on when it is closed."""

    def __init__(self, link: LiveLink, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Live link"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._link = link
        self.state = Label()
        self.url, self.token = (self._field(name) for name in (tr("Address"), tr("Token")))
        self.read_only = QCheckBox(tr("It may only read and ask"))
        self.switch = QPushButton()
        self.switch.clicked.connect(self._turn)
        self.copy = QPushButton(tr("Copy as JSON"))
        self.copy.clicked.connect(self._copy)
        self.problem = Label()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        about = muted(_ABOUT)
        about.setWordWrap(True)
        form = QFormLayout()
        form.addRow(tr("Address"), self.url)
        form.addRow(tr("Token"), self.token)
        buttons = QHBoxLayout()
        buttons.addWidget(self.switch)
        buttons.addWidget(self.copy)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        for widget in (about, self.state):
            column.addWidget(widget)
        column.addLayout(form)
        column.addWidget(self.read_only)
        column.addWidget(self.problem)
        column.addLayout(buttons)
        self.setMinimumWidth(em(430))
        link.changed.connect(self._show)
        self._show()

    def _field(self, name: str) -> QLineEdit:
        field = QLineEdit()
        field.setReadOnly(True)
        field.setFont(number_font())
        field.setAccessibleName(name)
        return field

    def _show(self) -> None:
        link = self._link
        on = bool(link.url)
        count = counted(link.clients, "{n} client", "{n} clients")
        self.state.setText(tr("It listens; {count}.", count=count) if on else tr("It is off."))
        self.url.setText(link.url)
        self.token.setText(link.token if on else "")
        self.url.setEnabled(on)
        self.token.setEnabled(on)
        self.copy.setEnabled(on)
        self.read_only.setEnabled(not on)
        if on:
            self.read_only.setChecked(link.read_only)
        self.switch.setText(tr("End") if on else tr("Begin"))
        self.problem.setText(link.problem)
        self.problem.setVisible(bool(link.problem))

    def _turn(self) -> None:
        if self._link.url:
            self._link.stop()
        else:
            self._link.start(self.read_only.isChecked())

    def _copy(self) -> None:
        copy_text(json.dumps({"url": self._link.url, "token": self._link.token}))
