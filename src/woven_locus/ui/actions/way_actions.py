"""The actions of Ways."""

from __future__ import annotations

from woven_locus.core import edits
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.bench.ways.page import TOOLS
from woven_locus.ui.session.stages import Stage, WaysOverlay, WayTool

_WORDS = {
    WayTool.ROAD: "Draw a road",
    WayTool.BARRIER: "Draw a barrier",
    WayTool.ERASE: "Erase roads",
    WayTool.PUSH: "Push a piece",
    WayTool.SIGN: "Sign a road",
    WayTool.ROUTE: "Find a route",
    WayTool.SELECT: "Select",
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
        window.session.say("Point at the road to split", "no")
    else:
        window.session.attempt(edits.split, window.session.plan, hover.cell)


def _join(window: Host) -> None:
    session = window.session
    if session.pointer.hover is None:
        session.say("Point at the road to join to its nearest neighbour", "no")
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
        window.session.say("No road is proposed: ask for one with U", "no")


WAYS: tuple[Action, ...] = (
    *(
        Action(
            f"ways.{tool.name.lower()}",
            "&Ways",
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
        "&Ways",
        "&Lay the line",
        "Ctrl+Return",
        lambda w: w.bench.ways.lay(),
        _waits,
        gap_before=True,
    ),
    Action(
        "ways.split", "&Ways", "Split the road here", "Shift+X", _split, _in_ways, on_sheet=True
    ),
    Action(
        "ways.join", "&Ways", "&Join it to the nearest", "Shift+J", _join, _in_ways, on_sheet=True
    ),
    Action(
        "ways.mend",
        "&Ways",
        "&Mend a near miss",
        "Shift+M",
        lambda w: w.tray.findings.mend_chosen(),
        _in_ways,
        on_sheet=True,
    ),
    Action(
        "ways.shown",
        "&Ways",
        "What lies &over the map",
        "S",
        _next_shown,
        _in_ways,
        gap_before=True,
        on_sheet=True,
    ),
    Action("ways.explain", "&Ways", "&Explain the route", "I", _explain, _has_route, on_sheet=True),
    Action(
        "ways.compare",
        "&Ways",
        "&Compare heuristics",
        "Shift+I",
        _compare,
        _has_route,
        on_sheet=True,
    ),
    Action(
        "ways.propose",
        "&Ways",
        "&Propose a road for it",
        "U",
        lambda w: w.desk.routes.propose(),
        _has_route,
        on_sheet=True,
    ),
    Action(
        "ways.accept",
        "&Ways",
        "Lay the proposed road",
        "Shift+U",
        _accept,
        lambda w: bool(w.desk.routes.proposed),
        on_sheet=True,
    ),
    Action(
        "ways.classes",
        "&Ways",
        "Road cl&asses…",
        "",
        lambda w: w.bench.ways.edit_classes(),
        gap_before=True,
    ),
    Action(
        "ways.matrix",
        "&Ways",
        "Costs between &structures…",
        "",
        lambda w: w.bench.ways.show_matrix(),
    ),
)
