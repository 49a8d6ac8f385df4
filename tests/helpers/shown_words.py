"""Everything that a window shows as text, in a process of its own: the words of a window are those that its modules
were loaded with.

``python -m tests.helpers.shown_words LANGUAGE`` goes through a demo and writes each text once, as JSON. The language
``marked`` puts brackets around whatever can be translated.
"""

from __future__ import annotations

import gettext
import json
import os
import sys
import time
from collections.abc import Iterator
from functools import cache

from PyQt6.QtCore import QAbstractItemModel, Qt
from PyQt6.QtGui import QAction, QPainter, QStaticText
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QListWidget,
    QTabWidget,
    QWidget,
)

from woven_locus.ui import language
from woven_locus.ui.start import make_app

OPEN, SHUT = (
    "\N{MATHEMATICAL LEFT WHITE SQUARE BRACKET}",
    "\N{MATHEMATICAL RIGHT WHITE SQUARE BRACKET}",
)
MOST_ROWS = 40
# Actions that end the window, ask the system for a file, or open what a test has no use for.
NOT_THESE = (
    "file.quit",
    "file.print",
    "file.copy_picture",
    "file.open",
    "file.save",
    "file.save_as",
)
PLACES = ((14, 9), (20, 15), (30, 20), (0, 0), (-3, 2))


class Marked(gettext.NullTranslations):
    """A translation that only shows that it was asked."""

    def gettext(self, message: str) -> str:
        return f"{OPEN}{message}{SHUT}"

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return f"{OPEN}{msgid1 if n == 1 else msgid2}{SHUT}"


class Seen:
    """Texts, each once: of widgets and models, and what is painted."""

    def __init__(self) -> None:
        self.texts: dict[str, None] = {}
        self._listen(QPainter, "drawText")
        self._listen(QStaticText, "__init__")

    def _listen(self, kind: type, name: str) -> None:
        before = getattr(kind, name)

        def heard(*arguments: object, **named: object) -> object:
            for each in arguments:
                self.take(each)
            return before(*arguments, **named)

        setattr(kind, name, heard)

    def take(self, text: object) -> None:
        if isinstance(text, str) and text.strip():
            self.texts[text] = None

    def look(self, window: QWidget) -> None:
        for widget in (window, *window.findChildren(QWidget)):
            for text in _of(widget):
                self.take(text)
        for action in window.findChildren(QAction):
            self.take(action.text())
        window.grab()


@cache
def _asked(kind: type[QWidget]) -> list[str]:
    """The methods of a widget that give a text: to ask each for what it lacks takes most of the time."""
    return [
        name for name in ("text", "placeholderText", "title") if callable(getattr(kind, name, None))
    ]


def _of(widget: QWidget) -> Iterator[object]:
    yield from (widget.toolTip(), widget.accessibleName(), widget.accessibleDescription())
    yield widget.windowTitle()
    for name in _asked(type(widget)):
        yield getattr(widget, name)()
    if isinstance(widget, QComboBox):
        yield from (widget.itemText(at) for at in range(widget.count()))
    if isinstance(widget, QTabWidget):
        yield from (widget.tabText(at) for at in range(widget.count()))
    if isinstance(widget, QAbstractItemView):
        model = widget.model()
        if model is not None:
            # All of one that is not in sight is looked at when it is.
            yield from _of_model(model, MOST_ROWS if widget.isVisible() else 1)


def _of_model(model: QAbstractItemModel, most: int) -> Iterator[object]:
    try:
        columns = model.columnCount()
    except TypeError:  # a list's is private
        columns = 1
    for column in range(columns):
        yield model.headerData(column, Qt.Orientation.Horizontal)
        for row in range(min(model.rowCount(), most)):
            index = model.index(row, column)
            yield from (index.data(), index.data(Qt.ItemDataRole.ToolTipRole))


