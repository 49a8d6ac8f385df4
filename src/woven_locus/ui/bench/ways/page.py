"""Ways: roads, what they join, and routes."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton

from woven_locus.ui.bench.tool_buttons import ToolButtons
from woven_locus.ui.bench.ways.matrix_sheet import MatrixSheet
from woven_locus.ui.bench.ways.roads_sheet import RoadsSheet
from woven_locus.ui.bench.ways.study_panel import StudyPanel
from woven_locus.ui.bench.ways.tool_settings import (
    EraseSettings,
    LineSettings,
    PushSettings,
    RouteSettings,
    SignSettings,
)
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.widgets import Page, heading, muted, rule
from woven_locus.ui.session.stages import WayTool
from woven_locus.ui.theme import Theme

# Icon, key, what it does.
TOOLS = {
    WayTool.ROAD: ("road", "Shift+D", tr("Draw a road from its start to its end")),
    WayTool.BARRIER: ("barrier", "Shift+B", tr("Draw a barrier from its start to its end")),
    WayTool.ERASE: ("erase", "Shift+E", tr("Erase roads and barriers")),
    WayTool.PUSH: ("push", "Shift+P", tr("Push a straight piece aside")),
    WayTool.SIGN: ("sign", "Shift+S", tr("Make roads one way, close or open them")),
    WayTool.ROUTE: ("route", "Shift+F", tr("Find a route: click its start, then its goal")),
    WayTool.SELECT: ("select", "Shift+A", tr("Select and move structures")),
}


class WaysPage(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, session = desk, desk.session
        self._session, self._theme = session, theme
        self.column.addWidget(heading(tr("Tool")))
        self.tool_buttons = ToolButtons(TOOLS, theme, self._take)
        self.tools = self.tool_buttons.buttons
        self.column.addWidget(self.tool_buttons)
        self.line, self.erase = LineSettings(desk), EraseSettings(session)
        self.sign, self.push = SignSettings(session), PushSettings()
        self.route = RouteSettings(desk)
        self._of = {
            WayTool.ROAD: self.line,
            WayTool.BARRIER: self.line,
            WayTool.ERASE: self.erase,
            WayTool.PUSH: self.push,
            WayTool.SIGN: self.sign,
            WayTool.ROUTE: self.route,
        }
        for panel in dict.fromkeys(self._of.values()):
            self.column.addWidget(panel)
        self.line.classes.clicked.connect(self.edit_classes)
        self.line.lay.clicked.connect(self.lay)
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Over the map")))
        self.study = StudyPanel(desk, theme)
        self.column.addWidget(self.study)
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Joined by road")))
        self.links = muted()
        self.column.addWidget(self.links)
        self.show_cut_off = QPushButton(tr("Show the next one cut off"))
        self.show_cut_off.clicked.connect(self._next_cut_off)
        self.column.addWidget(self.show_cut_off)
        self.matrix = QPushButton(tr("Costs between structures…"))
        self.matrix.clicked.connect(self.show_matrix)
        self.column.addWidget(self.matrix)
        self.column.addStretch(1)
        session.choices.on("ways", self._show)
        session.changed.connect(lambda _notice: self._show_links())
        session.replaced.connect(self._show_links)
        session.choices.stage_changed.connect(self._show_links)
        self._show()
        self._show_links()

    def _take(self, tool: WayTool) -> None:
        self._session.choices.set_way_tool(tool)
        self._session.taken_up.emit()

    def _show(self) -> None:
        tool = self._session.choices.ways.tool
        self.tool_buttons.show_chosen(tool)
        for panel in dict.fromkeys(self._of.values()):
            panel.setVisible(panel is self._of.get(tool))
        self.line.show_chosen()

    def edit_classes(self) -> None:
        RoadsSheet(self._session, self._theme, self.window()).open()

    def show_matrix(self) -> None:
        MatrixSheet(self._desk, self.window()).open()

    def lay(self) -> None:
        """Lay the line that waits."""
        lay = getattr(self._desk.tools.current, "lay", None)
        if lay is None or not lay():
            self._session.say(tr("No line waits to be laid"), "no")

    def _show_links(self) -> None:
        if not self.isVisible():
            return
        links = self._session.document.links()
        count = len(self._session.plan.register)
        joined = count - links.cut_off_count
        groups = links.group_count
        text = tr(
            "{joined} of {count} structures, in {groups}.",
            joined=joined,
            count=count,
            groups=counted(groups, "{n} group", "{n} groups"),
        )
        if links.cut_off:
            names = ", ".join(f"S{n}" for n in links.cut_off[:12])
            more = (
                tr(" and {count} more", count=len(links.cut_off) - 12)
                if len(links.cut_off) > 12
                else ""
            )
            text += tr("\nCut off: {names}{more}.", names=names, more=more)
        self.links.setText(text)
        self.show_cut_off.setEnabled(bool(links.cut_off))

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._show_links()

    def _next_cut_off(self) -> None:
        cut_off = self._session.document.links().cut_off
        after = [n for n in cut_off if n > self._session.selection.front]
        if cut_off:
            self._session.select((after or list(cut_off))[0], reveal=True)
