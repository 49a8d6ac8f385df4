"""Every action of the window as data; menus, shortcuts and the key sheet are built from here.

Keys are made for any layout: no brackets, no pairs that lie elsewhere on another keyboard.
"""

from __future__ import annotations

from PyQt6.QtGui import QGuiApplication

from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.actions.stage_actions import BUILD, EXCHANGE, GROUND, MANY, SURVEY
from woven_locus.ui.actions.traffic_actions import TRAFFIC
from woven_locus.ui.actions.wave_actions import WAVES
from woven_locus.ui.actions.way_actions import WAYS
from woven_locus.ui.session.stages import Stage


def _selected(window: Host) -> bool:
    return bool(window.session.selection.front)


def _turnable(window: Host) -> bool:
    return _selected(window) or not window.session.hand.empty


def _copy_picture(window: Host) -> None:
    """What the sheet shows, on the clipboard."""
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setPixmap(window.sheet.grab())
        window.session.say("The sheet is on the clipboard as a picture")


STAGE_KEYS = {stage: f"F{2 + at}" for at, stage in enumerate(Stage)}

ACTIONS: tuple[Action, ...] = (
    Action("file.new", "&Plan", "&New plan…", "Ctrl+N", lambda w: w.files.new()),
    Action("file.open", "&Plan", "&Open…", "Ctrl+O", lambda w: w.files.open()),
    Action("file.demo", "&Plan", "Open the demo Selve&dge Vale", "", lambda w: w.files.open_demo()),
    Action(
        "file.demo_pass",
        "&Plan",
        "Open the demo T&hornmoth Pass",
        "",
        lambda w: w.files.open_demo("thornmoth-pass"),
    ),
    Action("file.save", "&Plan", "&Save", "Ctrl+S", lambda w: w.files.save(), gap_before=True),
    Action("file.save_as", "&Plan", "Save &as…", "Ctrl+Shift+S", lambda w: w.files.save_as()),
    Action(
        "file.revert",
        "&Plan",
        "&Revert to saved",
        "",
        lambda w: w.file_watch.reload("Reverted to saved"),
        lambda w: w.session.document.path is not None,
    ),
    *EXCHANGE,
    Action(
        "file.compare",
        "&Plan",
        "&Compare with…",
        "",
        lambda w: w.together.compare(),
        gap_before=True,
    ),
    Action(
        "file.turn",
        "&Plan",
        "S&how the other plan",
        "Ctrl+B",
        lambda w: w.desk.compared.turn(not w.desk.compared.turned),
        ticked=lambda w: w.desk.compared.turned,
    ),
    Action("file.merge", "&Plan", "&Merge…", "", lambda w: w.together.merge()),
    Action(
        "file.picture",
        "&Plan",
        "P&icture…",
        "",
        lambda w: w.exchange.picture("PNG", w.sheet.camera.sight()),
        gap_before=True,
    ),
    Action(
        "file.print",
        "&Plan",
        "&Print…",
        "Ctrl+P",
        lambda w: w.exchange.picture("Paper", w.sheet.camera.sight()),
    ),
    Action("file.copy_picture", "&Plan", "Cop&y as picture", "", _copy_picture),
    Action(
        "file.hand_over",
        "&Plan",
        "Hand o&ver to a game…",
        "",
        lambda w: w.together.hand_over(),
        gap_before=True,
    ),
    Action("file.trial", "&Plan", "&Trial…", "", lambda w: w.together.trial()),
    Action("file.link", "&Plan", "Live lin&k…", "", lambda w: w.show_link()),
    Action("file.quit", "&Plan", "&Quit", "Ctrl+Q", lambda w: w.close(), gap_before=True),
    Action(
        "edit.undo",
        "&Edit",
        "&Undo",
        "Ctrl+Z",
        lambda w: w.session.document.history.undo(),
        lambda w: w.session.document.history.can_undo,
    ),
    Action(
        "edit.redo",
        "&Edit",
        "&Redo",
        "Ctrl+Shift+Z",
        lambda w: w.session.document.history.redo(),
        lambda w: w.session.document.history.can_redo,
    ),
    Action(
        "edit.turn",
        "&Edit",
        "&Turn right",
        "T",
        lambda w: w.desk.building.turn(1),
        _turnable,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "edit.turn_back",
        "&Edit",
        "Turn &left",
        "Shift+T",
        lambda w: w.desk.building.turn(-1),
        _turnable,
        on_sheet=True,
    ),
    Action(
        "edit.mirror",
        "&Edit",
        "Mirror &left to right",
        "V",
        lambda w: w.desk.building.mirror(),
        _turnable,
        on_sheet=True,
    ),
    Action(
        "edit.move",
        "&Edit",
        "&Move the selection",
        "M",
        lambda w: w.session.lift(w.session.selection.front),
        _selected,
        on_sheet=True,
    ),
    Action(
        "edit.demolish",
        "&Edit",
        "&Demolish the selection",
        "Del",
        lambda w: w.desk.building.demolish(),
        lambda w: w.desk.building.can_demolish,
        on_sheet=True,
    ),
    *MANY,
    Action("edit.back", "&Edit", "&Back out one step", "Esc", lambda w: w.back_out()),
    Action("view.in", "&View", "Zoom &in", "PgUp", lambda w: w.sheet.zoom(1), on_sheet=True),
    Action("view.out", "&View", "Zoom &out", "PgDown", lambda w: w.sheet.zoom(-1), on_sheet=True),
    Action(
        "view.whole", "&View", "&Whole map", "Home", lambda w: w.sheet.show_whole(), on_sheet=True
    ),
    Action(
        "view.actual",
        "&View",
        "&One pixel a unit",
        "End",
        lambda w: w.sheet.show_actual(),
        on_sheet=True,
    ),
    Action(
        "view.selection",
        "&View",
        "&Selection",
        "Ctrl+Home",
        lambda w: w.sheet.show_selection(),
        _selected,
    ),
    Action(
        "view.bench", "&View", "Fold the &bench", "F9", lambda w: w.fold(w.bench), gap_before=True
    ),
    Action("view.reading", "&View", "Fold the &reading", "F10", lambda w: w.fold(w.reading)),
    Action("view.tray", "&View", "Fold the &tray", "F11", lambda w: w.fold(w.tray)),
    Action(
        "view.system",
        "&View",
        "&Light or dark as the desktop",
        "",
        lambda w: w.theme.choose("system"),
        gap_before=True,
        ticked=lambda w: w.theme.choice == "system",
    ),
    Action(
        "view.light",
        "&View",
        "&Light",
        "",
        lambda w: w.theme.choose("light"),
        ticked=lambda w: w.theme.choice == "light",
    ),
    Action(
        "view.dark",
        "&View",
        "Dar&k",
        "",
        lambda w: w.theme.choose("dark"),
        ticked=lambda w: w.theme.choice == "dark",
    ),
    *(
        Action(
            f"stage.{stage.name.lower()}",
            "&Stage",
            stage.value,
            STAGE_KEYS[stage],
            lambda w, stage=stage: w.session.set_stage(stage),  # type: ignore[misc]
        )
        for stage in Stage
    ),
    *SURVEY,
    *GROUND,
    *BUILD,
    *WAYS,
    *TRAFFIC,
    *WAVES,
    Action("help.find", "&Help", "&Find anything…", "Ctrl+F", lambda w: w.find_anything()),
    Action("help.guide", "&Help", "&Guide to this stage", "Ctrl+F1", lambda w: w.show_guide()),
    Action("help.keys", "&Help", "&Keys", "F1", lambda w: w.show_keys()),
    Action("help.about", "&Help", "&About Woven Locus…", "", lambda w: w.show_about()),
    Action("help.tour", "&Help", "Guided &tour", "", lambda w: w.tour.begin()),
)

# Keys that are not actions, for the key sheet.
SHEET_KEYS: tuple[tuple[str, str], ...] = (
    ("Arrow keys", "Cell cursor (Shift: 8 cells)"),
    ("Ctrl+arrow keys", "Nudge the selection"),
    ("Enter", "Click at the cell cursor"),
    ("Shift+Enter", "Hold down; Enter lets go"),
    ("Shift (drawing)", "A line on one axis, a square"),
    ("Space+drag", "Pan; middle drag too"),
    ("Wheel", "Zoom at the pointer"),
    ("Right click", "Back out one step"),
)
