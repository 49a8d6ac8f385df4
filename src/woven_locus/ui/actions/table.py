"""Every action of the window as data; menus, shortcuts and the key sheet are built from here.

Keys are made for any layout: no brackets, no pairs that lie elsewhere on another keyboard.
"""

from __future__ import annotations

from PyQt6.QtGui import QGuiApplication

from woven_locus.ui import language
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.actions.stage_actions import BUILD, EXCHANGE, GROUND, MANY, SURVEY
from woven_locus.ui.actions.traffic_actions import TRAFFIC
from woven_locus.ui.actions.wave_actions import WAVES
from woven_locus.ui.actions.way_actions import WAYS
from woven_locus.ui.language import tr
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
        window.session.say(tr("The sheet is on the clipboard as a picture"))


def _speak(window: Host, code: str) -> None:
    """Another language; what is there keeps the words that it was made with."""
    language.choose(code)
    if language.wished() != language.in_force():
        window.session.say(tr("The language changes with the next start"))


STAGE_KEYS = {stage: f"F{2 + at}" for at, stage in enumerate(Stage)}

ACTIONS: tuple[Action, ...] = (
    Action("file.new", tr("&Plan"), tr("&New plan…"), "Ctrl+N", lambda w: w.files.new()),
    Action("file.open", tr("&Plan"), tr("&Open…"), "Ctrl+O", lambda w: w.files.open()),
    Action(
        "file.demo",
        tr("&Plan"),
        tr("Open the demo Selve&dge Vale"),
        "",
        lambda w: w.files.open_demo(),
    ),
    Action(
        "file.demo_pass",
        tr("&Plan"),
        tr("Open the demo Thornmoth Pass"),
        "",
        lambda w: w.files.open_demo("thornmoth-pass"),
    ),
    Action(
        "file.save", tr("&Plan"), tr("&Save"), "Ctrl+S", lambda w: w.files.save(), gap_before=True
    ),
    Action(
        "file.save_as", tr("&Plan"), tr("Save &as…"), "Ctrl+Shift+S", lambda w: w.files.save_as()
    ),
    Action(
        "file.revert",
        tr("&Plan"),
        tr("Revert to sav&ed"),
        "",
        lambda w: w.file_watch.reload(tr("Reverted to saved")),
        lambda w: w.session.document.path is not None,
    ),
    *EXCHANGE,
    Action(
        "file.compare",
        tr("&Plan"),
        tr("&Compare with…"),
        "",
        lambda w: w.together.compare(),
        gap_before=True,
    ),
    Action(
        "file.turn",
        tr("&Plan"),
        tr("Sho&w the other plan"),
        "Ctrl+B",
        lambda w: w.desk.compared.turn(not w.desk.compared.turned),
        ticked=lambda w: w.desk.compared.turned,
    ),
    Action("file.merge", tr("&Plan"), tr("&Merge…"), "", lambda w: w.together.merge()),
    Action(
        "file.picture",
        tr("&Plan"),
        tr("P&icture…"),
        "",
        lambda w: w.exchange.picture("PNG", w.sheet.camera.sight()),
        gap_before=True,
    ),
    Action(
        "file.print",
        tr("&Plan"),
        tr("&Print…"),
        "Ctrl+P",
        lambda w: w.exchange.picture(tr("Paper"), w.sheet.camera.sight()),
    ),
    Action("file.copy_picture", tr("&Plan"), tr("Cop&y as picture"), "", _copy_picture),
    Action(
        "file.hand_over",
        tr("&Plan"),
        tr("Hand o&ver to a game…"),
        "",
        lambda w: w.together.hand_over(),
        gap_before=True,
    ),
    Action("file.trial", tr("&Plan"), tr("Tria&l…"), "", lambda w: w.together.trial()),
    Action("file.link", tr("&Plan"), tr("Live lin&k…"), "", lambda w: w.show_link()),
    Action("file.quit", tr("&Plan"), tr("&Quit"), "Ctrl+Q", lambda w: w.close(), gap_before=True),
    Action(
        "edit.undo",
        tr("&Edit"),
        tr("&Undo"),
        "Ctrl+Z",
        lambda w: w.session.document.history.undo(),
        lambda w: w.session.document.history.can_undo,
    ),
    Action(
        "edit.redo",
        tr("&Edit"),
        tr("&Redo"),
        "Ctrl+Shift+Z",
        lambda w: w.session.document.history.redo(),
        lambda w: w.session.document.history.can_redo,
    ),
    Action(
        "edit.turn",
        tr("&Edit"),
        tr("&Turn right"),
        "T",
        lambda w: w.desk.building.turn(1),
        _turnable,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "edit.turn_back",
        tr("&Edit"),
        tr("Turn &left"),
        "Shift+T",
        lambda w: w.desk.building.turn(-1),
        _turnable,
        on_sheet=True,
    ),
    Action(
        "edit.mirror",
        tr("&Edit"),
        tr("M&irror left to right"),
        "V",
        lambda w: w.desk.building.mirror(),
        _turnable,
        on_sheet=True,
    ),
    Action(
        "edit.move",
        tr("&Edit"),
        tr("&Move the selection"),
        "M",
        lambda w: w.session.lift(w.session.selection.front),
        _selected,
        on_sheet=True,
    ),
    Action(
        "edit.demolish",
        tr("&Edit"),
        tr("&Demolish the selection"),
        "Del",
        lambda w: w.desk.building.demolish(),
        lambda w: w.desk.building.can_demolish,
        on_sheet=True,
    ),
    *MANY,
    Action("edit.back", tr("&Edit"), tr("&Back out one step"), "Esc", lambda w: w.back_out()),
    Action(
        "view.in", tr("&View"), tr("Zoom &in"), "PgUp", lambda w: w.sheet.zoom(1), on_sheet=True
    ),
    Action(
        "view.out",
        tr("&View"),
        tr("Zoom &out"),
        "PgDown",
        lambda w: w.sheet.zoom(-1),
        on_sheet=True,
    ),
    Action(
        "view.whole",
        tr("&View"),
        tr("&Whole map"),
        "Home",
        lambda w: w.sheet.show_whole(),
        on_sheet=True,
    ),
    Action(
        "view.actual",
        tr("&View"),
        tr("One pi&xel a unit"),
        "End",
        lambda w: w.sheet.show_actual(),
        on_sheet=True,
    ),
    Action(
        "view.selection",
        tr("&View"),
        tr("&Selection"),
        "Ctrl+Home",
        lambda w: w.sheet.show_selection(),
        _selected,
    ),
    Action(
        "view.bench",
        tr("&View"),
        tr("Fold the &bench"),
        "F9",
        lambda w: w.fold(w.bench),
        gap_before=True,
    ),
    Action(
        "view.reading", tr("&View"), tr("Fold the &reading"), "F10", lambda w: w.fold(w.reading)
    ),
    Action("view.tray", tr("&View"), tr("Fold the &tray"), "F11", lambda w: w.fold(w.tray)),
    Action(
        "view.system",
        tr("&View"),
        tr("&Light or dark as the desktop"),
        "",
        lambda w: w.theme.choose("system"),
        gap_before=True,
        ticked=lambda w: w.theme.choice == "system",
    ),
    Action(
        "view.light",
        tr("&View"),
        tr("Lig&ht"),
        "",
        lambda w: w.theme.choose("light"),
        ticked=lambda w: w.theme.choice == "light",
    ),
    Action(
        "view.dark",
        tr("&View"),
        tr("Dar&k"),
        "",
        lambda w: w.theme.choose("dark"),
        ticked=lambda w: w.theme.choice == "dark",
    ),
    *(
        Action(
            f"view.language_{code or 'system'}",
            tr("&View"),
            name,
            "",
            lambda w, code=code: _speak(w, code),  # type: ignore[misc]
            ticked=lambda _w, code=code: language.chosen() == code,  # type: ignore[misc]
            group=tr("Lan&guage"),
        )
        for code, name in (("", tr("As the &system")), *language.NAMES.items())
    ),
    *(
        Action(
            f"stage.{stage.name.lower()}",
            tr("&Stage"),
            tr(stage.value),
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
    Action("help.find", tr("&Help"), tr("&Find anything…"), "Ctrl+F", lambda w: w.find_anything()),
    Action(
        "help.guide", tr("&Help"), tr("&Guide to this stage"), "Ctrl+F1", lambda w: w.show_guide()
    ),
    Action("help.keys", tr("&Help"), tr("&Keys"), "F1", lambda w: w.show_keys()),
    Action("help.about", tr("&Help"), tr("&About Woven Locus…"), "", lambda w: w.show_about()),
    Action("help.tour", tr("&Help"), tr("Guided &tour"), "", lambda w: w.tour.begin()),
)

# Keys that are not actions, for the key sheet.
SHEET_KEYS: tuple[tuple[str, str], ...] = (
    (tr("Arrow keys"), tr("Cell cursor (Shift: 8 cells)")),
    (tr("Ctrl+arrow keys"), tr("Nudge the selection")),
    (tr("Enter"), tr("Click at the cell cursor")),
    (tr("Shift+Enter"), tr("Hold down; Enter lets go")),
    (tr("Shift (drawing)"), tr("A line on one axis, a square")),
    (tr("Space+drag"), tr("Pan; middle drag too")),
    (tr("Wheel"), tr("Zoom at the pointer")),
    (tr("Right click"), tr("Back out one step")),
)
