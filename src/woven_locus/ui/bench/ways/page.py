"""Ways: roads, what they join, and routes."""

from __future__ import annotations

from PyQt6.QtWidgets import QButtonGroup, QComboBox, QFormLayout, QPushButton

from woven_locus.core.routing import Manner, Over
from woven_locus.ui.icons import dress
from woven_locus.ui.session import Session
from woven_locus.ui.stages import WayTool
from woven_locus.ui.theme import Theme
from woven_locus.ui.widgets import Page, heading, muted, rule

_TOOLS = {
    WayTool.ROAD: ("road", "Drag free, or straight with Shift"),
    WayTool.BARRIER: ("barrier", "Drag free, or straight with Shift"),
    WayTool.ERASE: ("erase", "Drag over roads and barriers"),
    WayTool.ROUTE: ("route", "Click the start, then the goal"),
    WayTool.SELECT: ("select", "Select and move structures"),
}


class WaysPage(Page):
    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__("bench")
        self._session = session
        self.column.addWidget(heading("Tool"))
        group = QButtonGroup(self)
        self.tools: dict[WayTool, QPushButton] = {}
        for tool, (_icon, words) in _TOOLS.items():
            button = QPushButton(tool.value)
            button.setCheckable(True)
            button.setToolTip(words)
            button.clicked.connect(lambda _on, tool=tool: self._take(tool))
            group.addButton(button)
            self.column.addWidget(button)
            self.tools[tool] = button
        self.column.addWidget(rule())
        self.column.addWidget(heading("Route over"))
        form = QFormLayout()
        self.over = QComboBox()
        for over, words in (
            (Over.ROADS, "Roads"),
            (Over.GROUND, "Ground and roads"),
            (Over.PREFERRED, "Ground, roads preferred"),
        ):
            self.over.addItem(words, over)
        self.over.setAccessibleName("Route over")
        self.moves = QComboBox()
        for moves, words in ((4, "4: edge to edge"), (8, "8: diagonals too")):
            self.moves.addItem(words, moves)
        self.moves.setAccessibleName("Moves")
        form.addRow("Over", self.over)
        form.addRow("Moves", self.moves)
        self.column.addLayout(form)
        self.over.currentIndexChanged.connect(self._choose)
        self.moves.currentIndexChanged.connect(self._choose)
        self.column.addWidget(rule())
        self.column.addWidget(heading("Joined by road"))
        self.links = muted()
        self.column.addWidget(self.links)
        self.show_cut_off = QPushButton("Show the next one cut off")
        self.show_cut_off.clicked.connect(self._next_cut_off)
        self.column.addWidget(self.show_cut_off)
        self.column.addStretch(1)
        session.tool_changed.connect(self._show)
        session.changed.connect(lambda _notice: self._show_links())
        session.replaced.connect(self._show_links)
        session.stage_changed.connect(self._show_links)
        theme.changed.connect(self._dress)
        self._theme = theme
        self._dress()
        self._show()
        self._show_links()

    def _dress(self) -> None:
        for tool, (icon, _words) in _TOOLS.items():
            dress(self.tools[tool], icon, self._theme.palette)

    def _take(self, tool: WayTool) -> None:
        self._session.set_way_tool(tool)
        self._session.taken_up.emit()

    def _choose(self) -> None:
        self._session.routes.manner = Manner(self.over.currentData(), self.moves.currentData())

    def _show(self) -> None:
        self.tools[self._session.way_tool].setChecked(True)

    def _show_links(self) -> None:
        if not self.isVisible():
            return
        links = self._session.document.links()
        count = len(self._session.plan.register)
        joined = count - len(links.cut_off)
        groups = len(links.groups)
        text = f"{joined} of {count} structures, in {groups} group{'s' * (groups != 1)}."
        if links.cut_off:
            names = ", ".join(f"S{n}" for n in links.cut_off[:12])
            more = f" and {len(links.cut_off) - 12} more" if len(links.cut_off) > 12 else ""
            text += f"\nCut off: {names}{more}."
        self.links.setText(text)
        self.show_cut_off.setEnabled(bool(links.cut_off))

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._show_links()

    def _next_cut_off(self) -> None:
        cut_off = self._session.document.links().cut_off
        after = [n for n in cut_off if n > self._session.selection]
        if cut_off:
            self._session.select((after or list(cut_off))[0], reveal=True)
