"""The actions of single stages, and the ways in and out of a plan."""

from __future__ import annotations

from woven_locus.files.formats import FORMATS, MAP_PNG, MAP_SVG
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.bench.ground.tool_panel import TOOLS
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import Filling, Stage, WhereShown


def _in_survey(window: Host) -> bool:
    return window.session.choices.stage is Stage.SURVEY


def _in_ground(window: Host) -> bool:
    return window.session.choices.stage is Stage.GROUND


def _has_window(window: Host) -> bool:
    return window.session.plan.window is not None


def _has_heights(window: Host) -> bool:
    return window.session.plan.heights is not None


EXCHANGE: tuple[Action, ...] = (
    Action(
        "file.heights_in",
        tr("&Plan"),
        tr("Import &heights…"),
        "",
        lambda w: w.exchange.heights_in(),
        gap_before=True,
    ),
    Action(
        "file.terrain_in",
        tr("&Plan"),
        tr("Import &terrain…"),
        "",
        lambda w: w.exchange.terrain_in(),
    ),
    *(
        Action(
            f"file.out_{form.name.replace('-', '_')}",
            tr("&Plan"),
            f"{tr(form.words)}…",
            "",
            lambda w, name=form.name: w.exchange.take_out(name),  # type: ignore[misc]
            _has_heights if form.heights else lambda _w: True,
            gap_before=at == 0,
            group=tr("E&xport"),
        )
        for at, form in enumerate(
            each for each in FORMATS.values() if each.name not in (MAP_PNG, MAP_SVG)
        )
    ),
)

SURVEY: tuple[Action, ...] = (
    Action(
        "survey.grid", tr("S&urvey"), tr("Change the &grid…"), "", lambda w: w.files.change_grid()
    ),
    Action(
        "survey.actor",
        tr("S&urvey"),
        tr("Place the &actor"),
        "A",
        lambda w: w.bench.survey.probe.take(),
        _in_survey,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "survey.window_pointer",
        tr("S&urvey"),
        tr("&Window to the pointer"),
        "W",
        lambda w: w.bench.survey.window_panel.centre_on_pointer(),
        _has_window,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "survey.window_agent",
        tr("S&urvey"),
        tr("Window to the a&ctor"),
        "Shift+W",
        lambda w: w.bench.survey.window_panel.centre_on_agent(),
        _has_window,
        on_sheet=True,
    ),
    Action(
        "survey.hold_x",
        tr("S&urvey"),
        tr("Hold &x, or let it go"),
        "J",
        lambda w: w.bench.survey.rule.hold_x.click(),
        _in_survey,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "survey.hold_y",
        tr("S&urvey"),
        tr("Hold &y, or let it go"),
        "K",
        lambda w: w.bench.survey.rule.hold_y.click(),
        _in_survey,
        on_sheet=True,
    ),
)


def _in_build(window: Host) -> bool:
    return window.session.choices.stage is Stage.BUILD


def _holding(window: Host) -> bool:
    return not window.session.hand.empty


def _can_copy(window: Host) -> bool:
    return bool(window.session.selection.numbers) or window.session.selection.area is not None


def _next_where(window: Host) -> None:
    """Off, as it is turned, in any turn."""
    modes = list(WhereShown)
    at = modes.index(window.session.choices.build.where)
    window.session.choices.set_build(where=modes[(at + 1) % len(modes)])


def _go_to_blocker(window: Host) -> None:
    """Show the first thing that is in the way."""
    blockers = window.reading.verdict.blockers
    if blockers:
        window.desk.building.go_to(blockers[0])
    else:
        window.session.say(tr("Nothing with a place of its own is in the way"))


BUILD: tuple[Action, ...] = (
    Action(
        "build.near",
        tr("&Build"),
        tr("Go to the &nearest spot"),
        "N",
        lambda w: w.desk.building.go_near(),
        lambda w: w.session.hand.kind is not None,
        on_sheet=True,
    ),
    Action(
        "build.blocker",
        tr("&Build"),
        tr("&Go to what is in the way"),
        "C",
        _go_to_blocker,
        _holding,
        on_sheet=True,
    ),
    Action(
        "build.where",
        tr("&Build"),
        tr("&Where could it go"),
        "Q",
        _next_where,
        _in_build,
        on_sheet=True,
    ),
    Action(
        "build.rows",
        tr("&Build"),
        tr("Fill in &rows, or along the drag"),
        "D",
        lambda w: w.session.choices.set_build(
            filling=Filling.FREE
            if w.session.choices.build.filling is Filling.ROWS
            else Filling.ROWS
        ),
        _in_build,
        on_sheet=True,
    ),
    Action(
        "build.replace",
        tr("&Build"),
        tr("Re&place what stands there"),
        "Shift+R",
        lambda w: w.desk.building.replace_under(),
        lambda w: w.session.hand.kind is not None,
        on_sheet=True,
    ),
    Action(
        "build.new",
        tr("&Build"),
        tr("N&ew kind…"),
        "",
        lambda w: w.bench.build.new_kind(),
        gap_before=True,
    ),
    Action(
        "build.change",
        tr("&Build"),
        tr("&Change the kind…"),
        "",
        lambda w: w.bench.build.change_kind(),
    ),
    Action(
        "build.kinds_in", tr("&Build"), tr("&Import kinds…"), "", lambda w: w.exchange.kinds_in()
    ),
    Action(
        "build.register_in",
        tr("&Build"),
        tr("Import &structures…"),
        "",
        lambda w: w.exchange.register_in(),
    ),
)

MANY: tuple[Action, ...] = (
    Action(
        "edit.copy",
        tr("&Edit"),
        tr("&Copy the block"),
        "Ctrl+C",
        lambda w: w.desk.building.copy(),
        _can_copy,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "edit.paste",
        tr("&Edit"),
        tr("&Paste the block"),
        "Ctrl+V",
        lambda w: w.desk.building.paste(),
        lambda w: w.session.hand.clipboard is not None,
        on_sheet=True,
    ),
    Action(
        "edit.all",
        tr("&Edit"),
        tr("Select &all structures"),
        "Ctrl+A",
        lambda w: w.desk.building.select_everything(),
        lambda w: len(w.session.plan.register) > 0,
        on_sheet=True,
    ),
)

GROUND: tuple[Action, ...] = (
    *(
        Action(
            f"ground.{tool.name.lower()}",
            tr("&Ground"),
            tr(tool.value),
            key,
            lambda w, tool=tool: w.session.choices.set_ground(tool=tool),  # type: ignore[misc]
            _in_ground,
            on_sheet=True,
        )
        for tool, (_icon, key, _words) in TOOLS.items()
    ),
    Action(
        "ground.smaller",
        tr("&Ground"),
        tr("Smaller brush"),
        "Ctrl+PgDown",
        lambda w: w.session.choices.resize_brush(-1),
        _in_ground,
        gap_before=True,
    ),
    Action(
        "ground.larger",
        tr("&Ground"),
        tr("Larger brush"),
        "Ctrl+PgUp",
        lambda w: w.session.choices.resize_brush(1),
        _in_ground,
    ),
    Action(
        "ground.classes",
        tr("&Ground"),
        tr("Terrain &classes…"),
        "",
        lambda w: w.bench.ground.edit_classes(),
        gap_before=True,
    ),
    Action(
        "ground.scatter",
        tr("&Ground"),
        tr("&Scatter obstacles…"),
        "",
        lambda w: w.bench.ground.scatter(),
    ),
    Action(
        "ground.make",
        tr("&Ground"),
        tr("&Make ground…"),
        "",
        lambda w: w.bench.ground.make_ground(),
    ),
)
