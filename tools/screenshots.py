"""Draws one picture of each main view from the demo plan, offscreen, by using the real window."""

from __future__ import annotations

import argparse
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# Neither the user's settings nor an earlier run's may show in a picture.
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="woven-locus-pictures-")

from PyQt6.QtWidgets import QApplication, QWidget

from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import Rule, SnapSettings
from woven_locus.core.tools import edits
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.ui.actions.key_sheet import KeySheet
from woven_locus.ui.bench.survey.grid_sheet import GridSheet
from woven_locus.ui.stages import Stage, WayTool
from woven_locus.ui.start import make_app
from woven_locus.ui.theme import Theme
from woven_locus.ui.window import Window

SIZE = (1280, 800)


class Studio:
    """A fresh window for each picture."""

    def __init__(self, app: QApplication, theme: Theme) -> None:
        self.app, self.theme = app, theme

    def window(self, dark: bool = False) -> Window:
        self.theme.choose("dark" if dark else "light")
        window = Window(Document(open_demo()), self.theme)
        window.sheet.patient = True
        window.resize(*SIZE)
        window.show()
        self.settle()
        return window

    def settle(self) -> None:
        for _ in range(8):
            self.app.processEvents()


def point(window: Window, cell: Cell, right: float = 0.5, down: float = 0.5) -> None:
    spec = window.session.plan.spec
    low = spec.corner(cell)
    window.session.set_hover(Point(low.x + right * spec.cell_w, low.y + down * spec.cell_h))


def zoom_to(window: Window, cell: Cell, size: int) -> None:
    camera = window.sheet.camera
    while camera.scale.pw < size:
        camera.zoom(1, 0, 0)
    camera.centre_on(cell)


def survey(studio: Studio) -> QWidget:
    window = studio.window()
    zoom_to(window, Cell(20, 19), 32)
    window.session.set_snap(SnapSettings(Rule.INTERSECTION))
    point(window, Cell(21, 20), 0.31, 0.62)
    return window


def ground(studio: Studio) -> QWidget:
    window = studio.window()
    window.session.set_stage(Stage.GROUND)
    window.session.set_brush(code=2, size=5)
    tool = window.session.tools.current
    point(window, Cell(50, 30))
    assert window.session.hover is not None
    tool.press(window.session.hover, False)
    for cell in (Cell(53, 31), Cell(57, 29)):
        point(window, cell)
        tool.drag(window.session.hover, False)
    tool.release(window.session.hover, False)
    return window


def build_refused(studio: Studio, dark: bool = False) -> QWidget:
    window = studio.window(dark)
    window.session.set_stage(Stage.BUILD)
    window.session.arm("loom-hall")
    zoom_to(window, Cell(21, 21), 28)
    point(window, Cell(20, 20))
    return window


def build_placed(studio: Studio) -> QWidget:
    window = studio.window()
    session = window.session
    session.set_stage(Stage.BUILD)
    zoom_to(window, Cell(14, 23), 28)
    for cell in (Cell(10, 23), Cell(14, 23)):
        session.attempt(edits.place, session.plan, "wool-store", cell, 0, "2031-05-01T10:30:00Z")
    session.arm("carriers-inn")
    session.turn_ghost(1)
    point(window, Cell(12, 22))
    window.tray.setCurrentWidget(window.tray.history)
    return window


def ways(studio: Studio, dark: bool = False) -> QWidget:
    window = studio.window(dark)
    session = window.session
    session.set_stage(Stage.WAYS)
    session.set_way_tool(WayTool.ROUTE)
    session.routes.ask(1, 10)
    if dark:
        session.routes.ask(1, 11)
        zoom_to(window, Cell(17, 26), 20)
    else:
        session.select(7)
        zoom_to(window, Cell(34, 27), 24)
    point(window, Cell(31, 25))
    return window


def traffic(studio: Studio) -> QWidget:
    window = studio.window()
    session = window.session
    session.set_stage(Stage.TRAFFIC)
    pins = [session.routes.ask(a, b) for a, b in ((10, 2), (8, 1), (1, 10))]
    for pin in (*pins, pins[-1]):
        session.walk.send(pin)
        session.walk.set_running(False)
        session.walk.advance(4.2)
    session.walk.advance(2.0)
    window.messages.hide()
    point(window, Cell(28, 27))
    return window


def new_plan(studio: Studio) -> QWidget:
    window = studio.window()
    window.files.new()
    sheet = window.findChild(GridSheet)
    assert sheet is not None
    sheet.cols.setValue(40)
    sheet.rows.setValue(30)
    sheet.cell_h.setValue(16)
    sheet.first_col.setValue(-20)
    sheet.centred.setChecked(True)
    return sheet


def keys(studio: Studio) -> QWidget:
    window = studio.window()
    window.show_keys()
    sheet = window.findChild(KeySheet)
    assert sheet is not None
    return sheet


VIEWS: dict[str, Callable[[Studio], QWidget]] = {
    "survey": survey,
    "ground": ground,
    "build-refused": build_refused,
    "build-refused-dark": lambda studio: build_refused(studio, dark=True),
    "build-placed": build_placed,
    "ways-route": ways,
    "ways-broken-dark": lambda studio: ways(studio, dark=True),
    "traffic": traffic,
    "new-plan": new_plan,
    "keys": keys,
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    parser.add_argument("views", nargs="*", help=f"some of {', '.join(VIEWS)}; all by default")
    chosen = parser.parse_args()
    chosen.out.mkdir(parents=True, exist_ok=True)
    app = make_app([])
    studio = Studio(app, Theme(app))
    for name in chosen.views or VIEWS:
        widget = VIEWS[name](studio)
        studio.settle()
        window = widget if isinstance(widget, Window) else widget.parent()
        assert isinstance(window, Window)
        window.thread_.count()
        studio.settle()
        path = chosen.out / f"{name}.png"
        if not widget.grab().save(str(path)):
            raise SystemExit(f"{path} cannot be written")
        print(path)
        window.session.document.history.mark_saved()
        window.close()


if __name__ == "__main__":
    main()
