"""The actions of Ways."""

from __future__ import annotations

from woven_locus.core import edits
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.bench.ways.page import TOOLS
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import Stage, WaysOverlay, WayTool

_WORDS = {
    WayTool.ROAD: tr("Draw a road"),
    WayTool.BARRIER: tr("Draw a barrier"),
    WayTool.ERASE: tr("Erase roads"),
    WayTool.PUSH: tr("Push a piece"),
    WayTool.SIGN: tr("Sign a road"),
    WayTool.ROUTE: tr("Find a route"),
    WayTool.SELECT: tr("Select"),
}


def _in_ways(window: Host) -> bool:
    return window.session.choices.stage is Stage.WAYS


def _waits(window: Host) -> bool:
    return _in_ways(window) and bool(getattr(window.desk.tools.current, "waiting", False))


def _has_route(window: Host) -> bool:
    return window.desk.routes.current is not None


def _split(window: Host) -> None:
    hover = window.session.pointer.hover
    if hover is None:
        window.session.say(tr("Point at the road to split"), "no")
    else:
        window.session.attempt(edits.split, window.session.plan, hover.cell)


def _join(window: Host) -> None:
    session = window.session
    if session.pointer.hover is None:
        session.say(tr("Point at the road to join to its nearest neighbour"), "no")
    else:
        session.attempt(
            edits.join_nearest,
            session.plan,
            session.pointer.hover.cell,
            session.choices.ways.drawing.code,
        )


def _next_shown(window: Host) -> None:
    modes = list(WaysOverlay)
    at = modes.index(window.session.choices.ways.shown)
    window.desk.study.show(modes[(at + 1) % len(modes)])


def _explain(window: Host) -> None:
    pin = window.desk.routes.current
    if pin is not None:
        window.desk.search.explain(pin)


def _compare(window: Host) -> None:
    pin = window.desk.routes.current
    if pin is not None:
        window.desk.search.compare(pin)


def _accept(window: Host) -> None:
    if not window.desk.routes.accept():
        window.session.say(tr("No road is proposed: ask for one with U"), "no")


WAYS: tuple[Action, ...] = (
    *(
        Action(
            f"ways.{tool.name.lower()}",
            tr("&Ways"),
            _WORDS[tool],
            TOOLS[tool][1],
            lambda w, tool=tool: w.session.choices.set_way_tool(tool),  # type: ignore[misc]
            _in_ways,
            on_sheet=True,
        )
        for tool in TOOLS
    ),
    Action(
        "ways.lay",
        tr("&Ways"),
        tr("&Lay the line"),
        "Ctrl+Return",
        lambda w: w.bench.ways.lay(),
        _waits,
        gap_before=True,
    ),
    Action(
        "ways.split",
        tr("&Ways"),
        tr("Split the road here"),
        "Shift+X",
        _split,
        _in_ways,
        on_sheet=True,
    ),
    Action(
        "ways.join",
        tr("&Ways"),
        tr("&Join it to the nearest"),
        "Shift+J",
        _join,
        _in_ways,
        on_sheet=True,
    ),
    Action(
        "ways.mend",
        tr("&Ways"),
        tr("&Mend a near miss"),
        "Shift+M",
        lambda w: w.tray.findings.mend_chosen(),
        _in_ways,
        on_sheet=True,
    ),
    Action(
        "ways.shown",
        tr("&Ways"),
        tr("What lies &over the map"),
        "S",
        _next_shown,
        _in_ways,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "ways.explain",
        tr("&Ways"),
        tr("&Explain the route"),
        "I",
        _explain,
        _has_route,
        on_sheet=True,
    ),
    Action(
        "ways.compare",
        tr("&Ways"),
        tr("&Compare heuristics"),
        "Shift+I",
        _compare,
        _has_route,
        on_sheet=True,
    ),
    Action(
        "ways.propose",
        tr("&Ways"),
        tr("&Propose a road for it"),
        "U",
        lambda w: w.desk.routes.propose(),
        _has_route,
        on_sheet=True,
    ),
    Action(
        "ways.accept",
        tr("&Ways"),
        tr("Lay the proposed road"),
        "Shift+U",
        _accept,
        lambda w: bool(w.desk.routes.proposed),
        on_sheet=True,
    ),
    Action(
        "ways.classes",
        tr("&Ways"),
        tr("Road cl&asses…"),
        "",
        lambda w: w.bench.ways.edit_classes(),
        gap_before=True,
    ),
    Action(
        "ways.matrix",
        tr("&Ways"),
        tr("Costs between &structures…"),
        "",
        lambda w: w.bench.ways.show_matrix(),
    ),
)