def main(code: str) -> None:
    app = make_app([])
    if code == "marked":
        language._catalogue = Marked()
        language._plain.cache_clear()
    else:
        language.install(code, app)
    seen = Seen()
    go_through(app, seen)
    sys.stdout.write(json.dumps(list(seen.texts)))
    sys.stdout.flush()
    # Workers may still be at a question that nobody waits for.
    os._exit(0)


def go_through(app: QApplication, seen: Seen) -> None:
    """Each stage, tab and sheet of a demo."""
    # Late: their words are those of the language that is set by now.
    from woven_locus import kernel_cache
    from woven_locus.core.geometry import Cell, Point
    from woven_locus.demo import open_demo
    from woven_locus.document import Document
    from woven_locus.ui.actions.table import ACTIONS
    from woven_locus.ui.session.stages import GroundTool, Stage, WaveTool, WayTool, WhereShown
    from woven_locus.ui.theme import Theme
    from woven_locus.ui.window import Window

    kernel_cache.install()
    window = Window(Document(open_demo()), Theme(app))
    window.sheet.patient = True
    window.resize(1280, 800)
    window.show()
    session, plan = window.session, window.session.plan

    def settle(seconds: float = 0.0) -> None:
        until = time.monotonic() + seconds
        for _ in range(4):
            app.processEvents()
        while time.monotonic() < until:
            app.processEvents()

    def point(place: tuple[int, int]) -> None:
        low = plan.spec.corner(Cell(*place))
        session.pointer.to(Point(low.x + plan.spec.cell_w / 2, low.y + plan.spec.cell_h / 2))
        settle()
        seen.look(window)

    def sheets() -> None:
        for each in app.topLevelWidgets():
            if isinstance(each, QDialog) and each.isVisible():
                seen.look(each)
                for tabs in each.findChildren(QTabWidget):
                    for at in range(tabs.count()):
                        tabs.setCurrentIndex(at)
                        settle()
                        seen.look(each)
                each.reject()
                settle()

    def tabs() -> None:
        for at in range(window.tray.count()):
            window.tray.setCurrentIndex(at)
            settle()
            page = window.tray.widget(at)
            assert page is not None
            for views in page.findChildren(QListWidget)[:1]:
                for row in range(views.count()):
                    views.setCurrentRow(row)
                    settle()
                    seen.look(window)
            seen.look(window)

    def do(name: str) -> None:
        next(action for action in ACTIONS if action.name == name).do(window)
        settle()

    settle(0.5)
    tabs()
    for stage in Stage:
        session.set_stage(stage)
        for place in PLACES:
            point(place)
    session.set_stage(Stage.BUILD)
    for kind in plan.kinds:
        session.arm(kind.key)
        for place in PLACES:
            point(place)
    session.choices.set_build(where=WhereShown.ANY)
    settle(1.0)
    seen.look(window)
    session.hand.drop()
    session.select(1)
    seen.look(window)
    for stage, tools, take in (
        (Stage.GROUND, GroundTool, lambda tool: session.choices.set_ground(tool=tool)),
        (Stage.WAYS, WayTool, session.choices.set_way_tool),
        (Stage.WAVES, WaveTool, lambda tool: session.choices.set_waves(tool=tool)),
    ):
        session.set_stage(stage)
        for tool in tools:
            take(tool)  # type: ignore[operator]
            point((14, 9))
    session.set_stage(Stage.TRAFFIC)
    do("traffic.run")
    settle(2.0)
    do("traffic.run")
    tabs()
    for action in ACTIONS:
        if action.name in NOT_THESE or "in_" in action.name or action.name.endswith("_in"):
            continue
        if "out_" in action.name or action.name in ("file.merge", "file.compare", "file.trial"):
            continue
        if not action.name.startswith(("file.demo", "view.language")) and action.enabled(window):
            action.do(window)
            settle()
            sheets()
            seen.look(window)
            window.back_out()
            settle()


if __name__ == "__main__":
    main(sys.argv[1])
